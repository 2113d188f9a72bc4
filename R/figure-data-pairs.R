# Views of columns against columns: scatter, all pairs, correlations, a map.

draw_scatter <- function(data, columns, style) {
  chosen <- two_columns(data, columns, "scatter")
  values <- number_values(data, chosen)
  rows <- data.frame(x = values[[1L]], y = values[[2L]])
  rows$class <- style$class
  known <- stats::complete.cases(values)
  r <- suppressWarnings(stats::cor(values[known, 1L], values[known, 2L]))
  ranks <- suppressWarnings(stats::cor(rank(values[known, 1L]), rank(values[known, 2L])))
  strongest <- c(r, ranks)[which.max(abs(c(r, ranks)))]
  ggplot(rows[known, , drop = FALSE], aes(.data$x, .data$y)) +
    points_or_cells(rows[known, , drop = FALSE], style) +
    words_on(title = paste0(chosen[1L], " and ", chosen[2L], ": ", relation_words(strongest)),
             subtitle = paste0("Correlation ", fixed2(r), " (of ranks ", fixed2(ranks), "), from ", counted(sum(known),
                                                                                                            "row"),
                               " with both values."),
             caption = table_caption(data, cells_note(sum(known))),
             x = with_unit(chosen[1L], data$units), y = with_unit(chosen[2L], data$units)) +
    fl_theme()
}

two_columns <- function(data, columns, view) {
  chosen <- number_columns(data, columns, 2L, view = view)
  if (!is.null(columns) && length(chosen) != 2L) {
    fl_abort("argument", paste0("View ", quoted(view), " needs two columns."),
             found = paste0(length(chosen), " were named."))
  }
  chosen[1:2]
}

relation_words <- function(r) {
  if (length(r) == 0L || is.na(r)) "one of them does not vary"
  else if (abs(r) > 0.95) "nearly one column"
  else if (abs(r) > 0.6) paste("they", if (r > 0) "rise together" else "go opposite ways")
  else if (abs(r) > 0.25) paste("they tend to", if (r > 0) "rise together" else "go opposite ways")
  else "hardly any relation of rise or fall"
}

# --- all pairs: scatters below the diagonal, each column's distribution on it, the correlation above

draw_pairs <- function(data, columns, style, most = 7L) {
  chosen <- number_columns(data, columns, 2L, most, "pairs")
  values <- number_values(data, chosen)
  drawn <- drawn_rows(nrow(values), 2000L)
  r <- suppressWarnings(stats::cor(values, use = "pairwise.complete.obs"))
  pair <- expand.grid(i = seq_along(chosen), j = seq_along(chosen))
  points <- pair_points(values[drawn, , drop = FALSE], pair[pair$i < pair$j, ], style$class[drawn])
  text <- pair[pair$i > pair$j, ]
  text$label <- fixed2(r[cbind(text$i, text$j)])
  text$tint <- correlation_tint(r[cbind(text$i, text$j)])
  text[c("x", "y")] <- list(vapply(text$i, function(i) mean(range(values[[i]], na.rm = TRUE)), 0),
                            vapply(text$j, function(j) mean(range(values[[j]], na.rm = TRUE)), 0))
  humps <- vctrs::vec_rbind(!!!lapply(seq_along(chosen), function(i) hump_shape(values[[i]], i)))
  panel <- function(d) {
    d$column <- factor(chosen[d$i], chosen)
    d$row <- factor(chosen[d$j], chosen)
    d
  }
  most_r <- which.max(ifelse(upper.tri(r), abs(r), NA))
  best <- arrayInd(most_r, dim(r))
  left <- length(columns_of(data, "feature")) - length(chosen)
  room <- max(12L, 76L %/% length(chosen))
  ggplot(panel(points), aes(.data$x, .data$y)) +
    (if (is.null(style$class)) geom_point(size = 0.7, alpha = 0.4, colour = fjord_colours[1L])
     else list(geom_point(aes(colour = .data$class), size = 0.8, alpha = 0.6), class_colours(levels(style$class),
                                                                                             style$class_name),
               guides(colour = guide_legend(override.aes = list(size = 3, alpha = 1))))) +
    ggplot2::geom_polygon(data = panel(humps), fill = "#B9C9CD", colour = ink_soft, linewidth = 0.3) +
    geom_rect(data = panel(text), aes(fill = .data$tint), xmin = -Inf, xmax = Inf, ymin = -Inf, ymax = Inf) +
    geom_text(data = panel(text), aes(label = .data$label), size = 3.8, colour = ink) +
    scale_fill_identity() +
    ggplot2::facet_grid(ggplot2::vars(.data$row), ggplot2::vars(.data$column), scales = "free",
                        labeller = ggplot2::labeller(.cols = function(n) shortened(n, room),
                                                     .rows = function(n) shortened(n, max(9L, 2L * room %/% 3L)))) +
    scale_x_continuous(n.breaks = 3) + scale_y_continuous(n.breaks = 3) +
    words_on(title = paste0("The closest pair: ", chosen[best[1L]], " and ", chosen[best[2L]], " (r = ",
                            fixed2(r[most_r]), ")"),
             subtitle = paste("Below the diagonal: rows. On it: the column's distribution. Above it: the correlation,",
                              "on a darker cell when stronger, purple below 0."),
             caption = table_caption(data, drawn_note(drawn, nrow(values)),
                                     if (is.null(columns) && left > 0L) paste0("Drawn: the first ", length(chosen),
                                                                               " features.")),
             x = NULL, y = NULL) +
    fl_theme(11) + theme(panel.spacing = unit(6, "pt"), panel.border = element_rect(fill = NA, colour = "#D5DDE0"),
                       strip.text.y = element_text(size = rel(0.8)))
}

