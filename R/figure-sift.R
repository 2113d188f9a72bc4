# What single columns show before anything is fitted.

#' Draw which columns separate the rows
#'
#' For each column how far two rows lie apart in it, and how clearly its values have several peaks.
#'
#' @param object From [fl_sift()].
#' @param most How many columns to draw, the first of them.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for an argument that is not used, or a `most` that is not a whole number.
#' @seealso [fl_sift()] for what the two numbers are.
#' @examples
#' \donttest{
#' autoplot(fl_sift(fl_demo("vessel_visits")))
#' }
#' @export
autoplot.fl_sift <- function(object, most = 25, ...) {
  check_no_dots(...)
  check_whole(most, "most")
  shown <- utils::head(as_plain(object), most)
  heads <- c(separation = "how far rows lie apart", multimodality = "several peaks")
  bars <- data.frame(
    column = factor(rep(shown$column, 2L), rev(shown$column)),
    what = factor(rep(heads, each = nrow(shown)), heads), value = c(shown$separation, shown$multimodality),
    beyond = c(rep(FALSE, nrow(shown)), shown$beyond_chance %in% TRUE)
  )
  ggplot(bars[!is.na(bars$value), ], aes(.data$value, .data$column, fill = .data$beyond)) +
    geom_col(width = 0.7) +
    facet_wrap("what") +
    scale_fill_manual(values = c("FALSE" = "#B9C6CC", "TRUE" = mark_strong), guide = "none") +
    scale_x_continuous(limits = c(0, 1), n.breaks = 4) +
    words_on(title = sub("\\.$", "", fl_facts(object)[1L]),
             subtitle = c("Red: more peaks than chance gives. Each column by itself:",
                          "groups that show only in several together are not seen."),
             caption = paste0("Data: ", attr(object, "name"), if (nrow(shown) < nrow(object)) {
               paste0(". Drawn: the first ", nrow(shown), " of ", nrow(object), " columns")
             }, "."),
             x = "0 to 1, comparable between numbers and categories", y = NULL) +
    fl_theme() + theme(panel.grid.major.y = element_blank())
}
