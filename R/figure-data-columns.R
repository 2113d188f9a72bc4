# Views of single columns: distributions, missing cells, profiles.

# --- distributions

draw_columns <- function(data, columns, style, most = 20L) {
  chosen <- columns %||% columns_of(data, "feature")
  shown <- utils::head(chosen, most)
  values <- rows_in(data)[shown]
  panels <- Map(function(v, column) column_panel(v, column, data), values, shown)
  wrap_plots(panels, ncol = panel_columns(length(panels))) +
    words_on_panels(
      title = columns_finding(data, shown),
      subtitle = paste("Rows by value. Numbers in 40 bars over their range, the line is the median;",
                       "categories by level."),
      caption = table_caption(data, if (length(chosen) > most) {
        paste0("Drawn: ", most, " of ", length(chosen), " columns; name others with columns.")
      })
    )
}

# As wide as the picture, with the fewest places left empty.
panel_columns <- function(n) {
  if (n <= 3L) {
    return(n)
  }
  wide <- seq(floor(sqrt(n)), ceiling(sqrt(n * 1.8)))
  wide[order(wide * ceiling(n / wide) - n, -wide)][1L]
}

columns_finding <- function(data, columns) {
  shapes <- column_shapes(number_values(data, columns[type_of(data, columns) == "number"]))
  where <- function(test) names(shapes)[vapply(shapes, function(s) isTRUE(test(s)), NA)]
  tails <- where(has_long_tail)
  humps <- where(beyond_chance)
  said <- c(if (length(tails) > 0L) paste(listed(tails, most = 3L),
                                          if (length(tails) == 1L) "has a long tail" else "have long tails"),
            if (length(humps) > 0L) paste(listed(humps, most = 3L), if (length(humps) == 1L) "has" else "have",
                                          "several peaks"))
  paste0(capital(spelt_count(length(columns), "column")), if (length(said) > 0L) ": ", paste(said, collapse = "; "))
}

column_panel <- function(v, column, data) {
  gaps <- sum(is.na(v))
  numbers <- is.numeric(v)
  panel <- if (numbers) number_panel(v[is.finite(v)]) else level_panel(v[!is.na(v)])
  panel +
    words_on(title = with_unit(column, data$units), x = NULL, y = NULL,
         subtitle = paste(c(if (numbers) paste("median", digits3(stats::median(v, na.rm = TRUE))),
                            if (gaps > 0L) paste(thousands(gaps), "missing")), collapse = ", ")) +
    fl_theme(11) +
    theme(plot.title = element_text(size = rel(1)), plot.subtitle = element_text(margin = margin(b = 4),
                                                                                 size = rel(0.9)),
          plot.margin = margin(4, 10, 4, 4), panel.grid.major.x = element_blank())
}

number_panel <- function(v, bars = 40L) {
  if (length(v) == 0L) {
    return(ggplot())
  }
  ends <- range(v)
  if (ends[1L] == ends[2L]) ends <- ends + c(-0.5, 0.5)
  breaks <- seq(ends[1L], ends[2L], length.out = bars + 1L)
  counts <- tabulate(findInterval(v, breaks, rightmost.closed = TRUE), bars)
  at <- data.frame(from = breaks[-(bars + 1L)], to = breaks[-1L], rows = counts)
  ggplot(at) +
    geom_rect(aes(xmin = .data$from, xmax = .data$to, ymin = 0, ymax = .data$rows), fill = fjord_colours[1L],
              alpha = 0.85) +
    geom_vline(xintercept = stats::median(v), colour = mark_strong, linewidth = 0.6) +
    scale_y_continuous(breaks = round_breaks(max(counts)), expand = expansion(mult = c(0, 0.06))) +
    scale_x_continuous(n.breaks = 3, labels = digits3)
}

level_panel <- function(v, most = 8L) {
  counts <- if (is.ordered(v)) table(droplevels(v)) else sort(table(as.character(v)), decreasing = TRUE)
  rest <- if (length(counts) > most) sum(counts[-seq_len(most - 1L)])
  if (!is.null(rest)) counts <- c(counts[seq_len(most - 1L)], `(others)` = rest)
  at <- data.frame(level = factor(names(counts), rev(names(counts))), rows = as.double(counts))
  ggplot(at, aes(.data$rows, .data$level)) +
    geom_col(fill = "#8FA5AC", width = 0.75) +
    scale_x_continuous(n.breaks = 3, expand = expansion(mult = c(0, 0.08))) +
    scale_y_discrete(labels = function(l) ifelse(nchar(l) > 18L, paste0(substr(l, 1L, 17L), "\u2026"), l))
}

