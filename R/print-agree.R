# How agreements and the rows that disagree read as text.

#' @export
format.fl_agree <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], cross_lines(x), sentence_lines(facts[-1L]),
    paste0("  matching: ",
           if (x$match == "majority") "each group to the class of most of its rows" else "one group to one class",
           "; adjusted mutual information ", fixed2(measure_of(x, "adjusted_mutual_information"))),
    next_line(if (!is.null(x$partition) && length(x$disagree) > 0L) "fl_mismatches(agreement)",
              "as.data.frame(agreement)", "autoplot(agreement)",
              if (!is.null(x$partition)) "autoplot(groups, truth = TRUE)"))
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
  lines <- table_lines(c(list(group = group_label(x$partition, rownames(table))), body), right = names(body))
  if (max(nchar(lines)) > print_width() && length(shown) > 1L) {
    return(cross_lines(x, most = length(shown) - 1L))
  }
  left <- ncol(table) - length(shown)
  c(lines, if (left > 0L) paste0("  and ", counted(left, "more class", "more classes"), ": agreement$table"),
    "  * the matched class")
}

#' @export
summary.fl_agree <- showing_field("matched")

#' @export
format.fl_mismatches <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], sentence_lines(facts[-1L]), mismatch_lines(x),
    next_line(if (nrow(x$rows) > 0L) "autoplot(mismatches)", "as.data.frame(mismatches)", "autoplot(agreement)"))
}

# The rows nearest to a border, up to `most`.
mismatch_lines <- function(x, most = 6L) {
  rows <- utils::head(x$rows, most)
  if (nrow(rows) == 0L) {
    return(NULL)
  }
  called <- function(g) group_label(x$agreement$partition, g)
  cells <- list(row = rows$row, id = if (!all(is.na(rows$id))) rows$id, group = called(rows$group), class = rows$class,
                `expected group` = called(rows$expected), `agreeing rows nearer to a border` = percent(rows$nearer),
                membership = if ("membership" %in% names(rows)) fixed2(rows$membership))
  left <- nrow(x$rows) - nrow(rows)
  c(table_lines(Filter(Negate(is.null), cells), right = setdiff(names(cells), c("id", "class"))),
    if (left > 0L) paste0("  and ", counted(left, "more row"), ": as.data.frame(mismatches)"))
}

#' @export
summary.fl_mismatches <- showing_field("kinds")

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
  c("rows not in matching groups:", table_lines(Filter(Negate(is.null), cells), right = "row"),
    if (left > 0L) paste0("  and ", counted(left, "more row"), ": contrast$moved"))
}

#' @export
summary.fl_contrast <- showing_field("fates")

#' @export
format.fl_lineage <- function(x, ...) {
  facts <- fl_facts(x)
  left <- length(facts) - 6L
  c(facts[1L], sentence_lines(utils::head(facts[-1L], 5L)),
    if (left > 0L) paste0("  and ", counted(left, "more step"), ": as.data.frame(lineage)"),
    next_line("fl_facts(lineage)", "autoplot(lineage)", "as.data.frame(lineage)"))
}

#' @export
summary.fl_lineage <- showing_field("branches")
