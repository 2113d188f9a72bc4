# The plane in which groups are drawn, and what stands in it.

# Where a group lies on columns of the table: the mean of its rows that have a value.
group_middle <- function(values, group, k) {
  at <- vapply(colnames(values), function(column) {
    vapply(seq_len(k), function(g) mean(values[group == g, column], na.rm = TRUE), 0)
  }, numeric(k))
  matrix(at, nrow = k, dimnames = list(NULL, colnames(values)))
}

size_range <- function(rows) {
  shown <- vapply(if (length(rows) > 6L) range(rows) else rows, thousands, "")
  if (length(rows) > 6L) paste(shown[1L], "to", shown[2L]) else listed(shown)
}

ringed_rows <- function(rows) rows[drawn_rows(nrow(rows), most_rings), , drop = FALSE]

ring_word <- function(drawn, all) if (drawn < all) "some of the " else ""

# Dark on light discs, white on dark ones.
disc_ink <- function(colours) {
  luminance <- colSums(grDevices::col2rgb(colours) * c(0.299, 0.587, 0.114))
  ifelse(luminance > 140, ink, "white")
}

# Coordinates of the rows and centres, and what the axes are.
plane_map <- function(object, columns) {
  ready <- object$ready
  features <- intersect(ready$features[vapply(ready$columns, function(c) c$type == "number", NA)], colnames(ready$x))
  if (is.null(columns) && (ncol(ready$x) > 2L || length(features) < ncol(ready$x))) {
    return(component_map(object))
  }
  columns <- columns %||% features
  if (!is.null(columns) && (!is.character(columns) || length(columns) > 2L ||
                            (length(columns) < 2L && length(features) > 1L))) {
    fl_abort("column", "`columns` must name two number columns.", found = paste0("It is ", shape_of(columns), "."))
  }
  for (column in columns) check_column(column, names(ready$data$table), "columns", ready$data$name)
  columns <- rep_len(columns, 2L)
  values <- numeric_matrix(ready$data$table[ready$rows, , drop = FALSE], unique(check_numbers(columns, ready$data)))
  group <- object$group[ready$rows]
  at <- group_middle(values, group, object$k)
  list(
    points = list(x = values[, columns[1L]], y = values[, columns[2L]]),
    x = with_unit(columns[1L], ready$units), y = with_unit(columns[2L], ready$units),
    centres = data.frame(x = at[, columns[1L]], y = at[, columns[2L]], group = factor(seq_len(object$k))),
    said = "Two columns in their original units."
  )
}

# The discs carry the numbers of the groups: a long legend would only take the room.
plane_legends <- function(k, with_truth) {
  large <- list(size = 3, alpha = 1)
  short <- k <= 12L
  guides(colour = if (short) guide_legend(override.aes = large, order = 1) else "none",
         shape = if (short || with_truth) guide_legend(override.aes = if (with_truth) large else list(),
                                                       order = 1 + with_truth) else "none")
}

# Discs with the numbers of groups. Their colour comes from the colour scale of the rows, so that a scale of the
# reader's own changes both. `by`: the column of `discs` that the scale takes.
numbered_discs <- function(discs, size = 8, by = "group") {
  list(
    geom_point(data = discs, shape = 16, size = size + 1.2, colour = "white"),
    geom_point(data = discs, aes(colour = .data[[by]]), shape = 16, size = size, show.legend = FALSE),
    geom_text(data = discs, aes(label = .data$group,
                                colour = stage(.data[[by]], after_scale = disc_ink(.data$colour))),
              size = size / 2, fontface = "bold", show.legend = FALSE)
  )
}

# Rows and centres on so many principal components, and what these are. With fewer columns the last is repeated.
component_axes <- function(object, count) {
  seen <- seen_points(object)
  x <- seen$x
  middle <- colMeans(x)
  axes <- principal_axes(sweep(x, 2L, middle))
  chosen <- rep_len(seq_len(min(count, ncol(x))), count)
  turn <- axes$turn[, chosen, drop = FALSE]
  # of columns that are components themselves, the columns they were made from are told
  reduced <- steps_of_kind(object$ready$steps, "components")
  loadings <- if (length(reduced) > 0L) turn_matrix(reduced[[1L]]) %*% axes$turn else axes$turn
  rownames(loadings) <- if (length(reduced) > 0L) reduced[[1L]]$columns else colnames(x)
  list(rows = sweep(x, 2L, middle) %*% turn, centres = sweep(seen$centres, 2L, middle) %*% turn, share = axes$share,
       words = vapply(chosen, function(i) axis_words(axes$share, loadings, i), ""))
}

# The first two principal components of the prepared columns: of what the metric sees of them.
component_map <- function(object) {
  axes <- component_axes(object, 2L)
  list(points = list(x = axes$rows[, 1L], y = axes$rows[, 2L]), x = axes$words[1L], y = axes$words[2L],
       centres = data.frame(x = axes$centres[, 1L], y = axes$centres[, 2L], group = factor(seq_len(object$k))),
       said = paste0("The ", ncol(object$ready$x), " prepared columns", seen_as[[seen_metric(object$method)]],
                     ", along their two main directions."))
}

# So many rings hide what they ring: an even sample is drawn.
most_rings <- 300L
