# How votes and agreements read as text.

#' @export
format.fl_vote <- function(x, ...) {
  facts <- fl_facts(x)
  settled <- if (!is.null(x$settled)) facts[2L]
  gate <- structure_fact(x)
  rest <- setdiff(facts[-1L], c(settled, gate))
  c(facts[1L], sentence_lines(c(settled, gate)), family_lines(x), index_lines(x), sentence_lines(rest), vote_next(x))
}

vote_next <- function(x) {
  if (is.null(x$settled) && x$verdict %in% undecided) {
    return(next_line("autoplot(vote)", "fl_settle(vote, k = , reason = )"))
  }
  next_line("fl_take(vote)", "autoplot(vote)", if (is.null(x$settled)) "fl_settle(vote, k = , reason = )")
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
  values <- x$sweep$values
  shown <- intersect(voteless(x), values$index[values$method == x$method & !is.na(values$value)])
  if (length(shown) == 0L) {
    return(NULL)
  }
  firsts <- x$ballots[x$ballots$rank == 1L, ]
  picks <- firsts$k[match(shown, firsts$index)]
  said <- paste(shown, "picks", ifelse(is.na(picks), "none", picks))
  sentence_lines(paste0("Shown without a vote: ", listed(said), "."))
}

#' @export
print.fl_vote <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

#' Every index's pick, in words
#'
#' @param object From [fl_vote()].
#' @param ... Not used.
#' @return A data frame with a row an index: what it picks, its runner-up, by which rule, and how clearly (the
#'   distance between the two as a share of the range of its values).
#' @examples
#' summary(fl_vote(fl_sweep(fl_prepare(fl_demo("icequakes"), transform = "log"), indices = "fast")))
#' @export
summary.fl_vote <- function(object, ...) {
  rows <- lapply(unique(object$ballots$index), function(index) {
    mine <- object$ballots[object$ballots$index == index, ]
    lead <- if (nrow(mine) > 1L) abs(mine$value[1L] - mine$value[2L]) / diff(range(mine$value)) else NA_real_
    tibble::tibble(index = index, family = mine$family[1L], weight = mine$weight[1L], pick = mine$k[1L],
                   runner_up = mine$k[2L], rule = object$sweep$indices[[index]]$rule, lead = lead,
                   prefers_one = mine$prefers_one[1L],
                   at_the_end = mine$k[1L] == max(object$sweep$k) && !mine$prefers_one[1L])
  })
  vctrs::vec_rbind(!!!rows)
}

#' @export
format.fl_agree <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], cross_lines(x), sentence_lines(facts[-1L]),
    paste0("  matching: ",
           if (x$match == "majority") "each group to the class of most of its rows" else "one group to one class",
           "; purity ", fixed2(x$measures$value[x$measures$measure == "purity"])),
    if (!is.null(x$partition)) next_line("autoplot(agreement)", "autoplot(groups, truth = TRUE)"))
}

# The cross-table with matched cells marked; many classes are cut and say so.
cross_lines <- function(x, most = 12L) {
  table <- x$table
  shown <- seq_len(min(ncol(table), most))
  matched <- x$matched$class[match(rownames(table), x$matched$group)]
  body <- lapply(shown, function(j) {
    mark <- !is.na(matched) & matched == colnames(table)[j]
    paste0(format(table[, j], big.mark = ","), ifelse(mark, "*", " "))
  })
  names(body) <- paste0(colnames(table)[shown], " ")
  lines <- table_lines(c(list(group = rownames(table)), body), right = names(body))
  if (max(nchar(lines)) > print_width() && length(shown) > 1L) {
    return(cross_lines(x, most = length(shown) - 1L))
  }
  left <- ncol(table) - length(shown)
  c(lines, if (left > 0L) paste0("  and ", counted(left, "more class", "more classes"), ": agreement$table"),
    "  * the matched class")
}

#' @export
print.fl_agree <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

#' @export
summary.fl_agree <- function(object, ...) object$matched

#' @export
format.fl_structure <- function(x, ...) {
  c(sentence_lines(fl_facts(x)), next_line(if (isFALSE(x$groups)) "autoplot(structure)"
                                           else c("fl_sweep(ready, \"kmeans\", k = 1:10)", "autoplot(structure)")))
}

#' @export
print.fl_structure <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

#' @export
summary.fl_structure <- function(object, ...) as.data.frame(object)
