# The rules that lead to groups, as a tree.

#' Draw the rules
#'
#' The tree from its first question on the left to the groups on the right. A branch is as thick as it has rows; the
#' colour is the group most of them belong to; beside every end stand the group, its rows and how many are right.
#'
#' @param object From [fl_paths()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' autoplot(fl_paths(groups))
#' }
#' @export
autoplot.fl_paths <- function(object, ...) {
  check_no_dots(...)
  nodes <- path_nodes(object)
  crowded <- sum(nodes$leaf) > 10L
  edges <- path_edges(nodes, object, crowded)
  ends <- nodes[nodes$leaf, ]
  counts <- paste0(vapply(ends$right, thousands, ""), " of ", vapply(ends$rows, thousands, ""))
  called <- group_names(object$partition, ends$group)
  ends$said <- if (crowded) paste0(shortened(called, 20L), ": ", counts)
  else folded_each(paste0(called, ": ", counts, " rows"), 28L)
  label_size <- if (crowded) 2.9 else 3.3
  edges$up <- above_branch(edges$rows, edges$said, label_size)
  asked <- edges[nzchar(edges$said), ]
  facts <- fl_facts(object)
  ggplot(edges, aes(.data$x, .data$y_end)) +
    geom_segment(aes(xend = .data$x, y = .data$y, yend = .data$y_end), colour = ink_soft, linewidth = 0.4) +
    geom_segment(aes(xend = .data$x_end, yend = .data$y_end, colour = .data$group, linewidth = .data$rows),
                 alpha = 0.75) +
    ggplot2::scale_linewidth(range = branch_widths) +
    geom_text(data = asked, aes(label = .data$said, vjust = .data$up), size = label_size, hjust = 0,
              nudge_x = 0.012 * max(nodes$x), colour = ink, lineheight = 0.85) +
    geom_point(data = ends, aes(.data$x, .data$y, colour = .data$group), size = 5, inherit.aes = FALSE) +
    geom_text(data = ends, aes(.data$x, .data$y, label = .data$said), hjust = 0, nudge_x = 0.016 * max(nodes$x),
              size = if (crowded) 3.4 else 3.9,
              colour = ink, lineheight = 0.9, inherit.aes = FALSE) +
    group_scale(levels(nodes$group)) +
    scale_x_continuous(breaks = NULL, expand = expansion(mult = c(0.03, 0.38))) +
    scale_y_continuous(breaks = NULL, expand = expansion(mult = c(0.05, 0.12))) +
    words_on(title = sub("\\.$", "", facts[1L]),
             subtitle = c("From left to right. Thickness: rows. Colour: the group most of them belong to.",
                          if (crowded) "A condition stands above the branch of those rows that meet it."),
             caption = data_caption(object$partition$ready,
                                    paste0("Columns: ", listed(object$columns, most = 8L), ".")),
             x = NULL, y = NULL) +
    fl_theme() + theme(legend.position = "none", panel.grid.major = element_blank())
}

branch_widths <- c(0.8, 6)

# How far up a label goes, in heights of its text, to stand on its branch whatever the figure's size: half the width of
# the branch (a linewidth is 0.75 mm), and a little more.
above_branch <- function(rows, said, size) {
  span <- diff(range(rows))
  width <- branch_widths[1L] + diff(branch_widths) * (if (span > 0) (rows - min(rows)) / span else 0.5)
  lines <- pmax(1L, lengths(strsplit(said, "\n", fixed = TRUE)))
  -(0.75 * width / 2 + 0.8) / (0.48 * size * lines)
}

# Depth to the right; ends evenly spread, inner nodes halfway between their children.
path_nodes <- function(object) {
  frame <- object$tree$frame
  number <- as.integer(rownames(frame))
  depth <- floor(log2(number))
  leaf <- frame$var == "<leaf>"
  # rpart lists nodes depth first, so ends come from the first branch to the last
  y <- ifelse(leaf, -cumsum(leaf), NA_real_)
  for (i in rev(order(depth))) {
    if (!leaf[i]) y[i] <- mean(y[match(c(2L * number[i], 2L * number[i] + 1L), number)])
  }
  # of the classes in yval2 the counts follow the predicted one
  given <- as.integer(attr(object$tree, "ylevels"))
  right <- frame$yval2[cbind(seq_len(nrow(frame)), 1L + frame$yval)]
  data.frame(number = number, x = ifelse(leaf, max(depth), depth), y = y, leaf = leaf, rows = frame$n, right = right,
             group = factor(given[frame$yval], seq_len(object$partition$k)))
}

# In a crowded tree one branch of two is told, the upper one.
path_edges <- function(nodes, object, crowded = FALSE) {
  splits <- tree_splits(object$tree, path_table(object$partition, object$columns, object$seed))
  below <- nodes[nodes$number > 1L, ]
  above <- nodes[match(below$number %/% 2L, nodes$number), ]
  said <- vapply(below$number, function(node) {
    split <- splits[[as.character(node %/% 2L)]]
    split$goes_left <- node %% 2L == 0L
    if (crowded && node %% 2L == 1L) {
      return("")
    }
    column <- object$columns[as.integer(sub("c", "", split$column))]
    said <- column_condition(column, list(split), object$partition$ready$units)
    folded(sub(column, shortened(column, 24L), said, fixed = TRUE), 22L)
  }, "")
  data.frame(x = above$x, y = above$y, x_end = below$x, y_end = below$y, rows = below$rows, group = below$group,
             said = said)
}
