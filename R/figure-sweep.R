# The curves of a sweep: one panel per index, its own pick and the vote's count marked.

#' Draw the curves of a sweep
#'
#' * `view = "curves"`: one panel per index. The large point is the index's own pick, the ring its second choice; the
#'   shaded count is the vote's. Each panel says which direction is better. Of several repeats the line is the median,
#'   the band reaches from the lowest to the highest, and ticks below are the picks of each.
#' * `view = "gap"`: the course of W as observed and as expected without groups, and the gap with its rule (Tibshirani,
#'   Walther and Hastie 2001).
#' * `view = "models"`: of a mixture in the sweep, every covariance structure over the counts.
#' * `view = "methods"`: the indices that can compare partitions of different methods, one line per method.
#'
#' @param object From [fl_sweep()].
#' @param view `"curves"`, `"gap"`, `"models"` or `"methods"`.
#' @param vote From [fl_vote()] or [fl_settle()], whose count is marked; left out, the vote with its defaults.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for `"gap"` without reference tables, or `"methods"` with one method.
#' @references Tibshirani, R., Walther, G. and Hastie, T. (2001). Estimating the number of clusters in a data set via
#'   the gap statistic. \doi{10.1111/1467-9868.00293}
#' @examples
#' \donttest{
#' autoplot(fl_sweep(fl_prepare(fl_demo("icequakes"), transform = "log"), "kmeans", k = 1:6, indices = "fast"))
#' }
#' @export
autoplot.fl_sweep <- function(object, view = "curves", vote = NULL, ...) {
  check_no_dots(...)
  check_choice(view, c("curves", "gap", "models", "methods"), "view")
  vote <- vote %||% fl_vote(object)
  check_made_by(vote, "fl_vote", "vote")
  switch(view, curves = draw_curves(object, vote), gap = draw_gap(object, vote),
         models = draw_sweep_models(object, vote), methods = draw_methods(object, vote))
}

draw_curves <- function(object, vote) {
  curves <- curve_values(vote)
  picks <- curve_picks(vote, curves)
  label <- panel_labels(vote, picks, unique(curves$index))
  curves$panel <- factor(curves$index, names(label), label)
  picks$panel <- factor(picks$index, names(label), label)
  every <- repeat_picks(vote, names(label))
  every$panel <- factor(every$index, names(label), label)
  many <- length(label) > 9L
  chosen <- vote_choice(vote)
  second <- if (is.na(chosen)) NA else vote$runner_up
  ggplot(curves, aes(.data$k, .data$value)) +
    (if (!is.na(chosen)) geom_rect(data = data.frame(k = chosen),
                                   aes(xmin = .data$k - 0.35, xmax = .data$k + 0.35, ymin = -Inf, ymax = Inf),
                                   inherit.aes = FALSE, fill = mark_soft, alpha = 0.3)) +
    (if (!is.na(second)) geom_vline(xintercept = second, linetype = "dotted", colour = ink_soft)) +
    (if (object$repeats > 1L) ggplot2::geom_ribbon(aes(ymin = .data$lowest, ymax = .data$highest), fill = ink_soft,
                                                   alpha = 0.25, na.rm = TRUE)) +
    (if (nrow(every) > 0L) geom_point(data = every, aes(.data$k, -Inf, size = .data$times), shape = "|", colour = ink,
                                      show.legend = FALSE)) +
    ggplot2::scale_size_area(max_size = 7) +
    ggplot2::geom_linerange(aes(ymin = .data$value - .data$error, ymax = .data$value + .data$error),
                            colour = ink_soft, na.rm = TRUE) +
    (if (length(unique(curves$k)) > 1L) geom_line(colour = fjord_colours[1L], linewidth = 0.7, na.rm = TRUE)) +
    geom_point(colour = fjord_colours[1L], size = 1.8, na.rm = TRUE) +
    geom_point(data = picks[picks$rank == 2L, ], shape = 21, size = 4, stroke = 1, fill = "white",
               colour = fjord_colours[1L]) +
    geom_point(data = picks[picks$rank == 1L, ], size = 4.5, colour = mark_strong) +
    facet_wrap("panel", scales = "free_y") +
    scale_x_continuous(breaks = whole_breaks(curves$k), limits = range(object$k) + c(-0.4, 0.4),
                       guide = ggplot2::guide_axis(check.overlap = TRUE)) +
    scale_y_continuous(labels = function(v) digits3(v), expand = expansion(mult = 0.12),
                       n.breaks = if (many) 3 else 5, guide = ggplot2::guide_axis(check.overlap = TRUE)) +
    words_on(
      title = vote_title(vote),
      subtitle = paste(c("Large point: what the index picks by itself. Ring: its second choice.",
                       if (!is.na(chosen)) paste0("Shaded: ", chosen, ", the count ", chosen_by(vote), "."),
                       if (!is.na(second)) paste0("Dotted: ", second, ", its runner-up."),
                       if (many) "High, low: which values are better; then the pick.",
                       if (many && any(grepl("*\n", label, fixed = TRUE))) "Starred: has no vote.",
                       if (nrow(every) > 0L) paste0("Band and ticks below: ", object$repeats, " repeats.")),
                       collapse = " "),
      caption = data_caption(object$ready[[vote$preparation]],
                             paste0(capital(voters_said(vote)), ", k = ", count_range(object$k), ", seed ",
                                    object$seed, ".")),
      x = "number of groups", y = NULL
    ) +
    fl_theme(if (many) 11 else 13) + (if (many) theme(strip.text = element_text(size = 9, face = "plain")))
}

