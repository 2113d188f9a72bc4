# How rows go from groups to groups: one column of bars a partition, bands between them.

#' Draw how groups split and join
#'
#' One column per partition, one bar per group, as high as it has rows; bands are the rows that two groups share. Two
#' partitions side by side ([fl_contrast()]), or all counts of a sweep ([fl_lineage()]). Colours are the groups of one
#' of the columns, so that the eye can follow them: of the first partition, or of the count named in the subtitle.
#'
#' A contrast also has `view = "planes"`: the same rows in the same plane, once by each partition; rings are the rows
#' not in matching groups.
#'
#' @param object From [fl_contrast()] or [fl_lineage()].
#' @param view Of a contrast: `"flows"` or `"planes"`.
#' @param k Of a lineage: the count whose groups give the colours; left out, the named one, or the largest up to eight.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' sweep <- fl_sweep(ready, "kmeans", k = 1:7, indices = "fast")
#' autoplot(fl_lineage(sweep))
#' autoplot(fl_contrast(fl_take(sweep, k = 5), fl_take(sweep, k = 6)))
#' }
#' @export
autoplot.fl_contrast <- function(object, view = "flows", ...) {
  check_no_dots(...)
  check_choice(view, c("flows", "planes"), "view")
  if (view == "planes") draw_both_planes(object) else draw_contrast_flows(object)
}

draw_contrast_flows <- function(object) {
  sides <- list(object$a, object$b)
  both <- !is.na(object$a$group) & !is.na(object$b$group)
  labels <- lapply(sides, function(side) side$group[both])
  said <- function(side) legend_labels(side, 24L)
  facts <- fl_facts(object)
  draw_flows(labels, reference = 1L, node_text = lapply(sides, said), heads = object$said) +
    words_on(title = sub("\\.$", "", facts[1L]),
             subtitle = utils::head(fate_facts(object$fates, object$flows, object$a, object$b), 2L),
             caption = paste0("Drawn: the ", counted(sum(both), "row"), " with a group in both, of ",
                              object$a$ready$data$name %||% object$a$ready$table_name, ". ", beside_bars),
             x = NULL, y = NULL)
}

#' @rdname autoplot.fl_contrast
#' @export
autoplot.fl_lineage <- function(object, k = NULL, ...) {
  check_no_dots(...)
  counts <- unique(object$groups$k)
  named <- !all(is.na(object$groups$name))
  if (!is.null(k)) check_choice(as.character(check_whole(k, "k")), as.character(counts), "k")
  reference <- k %||% if (named) named_level(object) else max(c(counts[counts <= 8L], counts[1L]))
  both <- Reduce(`&`, lapply(object$partitions, function(one) !is.na(one$group)))
  labels <- lapply(object$partitions, function(one) one$group[both])
  node_text <- lapply(counts, function(count) {
    mine <- object$groups[object$groups$k == count, ]
    function(g) if (named) fitted_words(lineage_said(mine, g), 20L, count >= crowded_from) else as.character(g)
  })
  facts <- fl_facts(object)
  lasting <- utils::head(grep("^From ", facts, value = TRUE), 4L)
  draw_flows(labels, reference = match(reference, counts), node_text = node_text, heads = paste("k =", counts)) +
    words_on(title = sub("\\.$", "", facts[1L]),
             subtitle = c(lasting, paste0("Colours: the ", reference, " groups of k = ", reference, ".")),
             caption = data_caption(object$partitions[[1L]]$ready,
                                    c(paste0(capital(method_said(object$partitions[[1L]]$method)), "."), beside_bars)),
             x = NULL, y = NULL)
}

lineage_said <- function(groups, g) {
  name <- groups$name[match(g, groups$group)]
  ifelse(is.na(name), group_names(NULL, g), name)
}

beside_bars <- "Beside the bars: the group and its rows."

# The count whose names carry no letters and no sums: where they were given.
named_level <- function(object) {
  plain <- tapply(object$groups$name, object$groups$k, function(n) !any(grepl(" \\+ ", n)))
  as.integer(names(plain)[which(plain)[1L]])
}

