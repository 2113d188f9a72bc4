# The groups in the plane, and row by row.

#' Draw a partition
#'
#' * `view = "plane"`: the rows on two columns in original units, or on the first two principal components of the
#'   prepared columns (the default with more than two features; axes say what they are). Colour is the group. Shape is
#'   the known class where there is one, else the group. Rings mark rows that disagree with the known class. Numbered
#'   discs are the centres.
#' * `"silhouette"`: the silhouette width of every row, sorted within its group, the mean of each group, and the
#'   shares of its rows that are nearer to another group (below 0) or near a border (0 to 0.1).
#' * `"pairs"`: all pairs of up to seven number columns.
#' * `"boxes"`: every column by group, as boxes (middle half, median, and whiskers to the 5% and 95% quantiles), up to
#'   twelve columns.
#' * `"profiles"`: one panel per group with its rows as lines across the columns, its median, and the median of all rows
#'   behind it; in original units where the columns share one, else scaled. For columns that are a sequence (depths,
#'   hours) these are the rows and centres as curves.
#' * `"images"`: the centres and the most typical rows as pictures, for columns that are a grid (`grid`).
#' * `"beside"`: the same plane twice, by group and by the known classes, another column or another partition (`with`).
#' * `"map"`: two columns are coordinates, the area of a point is the amount in a third.
#' * `"time"`: the share of each group over time, for a column of dates kept aside, see [fl_outcome()].
#' * `"space"`: three columns, or the first three principal components, seen from an angle; nearer points are larger.
#'
#' * `"uncertain"`: the plane with points as large as it is doubtful that the row belongs to its group, for methods with
#'   memberships.
#' * Of a mixture, `"density"`: the fitted density and its components beside the density of the rows, in the plane of
#'   two prepared columns or of the two main directions; `"models"`: every covariance structure by its criterion.
#' * Of linkage, `"dendrogram"`: the tree of merges with the cut. Of HDBSCAN, `"tree"`: the branch tree with the
#'   branches chosen. Of DBSCAN, `"radius"`: the sorted distances that the radius is suggested from.
#'
#' Views draw more than 20,000 rows as an even sample, and the caption says so. Silhouettes of single rows
#' are given up to 10,000 rows; above that the view stops with an error of class `fjordline_error_argument`.
#'
#' @param object From [fl_partition()], [fl_take()] or [fl_adopt()].
#' @param view One of the views above.
#' @param columns Names of the columns to draw: two for the plane and the map, three for space, one for time. They need
#'   not be features: groups made on some columns can be looked at on others.
#' @param truth `TRUE` or `FALSE`: show the known classes in the plane; left out, where there are up to eight.
#' @param with For `"beside"`: the name of a column, or a partition; left out, the known classes.
#' @param amount For `"map"`: name of the number column that points are sized by.
#' @param grid For `"images"`: two whole numbers, rows and columns of the picture. The table's columns fill it row by
#'   row.
#' @param angle For `"space"`: two angles in degrees, around and above.
#' @param ... Not used.
#' @return A ggplot (several panels: put together by patchwork).
#' @section Errors: `fjordline_error_column` for a misspelt column, `fjordline_error_argument` for a view or columns
#'   that do not fit, `fjordline_error_model` for a partition loaded from a file.
#' @references Rousseeuw, P. J. (1987). Silhouettes: a graphical aid to the interpretation and validation of cluster
#'   analysis. \doi{10.1016/0377-0427(87)90125-7}
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' autoplot(groups)
#' autoplot(groups, columns = c("temperature", "salinity"))
#' autoplot(groups, view = "silhouette")
#' autoplot(groups, view = "boxes")
#' autoplot(groups, view = "map", columns = c("longitude", "latitude"), amount = "depth")
#' casts <- fl_partition(fl_prepare(fl_demo("mooring_casts")), fl_method("kmeans", metric = "correlation"), k = 4)
#' autoplot(casts, view = "profiles")
#' }
#' @export
autoplot.fl_partition <- function(object, view = "plane", columns = NULL, truth = NULL, with = NULL, amount = NULL,
                                  grid = NULL, angle = c(35, 20), ...) {
  check_no_dots(...)
  check_choice(view, names(group_views()), "view")
  need_rows(object)
  if (!view %in% c("radius", "tree")) need_groups(object)
  group_views()[[view]](object, list(columns = columns, truth = truth, with = with, amount = amount, grid = grid,
                                     angle = angle))
}

