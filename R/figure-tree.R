# Trees: the dendrogram of linkage with its cut, the condensed tree of HDBSCAN, and the sorted distances a radius is
# taken from.

most_leaves <- 1500L  # beyond these the lowest merges are drawn as one leaf each

draw_dendrogram <- function(object, asked) {
  if (is.null(object$model$tree)) {
    fl_abort("argument", "The view \"dendrogram\" is for linkage.",
             found = paste0("These groups are by ", method_said(object$method), "."))
  }
  group <- object$group[object$ready$rows]
  layout <- tree_layout(object$model$tree, group)
  cut <- cut_height(object$model$tree, object$k)
  k <- object$k
  spans <- layout$spans
  spans$said <- legend_labels(object, 14L)(spans$group)
  named <- k <= 15L
  ids <- if (length(group) <= 60L) layout$leaves
  ggplot(layout$lines) +
    geom_segment(aes(.data$x, .data$y, xend = .data$xend, yend = .data$yend, colour = .data$group),
                 linewidth = if (length(group) > 300L) 0.25 else 0.5, lineend = "square") +
    geom_hline(yintercept = cut, linetype = "22", colour = mark_strong, linewidth = 0.6) +
    (if (named && is.null(ids)) {
      geom_text(data = spans, aes(.data$middle, 0, label = .data$said, colour = .data$group), vjust = 1.2, size = 3.6,
                fontface = "bold", lineheight = 0.9)
    }) +
    (if (named && !is.null(ids)) {
      ggplot2::geom_label(data = spans, aes(.data$stem, cut, label = .data$said, colour = .data$group), size = 3.6,
                          fontface = "bold", lineheight = 0.9)
    }) +
    (if (!is.null(ids)) geom_text(data = ids, aes(.data$x, 0, label = row_words(object, .data$row)), angle = 90,
                                  hjust = 1.1, size = 2.6, colour = ink_soft)) +
    scale_colour_manual(values = c(stats::setNames(fl_palette(k), seq_len(k)), "0" = ink_soft), guide = "none") +
    scale_x_continuous(breaks = NULL, expand = expansion(mult = 0.01)) +
    scale_y_continuous(expand = expansion(mult = c(if (!is.null(ids)) 0.25 else 0.1, 0.04))) +
    coord_cartesian(clip = "off") +
    words_on(
      title = paste0(capital(counted(k, "group")), ": cut ", cut_said(object$model$tree, k)),
      subtitle = paste0("Rows stand below, joined at the height of their merge. Dashed: the cut",
                        if (named) ", with the groups it makes", "."),
      caption = data_caption(object$ready, c(paste0(capital(method_said(object$method)), "."),
                                             if (layout$folded > 0L) paste0(counted(layout$folded, "merge"),
                                                                            " at the bottom not drawn."))),
      x = NULL, y = paste0("height (", height_word(object$method$settings$join), ", prepared units)")
    ) +
    fl_theme() + theme(panel.grid.major.x = element_blank())
}

row_words <- function(object, row) {
  at <- object$ready$rows[row]
  if (is.null(object$id)) as.character(at) else shortened(as.character(object$id[at]), 14L)
}

height_word <- function(join) {
  if (join == "ward") "root of twice the growth of W" else if (join %in% c("centroid", "median")) "distance of centres"
  else "distance"
}

# Between the last merge kept and the next.
cut_height <- function(tree, k) {
  heights <- cummax(c(0, tree$height))
  made <- nrow(tree) + 1L - k
  above <- if (k > 1L) heights[made + 2L] else heights[made + 1L] * 1.05
  (heights[made + 1L] + above) / 2
}

cut_said <- function(tree, k) {
  heights <- c(0, tree$height)
  made <- nrow(tree) + 1L - k
  if (k == 1L) "above all merges"
  else paste0("between heights ", digits3(heights[made + 1L]), " and ", digits3(heights[made + 2L]))
}