# White for none, towards one of two colours as the correlation nears 1 or -1; pale enough to read text on.
correlation_ends <- c("#852A97", "#224E56")
correlation_tint <- function(r) {
  pale <- grDevices::colorRamp(c(correlation_ends[1L], "white", correlation_ends[2L]))
  tint <- pale(0.5 + 0.3 * replace(r, is.na(r), 0))
  grDevices::rgb(tint, maxColorValue = 255)
}

pair_points <- function(values, pairs, class) {
  vctrs::vec_rbind(!!!lapply(seq_len(nrow(pairs)), function(p) {
    out <- data.frame(i = pairs$i[p], j = pairs$j[p], x = values[[pairs$i[p]]], y = values[[pairs$j[p]]])
    out$class <- class
    out[!is.na(out$x) & !is.na(out$y), ]
  }))
}

# A distribution drawn within the column's own range, as the panel's axes want it.
hump_shape <- function(v, i) {
  v <- v[!is.na(v)]
  ends <- range(v)
  if (diff(ends) == 0) ends <- ends + c(-0.5, 0.5)
  breaks <- seq(ends[1L], ends[2L], length.out = 25L)
  height <- tabulate(findInterval(v, breaks, rightmost.closed = TRUE), 24L)
  steps <- rep(height / max(height), each = 2L) * diff(ends) * 0.9 + ends[1L]
  x <- rep(breaks, each = 2L)
  data.frame(i = i, j = i, x = x, y = c(ends[1L], steps, ends[1L]))
}

# --- correlations

draw_correlations <- function(data, columns, style, most = 60L) {
  chosen <- number_columns(data, columns, 2L, most, "correlations")
  values <- number_values(data, chosen)
  values <- values[vapply(values, function(v) length(unique(v[!is.na(v)])) > 1L, NA)]
  rows <- drawn_rows(nrow(values), 50000L)
  r <- suppressWarnings(stats::cor(values[rows, , drop = FALSE], use = "pairwise.complete.obs"))
  r[is.na(r)] <- 0
  order <- block_order(r)
  r <- r[order, order, drop = FALSE]
  names <- colnames(r)
  tiles <- data.frame(x = factor(rep(names, each = length(names)), names), y = factor(rep(names, length(names)),
                                                                                      rev(names)),
                      r = as.vector(r))
  tiles$label <- ifelse(as.character(tiles$x) == as.character(tiles$y), "", fixed2(tiles$r))
  blocks <- correlated_blocks(r, 0.7)
  title <- if (length(blocks) == 0L) {
    "No two columns go together closely (all correlations within 0.7)"
  } else {
    said <- vapply(blocks, function(b) listed(b, most = 4L), "")
    paste0(if (length(blocks) == 1L) "One block goes together: " else paste(capital(spelt(length(blocks))),
                                                                            "blocks go together: "),
           paste(utils::head(said, 3L), collapse = "; "))
  }
  ggplot(tiles, aes(.data$x, .data$y, fill = .data$r)) +
    geom_tile(colour = "white", linewidth = if (length(names) > 25L) 0.1 else 0.8) +
    (if (length(names) <= 14L) geom_text(aes(label = .data$label), size = 3.8,
                                         colour = ifelse(abs(tiles$r) > 0.6, "white", ink))) +
    ggplot2::scale_fill_gradient2(low = correlation_ends[1L], mid = "#F4F6F7", high = correlation_ends[2L],
                                  limits = c(-1, 1), name = "r") +
    words_on(title = title,
             subtitle = paste("Correlation of each pair of columns (rows with both values), ordered so that related",
                              "columns stand together."),
             caption = table_caption(data, drawn_note(rows, nrow(values)),
                                     if (is.null(columns) && length(columns_of(data, "feature")) > most) {
                                       paste0("Drawn: the first ", most, " features.")
                                     }), x = NULL, y = NULL) +
    fl_theme() + theme(panel.grid.major = element_blank(), axis.text.x = element_text(angle = 40, hjust = 1),
                       axis.text = element_text(size = if (length(names) > 25L) rel(0.65) else rel(0.9)))
}