# The views that only this partition's method has, and what each shows.
own_views <- function(partition) {
  if (!is.null(partition$placed) || is.null(partition$ready$x) || partition$k < 1L) {
    return(character())
  }
  method_views(partition)
}

method_views <- function(partition) {
  if (is.null(partition$method$views)) character() else partition$method$views(partition)
}

group_views <- function() {
  list(plane = function(object, asked) draw_plane(object, asked$columns, asked$truth),
       silhouette = function(object, asked) draw_silhouettes(object),
       pairs = draw_group_pairs, boxes = draw_group_boxes, profiles = draw_group_profiles, images = draw_group_images,
       beside = draw_beside, map = draw_group_map, time = draw_group_time, space = draw_space,
       density = draw_mixture_density, models = draw_models, uncertain = draw_uncertain, dendrogram = draw_dendrogram,
       tree = draw_branches, radius = draw_radius)
}

draw_plane <- function(object, columns, truth) {
  map <- plane_map(object, columns)
  rows <- plane_rows(object, map, truth)
  with_truth <- !all(is.na(rows$class))
  shape_by <- if (with_truth) "class" else "group"
  levels <- shape_levels(rows, shape_by)
  rows[[shape_by]] <- factor(rows[[shape_by]], levels)
  shown <- rows[drawn_rows(nrow(rows)), ]
  wrong <- ringed_rows(shown[shown$wrong, ])
  small <- if (nrow(shown) > 3000L) 1 else 2.1
  ggplot(shown, aes(.data$x, .data$y, colour = .data$group)) +
    geom_point(aes(shape = .data[[shape_by]]), size = small, alpha = if (nrow(shown) > 3000L) 0.5 else 0.8) +
    (if (nrow(wrong) > 0L) geom_point(data = wrong, shape = 21, size = small + 2.2, stroke = 0.7, colour = ink,
                                      fill = NA)) +
    numbered_discs(map$centres) + group_scale(levels(rows$group), of = object) +
    shape_scale(levels, if (with_truth) columns_of(object$ready$data, "truth") else "group",
                if (!with_truth) object) +
    words_on(title = plane_title(object, rows, with_truth),
             subtitle = paste(c(map$said, paste0("Discs: ", object$method$centre, "s."),
                                if (any(rows$wrong)) paste0("Rings: ", ring_word(nrow(wrong), sum(rows$wrong)),
                                                            "rows that disagree with their known class.")),
                              collapse = " "),
             caption = data_caption(object$ready,
                                    c(paste0(capital(method_said(object$method)), ", seed ", object$seed, "."),
                                      drawn_note(drawn_rows(nrow(rows)), nrow(rows)))),
             x = map$x, y = map$y) +
    plane_legends(object$k, with_truth) + fl_theme()
}

# Classes in the order of the groups that hold most of their rows, so that the legends read alike.
shape_levels <- function(rows, by) {
  if (by == "group") {
    return(levels(rows$group))
  }
  names(sort(vapply(split(as.integer(rows$group), rows$class), stats::median, 0)))
}

seen_as <- c(euclidean = "", cosine = " as cosine sees them (rows of length one)",
             correlation = " as correlation sees them (shapes, without level and size)")

axis_words <- function(share, loadings, i) {
  strong <- shortened(utils::head(rownames(loadings)[order(-abs(loadings[, i]))], 2L), 20L)
  paste0("principal component ", i, ": ", percent(share[i]), " of the spread\nmostly ", listed(strong))
}

plane_rows <- function(object, map, truth) {
  ready <- object$ready
  class <- truth_of(ready$data)[ready$rows]
  few <- length(unique(class)) <= length(group_shapes)
  if (is.null(class) || !(truth %||% few)) class <- rep(NA_character_, length(ready$rows))
  if (anyNA(class) && !all(is.na(class))) class[is.na(class)] <- "not known"
  wrong <- rep(FALSE, length(class))
  if (!all(is.na(class))) wrong[ready$rows %in% fl_agree(object)$disagree] <- TRUE
  group <- object$group[ready$rows]
  data.frame(x = map$points$x, y = map$points$y, group = factor(group, sort(unique(c(seq_len(object$k), group)))),
             class = class, wrong = wrong)
}

