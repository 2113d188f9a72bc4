# A column kept aside, by group, with intervals.

#' Draw a column by group
#'
#' Means or shares with their intervals; the line is the whole table. Up to twelve values of a category are drawn, those
#' whose shares differ most between groups first.
#'
#' @param object From [fl_outcome()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("vessel_visits")), k = 4)
#' autoplot(fl_outcome(groups, "overstay"))
#' }
#' @export
autoplot.fl_outcome <- function(object, ...) {
  rows <- object$groups[!is.na(object$groups$value), ]
  levels <- unique(rows$level)
  overall <- object$overall
  if (!object$number) {
    ranges <- vapply(levels, function(one) diff(range(rows$value[rows$level == one])), 0)
    levels <- utils::head(levels[order(-ranges)], 12L)
    rows <- rows[rows$level %in% levels, ]
    overall <- overall[overall$level %in% levels, ]
    rows$level <- factor(rows$level, levels)
    overall$level <- factor(overall$level, levels)
  }
  rows$group <- factor(rows$group, seq_len(object$partition$k))
  facts <- fl_facts(object)
  ggplot(rows, aes(.data$group, .data$value, colour = .data$group)) +
    geom_hline(data = overall, aes(yintercept = .data$value), linetype = "dashed", colour = ink_soft) +
    geom_segment(aes(xend = .data$group, y = .data$low, yend = .data$high), linewidth = 1.4, na.rm = TRUE) +
    geom_point(size = 4) +
    group_scale(levels(rows$group)) + scale_x_discrete(labels = legend_labels(object$partition, 14L)) +
    (if (!object$number && length(levels) > 1L) facet_wrap("level")) +
    (if (!object$number) scale_y_continuous(labels = function(v) percent(v))) +
    words_on(title = sub("\\.$", "", facts[1L]), subtitle = facts[2L],
             caption = data_caption(object$partition$ready, c(
               "Dashed: the whole table. The column did not make the groups.",
               if (length(levels) < nrow(object$overall)) {
                 paste0("Drawn: ", length(levels), " of ", nrow(object$overall), " values.")
               }
             )), x = "group",
             y = if (object$number) paste("mean", with_unit(object$column, object$partition$ready$units))
             else paste("share of the group's rows,", object$column)) +
    fl_theme() + theme(legend.position = "none")
}