# Columns in the order of the second eigenvector of the Laplacian of their squared correlations (Atkins, Boman &
# Hendrickson 1998): a series comes out in its order, blocks side by side, whether they rise or fall together.
block_order <- function(r) {
  if (ncol(r) < 3L) {
    return(seq_len(ncol(r)))
  }
  near <- r^2
  laplacian <- diag(rowSums(near)) - near
  order(eigen(laplacian, symmetric = TRUE)$vectors[, ncol(r) - 1L])
}

correlated_blocks <- function(r, limit) {
  member <- seq_len(ncol(r))
  for (i in seq_len(ncol(r))) {
    joined <- unique(member[abs(r[i, ]) > limit])
    member[member %in% joined] <- min(joined)
  }
  unname(Filter(function(b) length(b) > 1L, split(colnames(r), member)))
}

# --- a map

draw_map <- function(data, columns, style) {
  if (is.null(columns)) {
    fl_abort("argument", "View \"map\" needs the two columns that are coordinates.",
             advice = "As in columns = c(\"longitude\", \"latitude\"), amount = \"depth\".")
  }
  chosen <- two_columns(data, columns, "map")
  amount <- style$amount
  if (!is.null(amount)) {
    amount <- check_numbers(check_columns(amount, data$table, "amount", data$name, one = TRUE), data)
  }
  values <- number_values(data, c(chosen, amount))
  rows <- data.frame(x = values[[1L]], y = values[[2L]], amount = if (is.null(amount)) 1 else values[[3L]])
  rows$class <- style$class
  rows <- rows[stats::complete.cases(rows[c("x", "y", "amount")]), , drop = FALSE]
  many <- nrow(rows) > cells_from
  degrees <- all(grepl("\u00b0", data$units[chosen])) && length(data$units[chosen]) == 2L
  ratio <- if (degrees) 1 / cos(mean(rows$y) * pi / 180) else 1
  unit <- unname(data$units[chosen])
  alike <- degrees || (length(unit) == 2L && !anyNA(unit) && unit[1L] == unit[2L])
  best <- which.max(rows$amount)
  layers <- if (many) map_cells(rows, amount) else map_points(rows, style, amount)
  ggplot(rows, aes(.data$x, .data$y)) + layers +
    (if (alike) ggplot2::coord_fixed(ratio = ratio)) +
    words_on(title = if (is.null(amount)) paste0(counted(nrow(rows), "place"))
             else paste0(amount, " is largest (", digits3(rows$amount[best]), unit_after(amount, data$units), ") at ",
                         chosen[1L], " ", digits_place(rows$x[best]), ", ", chosen[2L], " ",
                           digits_place(rows$y[best])),
             subtitle = if (is.null(amount)) "One point per row."
             else if (many) paste0("Mean ", amount, " of the rows in each cell.")
             else paste0("One point per row; its area is ", with_unit(amount, data$units), "."),
             caption = table_caption(data, cells_note(nrow(rows))),
             x = with_unit(chosen[1L], data$units), y = with_unit(chosen[2L], data$units)) +
    fl_theme()
}

digits_place <- function(v) format(v, digits = 6L)

unit_after <- function(column, units) {
  known <- unname(units[column])
  if (is.null(known) || is.na(known)) "" else paste0(" ", known)
}

map_cells <- function(rows, amount) {
  if (is.null(amount)) {
    return(list(ggplot2::geom_bin2d(bins = 90), count_fill()))
  }
  list(ggplot2::stat_summary_2d(aes(z = .data$amount), fun = mean, bins = 70),
       scale_fill_gradient(low = "#D9E4E6", high = fjord_colours[1L], name = paste("mean", amount)))
}

map_points <- function(rows, style, amount) {
  sized <- if (!is.null(amount)) {
    if (min(rows$amount) < 0) {
      fl_abort("argument", paste0("`amount` must be 0 or more: areas cannot be negative."),
               found = paste0("The least ", amount, " is ", digits3(min(rows$amount)), "."))
    }
    ggplot2::scale_size_area(max_size = if (nrow(rows) > 200L) 7 else 11, name = amount)
  }
  points <- if (is.null(style$class)) geom_point(aes(size = .data$amount), alpha = 0.45, colour = fjord_colours[1L])
  else list(geom_point(aes(size = .data$amount, colour = .data$class), alpha = 0.5), class_colours(levels(style$class),
                                                                                                   style$class_name),
            guides(colour = guide_legend(override.aes = list(size = 4, alpha = 1))))
  c(list(points), list(sized %||% scale_size_identity()))
}
