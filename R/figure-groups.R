# The groups on columns of the table: all pairs, boxes, profiles, pictures.

# The table of the rows that have a group, and their groups as classes to colour by.
grouped_data <- function(object, columns) {
  data <- object$ready$data
  if (!is.null(columns)) columns <- check_columns(columns, data$table, "columns", data$name)
  rows <- object$ready$rows
  data$table <- data$table[rows, , drop = FALSE]
  data$apart <- NULL
  group <- object$group[rows]
  numbers <- sort(unique(group))
  class <- factor(group, numbers, legend_labels(object, 22L)(numbers))
  list(data = data, columns = columns, style = list(class = class, class_name = "group"))
}

group_caption <- function(object, extra = NULL) {
  data_caption(object$ready, c(paste0(capital(method_said(object$method)), ", seed ", object$seed, "."), extra))
}

draw_group_pairs <- function(object, asked) {
  shown <- grouped_data(object, asked$columns)
  chosen <- number_columns(shown$data, shown$columns, 2L, 7L, "pairs")
  if (is.null(shown$columns)) shown$columns <- best_apart(object, shown$data, 7L)
  rows <- nrow(shown$data$table)
  draw_pairs(shown$data, shown$columns, shown$style) +
    words_on(title = pairs_title(object, shown), subtitle =
               paste("Below the diagonal: rows by group. On it: the column's distribution. Above it: the correlation,",
                     "on a darker cell when stronger, purple below 0."),
             caption = group_caption(object, c(drawn_note(drawn_rows(rows, 2000L), rows),
                                               if (is.null(asked$columns) && length(chosen) < length(columns_of(
                                                 shown$data, "feature"))) "Drawn: the columns that differ most.")),
             x = NULL, y = NULL)
}

# Number columns by how much of their spread lies between the groups.
best_apart <- function(object, data, most) {
  columns <- number_columns(data, NULL, 1L)
  effect <- vapply(columns, function(column) {
    variance_test(as.double(data$table[[column]]), object$group[object$ready$rows])$effect
  }, 0)
  columns[sort(utils::head(order(-effect), most))]
}

# The two columns on which a plain look tells the groups apart best: the mean of their shares between groups, less what
# they have in common.
pairs_title <- function(object, shown) {
  columns <- shown$columns
  values <- number_values(shown$data, columns)
  group <- object$group[object$ready$rows]
  alone <- vapply(values, function(v) variance_test(v, group)$effect, 0)
  if (length(columns) < 2L || object$k < 2L || anyNA(alone)) {
    return(plain_title(object))
  }
  pairs <- utils::combn(columns, 2L)
  common <- abs(stats::cor(values, use = "pairwise.complete.obs"))
  score <- apply(pairs, 2L, function(pair) sum(alone[pair]) - min(alone[pair]) * common[pair[1L], pair[2L]])
  best <- pairs[, which.max(score)]
  paste0("The groups stand apart best on ", best[1L], " and ", best[2L])
}

plain_title <- function(object) {
  paste0(capital(spelt(object$k)), if (object$k == 1L) " group" else " groups", " of ", size_range(object$groups$rows),
         " rows")
}

