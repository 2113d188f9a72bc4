# Which groups and rows are stable under resampling.

#' Draw how stable groups are under resampling
#'
#' One bar per group: how its rows divide by the share of bootstrap samples in which they stay. The large point is the
#' mean Jaccard overlap of the group with its like in the samples, on the same axis; the ring is the same from other
#' seeds.
#'
#' @param object From [fl_reliability()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("icequakes"), transform = "log"), k = 4)
#' autoplot(fl_reliability(groups, samples = 20, reseeds = 5))
#' }
#' @export
autoplot.fl_reliability <- function(object, ...) {
  check_no_dots(...)
  rows <- object$rows[!is.na(object$rows$stays), ]
  groups <- object$groups
  levels <- rev(groups$group)
  rows$y <- match(rows$group, levels)
  groups$y <- match(groups$group, levels)
  rows$place <- rows$y + (order(order(rows$row)) / nrow(rows) - 0.5) * 0.55
  ready <- object$partition$ready
  ggplot(rows, aes(.data$stays, .data$place)) +
    geom_vline(xintercept = c(unstable_below, stable_from), linetype = "dashed", colour = ink_soft) +
    geom_point(aes(colour = factor(.data$group, groups$group)), size = 1.6, alpha = 0.6, show.legend = FALSE) +
    geom_point(data = groups, aes(.data$reseeded, .data$y), shape = 21, size = 6, stroke = 1.2, fill = "white",
               colour = ink) +
    geom_point(data = groups, aes(.data$returns, .data$y), size = 5, colour = ink) +
    group_scale(groups$group) +
    scale_x_continuous(breaks = seq(0, 1, 0.2), limits = c(0, 1.02)) +
    scale_y_continuous(breaks = groups$y,
                       labels = paste0(legend_names(object$partition, groups$group),
                                       if (nrow(groups) >= crowded_from) ", " else "\n",
                                       vapply(groups$rows, thousands, ""), " rows")) +
    words_on(
      title = sub("\\.$", "", fl_facts(object)[1L]),
      subtitle = paste0("Black: the overlap of the group with its like when rows are drawn again; ring: from other ",
                        "seeds. Small: how often each row stays. Dashed: unstable below ", unstable_below,
                        ", stable from ", stable_from, "."),
      caption = data_caption(ready, paste0(capital(method_said(object$partition$method)), ", ", object$samples,
                                           " ", sample_words(object), ", ", object$reseeds, " other seeds.")),
      x = "mean Jaccard overlap, share of samples (higher is better)", y = NULL
    ) +
    fl_theme()
}