curve_values <- function(vote) {
  mine <- vote$values
  cells <- vctrs::vec_split(mine[, c("value", "error")], mine[, c("index", "k")])
  middle <- function(field) vapply(cells$val, function(rows) middle_of(rows[[field]]), 0)
  ends <- function(end) {
    vapply(cells$val, function(rows) if (all(is.na(rows$value))) NA_real_ else end(rows$value, na.rm = TRUE), 0)
  }
  out <- tibble::tibble(cells$key, value = middle("value"), error = middle("error"), lowest = ends(min),
                        highest = ends(max))
  held_in(out[out$index %in% out$index[!is.na(out$value)], ])
}

# A single wild repeat would leave no room for the curve: bands go no farther beyond it than it spans.
held_in <- function(curves) {
  by <- split(seq_len(nrow(curves)), curves$index)
  for (rows in by) {
    ends <- range(curves$value[rows], na.rm = TRUE)
    curves$lowest[rows] <- pmax(curves$lowest[rows], ends[1L] - diff(ends))
    curves$highest[rows] <- pmin(curves$highest[rows], ends[2L] + diff(ends))
  }
  curves
}

# What the repeats pick, and how many of them.
repeat_picks <- function(vote, drawn) {
  mine <- vote$repeats[vote$repeats$index %in% drawn, ]
  by <- vctrs::vec_count(mine[c("index", "k")], sort = "location")
  tibble::tibble(by$key, times = as.double(by$count))
}

curve_picks <- function(vote, curves) {
  ballots <- vote$ballots[vote$ballots$rank <= 2L, c("index", "k", "rank", "value")]
  ballots[ballots$index %in% curves$index, ]
}

panel_labels <- function(vote, picks, drawn) {
  keys <- intersect(names(vote$indices), c(drawn, picks$index))
  votes <- unlist(vote$used$index[keys]) > 0
  keys <- keys[order(!votes)]
  vapply(keys, function(key) {
    index <- vote$indices[[key]]
    mine <- picks[picks$index == key, ]
    pick <- mine$k[mine$rank == 1L]
    better <- if (length(keys) > 9L) paste0(sub("er$", "", index$direction), ": ")
    else paste(index$direction, "is better; ")
    mark <- if (!votes[[key]]) if (length(keys) > 9L) "*" else " (no vote)"
    paste0(sub(" \\(.*$", "", index$label), mark, "\n", better,
           if (length(pick) == 0L) "abstains" else if (length(keys) > 9L) pick else paste("picks", pick),
           if (length(keys) <= 9L && nrow(mine) > 1L) paste0(", then ", mine$k[mine$rank == 2L]))
  }, "")
}

chosen_by <- function(vote) if (is.null(vote$settled)) "of the vote" else "settled on"

vote_choice <- function(vote) if (is.null(vote$settled) && vote$verdict %in% undecided) NA_integer_ else vote$k

vote_title <- function(vote) {
  said <- if (!is.null(vote$settled)) settled_fact(vote$settled) else vote_headline(vote)
  sub("\\.$", "", sub("(?<=[a-z)])\\. [A-Z].*$", "", said, perl = TRUE))
}
