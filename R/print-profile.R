# How a profile reads as text.

standout_marks <- c("much higher" = "++", higher = "+", lower = "-", "much lower" = "--", "much more often" = "++",
                    "more often" = "+", "less often" = "-", "much less often" = "--")

#' @export
format.fl_profile <- function(x, ...) {
  facts <- fl_facts(x)
  c(sentence_lines(facts[1L]), profile_lines(x), sentence_lines(facts[-1L]),
    next_line("autoplot(profile)", "profile$separation", "as.data.frame(profile)"))
}

# Means by group, with marks, the columns that tell the groups apart best first; what does not fit is counted.
profile_lines <- function(x, most = 10L) {
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
  c(lines, "  ++ much higher, + higher, - lower, -- much lower than the whole table",
    if (length(left) > 0L) paste0("  and ", listed(left), ": as.data.frame(profile)"))
}

#' @export
summary.fl_profile <- function(object, ...) object$groups
