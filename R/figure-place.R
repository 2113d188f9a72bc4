# New rows beside the fitted ones: what has drifted, and how the groups are mixed.

#' Draw placed rows
#'
#' On the left every column by the share of its values that lie elsewhere than in the fit, with what that is; columns
#' that have drifted stand out, the dotted line is a tenth. On the right how many of the rows each group has, fitted
#' (ring) and new (disc), and how many belong to none.
#'
#' @param object From [fl_place()].
#' @param ... Not used.
#' @return A ggplot of two panels, put together by patchwork.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' water <- fl_demo("water_samples")
#' groups <- fl_partition(fl_prepare(water), k = 5)
#' autoplot(fl_place(groups, head(as.data.frame(water), 100)))
#' }
#' @export
autoplot.fl_place <- function(object, ...) {
  check_no_dots(...)
  if (is.null(object$drift)) {
    fl_abort("model", "There is nothing to draw: the model's file does not say what its columns looked like.")
  }
  facts <- fl_facts(object)
  drifted <- object$drift$drifted
  wrap_plots(drift_panel(object), mix_panel(object), widths = c(1.5, 1)) +
    words_on_panels(title = if (any(drifted)) paste(listed(capital(object$drift$column[drifted]), most = 4L),
                                                    if (sum(drifted) == 1L) "has drifted" else "have drifted")
                    else sub(" \\(.*$", "", drift_fact(object)),
                    subtitle = c(none_fact(object), broken_fact(object), mix_fact(object)),
                    caption = paste0(facts[1L], " Columns: p up to ", drift_level, ", adjusted, and a tenth of the ",
                                     "values elsewhere is called drift."))
}

drift_panel <- function(object, most = 15L) {
  rows <- object$drift[!is.na(object$drift$moved), ]
  rows <- utils::head(rows[order(-rows$drifted, -rows$moved), ], most)
  rows$column <- factor(rows$column, rev(rows$column))
  rows$said <- ifelse(rows$number, paste0(digits3(rows$new), ", was ", digits3(rows$fitted)),
                      paste0(percent(rows$outside), " never seen"))
  rows$said[rows$rows == 0L] <- "no value at all"
  ggplot(rows, aes(.data$moved, .data$column)) +
    geom_vline(xintercept = drift_share, linetype = "dotted", colour = ink_soft) +
    geom_segment(aes(x = 0, xend = .data$moved, yend = .data$column), colour = "#B9C9CD", linewidth = 1.4) +
    geom_point(size = 4, colour = ifelse(rows$drifted, mark_strong, fjord_colours[1L]),
               shape = ifelse(rows$drifted, 17, 16)) +
    geom_text(aes(label = .data$said), hjust = 0, nudge_x = 0.02, size = 3.6, colour = ink) +
    scale_x_continuous(limits = c(0, max(0.4, 2.2 * max(rows$moved))), labels = function(v) percent(v)) +
    words_on(x = "share of the values that lie elsewhere", y = NULL,
             subtitle = paste(c(if (any(rows$drifted)) "Triangles: drifted.",
                                if (any(rows$number)) "Beside: the mean, and that of the fit."), collapse = " ")) +
    fl_theme(12)
}

mix_panel <- function(object) {
  mix <- object$mix
  mix$said <- c(legend_names(object$partition, utils::head(mix$group, -1L)), "none of these")
  mix$said <- factor(mix$said, rev(mix$said))
  ggplot(mix, aes(.data$new, .data$said)) +
    geom_segment(aes(x = .data$fitted, xend = .data$new, yend = .data$said), colour = "#B9C9CD", linewidth = 1.4) +
    geom_point(aes(.data$fitted), shape = 21, size = 4, fill = "white", colour = ink, stroke = 1) +
    geom_point(size = 3.4, colour = c(fl_palette(nrow(mix) - 1L), mark_strong)) +
    scale_x_continuous(limits = c(0, NA), labels = function(v) percent(v)) +
    words_on(x = "share of the rows", y = NULL, subtitle = "Rings: fitted; discs: new.") + fl_theme(12)
}
