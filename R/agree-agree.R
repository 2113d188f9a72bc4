# How far two labelings of the same rows agree.

#' Agreement of groups with known classes
#'
#' Cross-tabulates groups and classes over the rows that have both, matches them, and reads accuracy and the
#' adjusted Rand index. Rows with a missing value on either side are left out, and their number is reported. Noise
#' (label 0) counts as one group of its own.
#'
#' @param a A partition, or a vector of labels.
#' @param b What to compare with: another partition, the name of a column of the table, or a vector with a value per
#'   row. Left out, the truth of the partition's table.
#' @param match `"one_to_one"`: each group to one class so that most rows agree (equal matchings go to the larger
#'   overlap in the lower-numbered group; groups without a class count as wrong). `"majority"`: each group to the
#'   class that holds most of its rows, for classes coarser than the groups.
#' @return An object of class `fl_agree`: `measures` (`measure`, `value`), `table` (groups × classes, ordered so
#'   that matches lie on the diagonal), `matched` (`group`, `class`, `rows`, `of`), `disagree` (row numbers), `rows`,
#'   `left_out`. `as.data.frame()` gives the measures.
#' @section Measures: `adjusted_rand` (Hubert and Arabie 1985): 1 for identical labelings, about 0 for chance;
#'   `accuracy`: the share of rows on the matching; `purity`: the share of rows in their group's majority class.
#' @section Errors: `fjordline_error_argument` when lengths differ or there is nothing to compare with, `_column` for a
#'   misspelt column.
#' @references Hubert, L. and Arabie, P. (1985). Comparing partitions. \doi{10.1007/BF01908075}
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' fl_agree(groups)
#' fl_agree(groups, "station", match = "majority")
#' @export
fl_agree <- function(a, b = NULL, match = "one_to_one") {
  check_choice(match, c("one_to_one", "majority"), "match")
  groups <- labels_of(a, "a")
  classes <- other_labels(a, b)
  if (length(groups$label) != length(classes$label)) {
    fl_abort("argument", "`a` and `b` must label the same rows.",
             found = paste0("a has ", length(groups$label), " rows, b has ", length(classes$label), "."))
  }
  both <- !is.na(groups$label) & !is.na(classes$label)
  if (!any(both)) {
    fl_abort("argument", "There is no row with a value in both labelings.")
  }
  table <- unclass(base::table(group = in_order(groups$label[both]), class = in_order(classes$label[both])))
  matched <- if (match == "majority") match_majority(table) else match_one_to_one(table)
  new_agreement(table, matched, groups, classes, both, match, a)
}

new_agreement <- function(table, matched, groups, classes, both, match, a) {
  known <- !is.na(matched)
  overlap <- integer(length(matched))
  overlap[known] <- table[cbind(which(known), matched[known])]
  right <- paste(rownames(table)[known], colnames(table)[matched[known]], sep = "\r")
  wrong <- which(both)[!paste(groups$label, classes$label, sep = "\r")[both] %in% right]
  structure(
    list(
      measures = tibble::tibble(
        measure = c("adjusted_rand", "accuracy", "purity"),
        value = c(adjusted_rand(table), accuracy_of(table, matched), purity_of(table))
      ),
      table = diagonal_order(table, matched),
      matched = tibble::tibble(group = rownames(table), class = colnames(table)[matched], rows = overlap,
                               of = rowSums(table)),
      disagree = wrong, rows = sum(both), left_out = sum(!both), match = match, a = groups$said, b = classes$said,
      partition = if (inherits(a, "fl_partition")) a
    ),
    class = "fl_agree"
  )
}

# Labels in the order people expect: numbers by value, the rest by name.
in_order <- function(label) {
  levels <- unique(as.character(label))
  numeric <- suppressWarnings(as.numeric(levels))
  factor(as.character(label), levels[if (anyNA(numeric)) order(levels) else order(numeric)])
}

labels_of <- function(x, argument) {
  if (inherits(x, "fl_partition")) {
    return(list(label = x$group, said = if (argument == "a") "groups" else paste("the groups of", x$name)))
  }
  if (is.factor(x)) x <- as.character(x)
  if (!is.atomic(x) || is.null(x)) {
    fl_abort("argument", paste0("`", argument, "` must be a partition or a vector of labels."),
             found = paste0("It is ", shape_of(x), "."))
  }
  list(label = x, said = if (argument == "a") "labels" else "the classes")
}

other_labels <- function(a, b) {
  table <- if (inherits(a, "fl_partition")) a$ready$data$table
  if (is.null(b)) {
    truth <- if (!is.null(table)) columns_of(a$ready$data, "truth")
    if (length(truth) == 0L) {
      fl_abort("argument", "There are no known classes to compare with.",
               advice = "Name them in fl_data(truth = ), or give `b`: a column, a partition or a vector.")
    }
    return(list(label = as.character(table[[truth]]), said = truth))
  }
  if (rlang::is_string(b) && !is.null(table)) {
    check_column(b, names(table), "b", a$ready$data$name)
    return(list(label = as.character(table[[b]]), said = b))
  }
  labels_of(b, "b")
}

# Classes in the order of the groups they match, the unmatched last.
diagonal_order <- function(table, matched) {
  first <- unique(matched[!is.na(matched)])
  table[, c(first, setdiff(seq_len(ncol(table)), first)), drop = FALSE]
}

#' @export
as.data.frame.fl_agree <- function(x, ...) x$measures
