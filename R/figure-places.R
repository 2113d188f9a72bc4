# The groups elsewhere than in the plane: beside other labels, on a map, over time, in three dimensions.

draw_beside <- function(object, asked) {
  with <- asked$with
  if (is.null(with)) {
    with <- columns_of(object$ready$data, "truth")
    if (length(with) == 0L) {
      fl_abort("argument", "View \"beside\" needs `with`: there are no known classes.",
               advice = "Name a column, or give another partition.")
    }
  }
  other <- if (inherits(with, "fl_partition")) with else fl_adopt(object$ready, with)
  draw_both_planes(fl_contrast(object, other, indices = quick_index()))
}

draw_group_map <- function(object, asked, most = 6000L) {
  shown <- grouped_data(object, asked$columns)
  # cells would hide the groups: of very many rows an even sample is drawn
  all <- nrow(shown$data$table)
  drawn <- if (all > cells_from) drawn_rows(all, most) else seq_len(all)
  group <- object$group[object$ready$rows]
  values <- number_values(shown$data, shown$columns)
  shown$data$table <- shown$data$table[drawn, , drop = FALSE]
  shown$style$class <- shown$style$class[drawn]
  shown$style$amount <- asked$amount
  figure <- draw_map(shown$data, shown$columns, shown$style)
  effect <- vapply(values, function(v) variance_test(v, group)$effect, 0)
  figure + words_on(title = if (object$k < 2L || anyNA(effect)) plain_title(object)
                    else paste0(percent(max(effect)), " of the spread of ", shown$columns[which.max(effect)],
                                " is between groups"),
                    subtitle = paste0("Where the groups lie: one point per row, coloured by group",
                                      if (!is.null(asked$amount)) {
                                        paste0("; its area is ", with_unit(asked$amount, object$ready$units))
                                      }, "."),
                    caption = group_caption(object, drawn_note(drawn, all)),
                    x = with_unit(shown$columns[1L], object$ready$units),
                    y = with_unit(shown$columns[2L], object$ready$units))
}

draw_group_time <- function(object, asked) {
  data <- object$ready$data
  dates <- data$roles$column[vapply(data$roles$column, function(c) inherits(data$table[[c]], c("Date", "POSIXt")), NA)]
  if (is.null(asked$columns) && length(dates) != 1L) {
    fl_abort("argument", "View \"time\" needs the column of dates.",
             found = if (length(dates) == 0L) "The table has none." else paste0("The table has ", listed(dates), "."))
  }
  column <- asked$columns %||% dates
  outcome <- fl_outcome(object, column)
  if (!outcome$over_time) fl_abort("column", paste0("Column ", quoted(column), " holds no dates."))
  autoplot(outcome)
}

# --- three dimensions

draw_space <- function(object, asked) {
  space <- space_map(object, asked$columns)
  turned <- turned_to_viewer(space$points, asked$angle)
  group <- object$group[object$ready$rows]
  rows <- data.frame(turned, group = factor(group, sort(unique(group))))
  drawn <- drawn_rows(nrow(rows))
  rows <- rows[drawn, ]
  rows <- rows[order(rows$depth), ]
  near <- (rows$depth - min(rows$depth)) / max(diff(range(rows$depth)), 1e-12)
  centres <- data.frame(turned_to_viewer(space$centres, asked$angle), group = factor(seq_len(object$k)))
  axes <- space_axes(space, asked$angle)
  small <- if (nrow(rows) > 3000L) 0.5 else 1
  ggplot(rows, aes(.data$x, .data$y)) +
    geom_segment(data = axes, aes(xend = .data$x_end, yend = .data$y_end), colour = ink_soft, linewidth = 0.6,
                 arrow = grid_arrow()) +
    geom_point(aes(colour = .data$group, shape = .data$group), size = small * (0.9 + 2.2 * near),
               alpha = 0.45 + 0.45 * near) +
    numbered_discs(centres) +
    do.call(ggplot2::geom_label, c(
      list(data = axes, aes(.data$x_end, .data$y_end, label = .data$said), size = 3.7, colour = ink, hjust = axes$side,
           fill = "#FFFFFFCC", lineheight = 0.9, label.padding = unit(1.5, "pt")), no_border()
    )) +
    group_scale(levels(rows$group), of = object) +
    shape_scale(levels(rows$group), "group", object) +
    scale_x_continuous(breaks = NULL, expand = expansion(0.2)) +
    scale_y_continuous(breaks = NULL, expand = expansion(0.1)) + ggplot2::coord_equal(clip = "off") +
    plane_legends(object$k, FALSE) +
    words_on(title = plain_title(object), subtitle = paste(space$said, "Nearer rows are larger. Discs: centres."),
             caption = group_caption(object, c(space$note, drawn_note(drawn, length(group)))), x = NULL, y = NULL) +
    fl_theme() + theme(panel.grid.major = element_blank())
}

