# How two partitions side by side, and a lineage, read as text.

#' @export
format.fl_contrast <- function(x, ...) {
  facts <- fl_facts(x)
  c(sentence_lines(facts[1L]), flow_lines(x), sentence_lines(facts[-1L]), moved_lines(x$moved, x$a, x$b),
    next_line("autoplot(contrast)", "autoplot(contrast, \"planes\")", "contrast$moved"))
}

# The cross-table of the two, groups of the first in rows.
flow_lines <- function(x) {
  agreement <- x$agreement
  colnames(agreement$table) <- group_label(x$b, colnames(agreement$table))
  known <- !is.na(agreement$matched$class)
  agreement$matched$class[known] <- group_label(x$b, agreement$matched$class[known])
  lines <- cross_lines(agreement)
  c(wrapped(paste0("rows: ", x$said[1L], "; columns: ", x$said[2L]), first = 2L, indent = 4L, width = print_width()),
    lines[-length(lines)])
}

moved_lines <- function(moved, a, b, most = 4L) {
  shown <- utils::head(moved, most)
  if (nrow(shown) == 0L) {
    return(NULL)
  }
  cells <- list(row = shown$row, id = if (!all(is.na(shown$id))) shown$id, from = group_label(a, shown$from),
                to = group_label(b, shown$to))
  left <- nrow(moved) - nrow(shown)
  c("rows off the matching:", table_lines(Filter(Negate(is.null), cells), right = "row"),
    if (left > 0L) paste0("  and ", counted(left, "more row"), ": contrast$moved"))
}

#' @export
summary.fl_contrast <- function(object, ...) object$fates

#' @export
format.fl_lineage <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], sentence_lines(facts[-1L]), next_line("autoplot(lineage)", "as.data.frame(lineage)"))
}

#' @export
summary.fl_lineage <- function(object, ...) object$branches
