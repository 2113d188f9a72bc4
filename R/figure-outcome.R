# A column kept aside, by group, with intervals.

#' Draw a column by group
#'
#' Means or shares with their intervals; the line is the whole table. Up to twelve values of a category are drawn, those
#' whose shares differ most between groups first. Dates: one panel per group with its share of the rows of every period.
#'
#' @param object From [fl_outcome()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("vessel_visits")), k = 4)
#' autoplot(fl_outcome(groups, "overstay"))
#' }
#' @export
autoplot.fl_outcome <- function(object, ...) {
  check_no_dots(...)
  if (object$over_time) {
    return(draw_course(object))
  }
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
  crowded <- object$partition$k >= crowded_from
  tilt <- has_names(object$partition) && (crowded || length(levels) > 1L)
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
    fl_theme() + theme(legend.position = "none", axis.text.x = tilted_text(tilt))
}

draw_course <- function(object) {
  rows <- object$groups
  levels <- unique(rows$level)
  rows$place <- match(rows$level, levels)
  partition <- object$partition
  rows$panel <- factor(rows$group, seq_len(partition$k),
                       legend_names(partition, seq_len(partition$k), 84L %/% panel_columns(partition$k)))
  rows$group <- factor(rows$group, seq_len(partition$k))
  overall <- data.frame(panel = factor(levels(rows$panel), levels(rows$panel)),
                        value = partition$groups$rows / sum(partition$groups$rows))
  marks <- seq(1L, length(levels), by = ceiling(length(levels) / if (partition$k > 6L) 3 else 4))
  facts <- fl_facts(object)
  ggplot(rows, aes(.data$place, .data$value, colour = .data$group, fill = .data$group)) +
    geom_hline(data = overall, aes(yintercept = .data$value), linetype = "dashed", colour = ink_soft) +
    ggplot2::geom_ribbon(aes(ymin = .data$low, ymax = .data$high), alpha = 0.25, colour = NA) +
    geom_line(linewidth = 1.1) + geom_point(size = 2.2) +
    facet_wrap("panel", ncol = panel_columns(partition$k)) +
    group_scale(levels(rows$group)) + group_scale(levels(rows$group), scale_fill_manual) +
    scale_x_continuous(breaks = marks, labels = levels[marks],
                       expand = expansion(mult = 0.08)) +
    scale_y_continuous(labels = function(v) percent(v), limits = c(0, NA)) +
    words_on(title = sub("\\.$", "", facts[1L]), subtitle = facts[2L],
             caption = data_caption(partition$ready, paste0("Bands: ", percent(object$level), " intervals. Dashed: ",
                                                            "the group's share of all rows.")),
             x = paste0(object$column, ", by ", object$by), y = "share of the period's rows") +
    fl_theme(12) + theme(legend.position = "none")
}
