# The groups column by column, and which columns and groups stand apart.

#' Draw a profile
#'
#' * `view = "columns"`: groups against columns; colour is the difference from the whole table in standard deviations,
#'   the number the mean in the table's own units (of a level its share). Columns that tell the groups apart best are
#'   on top.
#' * `view = "separation"`: how much of each column's spread lies between the groups, features and columns kept aside.
#' * `view = "groups"`: which groups are large or small, tight or loose, alone or near another.
#'
#' @param object From [fl_profile()].
#' @param view `"columns"`, `"separation"` or `"groups"`.
#' @param most Most columns and levels to draw.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' profile <- fl_profile(groups)
#' autoplot(profile)
#' autoplot(profile, "separation")
#' autoplot(profile, "groups")
#' }
#' @export
autoplot.fl_profile <- function(object, view = "columns", most = 20, ...) {
  check_no_dots(...)
  check_choice(view, c("columns", "separation", "groups"), "view")
  check_whole(most, "most")
  switch(view, columns = draw_profile(object, most), separation = draw_separation(object, most),
         groups = draw_group_sizes(object))
}

# The strengths themselves stand in the figure.
profile_title <- function(object) {
  gsub(" [(](eta squared|Cramer's V) [^)]*[)]", "", sub("\\.$", "", fl_facts(object)[1L]))
}

draw_profile <- function(object, most) {
  cells <- object$columns
  units <- object$partition$ready$units
  level <- ifelse(cells$level %in% c(NA, "TRUE"), "", paste0(": ", cells$level))
  cells$said <- ifelse(is.na(cells$level), with_unit(cells$column, units), paste0(cells$column, level))
  rank <- match(cells$column, object$separation$column)
  said <- unique(cells$said[order(rank)])
  shown <- utils::head(said, most)
  cells <- cells[cells$said %in% shown, ]
  cells$part <- factor(ifelse(cells$role == "feature", "features", "aside"), c("features", "aside"))
  cells$said <- factor(cells$said, rev(shown), fitted_words(rev(shown), 30L, length(shown) > 14L))
  cells$label <- ifelse(is.na(cells$level), digits3(cells$mean), percent(cells$mean))
  crowded <- nrow(object$groups) >= crowded_from
  room <- if (crowded) 20L else max(14L, 56L %/% nrow(object$groups))
  cells$group <- factor(cells$group, object$groups$group,
                        paste0(legend_labels(object$partition, room)(object$groups$group),
                               if (crowded && has_names(object$partition)) ", " else "\n",
                               vapply(object$groups$rows, thousands, "")))
  many <- length(shown) > 16L || nrow(object$groups) > 10L
  bound <- max(1, stats::quantile(abs(cells$difference), 0.98, names = FALSE, na.rm = TRUE))
  ggplot(cells, aes(.data$group, .data$said, fill = pmax(-bound, pmin(bound, .data$difference)))) +
    geom_tile(colour = "white", linewidth = 0.8) +
    geom_text(aes(label = .data$label), size = if (many) 2.7 else 3.8,
              colour = ifelse(abs(cells$difference) > 0.65 * bound, "white", ink)) +
    ggplot2::scale_fill_gradient2(low = fjord_colours[1L], mid = "#F4F5F3", high = "#A8323A", limits = c(-bound, bound),
                                  name = "difference,\noverall sd") +
    (if (length(unique(cells$part)) > 1L) {
      ggplot2::facet_grid(ggplot2::vars(.data$part), scales = "free_y", space = "free_y")
    }) +
    scale_x_discrete(position = "top") +
    words_on(
      title = profile_title(object),
      subtitle = "Numbers: means in the table's own units, or shares. Red: above the whole table; dark green: below.",
      caption = data_caption(object$partition$ready, if (length(said) > length(shown)) {
        paste0("Drawn: ", length(shown), " of ", length(said), " columns and levels.")
      }), x = "group, and its rows", y = NULL
    ) +
    fl_theme() + theme(panel.grid.major = element_blank(), axis.text = element_text(colour = ink),
                       axis.text.x.top = tilted_text(crowded && has_names(object$partition), top = TRUE),
                       strip.text.y = element_text(angle = 0, vjust = 1), strip.clip = "off")
}

draw_separation <- function(object, most) {
  rows <- object$separation[!is.na(object$separation$effect), ]
  if (nrow(rows) == 0L) {
    fl_abort("argument", "There is nothing to draw: one group has nothing to be told apart from.")
  }
  shown <- utils::head(rows, most)
  kept <- ifelse(shown$role == "feature", "feature", "kept aside")
  shown$said <- factor(shown$column, rev(shown$column), vapply(rev(shown$column), folded, "", width = 26L))
  p <- ifelse(shown$role == "feature", shown$p_beyond, shown$p_plain)
  asked <- ifelse(shown$role == "feature", "beyond one cluster: ", "")
  shown$note <- ifelse(is.na(p), fixed2(shown$effect), paste0(fixed2(shown$effect), "  ", asked, chance_said_each(p)))
  shown$kept <- kept
  ggplot(shown, aes(.data$effect, .data$said, fill = .data$kept)) +
    geom_col(width = 0.7) +
    geom_text(aes(label = .data$note), hjust = -0.04, size = if (nrow(shown) > 20L) 2.9 else 3.7, colour = ink) +
    scale_fill_manual(values = c(feature = fjord_colours[1L], "kept aside" = "#B9A14A"), name = NULL) +
    scale_x_continuous(limits = c(0, 1.45), breaks = seq(0, 1, 0.25)) +
    words_on(
      title = profile_title(object),
      subtitle = paste("Bars: eta squared of numbers, Cramer's V of categories. Features made the groups, so their",
                       "bars are long in any case; their p-values allow for that."),
      caption = data_caption(object$partition$ready, if (nrow(rows) > nrow(shown)) {
        paste0("Drawn: ", nrow(shown), " of ", nrow(rows), " columns.")
      }), x = "strength of the difference between groups (0 to 1)", y = NULL
    ) +
    fl_theme() + theme(legend.position = "top", legend.justification = "left")
}

chance_said_each <- function(p) vapply(p, function(one) if (is.na(one)) "" else chance_said(one), "")

draw_group_sizes <- function(object) {
  groups <- object$groups
  if (nrow(groups) < 2L) {
    fl_abort("argument", "There is nothing to draw: a single group is near no other.")
  }
  groups$group <- factor(groups$group)
  ggplot(groups, aes(.data$tightness, .data$isolation, size = .data$rows, fill = .data$group)) +
    geom_point(shape = 21, colour = "white", show.legend = FALSE) +
    geom_text(aes(label = .data$group, colour = after_scale(disc_ink(.data$fill))), size = 4, fontface = "bold") +
    ggplot2::scale_size_area(max_size = 24) +
    group_scale(levels(groups$group), scale_fill_manual) +
    scale_x_continuous(expand = expansion(0.15)) + scale_y_continuous(expand = expansion(0.15)) +
    words_on(title = sub("\\.$", "", tightness_fact(object$groups, object$partition)),
             subtitle = "Area: rows. To the left: rows close to their centre. Up: far from every other group.",
             caption = data_caption(object$partition$ready),
             x = "mean distance to the own centre, scaled units (smaller: tighter)",
             y = "distance to the nearest other centre, scaled units") +
    fl_theme()
}