# Lines of the tree. Each merge is a bracket over its two parts; leaves stand in an order without crossings, larger
# parts to the left.
tree_layout <- function(tree, group) {
  n <- length(group)
  folded <- max(0L, n - most_leaves)
  at <- seq_len(n)  # of each lowest row: the node it stands for now
  left <- right <- integer(nrow(tree))
  for (m in seq_len(nrow(tree))) {
    left[m] <- at[tree$low[m]]
    right[m] <- at[tree$high[m]]
    at[tree$low[m]] <- n + m
  }
  size <- c(rep(1L, n), tree$rows)
  swap <- size[left] < size[right]
  first <- ifelse(swap, right, left)
  second <- ifelse(swap, left, right)
  # the order of the leaves, from the last merge down
  order <- integer()
  open <- n + nrow(tree)
  while (length(open) > 0L) {
    node <- open[1L]
    open <- open[-1L]
    if (node <= n) order <- c(order, node) else open <- c(first[node - n], second[node - n], open)
  }
  x <- height <- numeric(n + nrow(tree))
  x[order] <- seq_len(n)
  own <- integer(n + nrow(tree))
  own[seq_len(n)] <- group
  for (m in seq_len(nrow(tree))) {
    x[n + m] <- (x[first[m]] + x[second[m]]) / 2
    height[n + m] <- tree$height[m]
    own[n + m] <- if (own[first[m]] == own[second[m]]) own[first[m]] else 0L
  }
  drawn <- seq_len(nrow(tree))[seq_len(nrow(tree)) > folded]
  line <- function(from, to, low, high, of) {
    data.frame(x = from, xend = to, y = low, yend = high, group = as.character(of))
  }
  arm <- function(child) line(x[child], x[child], height[child], height[n + drawn], own[child])
  lines <- rbind(arm(first[drawn]), arm(second[drawn]),
                 line(x[first[drawn]], x[second[drawn]], height[n + drawn], height[n + drawn], own[n + drawn]))
  middle <- vapply(split(x[seq_len(n)], group), mean, 0)
  stem <- x[vapply(names(middle), function(g) max(which(own == as.integer(g))), 0L)]
  list(lines = lines, folded = folded, leaves = data.frame(x = seq_len(n), row = order),
       spans = data.frame(middle = unname(middle), stem = stem, group = names(middle)))
}

# --- the condensed tree

draw_condensed <- function(object, asked) {
  branches <- object$model$branches
  if (is.null(branches)) {
    fl_abort("argument", "The view \"tree\" is for HDBSCAN.",
             found = paste0("These groups are by ", method_said(object$method), "."))
  }
  bars <- condensed_bars(branches, object$model$rows)
  colours <- c(stats::setNames(fl_palette(max(object$k, 1L)), seq_len(max(object$k, 1L))), "0" = "#C9D2D6")
  said <- bars$ends[!is.na(bars$ends$group), ]
  said$said <- legend_labels(object, 14L)(said$group)
  ggplot(bars$steps) +
    geom_rect(aes(xmin = .data$middle - .data$rows / 2, xmax = .data$middle + .data$rows / 2, ymin = .data$from,
                  ymax = .data$to, fill = .data$shown)) +
    (if (nrow(bars$links) > 0L) {
      geom_segment(data = bars$links, aes(.data$x, .data$y, xend = .data$xend, yend = .data$y), colour = ink_soft,
                   linewidth = 0.4)
    }) +
    geom_text(data = said, aes(.data$middle, .data$to, label = .data$said), vjust = -0.4, fontface = "bold", size = 3.6,
              colour = ink, lineheight = 0.9) +
    scale_fill_manual(values = colours, guide = "none") +
    scale_x_continuous(breaks = NULL) +
    scale_y_continuous(expand = expansion(mult = c(0.02, 0.08)), labels = function(v) digits3(1 / v),
                       breaks = pretty_inverse(bars$steps)) +
    words_on(
      title = paste0(capital(counted(object$k, "group")), " of ", counted(nrow(branches), "branch", "branches"),
                     " last longest as the distance shrinks"),
      subtitle = paste0("Upwards the rows must lie ever closer. Width: rows still in a branch. Coloured: the branches ",
                        "chosen as groups; grey: the others."),
      caption = data_caption(object$ready, paste0(capital(method_said(object$method)), ", groups of at least ",
                                                  object$model$min_size, " rows.")),
      x = NULL, y = "distance (prepared units; steps of its inverse)"
    ) +
    fl_theme() + theme(panel.grid.major.x = element_blank())
}

pretty_inverse <- function(steps) {
  top <- max(steps$to)
  seq(0, top, length.out = 6L)[-1L]
}

