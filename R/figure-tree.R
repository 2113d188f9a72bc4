# Trees: the dendrogram of linkage with its cut, the branch tree of HDBSCAN, and the sorted distances a radius is taken
# from.

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
      title = paste0(capital(spelt_count(k, "group")), ": cut ", cut_said(object$model$tree, k)),
      subtitle = paste0("Rows stand below, joined at the height of their merge. Dashed: the cut",
                        if (named) ", with the groups it makes", "."),
      caption = data_caption(object$ready, c(paste0(capital(method_said(object$method)), "."),
                                             if (layout$folded > 0L) paste0(counted(layout$folded, "merge"),
                                                                            " at the bottom not drawn."))),
      x = NULL, y = paste0("height (", height_word(object$method$settings$join), ", scaled units)")
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

# --- the branch tree

draw_branches <- function(object, asked) {
  branches <- object$model$branches
  if (is.null(branches)) {
    fl_abort("argument", "The view \"tree\" is for HDBSCAN.",
             found = paste0("These groups are by ", method_said(object$method), "."))
  }
  lives <- branch_lives(branches)
  colours <- c(stats::setNames(fl_palette(max(object$k, 1L)), seq_len(max(object$k, 1L))), "0" = ink_soft)
  chosen <- lives[lives$chosen, ]
  chosen$said <- gsub("\n", " ", legend_labels(object, 24L)(chosen$shown))
  above <- lives[lives$shown == "0" | lives$chosen, ]
  forks <- lives[!is.na(lives$fork), ]
  ggplot(lives) +
    geom_segment(data = forks, aes(.data$from, .data$fork, xend = .data$from, yend = .data$y), colour = ink_soft,
                 linewidth = 0.3) +
    geom_segment(aes(.data$from, .data$y, xend = .data$to, yend = .data$y, colour = .data$shown,
                     linewidth = .data$chosen), lineend = "butt") +
    geom_text(data = above, aes(.data$from, .data$y, label = thousands(.data$rows)), hjust = -0.15,
              vjust = -0.5, size = 3, colour = ink) +
    geom_text(data = chosen, aes(.data$last, .data$y, label = .data$said, colour = .data$shown), hjust = -0.1,
              fontface = "bold", size = 3.6) +
    scale_colour_manual(values = colours, guide = "none") +
    ggplot2::scale_linewidth_manual(values = c("FALSE" = 0.5, "TRUE" = 2), guide = "none") +
    scale_x_continuous(labels = function(v) vapply(10^-v, digits3, ""), expand = expansion(mult = c(0.02, 0.25))) +
    scale_y_continuous(breaks = NULL, expand = expansion(add = 0.8)) +
    words_on(
      title = paste0(capital(spelt_count(object$k, "group")), " of ", counted(nrow(branches), "branch", "branches"),
                     " last longest as the distance shrinks"),
      subtitle = paste0("Each line is the life of a branch: from the distance at which it splits off to that at which ",
                        "it ends. Numbers: rows. Thick: the branches chosen as groups."),
      caption = data_caption(object$ready, paste0(capital(method_said(object$method)), ", groups of at least ",
                                                  object$model$min_size, " rows.")),
      x = "distance (scaled units, logarithmic; closer to the right)", y = NULL
    ) +
    fl_theme() + theme(panel.grid.major.y = element_blank())
}

# Of every branch: from where to where it lives, on the axis of -log10 distance; on which line, those without children
# on lines of their own, a parent amid its children; where its parent's line is (`fork`); and where all that grew out of
# it has ended (`last`).
branch_lives <- function(branches) {
  ends <- -log10(branches$end)
  births <- -log10(branches$birth)
  first <- min(c(ends, births), na.rm = TRUE)
  span <- max(c(ends, births), na.rm = TRUE) - first
  births[is.na(births)] <- first - max(0.05 * span, 0.02)
  children <- split(seq_len(nrow(branches)), factor(branches$parent, levels = seq_len(nrow(branches))))
  y <- rep(NA_real_, nrow(branches))
  lines <- 0
  place <- function(branch) {
    below <- children[[branch]]
    if (length(below) == 0L) lines <<- lines + if (shown[branch] == "0" || branches$selected[branch]) 3 else 1
    else for (child in below[order(-branches$rows[below])]) place(child)
    y[branch] <<- if (length(below) == 0L) -lines else mean(range(y[below]))
  }
  shown <- ifelse(branches$selected, as.character(branches$group), "0")
  for (b in which(branches$parent > 0L & shown == "0")) shown[b] <- shown[branches$parent[b]]
  for (root in which(branches$parent == 0L)) place(root)
  last <- ends
  for (b in rev(which(branches$parent > 0L))) last[branches$parent[b]] <- max(last[branches$parent[b]], last[b])
  tibble::tibble(branch = branches$branch, from = births, to = pmax(ends, births), last = last, y = y,
                 fork = y[match(branches$parent, branches$branch)], rows = branches$rows,
                 chosen = branches$selected, shown = shown)
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
      subtitle = paste0("Distance of every row to its ", ordinal(min_rows), " nearest row, itself counted, sorted. ",
                        "Point: the elbow of the curve, farthest below the dashed line, ",
                        if (isTRUE(all.equal(radius, distance[suggested]))) "the radius used."
                        else paste0("which suggests ", digits3(distance[suggested]), ".")),
      caption = data_caption(object$ready, paste0(capital(method_said(object$method)), ".")),
      x = "rows, sorted", y = "distance (scaled units)"
    ) +
    fl_theme()
}