round_breaks <- function(most) unique(round(pretty(c(0, most), 3)))

# --- missing cells

draw_missing <- function(data, columns, style, most = 14L) {
  chosen <- columns %||% columns_of(data, "feature")
  gaps <- as.data.frame(lapply(rows_in(data)[chosen], is.na), optional = TRUE)
  names(gaps) <- chosen
  lacking <- names(gaps)[colSums(gaps) > 0]
  n <- nrow(gaps)
  if (length(lacking) == 0L) {
    fl_abort("argument", paste0("No value is missing in the ", counted(length(chosen), "column"), " of ", data$name,
                                "."),
             advice = "There is nothing to draw.")
  }
  lacking <- utils::head(lacking[order(-colSums(gaps)[lacking])], 24L)
  kinds <- vctrs::vec_count(gaps[lacking])
  drawn <- utils::head(kinds, most)
  whole <- !Reduce(`|`, drawn$key)
  tiles <- data.frame(
    pattern = factor(rep(seq_len(nrow(drawn)), length(lacking)), rev(seq_len(nrow(drawn)))),
    column = factor(rep(lacking, each = nrow(drawn)), lacking), missing = unlist(drawn$key, use.names = FALSE)
  )
  tiles$fill <- ifelse(tiles$missing, mark_strong, "#DCE5E8")
  said <- data.frame(
    pattern = factor(seq_len(nrow(drawn)), rev(seq_len(nrow(drawn)))),
    text = paste0(format(drawn$count, big.mark = ",", trim = TRUE), ifelse(drawn$count == 1L, " row", " rows"),
                  ifelse(whole, ", complete", ""))
  )
  totals <- data.frame(column = factor(lacking, lacking),
                       text = format(colSums(gaps)[lacking], big.mark = ",", trim = TRUE))
  complete <- sum(kinds$count[!Reduce(`|`, kinds$key)])
  ggplot(tiles, aes(.data$column, .data$pattern)) +
    geom_tile(aes(fill = .data$fill), width = 0.94, height = 0.86) +
    geom_text(data = said, aes(x = length(lacking) + 0.65, y = .data$pattern, label = .data$text), hjust = 0, size = 4,
              colour = ink) +
    geom_text(data = totals, aes(x = .data$column, y = nrow(drawn) + 0.75, label = .data$text), size = 4, colour = ink,
              fontface = "bold") +
    scale_fill_identity() +
    scale_x_discrete(expand = expansion(add = c(0.6, max(1.6, 0.45 * length(lacking))))) +
    scale_y_discrete(expand = expansion(add = c(0.6, 1.1))) +
    coord_cartesian(clip = "off") +
    words_on(
      title = paste0(format(complete, big.mark = ","), " of ", counted(n, "row"), " are complete; ", lacking[1L],
                     " lacks most values (", totals$text[1L], ")"),
      subtitle = paste("Each line is a set of columns that lack values together (red), the most frequent first;",
                       "above, the missing cells of each column."),
      caption = table_caption(data, if (nrow(kinds) > most) paste0("Drawn: ", most, " of ", nrow(kinds), " sets.")),
      x = NULL, y = NULL
    ) +
    fl_theme() +
    theme(axis.text.y = element_blank(), panel.grid.major = element_blank(),
          axis.text.x = element_text(angle = if (length(lacking) > 7L) 40 else 0,
                                     hjust = if (length(lacking) > 7L) 1 else 0.5))
}

# --- profiles