# Of every branch: how many rows it holds from one inverse distance to the next, and where it stands.
condensed_bars <- function(branches, rows) {
  middle <- rep(0, nrow(branches))
  width <- branches$rows * 1.15 + 0.02 * branches$rows[1L]
  span <- width
  for (b in rev(seq_len(nrow(branches)))) {
    children <- which(branches$parent == b)
    span[b] <- max(width[b], sum(span[children]))
  }
  for (b in seq_len(nrow(branches))) {
    children <- which(branches$parent == b)
    left <- middle[b] - sum(span[children]) / 2
    for (child in children) {
      middle[child] <- left + span[child] / 2
      left <- left + span[child]
    }
  }
  shown <- rep("0", nrow(branches))
  for (b in seq_len(nrow(branches))) {
    shown[b] <- if (branches$selected[b]) as.character(branches$group[b])
    else if (branches$parent[b] > 0L) shown[branches$parent[b]] else "0"
  }
  birth <- ifelse(is.na(branches$birth), 0, 1 / branches$birth)
  steps <- vctrs::vec_rbind(!!!lapply(seq_len(nrow(branches)), function(b) {
    out <- sort(1 / rows$leaves[rows$branch == b])
    times <- unique(c(out, 1 / branches$end[b]))
    times <- sort(times[times > birth[b]])
    # at most so many steps a branch are seen
    if (length(times) > 60L) times <- times[unique(round(seq(1, length(times), length.out = 60L)))]
    from <- c(birth[b], times[-length(times)])
    left <- branches$rows[b] - findInterval(from, out)
    tibble::tibble(branch = b, middle = middle[b], rows = left, from = from, to = times, shown = shown[b])
  }))
  steps <- steps[steps$rows > 0L, ]
  split <- which(branches$parent > 0L)
  links <- tibble::tibble(x = middle[branches$parent[split]], xend = middle[split], y = birth[split])
  # above all that grows out of a branch; parents come before their children
  to <- vapply(seq_len(nrow(branches)), function(b) max(steps$to[steps$branch == b], birth[b]), 0)
  for (b in rev(which(branches$parent > 0L))) to[branches$parent[b]] <- max(to[branches$parent[b]], to[b])
  ends <- tibble::tibble(group = branches$group, middle = middle, to = to)
  list(steps = steps, links = links, ends = ends)
}

# --- the sorted distances

draw_radius <- function(object, asked) {
  if (!"radius" %in% names(method_views(object))) {
    fl_abort("argument", "The view \"radius\" is for DBSCAN.",
             found = paste0("These groups are by ", method_said(object$method), "."))
  }
  min_rows <- object$model$min_rows
  distance <- sort(core_distance(object$ready$x, min_rows))
  n <- length(distance)
  suggested <- turning_point(distance)
  curve <- data.frame(rank = seq_len(n) / n, distance = distance)
  radius <- object$model$radius
  core <- mean(distance <= radius)
  ggplot(curve[drawn_rows(n, 5000L), ], aes(.data$rank, .data$distance)) +
    geom_segment(data = data.frame(x = 1 / n, xend = 1, y = distance[1L], yend = distance[n]),
                 aes(.data$x, .data$y, xend = .data$xend, yend = .data$yend), colour = ink_soft, linetype = "22",
                 linewidth = 0.4) +
    geom_line(colour = fjord_colours[1L], linewidth = 1) +
    geom_hline(yintercept = radius, colour = mark_strong, linewidth = 0.6) +
    geom_point(data = curve[suggested, ], size = 4.5, colour = mark_strong) +
    ggplot2::annotate("text", x = 0.01, y = radius, label = paste0("radius ", digits3(radius)), hjust = 0, vjust = -0.7,
                      colour = mark_strong, size = 4.2) +
    scale_x_continuous(labels = function(v) percent(v), expand = expansion(mult = c(0, 0.02))) +
    words_on(
      title = paste0("At radius ", digits3(radius), " ", percent(core), " of the rows are core rows: ",
                     counted(object$k, "group"), ", ", percent(mean(object$group[object$ready$rows] == 0L)), " noise"),
      subtitle = paste0("Distance of every row to its row number ", min_rows, ", itself counted, sorted. Point: where ",
                        "the curve turns up, farthest below the dashed line, ",
                        if (isTRUE(all.equal(radius, distance[suggested]))) "the radius used."
                        else paste0("which suggests ", digits3(distance[suggested]), ".")),
      caption = data_caption(object$ready, paste0(capital(method_said(object$method)), ".")),
      x = "rows, sorted", y = "distance (prepared units)"
    ) +
    fl_theme()
}
