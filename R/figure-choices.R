# The map of choices as figures.

#' Draw a map of choices
#'
#' What a result owes to the choices behind it: which groups every reasonable choice finds, and which choice moves
#' them most.
#'
#' @param object From [fl_choices()].
#' @param view `"groups"`: which groups of the most central partition are found again under which choice, one column per
#'   partition; `"map"`: the partitions as points, the closer the more similar; `"shares"`: how far each choice moves
#'   the result.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' water <- fl_demo("water_samples")
#' ready <- list(plain = fl_prepare(water), logged = fl_prepare(water, transform = c(turbidity = "log")))
#' choices <- fl_choices(fl_sweep(ready, c("kmeans", "linkage"), k = 2:6, indices = "fast"), k = 3:5)
#' autoplot(choices)
#' }
#' @export
autoplot.fl_choices <- function(object, view = "groups", ...) {
  check_no_dots(...)
  check_choice(view, c("groups", "map", "shares"), "view")
  switch(view, groups = draw_survival(object), map = draw_choice_map(object), shares = draw_choice_shares(object))
}

choices_caption <- function(x) {
  paste0(x$ready[[1L]]$data$name, ": ", counted(nrow(x$fits), "partition"), " of ", counted(nrow(x$rows), "row"),
         ", counts ", counts_said(x$k), ".")
}

# Groupings in columns by their count, methods side by side, preparations below each other.
draw_survival <- function(x) {
  others <- x$fits[-x$middle, ]
  groups <- nrow(x$overlaps)
  said <- paste0(x$fits$method[x$middle], " on ", x$fits$preparation[x$middle], ", k = ", x$fits$k[x$middle])
  columns <- paste(others$k, others$`repeat`)
  cells <- tibble::tibble(
    group = factor(rep(x$groups$group, nrow(others)), rev(x$groups$group)), overlap = as.vector(x$overlaps),
    place = factor(rep(columns, each = groups), unique(columns[order(others$k, others$`repeat`)])),
    method = factor(rep(others$method, each = groups), unique(x$fits$method)),
    preparation = factor(rep(others$preparation, each = groups), names(x$ready))
  )
  crowded <- length(unique(columns)) * length(unique(others$method)) > 40L
  whole <- sum(x$groups$found_again >= 1)
  ggplot(cells, aes(.data$place, .data$group)) +
    geom_tile(aes(fill = .data$overlap), colour = "white", linewidth = if (crowded) 0.1 else 0.6) +
    geom_point(data = cells[cells$overlap < unstable_below, ], shape = 4, size = if (crowded) 0.8 else 2,
               colour = mark_strong) +
    ggplot2::facet_grid(ggplot2::vars(.data$preparation), ggplot2::vars(.data$method), scales = "free_x",
                        space = "free_x", labeller = ggplot2::labeller(.default = function(v) folded_each(v, 20L))) +
    scale_fill_gradient(low = "#F1F5F6", high = fjord_colours[1L], limits = c(0, 1), name = "overlap") +
    scale_x_discrete(labels = function(v) if (crowded) NULL else sub(" .*", "", v)) +
    words_on(title = if (whole == groups) "Every group is found by every partition"
             else paste0(if (whole == 0L) "No group" else paste(whole, "of", counted(groups, "group")),
                         if (whole < 2L) " is" else " are", " found by every partition"),
             subtitle = c(paste0("Overlap of the groups of ", said, ", with the most similar group of every other ",
                                 "partition. A cross marks a lost group (overlap below ", unstable_below, "). Blank: ",
                                 "the partition itself, or a count the method did not produce.")),
             caption = choices_caption(x), x = if (crowded) "partitions, by their count" else "count of the partition",
             y = "group") +
    fl_theme() + theme(panel.grid.major = element_blank(), strip.text.y = element_text(angle = 0))
}

# The distances are squared ones of points in a space, of which the two widest directions are drawn.
draw_choice_map <- function(x) {
  space <- eigen(gram_of(x$distances), symmetric = TRUE)
  held <- pmax(space$values, 0)
  at <- space$vectors[, 1:2] %*% diag(sqrt(held[1:2]))
  points <- tibble::tibble(first = at[, 1L], second = at[, 2L], method = fitted_words(x$fits$method, 24L),
                           preparation = x$fits$preparation, k = x$fits$k)
  points$method <- factor(points$method, unique(points$method))
  points$preparation <- factor(points$preparation, names(x$ready))
  ggplot(points, aes(.data$first, .data$second, colour = .data$method, shape = .data$preparation)) +
    geom_point(data = points[x$middle, ], shape = 1, size = 9, colour = ink) +
    geom_point(size = 3) +
    geom_text(aes(label = .data$k), size = 3.4, vjust = -0.9, show.legend = FALSE, check_overlap = TRUE) +
    scale_colour_manual(values = fl_palette(nlevels(points$method)), name = "method") +
    scale_shape_manual(values = rep_len(group_shapes, nlevels(points$preparation)), name = "preparation") +
    scale_x_continuous(expand = expansion(mult = 0.08)) + scale_y_continuous(expand = expansion(mult = 0.1)) +
    guides(colour = if (nlevels(points$method) < 2L) "none" else guide_legend(),
           shape = if (nlevels(points$preparation) < 2L) "none" else guide_legend()) +
    words_on(title = choices_headline(x),
             subtitle = c("A point is a partition, its number the count; the closer two lie, the fewer pairs of rows",
                          "are together in one and apart in the other. Ringed: the most central one."),
             caption = paste(choices_caption(x), "These two directions show",
                             percent(sum(held[1:2]) / max(sum(held), 1e-300)), "of the spread."),
             x = NULL, y = NULL) +
    ggplot2::coord_equal() + fl_theme() + theme(axis.text = element_blank(), panel.grid.major = element_blank())
}

draw_choice_shares <- function(x) {
  shares <- x$shares[!is.na(x$shares$involved), ]
  shares$choice <- factor(shares$choice, rev(shares$choice))
  ggplot(shares, aes(y = .data$choice)) +
    geom_col(aes(x = .data$involved), fill = "#C9D6DA", width = 0.7) +
    geom_col(aes(x = .data$alone), fill = fjord_colours[1L], width = 0.7) +
    geom_text(aes(x = .data$involved, label = .data$tried), hjust = 0, nudge_x = 0.01, size = 4, colour = ink) +
    scale_x_continuous(limits = c(0, max(shares$involved) + 0.5), breaks = seq(0, 1, 0.25),
                       labels = function(v) percent(v)) +
    words_on(title = choices_headline(x),
             subtitle = c("Share of the differences between partitions: dark, by the choice alone; light, with its",
                          "interactions. Labels show what was tried."),
             caption = choices_caption(x), x = NULL, y = NULL) +
    fl_theme() + theme(panel.grid.major.y = element_blank(), axis.text.y = element_text(colour = ink))
}
