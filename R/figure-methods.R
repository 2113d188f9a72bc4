# Several methods over the counts, side by side.

draw_methods <- function(sweep, vote) {
  curves <- method_curves(sweep, vote$preparation)
  keys <- unique(curves$index)
  label <- vapply(sweep$indices[keys], function(index) {
    paste0(sub(" \\(.*$", "", index$label), "\n", index$direction, " is better")
  }, "")
  curves$panel <- factor(curves$index, keys, label)
  methods <- unique(curves$method)
  said <- vapply(sweep$methods[methods], method_said, "")
  curves$method <- factor(curves$method, methods, said)
  voted <- counts_by_method(vote)
  chosen <- curves[curves$k == voted[match(curves$method, said[names(voted)])], ]
  ggplot(curves, aes(.data$k, .data$value, colour = .data$method, shape = .data$method)) +
    geom_line(linewidth = 0.6, na.rm = TRUE) + geom_point(size = 1.8, na.rm = TRUE) +
    geom_point(data = chosen, size = 4.5, na.rm = TRUE) +
    facet_wrap("panel", scales = "free_y") +
    scale_colour_manual(values = stats::setNames(fl_palette(length(said)), said), name = NULL) +
    scale_shape_manual(values = stats::setNames(rep_len(group_shapes, length(said)), said), name = NULL) +
    scale_x_continuous(breaks = whole_breaks(curves$k)) +
    scale_y_continuous(labels = function(v) digits3(v), n.breaks = 4, expand = expansion(mult = 0.12)) +
    words_on(
      title = methods_title(vote, said),
      subtitle = paste("Indices that can compare partitions of different methods; they reward compact groups.",
                       "Large: the count each method is voted to have."),
      caption = data_caption(sweep$ready[[vote$preparation]],
                             paste0("k = ", count_range(sweep$k), ", seed ", sweep$seed, ".")),
      x = "number of groups", y = NULL
    ) +
    fl_theme(12) + theme(legend.position = "top", legend.justification = "left")
}

# Median values, over the repeats, of the indices that can compare methods.
method_curves <- function(sweep, preparation) {
  mine <- sweep$values[sweep$values$preparation == preparation, ]
  judging <- names(judging_indices(sweep))
  mine <- mine[mine$index %in% judging, ]
  if (length(unique(mine$method)) < 2L) {
    fl_abort("argument", "There are no methods to compare.",
             found = paste0("The sweep holds ", counted(length(sweep$methods), "method"), " and ",
                            counted(length(judging), "index", "indices"), " that can compare them."))
  }
  cells <- vctrs::vec_split(mine$value, mine[, c("index", "method", "k")])
  tibble::tibble(cells$key, value = vapply(cells$val, middle_of, 0))
}

counts_by_method <- function(vote) {
  rest <- vote$others[vote$others$preparation == vote$preparation, ]
  stats::setNames(c(vote$k, rest$k), c(vote$method, rest$method))
}

methods_title <- function(vote, said) {
  counts <- counts_by_method(vote)
  if (length(unique(counts)) == 1L) paste0("All methods come to ", counts[1L], " groups")
  else paste0(listed(paste(said[names(counts)], "takes", ifelse(is.na(counts), "none", counts))), " groups")
}