plane_title <- function(object, rows, with_truth) {
  sizes <- paste0(capital(spelt(object$k)), if (object$k == 1L) " group" else " groups", " of ",
                  size_range(object$groups$rows), " rows")
  if (!with_truth) {
    return(sizes)
  }
  wrong <- sum(rows$wrong)
  said <- if (wrong == 0L) "none disagrees"
  else paste(thousands(wrong), if (wrong == 1L) "disagrees" else "disagree")
  paste0(sizes, "; ", said,
         " with ", columns_of(object$ready$data, "truth"))
}

draw_silhouettes <- function(object) {
  if (object$k < 2L) {
    fl_abort("argument", "Silhouettes need at least two groups.", found = paste0("This partition has ", object$k, "."))
  }
  rows <- row_silhouettes(object)
  rows <- rows[!is.na(rows$silhouette), ]
  rows <- rows[order(rows$group, -rows$silhouette), ]
  rows$place <- seq_len(nrow(rows)) + (rows$group - 1) * nrow(rows) * 0.02
  rows$group <- factor(rows$group)
  each <- function(values, how) unlist(lapply(split(values, rows$group), how))
  means <- data.frame(group = levels(rows$group), place = each(rows$place, mean),
                      said = each(rows$silhouette, silhouette_said))
  means$said <- if (object$k >= crowded_from) paste0(shortened(group_label(object, means$group), 26L), ": ",
                                                     sub(",.*$", "", means$said))
  else paste0(shortened(group_names(object, means$group), 22L), ", ",
              vapply(each(rows$group, length), counted, "", "row"), "\n", means$said)
  of_lines <- if (object$k < crowded_from) 0.1 else 0.06
  means$place <- moved_apart(means$place, of_lines * max(rows$place))
  overall <- mean(rows$silhouette)
  shown <- rows[drawn_rows(nrow(rows)), ]
  ggplot(shown, aes(.data$place, .data$silhouette)) +
    geom_segment(aes(xend = .data$place, yend = 0, colour = .data$group), linewidth = max(0.25, 380 / nrow(shown))) +
    geom_hline(yintercept = overall, linetype = "dashed", colour = ink) +
    geom_hline(yintercept = border_width, linetype = "dotted", colour = ink_soft) +
    geom_text(data = means, aes(.data$place, 1.02, label = .data$said), hjust = 0, size = 3.7, colour = ink) +
    group_scale(levels(rows$group)) +
    ggplot2::scale_x_reverse(breaks = NULL) +
    scale_y_continuous(breaks = seq(-1, 1, 0.25), limits = c(min(-0.1, rows$silhouette), 1.75)) +
    ggplot2::coord_flip() +
    words_on(
      title = paste0("Mean silhouette ", fixed2(overall), ": ", percent(mean(rows$silhouette < 0)),
                     " of the rows are nearer to another group, ",
                     percent(mean(rows$silhouette >= 0 & rows$silhouette < border_width)), " near a border"),
      subtitle = paste0("One line per row, sorted within its group. 1: far from every other group; 0: on a border; ",
                        "below 0: nearer to another group. Near: below ", border_width, " (dotted). Dashed: the mean."),
      caption = data_caption(object$ready,
                             c(paste0(capital(method_said(object$method)), ", k = ", object$k, ", seed ", object$seed,
                                      "."), drawn_note(drawn_rows(nrow(rows)), nrow(rows)))),
      x = NULL, y = "silhouette width (higher is better)"
    ) +
    fl_theme() + theme(legend.position = "none", panel.grid.major.y = element_blank())
}

# A row of less width is about as near to another group as to its own.
border_width <- 0.1

silhouette_said <- function(width) {
  nearer <- mean(width < 0)
  near <- mean(width >= 0 & width < border_width)
  paste0("mean ", fixed2(mean(width)), if (nearer > 0) paste0(", ", percent(nearer), " below 0"),
         if (near > 0) paste0(", ", percent(near), " near"))
}
