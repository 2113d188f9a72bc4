# How studies and what they show read as text.

#' @export
format.fl_study <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], sentence_lines(facts[-1L]), next_line("fl_run(study, \"study.sqlite\")", "summary(study)"))
}

#' @export
format.fl_run <- function(x, standings = NULL, ...) {
  facts <- fl_facts(x)
  scored <- has_scores(x)
  standings <- standings %||% if (scored) fl_standings(x)
  record <- if (scored && nrow(x$picks) > 0L) fl_track_record(x)
  c(facts[1L], sentence_lines(facts[-1L]),
    if (!is.null(standings)) c(sentence_lines(standing_question(standings)), standing_lines(standings),
                               sentence_lines(standing_facts(standings))),
    if (!is.null(record)) sentence_lines(paste0("Who found the known count? ", record_said(record))),
    sentence_lines(store_said(x)),
    next_line(if (scored) c("fl_standings(result)", if (!is.null(record)) "fl_track_record(result)"),
              "fl_open(result, dataset)",
              if (any(x$cells$status %in% c("slow", "large"))) "fl_run(study, store, retry = TRUE)"))
}

standing_question <- function(x) {
  study <- x$result$study
  who <- if (x$by %in% study$agreements) "Who finds the known groups best?" else paste0("Who has the best ", x$by, "?")
  paste0(who, " (", measure_said(x$by), " ", at_said[[x$at]], ", ", counted(study$repeats, "repeat"), ")")
}

store_said <- function(x) {
  if (rlang::is_string(x$store) && !startsWith(x$store, tempdir())) {
    paste0("Store: ", x$store, " (fl_run(", code(x$store), ") opens it).")
  }
}

# The votes first, then the best indices.
record_said <- function(record) {
  rows <- record$record
  say <- function(row) {
    who <- if (row$voter == "vote") paste("the vote of", row$method) else paste(row$voter, "of", row$method)
    paste(who, "in", percent(row$found))
  }
  each <- function(rows) vapply(seq_len(nrow(rows)), function(i) say(rows[i, ]), "")
  votes <- rows[rows$voter == "vote", ]
  right <- votes[votes$found > 0, ]
  silent <- if (nrow(right) == 0L) "no vote on any" else if (nrow(right) < nrow(votes)) "no other vote on any"
  others <- utils::head(rows[rows$voter != "vote", ], 3L)
  paste0("On ", tables_and_cases(record), ": ", paste(c(each(right), silent), collapse = "; "), ". Of the indices ",
         paste(each(others), collapse = "; "), ".")
}

# Contestants in rows, tables in columns, the best of each marked.
standing_lines <- function(x, most_tables = 8L) {
  shown <- utils::head(x$tables, most_tables)
  columns <- lapply(stats::setNames(nm = shown), function(dataset) {
    mine <- x$scores[x$scores$dataset == dataset, ]
    value <- mine$value[match(x$ranks$contestant, mine$contestant)]
    best <- value == (if (x$lower) min(value, na.rm = TRUE) else max(value, na.rm = TRUE))
    paste0(fixed2(value), ifelse(best %in% TRUE, "*", " "))
  })
  range <- ifelse(x$ranks$high - x$ranks$low > 0.005, paste0(fixed2(x$ranks$low), " to ", fixed2(x$ranks$high)), "")
  several <- nrow(x$ranks) > 1L
  c(table_lines(c(list(" " = cli::ansi_strtrim(x$ranks$contestant, 34L)), columns,
                  if (several) list("mean rank" = fixed2(x$ranks$rank)),
                  if (several && any(nzchar(range))) list("over repeats" = range),
                  list("s a fit" = digits3(signif(x$ranks$seconds, 2))),
                  if (any(x$ranks$failed > 0)) list(failed = thousands_each_of(x$ranks$failed))),
                right = c(shown, "mean rank", "s a fit", "failed")),
    if (length(x$tables) > most_tables) paste0("  and ", length(x$tables) - most_tables,
                                               " more tables: as.data.frame(standings)"))
}

thousands_each_of <- function(numbers) vapply(numbers, thousands, "")

#' @export
format.fl_standings <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], standing_lines(x), if (nrow(x$ranks) > 1L) "  * the best of a table", sentence_lines(facts[-1L]),
    stability_line(x), next_line("as.data.frame(standings)", "standings$ranks", "standings$pairs"))
}

stability_line <- function(x) {
  mine <- x$scores[!is.na(x$scores$stability), ]
  loose <- mine[mine$stability < 0.9, ]
  if (nrow(mine) == 0L) {
    return(NULL)
  }
  sentence_lines(if (nrow(loose) == 0L) "All fits come out alike in every repeat (adjusted Rand 0.90 and more)."
                 else paste0("Other seeds give other groups: ",
                             listed(paste0(loose$contestant, " on ", loose$dataset, " (", fixed2(loose$stability), ")"),
                                    most = 6L), "."))
}

#' @export
format.fl_track_record <- function(x, ...) {
  facts <- fl_facts(x)
  top <- utils::head(x$record, 15L)
  c(facts[1L],
    table_lines(list(voter = top$voter, of = cli::ansi_strtrim(top$method, 28L), found = fixed2(top$found),
                     "within one" = fixed2(top$within_one),
                     interval = paste(fixed2(top$low), "to", fixed2(top$high)), lost = fixed2(top$lost),
                     abstained = fixed2(top$abstained)),
                right = c("found", "within one", "lost", "abstained")),
    if (nrow(x$record) > 15L) paste0("  and ", nrow(x$record) - 15L, " more: as.data.frame(record)"),
    sentence_lines(c(paste0("found: share of the tables, each counted once; lost: ", measure_said(x$by),
                            " given up against the best count."), facts[-1L])),
    next_line("as.data.frame(record)", "record$cases"))
}
