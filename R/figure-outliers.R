#' Draw outlier scores
#'
#' The scores of all rows in their order of size with the threshold, and where the flagged rows lie (first two principal
#' components of the prepared columns).
#'
#' @param object From [fl_outliers()].
#' @param ... Not used.
#' @return A ggplot of two panels.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' autoplot(fl_outliers(fl_prepare(fl_demo("icequakes"), transform = "log"), method = "density_ratio"))
#' }
#' @export
autoplot.fl_outliers <- function(object, ...) {
  check_no_dots(...)
  rows <- object$rows[!is.na(object$rows$score), ]
  x <- object$ready$x
  scores <- plane_scores(list(x = x, axes = principal_axes(sweep(x, 2L, colMeans(x)))))
  at <- data.frame(x = scores[, 1L], y = scores[, 2L], flagged = rows$flagged, score = rows$score,
                   label = ifelse(is.na(rows$id), rows$row, rows$id))
  at <- at[order(at$score), ]
  at$place <- seq_len(nrow(at))
  shown <- at[unique(c(drawn_rows(nrow(at)), which(at$flagged))), ]
  named <- utils::tail(at[at$flagged, ], 5L)
  look <- list(scale_colour_manual(values = c(`FALSE` = "#8FA5AC", `TRUE` = mark_strong), guide = "none"),
               scale_shape_manual(values = c(`FALSE` = 16, `TRUE` = 17), guide = "none"), fl_theme(12))
  curve <- ggplot(shown, aes(.data$place, .data$score, colour = .data$flagged, shape = .data$flagged)) +
    geom_point(size = 1.8) +
    (if (is.finite(object$threshold)) geom_hline(yintercept = object$threshold, linetype = "dashed", colour = ink)) +
    words_on(x = "rows, lowest score first", y = "score", subtitle = fl_facts(object)[2L]) + look
  map <- ggplot(shown, aes(.data$x, .data$y, colour = .data$flagged, shape = .data$flagged)) + geom_point(size = 1.8,
                                                                                                          alpha = 0.8) +
    (if (nrow(named) > 0L) geom_text(data = named, aes(label = .data$label), size = 3.6, vjust = -0.9, colour = ink)) +
    scale_x_continuous(expand = expansion(mult = 0.1)) +
    words_on(x = "component 1", y = "component 2", subtitle = "Where they lie: flagged rows are triangles") + look
  (curve | map) + words_on_panels(title = fl_facts(object)[1L],
                                  caption = data_caption(object$ready, c(fl_facts(object)[3L],
                                                                         drawn_note(shown$place, nrow(at)))))
}
