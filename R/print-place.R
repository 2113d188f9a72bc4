# How placed rows read as text.

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
summary.fl_place <- function(object, ...) object$mix