# `labels`: one labeling per column, of the same rows.
draw_flows <- function(labels, reference, node_text, heads) {
  nodes <- flow_nodes(labels, reference)
  bands <- flow_bands(labels, nodes, labels[[reference]])
  nodes$text <- vapply(seq_len(nrow(nodes)), function(i) {
    one <- nodes[i, ]
    paste0(node_text[[one$column]](one$group), "  ", thousands(one$rows))
  }, "")
  columns <- length(labels)
  last <- nodes$column == columns
  nodes$side <- ifelse(last, nodes$column + bar_half + 0.02, nodes$column - bar_half - 0.02)
  # labels of thin bars are moved apart
  nodes$at <- stats::ave((nodes$bottom + nodes$top) / 2, nodes$column, FUN = function(at) {
    moved_apart(at, 0.036 * diff(range(nodes$bottom, nodes$top)))
  })
  wide <- columns <= 2L
  longest <- max(nchar(unlist(strsplit(nodes$text[last], "\n"))))
  # between many columns a number alone has room, on the bar
  inside <- !wide & !last
  tall <- nodes$top - nodes$bottom > 0.018 * max(nodes$top)
  palette <- c(fl_palette(max(labels[[reference]], 1L)), noise_grey)
  nodes$colour <- palette[ifelse(nodes$as == 0L, length(palette), nodes$as)]
  ggplot() +
    ggplot2::geom_polygon(data = bands, aes(.data$x, .data$y, group = .data$band, fill = .data$as), alpha = 0.42) +
    geom_rect(data = nodes, aes(xmin = .data$column - bar_half, xmax = .data$column + bar_half, ymin = .data$bottom,
                                ymax = .data$top), fill = nodes$colour, colour = "white", linewidth = 0.5) +
    (if (wide || any(last)) {
      shown <- nodes[if (wide) rep(TRUE, nrow(nodes)) else last, ]
      geom_text(data = shown, aes(.data$side, .data$at, label = .data$text),
                hjust = ifelse(shown$column == columns, 0, 1), size = 3.9, colour = ink, lineheight = 0.9)
    }) +
    (if (any(inside & tall)) {
      geom_text(data = nodes[inside & tall, ], aes(.data$column, (.data$bottom + .data$top) / 2, label = .data$group),
                size = 3.4, colour = "white", fontface = "bold")
    }) +
    group_scale(sort(unique(labels[[reference]])), scale_fill_manual) +
    scale_x_continuous(breaks = seq_len(columns), labels = folded_each(heads, 26L), position = "top",
                       expand = expansion(mult = if (wide) 0.42 else c(0.04, 0.02 + 0.0125 * longest))) +
    scale_y_continuous(breaks = NULL, expand = expansion(0.01)) +
    fl_theme() + theme(panel.grid = element_blank(), panel.grid.major = element_blank(), legend.position = "none",
                       axis.text.x = element_text(colour = ink, face = "bold"))
}

bar_half <- 0.05

# Bars from the top down; in every later column a group stands as near as can be to where its rows come from.
flow_nodes <- function(labels, reference) {
  n <- length(labels[[1L]])
  gap <- 0.02 * n
  place <- NULL
  out <- lapply(seq_along(labels), function(column) {
    label <- labels[[column]]
    groups <- sort(unique(label))
    rows <- tabulate(match(label, groups), length(groups))
    key <- if (is.null(place)) seq_along(groups) else vapply(groups, function(g) mean(place[label == g]), 0)
    order <- order(key)
    bottom <- -(cumsum(rows[order]) + gap * (seq_along(order) - 1L))
    node <- data.frame(column = column, group = groups[order], rows = rows[order], bottom = bottom,
                       top = bottom + rows[order])
    node$as <- vapply(node$group, function(g) prevailing_group(labels[[reference]][label == g]), 0L)
    place <<- (-(node$bottom + node$top) / 2)[match(label, node$group)]
    node
  })
  out <- do.call(rbind, out)
  # columns with fewer gaps are centred
  middle <- stats::ave(out$bottom, out$column, FUN = min) / 2
  out$bottom <- out$bottom - middle
  out$top <- out$top - middle
  out
}

prevailing_group <- function(values) {
  levels <- sort(unique(values))
  as.integer(levels[which.max(tabulate(match(values, levels)))])
}

# Bands leave and enter bars in the order of the bars on the other side.
flow_bands <- function(labels, nodes, reference) {
  parts <- lapply(seq_along(labels)[-1L], function(column) {
    left <- nodes[nodes$column == column - 1L, ]
    right <- nodes[nodes$column == column, ]
    at <- match(labels[[column - 1L]], left$group)
    to <- match(labels[[column]], right$group)
    cells <- unique(data.frame(at, to, as = reference))
    key <- paste(at, to, reference)
    cells$rows <- as.integer(table(key)[paste(cells$at, cells$to, cells$as)])
    cells <- cells[order(cells$at, cells$to, cells$as), ]
    cells$out <- left$top[cells$at] - stats::ave(cells$rows, cells$at, FUN = cumsum)
    back <- order(cells$to, cells$at, cells$as)
    cells$into[back] <- right$top[cells$to[back]] - stats::ave(cells$rows[back], cells$to[back], FUN = cumsum)
    do.call(rbind, lapply(seq_len(nrow(cells)), function(i) band_outline(cells[i, ], column)))
  })
  bands <- do.call(rbind, parts)
  bands$as <- factor(bands$as, sort(unique(reference)))
  bands
}

# A band between two bars, its edges smooth.
band_outline <- function(cell, column, steps = 24L) {
  t <- seq(0, 1, length.out = steps)
  rise <- t^2 * (3 - 2 * t)
  x <- column - 1 + bar_half + t * (1 - 2 * bar_half)
  low <- cell$out + (cell$into - cell$out) * rise
  data.frame(x = c(x, rev(x)), y = c(low, rev(low + cell$rows)), band = paste(column, cell$at, cell$to, cell$as),
             as = cell$as)
}