draw_group_boxes <- function(object, asked, most = 12L) {
  shown <- grouped_data(object, asked$columns)
  all <- number_columns(shown$data, shown$columns, 1L, view = "boxes")
  chosen <- if (is.null(asked$columns)) best_apart(object, shown$data, most) else utils::head(all, most)
  group <- object$group[object$ready$rows]
  boxes <- vctrs::vec_rbind(!!!lapply(chosen, function(column) {
    v <- as.double(shown$data$table[[column]])
    vctrs::vec_rbind(!!!lapply(sort(unique(group)), function(g) {
      q <- stats::quantile(v[group == g], c(0.05, 0.25, 0.5, 0.75, 0.95), na.rm = TRUE, names = FALSE)
      tibble::tibble(column = column, group = g, low = q[1L], from = q[2L], middle = q[3L], to = q[4L], high = q[5L])
    }))
  }))
  effect <- vapply(chosen, function(column) variance_test(as.double(shown$data$table[[column]]), group)$effect, 0)
  boxes$column <- factor(boxes$column, chosen, shortened(with_unit(chosen, object$ready$units),
                                                    92L %/% panel_columns(length(chosen))))
  boxes$group <- factor(boxes$group, rev(sort(unique(group))))
  ggplot(boxes[!is.na(boxes$middle), ], aes(y = .data$group, colour = .data$group)) +
    geom_segment(aes(x = .data$low, xend = .data$high, yend = .data$group), linewidth = 0.6) +
    geom_segment(aes(x = .data$from, xend = .data$to, yend = .data$group), linewidth = 4.5, lineend = "butt") +
    geom_point(aes(x = .data$middle), shape = 21, size = 2.6, fill = "white", stroke = 1) +
    facet_wrap("column", scales = "free_x", ncol = panel_columns(length(chosen))) +
    group_scale(sort(unique(group))) + scale_y_discrete(labels = legend_labels(object, 18L)) +
    scale_x_continuous(n.breaks = 4) +
    words_on(title = if (object$k < 2L || anyNA(effect)) plain_title(object)
             else paste0("The groups differ most in ", chosen[which.max(effect)],
                         if (length(all) == length(chosen)) paste(" and least in", chosen[which.min(effect)])),
             subtitle = "Bars: the middle half of each group; circles: its median; lines: 5% to 95% of its rows.",
             caption = group_caption(object, if (length(all) > length(chosen)) {
               paste0("Drawn: ", length(chosen), " of ", length(all), " columns, those that differ most.")
             }), x = NULL, y = NULL) +
    fl_theme(12) + theme(legend.position = "none")
}

draw_group_profiles <- function(object, asked, most = 150L) {
  shown <- grouped_data(object, asked$columns)
  chosen <- number_columns(shown$data, shown$columns, 2L, view = "profiles")
  values <- as.matrix(number_values(shown$data, chosen))
  same <- same_units(chosen, object$ready$units, values)
  if (!same) values <- scaled_columns(values)
  group <- object$group[object$ready$rows]
  panel <- shown$style$class
  room <- 84L %/% panel_columns(nlevels(panel))
  levels(panel) <- folded_each(paste0(shortened(group_names(object, sort(unique(group))), 2L * room - 12L), ": ",
                                      vapply(tabulate(panel, nlevels(panel)), thousands, ""), " rows"), room)
  drawn <- unlist(lapply(split(seq_along(group), group), function(rows) rows[drawn_rows(length(rows), most)]))
  lines <- data.frame(row = rep(drawn, ncol(values)), place = rep(seq_along(chosen), each = length(drawn)),
                      value = as.vector(values[drawn, ]), panel = rep(panel[drawn], ncol(values)),
                      group = factor(rep(group[drawn], ncol(values))))
  middle <- middle_lines(values, panel)
  middle$group <- factor(sort(unique(group))[as.integer(middle$class)])
  middle$panel <- middle$class
  overall <- data.frame(place = seq_along(chosen), middle = apply(values, 2L, stats::median, na.rm = TRUE))
  marks <- seq(1L, length(chosen), by = ceiling(length(chosen) / if (nlevels(panel) > 4L) 6 else 12))
  ggplot(lines, aes(.data$place, .data$value, colour = .data$group)) +
    geom_line(aes(group = .data$row), alpha = 0.22, linewidth = 0.3, na.rm = TRUE) +
    geom_line(data = overall, aes(.data$place, .data$middle), colour = ink, linetype = "22", linewidth = 0.7) +
    geom_line(data = middle, aes(.data$place, .data$middle), colour = "white", linewidth = 2.2) +
    geom_line(data = middle, aes(.data$place, .data$middle), linewidth = 1.3) +
    facet_wrap("panel", ncol = panel_columns(nlevels(panel))) +
    group_scale(sort(unique(group))) +
    scale_x_continuous(breaks = marks, labels = shortened(chosen[marks], if (nlevels(panel) > 4L) 12L else 16L),
                       expand = expansion(mult = 0.02)) +
    words_on(title = profiles_title(object, values, group, chosen),
             subtitle = paste0("One panel per group. Thin lines: rows; thick: the group's median; dashed: the median ",
                               "of all rows. ", if (same) "Values as measured."
                               else "Each column less its mean, over its standard deviation: units differ."),
             caption = group_caption(object, if (length(drawn) < length(group)) {
               paste0("Drawn: up to ", most, " rows of each group.")
             }), x = NULL, y = if (same) unit_of(chosen, object$ready$units) else "standard deviations") +
    fl_theme(12) +
    theme(legend.position = "none", axis.text.x = element_text(angle = 40, hjust = 1, size = rel(0.85)))
}

