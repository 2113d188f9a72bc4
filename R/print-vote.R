# How votes and agreements read as text.

#' @export
format.fl_vote <- function(x, ...) {
  settled <- if (!is.null(x$settled)) voted_fact(x)
  if (x$verdict == "no groups") {
    return(c(sentence_lines(c(vote_headline(x), settled, structure_fact(x))), vote_next(x)))
  }
  few <- c(settled, structure_fact(x), components_fact(x), left_out_fact(x), levels_fact(x), method_groups_fact(x),
           far_fact(x), unfitted_fact(x),
           if (isTRUE(x$at_end)) end_fact(x, voted_count(x)), if (!is.null(x$lowered)) lowered_fact(x),
           if (is.null(x$settled) || x$settled$k %in% x$settled$voted) track_fact(x),
           if (x$verdict != "no groups") neighbour_facts(x, brief = TRUE))
  c(sentence_lines(vote_headline(x)), evidence_lines(x), sentence_lines(few), vote_next(x))
}

evidence_words <- c(indices = "k-means indices", components = "mixture, by BIC", dips = "dips between components",
                    levels = "levels of components")

# The lines of evidence; of one method alone the families of its indices.
evidence_lines <- function(x) {
  if (is.null(x$found)) {
    return(family_lines(x))
  }
  rows <- x$evidence
  holds <- ifelse(is.na(rows$holds), "", ifelse(rows$holds, "yes", paste0("no: ", misfit_words(x$found))))
  table_lines(list(evidence = unname(evidence_words[rows$evidence]),
                   groups = paste0(rows$k, ifelse(rows$strength == "not clear", ", not clear", "")),
                   assumes = rows$assumes, `holds here` = holds))
}

vote_next <- function(x) {
  open <- is.null(x$settled)
  no_count <- open && x$verdict %in% undecided
  other <- otherwise_grouped(x)
  next_line(
    if (!no_count) c("fl_take(vote)", if (!is.null(other)) paste0("fl_take(vote, method = ", quoted(other), ")")),
    "autoplot(vote)", "summary(vote)", if (length(x$far) > 0L) "fl_set_apart(data, vote$far, reason = )",
    if (open) "fl_settle(vote, k = , reason = )"
  )
}

# The first three choices of every family, and how many points that gave.
family_lines <- function(x) {
  families <- unique(x$shares$family)
  if (length(families) == 0L) {
    return(NULL)
  }
  place <- function(family, rank) {
    mine <- x$shares[x$shares$family == family & x$shares$points > 0, ]
    k <- mine$k[order(-mine$points, mine$k)]
    if (length(k) < rank) "-" else as.character(k[rank])
  }
  columns <- lapply(1:3, function(rank) vapply(families, place, "", rank = rank, USE.NAMES = FALSE))
  members <- vapply(families, function(f) listed(unique(x$ballots$index[x$ballots$family == f & x$ballots$weight > 0])),
                    "")
  table <- table_lines(c(list(family = families), stats::setNames(columns, c("first", "second", "third"))),
                       right = c("first", "second", "third"))
  hanging_lines(table, c("indices", members), indent = 0L)
}

# What the indices shown without a vote pick; those that have no value at any count are not shown.
index_lines <- function(x) {
  shown <- intersect(indices_without_vote(x), x$values$index[!is.na(x$values$value)])
  if (length(shown) == 0L) {
    return(NULL)
  }
  firsts <- x$ballots[x$ballots$rank == 1L, ]
  picks <- firsts$k[match(shown, firsts$index)]
  # beside mixtures the BIC of k-means partitions would be taken for theirs
  named <- if (length(x$voters) > 1L) vapply(x$indices[shown], function(i) i$of_round %||% i$key, "") else shown
  said <- paste(named, "picks", ifelse(is.na(picks), "none", picks))
  sentence_lines(paste0("Shown without a vote: ", listed(said), "."))
}

#' All a vote rests on
#'
#' Why the vote is as it is: everything [fl_vote()] does not print, and a row per index with what it prefers, and by how
#' much.
#'
#' @param object From [fl_vote()].
#' @param ... Not used.
#' @return A data frame of class `fl_vote_summary` with a row per index: what it picks, its runner-up, by which rule,
#'   and how clearly (the distance between the two as a share of the range of its values). Printed, it also tells the
#'   vote's facts, family by family.
#' @section Errors: `fjordline_error_argument` for an argument that is not used.
#' @examples
#' summary(fl_vote(fl_sweep(fl_prepare(fl_demo("icequakes"), transform = "log"), "kmeans", indices = "fast")))
#' @export
summary.fl_vote <- function(object, ...) {
  check_no_dots(...)
  rows <- lapply(unique(object$ballots$index), function(index) {
    mine <- object$ballots[object$ballots$index == index, ]
    lead <- if (nrow(mine) > 1L) abs(mine$value[1L] - mine$value[2L]) / diff(range(mine$value)) else NA_real_
    tibble::tibble(index = index, family = mine$family[1L], weight = mine$weight[1L], pick = mine$k[1L],
                   runner_up = mine$k[2L], rule = object$indices[[index]]$rule, lead = lead,
                   prefers_one = mine$prefers_one[1L],
                   at_the_end = mine$k[1L] == max(object$sweep$k) && !mine$prefers_one[1L])
  })
  none <- tibble::tibble(index = character(), family = character(), weight = double(), pick = integer())
  out <- vctrs::vec_rbind(none, !!!rows)
  structure(out, class = c("fl_vote_summary", class(out)), vote = object)
}

#' @export
format.fl_vote_summary <- function(x, ...) {
  vote <- attr(x, "vote")
  facts <- fl_facts(vote)
  c(sentence_lines(facts[1L]), if (vote$verdict != "no groups") c(family_lines(vote), index_lines(vote)),
    sentence_lines(facts[-1L]), next_line("vote$ballots", "vote$evidence", "as.data.frame(vote$sweep)"))
}

#' @export
print.fl_vote_summary <- function(x, ...) print_table_now(x)

#' @export
format.fl_structure <- function(x, ...) {
  c(sentence_lines(fl_facts(x)), next_line(if (isFALSE(x$groups)) "autoplot(structure)"
                                           else c("fl_sweep(ready, \"kmeans\", k = 1:10)", "autoplot(structure)")))
}

#' @export
summary.fl_structure <- function(object, ...) as.data.frame(object)
