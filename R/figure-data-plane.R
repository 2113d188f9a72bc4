# Many columns in the plane: principal components with the columns' directions, and what pulls rows apart.

draw_components <- function(data, columns, style) {
  plane <- table_plane(data, columns, NULL)
  axes <- plane$axes
  names <- colnames(plane$x)
  strong <- function(i) names[which.max(abs(axes$turn[, i]))]
  two <- min(2L, ncol(plane$x))
  ggplot(plane_points(plane, style), aes(.data$x, .data$y)) +
    points_or_cells(plane_points(plane, style), style) +
    arrow_layers(plane) + room_for_labels(plane) +
    ggplot2::coord_equal(clip = "off") +
    words_on(title = paste0("Two directions hold ", percent(sum(axes$share[seq_len(two)])), " of the spread: mostly ",
                            strong(1L),
                            ", then ", strong(two)),
             subtitle = paste0("The rows on the first two principal components of ", counted(ncol(plane$x),
                                                                                             "scaled column"),
                               ". Arrows: where each column grows; longer: more of it shows here."),
             caption = table_caption(data, plane$said, cells_note(nrow(plane$x))),
             x = paste0("component 1, ", percent(axes$share[1L]), " of the spread"),
             y = paste0("component 2, ", percent(axes$share[two]), " of the spread")) +
    fl_theme()
}

# The scaled columns, weighed, on their plane of largest spread.
table_plane <- function(data, columns, weights) {
  features <- data
  if (!is.null(columns)) features <- with_features(data, columns)
  weights <- check_plane_weights(weights, columns_of(features, "feature"), data$name)
  ready <- fl_prepare(features, use = names(weights)[weights > 0], weights = weights[weights > 0 & weights != 1])
  axes <- principal_axes(sweep(ready$x, 2L, colMeans(ready$x)))
  lost <- length(taking_part(data)) - length(ready$rows)
  list(ready = ready, x = ready$x, axes = axes, rows = match(ready$rows, taking_part(data)), weights = weights,
       said = if (lost > 0L) paste0(counted(lost, "row"), " with a missing value ", if (lost == 1L) "is" else "are",
                                    " not drawn."))
}

with_features <- function(data, columns) {
  data$roles$role[data$roles$role == "feature"] <- "aside"
  data$roles$role[data$roles$column %in% columns] <- "feature"
  check_features(data$table, data$roles, data$name)
  data
}

check_plane_weights <- function(weights, features, name) {
  all <- stats::setNames(rep(1, length(features)), features)
  if (is.null(weights)) {
    return(all)
  }
  if (!is.numeric(weights) || is.null(names(weights)) || !all(is.finite(weights)) || any(weights < 0)) {
    fl_abort("argument", "`weights` must be named numbers of 0 and more, as in c(salinity = 2, oxygen = 0).",
             found = paste0("It is ", shape_of(weights), "."))
  }
  for (column in names(weights)) check_column(column, features, "weights", name)
  all[names(weights)] <- weights
  if (all(all == 0)) fl_abort("argument", "`weights` turns every column off.", advice = "Leave one on.")
  all
}

plane_scores <- function(plane) {
  two <- rep_len(seq_len(min(2L, ncol(plane$x))), 2L)
  sweep(plane$x, 2L, colMeans(plane$x)) %*% plane$axes$turn[, two, drop = FALSE]
}

plane_points <- function(plane, style) {
  scores <- plane_scores(plane)
  out <- data.frame(x = scores[, 1L], y = scores[, 2L])
  out$class <- style$class[plane$rows]
  out
}

