# Points where there are few, counts in cells where there are many.

# Points, or counts in cells where there are too many rows for points.
points_or_cells <- function(rows, style) {
  if (nrow(rows) > cells_from) {
    return(list(ggplot2::geom_bin2d(bins = 90), count_fill()))
  }
  size <- if (nrow(rows) > 3000L) 1 else 1.9
  if (is.null(style$class)) {
    return(geom_point(size = size, alpha = 0.6, colour = fjord_colours[1L]))
  }
  list(geom_point(aes(colour = .data$class, shape = .data$class), size = size, alpha = 0.75),
       class_colours(levels(style$class), style$class_name), shape_scale(levels(style$class), style$class_name),
       guides(colour = guide_legend(override.aes = list(size = 3, alpha = 1))))
}

cells_from <- 20000L

cells_note <- function(n) {
  if (n > cells_from) paste0("Drawn: rows counted in cells, ", format(n, big.mark = ","), " in all.")
}

count_fill <- function() {
  scale_fill_gradient(low = "#D9E4E6", high = fjord_colours[1L], trans = "log10", name = "rows",
                      breaks = 10^(0:6), labels = format(10^(0:6), big.mark = ",", scientific = FALSE, trim = TRUE))
}
