# How a column by group reads as text.

#' @export
format.fl_outcome <- function(x, ...) {
  facts <- fl_facts(x)
  c(sentence_lines(facts[1L]), if (x$number) mean_lines(x) else share_lines(x), sentence_lines(facts[-1L]),
    next_line("autoplot(outcome)", "as.data.frame(outcome)"))
}

mean_lines <- function(x) {
  groups <- x$groups
  cells <- list(group = group_label(x$partition, groups$group), rows = vapply(groups$rows, thousands, ""),
                mean = digits3(groups$value),
                from = digits3(groups$low), to = digits3(groups$high), median = digits3(groups$median))
  unit <- unname(x$partition$ready$units[x$column])
  c(if (isFALSE(is.na(unit))) paste0("  ", with_unit(x$column, x$partition$ready$units)),
    table_lines(cells, right = setdiff(names(cells), if (has_names(x$partition)) "group")))
}

# A row a value, a column a group; the intervals are left to the table behind it.
share_lines <- function(x, most = 16L) {
  groups <- x$groups
  all <- unique(groups$level)
  levels <- utils::head(all, most)
  groups <- groups[groups$level %in% levels, ]
  numbers <- unique(groups$group)
  cells <- lapply(numbers, function(g) percent(groups$value[groups$group == g]))
  names(cells) <- substr(group_names(x$partition, numbers), 1L, 24L)
  shown <- length(cells)
  repeat {
    first <- if (x$over_time) stats::setNames(list(levels, groups$rows[match(levels, groups$level)]), c(x$by, "rows"))
    else list(share = levels)
    lines <- table_lines(c(first, cells[seq_len(shown)]), right = c("rows", names(cells)))
    if (shown == 1L || max(nchar(lines)) <= print_width()) break
    shown <- shown - 1L
  }
  left <- c(if (shown < length(cells)) counted(length(cells) - shown, "more group"),
            if (length(levels) < length(all)) counted(length(all) - length(levels), paste("more", if (x$over_time) x$by
                                                                                        else "value")))
  c(lines, if (length(left) > 0L) paste0("  and ", listed(left), ": as.data.frame(outcome)"))
}

#' @export
summary.fl_outcome <- function(object, ...) object$groups