# The same rows in the plane of the first space at hand, by both partitions.
draw_both_planes <- function(object) {
  sides <- list(object$a, object$b)
  own <- Filter(function(side) !is.null(side$ready$x), sides)
  if (length(own) == 0L) need_rows(object$a)
  base <- own[[1L]]
  map <- plane_map(base, NULL)
  rows <- base$ready$rows
  kept <- !is.na(object$a$group[rows]) & !is.na(object$b$group[rows])
  panel <- function(side, said) {
    data.frame(x = map$points$x[kept], y = map$points$y[kept], row = rows[kept], group = side$group[rows[kept]],
               said = said)
  }
  heads <- folded_each(object$said, 50L)
  points <- rbind(panel(object$a, heads[1L]), panel(object$b, heads[2L]))
  points$said <- factor(points$said, unique(heads))
  drawn <- points$row %in% rows[kept][drawn_rows(sum(kept), 10000L)]
  second <- points$said == heads[2L]
  points$shown <- paste0(ifelse(second, "b", "a"), points$group)
  colours <- contrast_colours(object)
  shown <- points[drawn, ]
  moved <- shown[shown$row %in% ringed_rows(shown[shown$row %in% object$moved$row & !second[drawn], ])$row, ]
  discs <- stats::aggregate(cbind(x, y) ~ said + shown + group, points[points$group > 0L, ], mean)
  facts <- fl_facts(object)
  crowded <- max(object$a$k, object$b$k) >= 7L
  ggplot(shown, aes(.data$x, .data$y, colour = .data$shown)) +
    geom_point(size = if (nrow(shown) > 6000L) 0.8 else 1.7, alpha = 0.75) +
    geom_point(data = moved, shape = 21, size = 3.8, stroke = 0.6, colour = ink, fill = NA) +
    disc_layers(discs, sides, second = discs$said == heads[2L], by_name = !crowded) +
    facet_wrap("said") + plane_names(object, colours, crowded) +
    words_on(title = sub("\\.$", "", facts[1L]),
             subtitle = c(map$said, paste0("Rings: ", ring_word(length(unique(moved$row)), nrow(object$moved)),
                                         "rows not in matching groups. Matched groups share a colour.")),
             caption = data_caption(base$ready, drawn_note(which(drawn[!second]), sum(kept))), x = map$x, y = map$y) +
    fl_theme() + theme(legend.position = if (crowded) "right" else "none")
}

# Where names have no room in the plane, a legend: groups of the first, and those of the second that match none.
plane_names <- function(object, colours, crowded) {
  sides <- list(a = object$a, b = object$b)
  keys <- names(colours)[!duplicated(colours) & !grepl("0$", names(colours))]
  said <- function(key) {
    g <- as.integer(substring(key, 2L))
    side <- substr(key, 1L, 1L)
    ifelse(side == "a", group_label(sides$a, g), paste0(group_label(sides$b, g), " (right)"))
  }
  list(scale_colour_manual(values = colours, breaks = keys, labels = shortened(said(keys), 24L),
                           name = if (has_names(object$a)) "group" else "group, on the left"),
       if (crowded) guides(colour = guide_legend(override.aes = list(size = 3, alpha = 1, shape = 16))))
}

# Where every group lies: its number on a disc, or its name.
disc_layers <- function(discs, sides, second, by_name) {
  discs$named <- by_name & ifelse(second, has_name(sides[[2L]], discs$group), has_name(sides[[1L]], discs$group))
  discs$label <- ifelse(second, group_names(sides[[2L]], discs$group), group_names(sides[[1L]], discs$group))
  plain <- discs[!discs$named, ]
  named <- discs[discs$named, ]
  list(
    if (nrow(plain) > 0L) numbered_discs(plain, 7.5, by = "shown"),
    if (nrow(named) > 0L) {
      do.call(ggplot2::geom_label, c(
        list(data = named, aes(label = folded_each(.data$label, 18L), fill = after_scale(.data$colour),
                               colour = stage(.data$shown, after_scale = disc_ink(.data$colour))),
             size = 3.5, fontface = "bold", lineheight = 0.9, label.padding = unit(2.5, "pt"), show.legend = FALSE),
        no_border()
      ))
    }
  )
}

# Colours of both sides: matched groups share one, the others of the second get the next.
contrast_colours <- function(object) {
  k <- c(object$a$k, object$b$k)
  matched <- object$agreement$matched
  partner <- as.integer(matched$group[match(as.character(seq_len(k[2L])), matched$class)])
  partner[partner %in% 0L] <- NA
  partner[is.na(partner)] <- k[1L] + seq_len(sum(is.na(partner)))
  palette <- fl_palette(max(k[1L], partner))
  c(stats::setNames(palette[seq_len(k[1L])], paste0("a", seq_len(k[1L]))),
    stats::setNames(palette[partner], paste0("b", seq_len(k[2L]))), a0 = noise_grey, b0 = noise_grey)
}