draw_profiles <- function(data, columns, style, most = 400L) {
  chosen <- number_columns(data, columns, 2L, view = "profiles")
  values <- as.matrix(number_values(data, chosen))
  same <- same_units(chosen, data$units, values)
  if (!same) values <- scaled_columns(values)
  rows <- which(rowSums(is.na(values)) < ncol(values))
  rows <- rows[drawn_rows(length(rows), most)]
  class <- if (is.null(style$class)) factor(rep("all rows", nrow(values))) else style$class
  lines <- data.frame(row = rep(rows, ncol(values)), place = rep(seq_along(chosen), each = length(rows)),
                      value = as.vector(values[rows, ]), class = rep(class[rows], ncol(values)))
  middle <- middle_lines(values, class)
  spread <- apply(values, 2L, stats::IQR, na.rm = TRUE)
  step <- ceiling(length(chosen) / 16)
  marks <- seq(1, length(chosen), by = step)
  thin <- max(0.12, min(0.5, 60 / length(rows)))
  plain <- is.null(style$class)
  ggplot(lines, aes(.data$place, .data$value)) +
    geom_line(aes(group = .data$row, colour = .data$class), alpha = thin, linewidth = 0.35, na.rm = TRUE) +
    (if (plain) ggplot2::geom_ribbon(data = middle, aes(.data$place, ymin = .data$low, ymax = .data$high),
                                     inherit.aes = FALSE, fill = fjord_colours[1L], alpha = 0.25)) +
    geom_line(data = middle, aes(.data$place, .data$middle, group = .data$class), linewidth = 2.1, colour = "white") +
    geom_line(data = middle, aes(.data$place, .data$middle, colour = .data$class, linetype = .data$class),
              linewidth = 1.3) +
    (if (plain) scale_colour_manual(values = c(`all rows` = fjord_colours[1L]), guide = "none")
     else class_colours(levels(class), style$class_name)) +
    ggplot2::scale_linetype_manual(values = stats::setNames(rep_len(c("solid", "22", "42", "1242", "62", "12", "4212",
                                                                      "82"),
                                                                   nlevels(class)), levels(class)),
                                   name = style$class_name, guide = if (plain) "none" else "legend") +
    scale_x_continuous(breaks = marks, labels = chosen[marks], expand = expansion(mult = 0.02)) +
    words_on(
      title = paste0("Rows differ most in ", chosen[which.max(spread)], " and least in ", chosen[which.min(spread)],
                     " (middle half)"),
      subtitle = paste0("Thin lines: rows. Thick lines: median", if (plain) ", band: middle half" else
        paste0(" of each ", style$class_name), ". ",
        if (same) "Values as measured." else "Each column less its mean, over its standard deviation: units differ."),
      caption = table_caption(data, drawn_note(rows, nrow(values))), x = NULL,
      y = if (!same) "standard deviations" else unit_of(chosen, data$units)
    ) +
    guides(colour = guide_legend(override.aes = list(alpha = 1))) +
    fl_theme() +
    theme(axis.text.x = element_text(angle = if (max(nchar(chosen)) * length(marks) > 90L) 40 else 0,
                                     hjust = if (max(nchar(chosen)) * length(marks) > 90L) 1 else 0.5))
}

# Columns share an axis when their units are the same, or when none has a unit and their ranges are alike.
same_units <- function(columns, units, values) {
  known <- units[columns]
  if (!is.null(units) && !all(is.na(known))) {
    return(!anyNA(known) && length(unique(known)) == 1L)
  }
  ranges <- apply(values, 2L, function(v) diff(range(v, na.rm = TRUE)))
  max(ranges) < 5 * min(ranges) && diff(range(colMeans(values, na.rm = TRUE))) < 5 * max(ranges)
}

unit_of <- function(columns, units) {
  known <- unname(units[columns[1L]])
  if (is.null(known) || is.na(known)) "value" else known
}

scaled_columns <- function(values) {
  apply(values, 2L, function(v) {
    spread <- spread_of(v[!is.na(v)])
    (v - mean(v, na.rm = TRUE)) / (if (spread > 0) spread else 1)
  })
}

middle_lines <- function(values, class) {
  vctrs::vec_rbind(!!!lapply(levels(class), function(level) {
    mine <- values[class %in% level, , drop = FALSE]
    of <- function(q) apply(mine, 2L, stats::quantile, q, na.rm = TRUE, names = FALSE)
    data.frame(class = factor(level, levels(class)), place = seq_len(ncol(values)), low = of(0.25), middle = of(0.5),
               high = of(0.75))
  }))
}
