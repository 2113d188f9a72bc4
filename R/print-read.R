# How what is read of groups reads as text: profiles, outcomes, paths, placed rows.

standout_marks <- c("much higher" = "++", higher = "+", lower = "-", "much lower" = "--", "much more often" = "++",
                    "more often" = "+", "less often" = "-", "much less often" = "--")

#' @export
format.fl_profile <- function(x, ...) {
  c(sentence_lines(fl_facts(x)[1L]), profile_lines(x), sentence_lines(tested_facts(x)),
    next_line("summary(profile)", "fl_facts(profile)", "autoplot(profile)"))
}

# Means by group, with marks, the columns that tell the groups apart best first; what does not fit is counted.
profile_lines <- function(x, most = 7L) {
  columns <- x$columns
  order <- match(unique(columns$column), x$separation$column)
  ranked <- unique(columns$column)[order(order)]
  keys <- unique(columns[c("column", "level")])
  keys <- keys[order(match(keys$column, ranked)), ]
  shown <- utils::head(keys, most)
  units <- x$partition$ready$units
  label <- ifelse(is.na(shown$level), with_unit(shown$column, units), level_said(shown$column, shown$level))
  cells <- lapply(seq_len(nrow(shown)), function(i) {
    mine <- columns[columns$column == shown$column[i] & columns$level %in% shown$level[i], ]
    value <- if (is.na(shown$level[i])) digits3(mine$mean) else percent(mine$mean)
    paste0(value, " ", formatC(ifelse(nzchar(mine$standout), standout_marks[mine$standout], ""), width = -2L))
  })
  aside <- unique(columns$column[columns$role == "aside"])
  body <- as.data.frame(do.call(rbind, cells))
  names(body) <- paste0(substr(group_names(x$partition), 1L, 24L), "   ")
  label <- paste0(label, ifelse(shown$column %in% aside, " (aside)", ""))
  fits <- ncol(body)
  repeat {
    lines <- table_lines(c(list(mean = label), as.list(body[seq_len(fits)])), right = names(body))
    if (fits == 1L || max(nchar(lines)) <= print_width()) break
    fits <- fits - 1L
  }
  left <- c(if (fits < ncol(body)) counted(ncol(body) - fits, "more group"),
            if (nrow(keys) > nrow(shown)) counted(nrow(keys) - nrow(shown), "more column or level",
                                                  "more columns and levels"))
  c(lines, "  ++ Much higher, + higher, - lower, -- much lower than the whole table.",
    if (length(left) > 0L) paste0("  and ", listed(left), ": as.data.frame(profile)"))
}

#' @export
summary.fl_profile <- showing_field("groups")

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

# One row per value, one column per group; the intervals are left to the table behind it.
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
summary.fl_outcome <- showing_field("groups")

#' @export
format.fl_paths <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], rule_lines(x), sentence_lines(facts[-seq_len(nrow(x$rules) + 1L)]),
    next_line("autoplot(paths)", "as.data.frame(paths)"))
}

# One rule per line, longer ones below themselves.
rule_lines <- function(x) {
  rules <- x$rules
  result <- paste0(group_names(x$partition, rules$group), ": ", vapply(rules$right, thousands, ""), " of ",
                   vapply(rules$rows, thousands, ""), " rows")
  hanging_lines(result, rules$condition)
}

#' @export
summary.fl_paths <- showing_field("rules")

#' @export
format.fl_place <- function(x, ...) {
  facts <- fl_facts(x)
  c(sentence_lines(facts), odd_lines(x), next_line("autoplot(placed)", "as.data.frame(placed)",
                                                   "fl_export(placed, \"file.csv\")"))
}

# Rows that belong to none, the farthest first.
odd_lines <- function(x, most = 5L) {
  none <- x$rows[x$rows$group %in% 0L, ]
  if (nrow(none) == 0L) {
    return(NULL)
  }
  shown <- utils::head(none[order(-none$distance / none$reach), ], most)
  cells <- list(row = shown$row, id = shown[["id"]], nearest = group_label(x$partition, shown$nearest),
                distance = digits3(shown$distance), reach = digits3(shown$reach), outside = shown$outside)
  left <- nrow(none) - nrow(shown)
  c(table_lines(Filter(Negate(is.null), cells), right = c("row", "distance", "reach")),
    if (left > 0L) paste0("  and ", counted(left, "more row")))
}

#' @export
summary.fl_place <- showing_field("mix")