# Arrows of the columns, the longest a fixed share of the picture; labels are moved apart.
arrow_layers <- function(plane, most = 12L) {
  scores <- plane_scores(plane)
  two <- rep_len(seq_len(min(2L, ncol(plane$x))), 2L)
  tips <- plane$axes$turn[, two, drop = FALSE]
  tips <- tips * rep(apply(scores, 2L, stats::sd), each = nrow(tips))
  length <- sqrt(rowSums(tips^2))
  shown <- utils::head(order(-length), most)
  shown <- shown[length[shown] > 0.05 * max(length)]
  reach <- 0.9 * stats::quantile(sqrt(rowSums(scores^2)), 0.98, names = FALSE) / max(length)
  arrows <- data.frame(x = tips[shown, 1L] * reach, y = tips[shown, 2L] * reach, name = colnames(plane$x)[shown])
  height <- diff(range(scores[, 2L]))
  arrows$side <- ifelse(arrows$x >= 0, 0, 1)
  arrows$at <- arrows$y
  for (side in unique(arrows$side)) {
    mine <- arrows$side == side
    arrows$at[mine] <- moved_apart(arrows$y[mine] * 1.06, 0.06 * height)
  }
  arrows$beside <- arrows$x * 1.06
  list(
    geom_segment(data = arrows, aes(x = 0, y = 0, xend = .data$x, yend = .data$y), colour = "white", linewidth = 2),
    geom_segment(data = arrows, aes(x = 0, y = 0, xend = .data$x, yend = .data$y), colour = ink, linewidth = 0.8,
                 arrow = grid_arrow()),
    do.call(ggplot2::geom_label, c(
      list(data = arrows, aes(.data$beside, .data$at, label = .data$name, hjust = .data$side), size = 3.9, colour = ink,
           fill = "#FFFFFFCC", label.padding = unit(1.5, "pt")), no_border()
    ))
  )
}

# Labels stand beyond the tips of the arrows, to the sides.
room_for_labels <- function(plane) {
  scale_x_continuous(expand = expansion(mult = min(0.3, 0.05 + 0.013 * max(nchar(colnames(plane$x))))))
}

# A label without a border; the argument's name changed in ggplot2 3.5.0.
no_border <- function() {
  stats::setNames(list(0), if (utils::packageVersion("ggplot2") < "3.5.0") "label.size" else "linewidth")
}

grid_arrow <- function() ggplot2::arrow(length = unit(7, "pt"), type = "closed")

# Places in their order, none nearer to the next than `gap`.
moved_apart <- function(at, gap) {
  order <- order(at)
  sorted <- at[order]
  for (turn in 1:50) {
    near <- which(diff(sorted) < gap - 1e-9)
    if (length(near) == 0L) break
    for (i in near) {
      push <- (gap - (sorted[i + 1L] - sorted[i])) / 2
      sorted[i] <- sorted[i] - push
      sorted[i + 1L] <- sorted[i + 1L] + push
    }
  }
  at[order] <- sorted
  at
}

# --- pull

draw_pull <- function(data, columns, style) {
  plane <- table_plane(data, columns, style$weights)
  source <- source_columns(colnames(plane$x), plane$ready$features)
  pull <- column_pull(plane, source)
  change <- picture_changes(plane$x, source)
  most <- change$column[which.min(change$off)]
  map <- ggplot(plane_points(plane, style), aes(.data$x, .data$y)) +
    points_or_cells(plane_points(plane, style), style) + arrow_layers(plane) +
    room_for_labels(plane) + ggplot2::coord_equal(clip = "off") +
    guides(colour = guide_legend(ncol = 2, override.aes = list(size = 3, alpha = 1)), shape = guide_legend(ncol = 2)) +
    words_on(x = NULL, y = NULL,
             subtitle = paste0("The plane that shows ", percent(sum(utils::head(plane$axes$share, 2L))),
                               " of the spread", weights_said(plane$weights))) +
    fl_theme(12) + theme(axis.text = element_blank(), legend.position = "bottom", legend.title = element_blank())
  right <- change_panel(change, pull)
  if (length(unique(source)) > 1L) right <- right / without_panel(plane, source, most, style) +
    patchwork::plot_layout(heights = c(1.5, 1))
  (map | right) + patchwork::plot_layout(widths = c(1.55, 1)) +
    words_on_panels(
      title = paste0(names(pull)[1L], " pulls the rows apart most; ",
                     if (length(pull) == 1L) "it is alone"
                     else paste0("turning ", most, " off changes the picture most")),
      caption = table_caption(data, plane$said, cells_note(nrow(plane$x)),
                              "Columns scaled by mean and standard deviation.")
    )
}