# Three coordinates of rows and centres, each brought to the same length, and what the axes are.
space_map <- function(object, columns) {
  ready <- object$ready
  if (is.null(columns)) {
    seen <- seen_points(object)
    if (ncol(seen$x) < 3L) {
      fl_abort("argument", "View \"space\" needs three columns.",
               found = paste0("The preparation has ", ncol(seen$x), "."))
    }
    axes <- component_axes(object, 3L)
    told <- sub("\n", ", ", sub("^principal ", "", axes$words))
    return(space_of(axes$rows, axes$centres, paste0("component ", 1:3, ", ", percent(axes$share[1:3])),
                    paste0("The first three principal components of the prepared columns, ",
                           percent(sum(axes$share[1:3])), " of the spread."),
                    capital(paste0(paste(told, collapse = "; "), "."))))
  }
  columns <- check_columns(columns, ready$data$table, "columns", ready$data$name)
  if (length(columns) != 3L) {
    fl_abort("argument", "View \"space\" needs three columns.", found = paste0(length(columns), " were named."))
  }
  values <- numeric_matrix(ready$data$table[ready$rows, , drop = FALSE], check_numbers(columns, ready$data))
  ends <- apply(values, 2L, range, na.rm = TRUE)
  space_of(values, group_middle(values, object$group[ready$rows], object$k),
           paste0(with_unit(columns, ready$units), "\n", digits3(ends[1L, ]), " to ", digits3(ends[2L, ])),
           "Three columns in their original units.", NULL)
}

space_of <- function(points, centres, axes, said, note) {
  low <- apply(points, 2L, min, na.rm = TRUE)
  length <- pmax(apply(points, 2L, max, na.rm = TRUE) - low, 1e-300)
  scaled <- function(v) sweep(sweep(v, 2L, low), 2L, length, "/")
  list(points = scaled(points), centres = scaled(centres), axes = axes, note = note,
       said = paste(said, "The axes are drawn equally long."))
}

# Rows as a viewer sees them who stands `angle[1]` degrees around and `angle[2]` above.
turned_to_viewer <- function(points, angle) {
  check_number(angle[1L], "angle", -360, 360)
  check_number(angle[2L], "angle", -90, 90)
  a <- angle * pi / 180
  around <- rbind(c(cos(a[1L]), sin(a[1L]), 0), c(-sin(a[1L]), cos(a[1L]), 0), c(0, 0, 1))
  x <- points %*% around
  list(x = x[, 1L], y = x[, 3L] * cos(a[2L]) + x[, 2L] * sin(a[2L]),
       depth = x[, 3L] * sin(a[2L]) - x[, 2L] * cos(a[2L]))
}

# Arrows from the lowest corner along the three axes.
space_axes <- function(space, angle) {
  from <- turned_to_viewer(matrix(0, 1L, 3L), angle)
  to <- turned_to_viewer(diag(1.08, 3L), angle)
  data.frame(x = from$x, y = from$y, x_end = to$x, y_end = to$y, said = space$axes,
             side = ifelse(to$x > from$x + 1e-9, 0.2, ifelse(to$x < from$x - 1e-9, 0.8, 0.5)))
}
