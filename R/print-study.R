# How studies and what they show read as text.

#' @export
format.fl_study <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], sentence_lines(facts[-1L]), next_line("fl_run(study, \"study.sqlite\")", "summary(study)"))
}

#' @export
format.fl_run <- function(x, standings = NULL, ...) {
  scored <- has_scores(x)
  standings <- standings %||% if (scored) fl_standings(x)
  c(fl_facts(x)[1L],
    if (!is.null(standings)) c(sentence_lines(standings_headline(standings)), standing_lines(standings, 6L, 5L),
                               sentence_lines(winners_fact(standings))),
    sentence_lines(failure_facts(x$cells[x$cells$asked, ], most = 2L)),
    sentence_lines(absent_facts(x$study$indices)),
    sentence_lines(store_said(x)),
    next_line("summary(result)", if (scored) "fl_standings(result)", if (scored && nrow(x$picks) > 0L) {
      "fl_track_record(result)"
    }, if (any(x$cells$status %in% c("slow", "large"))) "fl_run(study, store, retry = TRUE)"))
}

#' All a run says
#'
#' What the print-out of a study's result leaves out: every failure, all methods, what is beyond chance, and who
#' found the true number of groups.
#'
#' @param object From [fl_run()].
#' @param ... Not used.
#' @return An object of class `fl_run_summary`, a list of the `result`, its `standings` and its `record`; printed, it
#'   shows them. `NULL` where there are no known classes.
#' @section Errors: `fjordline_error_argument` for an argument that is not used.
#' @examples
#' summary(fl_run(fl_study("icequakes", "kmeans", k = 2:4, indices = "fast")))
#' @export
summary.fl_run <- function(object, ...) {
  check_no_dots(...)
  scored <- has_scores(object)
  structure(list(result = object, standings = if (scored) fl_standings(object),
                 record = if (scored && nrow(object$picks) > 0L) fl_track_record(object)),
            class = "fl_run_summary")
}

#' @export
format.fl_run_summary <- function(x, ...) {
  facts <- fl_facts(x$result)
  c(facts[1L], sentence_lines(facts[-1L]),
    if (!is.null(x$standings)) c(sentence_lines(standings_headline(x$standings)), standing_lines(x$standings),
                                 sentence_lines(standing_facts(x$standings))),
    if (!is.null(x$record)) sentence_lines(record_said(x$record)), sentence_lines(store_said(x$result)),
    next_line("fl_standings(result)", "fl_track_record(result)", "fl_open(result, dataset)"))
}

#' @export
print.fl_run_summary <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

store_said <- function(x) {
  if (rlang::is_string(x$store) && !startsWith(x$store, tempdir())) {
    paste0("Store: ", x$store, " (fl_run(", code(x$store), ") opens it).")
  }
}

# Who found the true number: the votes first, then the best indices.
record_said <- function(record) {
  rows <- record$record
  say <- function(row) {
    who <- if (row$voter == "vote") paste("the vote of", row$method) else paste(row$voter, "of", row$method)
    paste(who, "in", percent(row$found))
  }
  each <- function(rows) vapply(seq_len(nrow(rows)), function(i) say(rows[i, ]), "")
  votes <- rows[rows$voter == "vote", ]
  right <- votes[votes$found > 0, ]
  silent <- if (nrow(right) == 0L) "no vote on any table" else if (nrow(right) < nrow(votes)) "no other vote on any"
  others <- utils::head(rows[rows$voter != "vote", ], 3L)
  c(paste0("The true number was found, on ", tables_and_cases(record), ", by ",
           paste(c(each(right), silent), collapse = "; "), "."),
    paste0("Among the indices, by ", paste(each(others), collapse = "; "), "."))
}

# Contestants in rows, tables in columns, the best of each marked.
standing_lines <- function(x, most_tables = 8L, most_rows = Inf) {
  left <- max(0, nrow(x$ranks) - most_rows)
  x$ranks <- utils::head(x$ranks, most_rows)
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
                  list("seconds per fit" = digits3(signif(x$ranks$seconds, 2))),
                  if (any(x$ranks$failed > 0)) list(failed = thousands_each_of(x$ranks$failed))),
                right = c(shown, "mean rank", "seconds per fit", "failed")),
    if (left > 0) paste0("  and ", counted(left, "more contestant")),
    if (length(x$tables) > most_tables) paste0("  and ", length(x$tables) - most_tables,
                                               " more tables: as.data.frame(standings)"))
}

thousands_each_of <- function(numbers) vapply(numbers, thousands, "")

#' @export
format.fl_standings <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], standing_lines(x), if (nrow(x$ranks) > 1L) "  * The best on each table.", sentence_lines(facts[-1L]),
    stability_line(x), next_line("as.data.frame(standings)", "standings$ranks", "standings$pairs"))
}

stability_line <- function(x) {
  mine <- x$scores[!is.na(x$scores$stability), ]
  loose <- mine[mine$stability < 0.9, ]
  if (nrow(mine) == 0L) {
    return(NULL)
  }
  sentence_lines(if (nrow(loose) == 0L) "All repeats give similar partitions (adjusted Rand 0.90 or more)."
                 else paste0("Other seeds give other groups: ",
                             listed(paste0(loose$contestant, " on ", loose$dataset, " (", fixed2(loose$stability), ")"),
                                    most = 6L), "."))
}

#' @export
format.fl_track_record <- function(x, ...) {
  facts <- fl_facts(x)
  top <- utils::head(x$record, 5L)
  lost <- paste(measure_said(x$by), "lost")
  c(facts[1L],
    table_lines(c(list(voter = top$voter, method = cli::ansi_strtrim(top$method, 28L), found = fixed2(top$found),
                       "95% interval" = paste(fixed2(top$low), "to", fixed2(top$high)),
                       "within one" = fixed2(top$within_one)), stats::setNames(list(fixed2(top$lost)), lost)),
                right = c("found", "within one", lost)),
    if (nrow(x$record) > 5L) paste0("  and ", nrow(x$record) - 5L, " more: as.data.frame(record)"),
    sentence_lines(c("found: share of the tables; lost: against the best number of groups.", facts[2L])),
    next_line("as.data.frame(record)", "summary(record)", "fl_facts(record)"))
}
