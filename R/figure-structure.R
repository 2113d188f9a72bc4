# The gate, seen.

#' Draw the test for groups
#'
#' The rows along the direction in which they look most like several clusters, with the shape of one Gaussian of the
#' same spread. Two humps with a valley between them speak for groups; rings show only in the runt.
#'
#' @param object From [fl_structure()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` where nothing could be tested.
#' @references Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#' @examples
#' \donttest{
#' autoplot(fl_structure(fl_prepare(fl_demo("icequakes"), transform = "log")))
#' }
#' @export
autoplot.fl_structure <- function(object, ...) {
  check_no_dots(...)
  if (is.na(object$groups)) {
    fl_abort("argument", "There is nothing to draw: whether there are groups could not be tested.",
             found = paste0(capital(object$reason), "."))
  }
  along <- (object$along - mean(object$along)) / stats::sd(object$along)
  width <- diff(range(along)) / 40
  one_cluster <- data.frame(x = seq(min(along), max(along), length.out = 200))
  one_cluster$y <- stats::dnorm(one_cluster$x) * length(along) * width
  ggplot(data.frame(x = along), aes(.data$x)) +
    ggplot2::geom_histogram(binwidth = width, boundary = 0, fill = fjord_colours[1L], colour = "white",
                            linewidth = 0.2) +
    geom_line(data = one_cluster, aes(.data$x, .data$y), colour = mark_strong, linewidth = 0.9) +
    words_on(
      title = sub("\\.$", "", structure_headline(object)),
      subtitle = paste0("The rows ", object$direction,
                        if (nzchar(object$part)) paste0("; they look most like several clusters ", object$part)
                        else ", where they look most like several clusters",
                        ". Line: one Gaussian of the same spread. Dip ", digits3(object$dip), " (p = ",
                        p_said(object$p_dip),
                        "), runt ", object$runt, " (p = ", p_said(object$p_runt), "), each against ", object$sets,
                        " tables without groups of every kind."),
      caption = data_caption(object$ready, drawn_note(seq_len(object$rows), nrow(object$ready$x))),
      x = "standard deviations from the mean", y = "rows"
    ) +
    fl_theme()
}