profiles_title <- function(object, values, group, chosen) {
  centres <- group_middle(values, group, object$k)
  spread <- apply(centres, 2L, function(m) diff(range(m)))
  if (object$k < 2L || anyNA(spread)) plain_title(object)
  else paste0("The groups differ most in ", chosen[which.max(spread)], " and least in ", chosen[which.min(spread)])
}

# Centres and typical rows as pictures.
draw_group_images <- function(object, asked, typical = 4L, most = 8L) {
  shown <- grouped_data(object, asked$columns)
  chosen <- number_columns(shown$data, shown$columns, 2L, view = "images")
  grid <- check_grid(asked$grid, length(chosen))
  values <- as.matrix(number_values(shown$data, chosen))
  group <- object$group[object$ready$rows]
  groups <- utils::head(seq_len(object$k), most)
  rows <- typical_rows(own_columns(object, object$ready$rows), typical)
  at <- match(rows$row, object$ready$rows)
  centres <- group_middle(values, group, object$k)[groups, , drop = FALSE]
  kept <- rows$group %in% groups
  place <- stats::ave(rows$group, rows$group, FUN = seq_along)
  pictures <- rbind(
    image_cells(centres, grid, data.frame(group = groups, place = "mean")),
    image_cells(values[at[kept], , drop = FALSE], grid,
                data.frame(group = rows$group[kept], place = paste("row", place[kept])))
  )
  pictures$group <- factor(pictures$group, groups, legend_names(object, groups, 14L))
  ggplot(pictures, aes(.data$x, .data$y, fill = .data$value)) +
    ggplot2::geom_raster() +
    ggplot2::facet_grid(ggplot2::vars(.data$group), ggplot2::vars(.data$place), switch = "y") +
    scale_fill_gradient(low = "#F4F6F7", high = fjord_colours[1L], name = unit_of(chosen, object$ready$units)) +
    ggplot2::scale_y_reverse(breaks = NULL) + scale_x_continuous(breaks = NULL) + ggplot2::coord_equal() +
    words_on(title = paste0(plain_title(object), ", as pictures of ", grid[1L], " by ", grid[2L]),
             subtitle = "The mean of each group, and its most typical rows, the nearest to the centre first.",
             caption = group_caption(object, if (object$k > most) paste0("Drawn: the ", most, " largest groups.")),
             x = NULL, y = NULL) +
    fl_theme(12) + theme(panel.grid.major = element_blank(), strip.text.y.left = element_text(angle = 0),
                         panel.spacing = unit(5, "pt"))
}

check_grid <- function(grid, cells) {
  if (is.null(grid)) {
    fl_abort("argument", "View \"images\" needs `grid`, the rows and columns of the picture.",
             advice = "As in grid = c(4, 8).")
  }
  check_whole(grid, "grid", many = TRUE)
  if (length(grid) != 2L || prod(grid) != cells) {
    fl_abort("argument", paste0("`grid` must be two numbers whose product is the number of columns, ", cells, "."),
             found = paste0("It is ", listed(grid), "."))
  }
  grid
}

image_cells <- function(values, grid, about) {
  cells <- seq_len(ncol(values))
  out <- lapply(seq_len(nrow(values)), function(i) {
    data.frame(about[i, ], x = (cells - 1L) %% grid[2L] + 1L, y = (cells - 1L) %/% grid[2L] + 1L, value = values[i, ],
               row.names = NULL)
  })
  do.call(rbind, out)
}