weights_said <- function(weights) {
  changed <- weights[weights != 1]
  if (length(changed) == 0L) "" else paste0("; ", listed(paste(names(changed), "\u00d7", digits3(changed)), most = 5L))
}

# The share of the spread on the plane that each feature brings there.
column_pull <- function(plane, source) {
  two <- seq_len(min(2L, ncol(plane$x)))
  share <- plane$axes$turn[, two, drop = FALSE]^2 %*% plane$axes$share[two]
  out <- rowsum(share, source, reorder = FALSE)[, 1L]
  sort(out / sum(out), decreasing = TRUE)
}

# How much of the pattern of distances stays when a feature is turned off or doubled: the RV coefficient of the table
# with itself so changed.
picture_changes <- function(x, source) {
  products <- crossprod(sweep(x, 2L, colMeans(x)))^2
  plain <- sum(products)
  alike <- function(feature, factor) {
    squared <- ifelse(source == feature, factor, 1)^2
    sum(products %*% squared) / sqrt(plain * sum(products * outer(squared, squared)))
  }
  columns <- unique(source)
  data.frame(column = columns, off = vapply(columns, alike, 0, 0), doubled = vapply(columns, alike, 0, 2))
}

change_panel <- function(change, pull, most = 10L) {
  change$off[!is.finite(change$off)] <- 0
  change <- utils::head(change[order(change$off), ], most)
  change$label <- paste0(change$column, " (", percent(pull[change$column]), ")")
  change$label <- factor(change$label, rev(change$label))
  ends <- data.frame(label = rep(change$label, 2L), alike = c(change$off, change$doubled),
                     what = rep(c("turned off", "doubled"), each = nrow(change)))
  ggplot(ends, aes(.data$alike, .data$label)) +
    geom_segment(data = change, aes(x = .data$off, xend = .data$doubled, y = .data$label, yend = .data$label),
                 colour = "#B9C9CD", linewidth = 1.4) +
    geom_point(aes(colour = .data$what, shape = .data$what), size = 3) +
    scale_colour_manual(values = c(`turned off` = mark_strong, doubled = fjord_colours[1L]), name = NULL) +
    scale_shape_manual(values = c(`turned off` = 16, doubled = 17), name = NULL) +
    scale_x_continuous(limits = c(min(0.9, floor(20 * min(ends$alike)) / 20), 1), n.breaks = 4) +
    words_on(x = "share of the picture that stays", y = NULL,
             subtitle = "A column turned off (disc) or doubled (triangle); in brackets its pull") +
    fl_theme(11) + theme(legend.position = "none")
}

# The map without one feature, turned so that rows lie as near as can be to where they were.
without_panel <- function(plane, source, feature, style) {
  kept <- source != feature
  x <- plane$x[, kept, drop = FALSE]
  axes <- principal_axes(sweep(x, 2L, colMeans(x)))
  other <- list(x = x, axes = axes, rows = plane$rows)
  scores <- plane_scores(other)
  fit <- svd(crossprod(scores, plane_scores(plane)))
  scores <- scores %*% fit$u %*% t(fit$v)
  points <- data.frame(x = scores[, 1L], y = scores[, 2L])
  points$class <- style$class[plane$rows]
  ggplot(points, aes(.data$x, .data$y)) + points_or_cells(points, style) +
    ggplot2::coord_equal() + words_on(x = NULL, y = NULL, subtitle = paste0("The map without ", feature)) +
    fl_theme(11) + theme(axis.text = element_blank(), legend.position = "none")
}
