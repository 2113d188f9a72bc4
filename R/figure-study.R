# What a study shows: who wins where, whether ranks differ, and which index finds the known count.

#' Draw a study's standings or its track record
#'
#' @param object From [fl_run()] (its standings by default), [fl_standings()] or [fl_track_record()].
#' @param view Of standings: `"scores"`, methods by tables, the best of each table outlined; `"ranks"`, mean ranks with
#'   the range over the repeats, those joined by a line that do not differ beyond chance; `"time"`, the seconds of a fit
#'   against the rows of its table. Of a track record: `"found"`, how often each voter found the known count.
#' @param most How many voters of a track record to draw.
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' \donttest{
#' study <- fl_study(c("water_samples", "icequakes"), c("kmeans", "linkage"), k = 2:6, indices = "fast")
#' autoplot(fl_standings(fl_run(study)))
#' }
#' @name draw_study
NULL

#' @rdname draw_study
#' @export
autoplot.fl_run <- function(object, view = "scores", ...) autoplot(fl_standings(object), view = view, ...)

#' @rdname draw_study
#' @export
autoplot.fl_standings <- function(object, view = "scores", ...) {
  check_choice(view, c("scores", "ranks", "time"), "view")
  switch(view, scores = draw_scores(object), ranks = draw_ranks(object), time = draw_time(object))
}

study_caption <- function(result) {
  study <- result$study
  paste0("Study ", quoted(study$name), ": ", counted(sum(result$cells$asked), "fit"), ", ",
         counted(study$repeats, "repeat"), ", counts ", counts_said(study$k), ".")
}

# Method names are long, and lie on an axis.
axis_names <- function(names, room = 34L) cli::ansi_strtrim(names, room)

draw_scores <- function(x) {
  scores <- x$scores
  scores$contestant <- factor(scores$contestant, rev(x$ranks$contestant))
  scores$dataset <- factor(scores$dataset, x$tables)
  scores$best <- unsplit(lapply(split(scores$value, scores$dataset), function(v) {
    v == (if (x$lower) min(v, na.rm = TRUE) else max(v, na.rm = TRUE))
  }), scores$dataset) %in% TRUE
  place <- unsplit(lapply(split(if (x$lower) -scores$value else scores$value, scores$dataset), function(v) {
    span <- diff(range(v, na.rm = TRUE))
    if (span > 0) (v - min(v, na.rm = TRUE)) / span else rep(1, length(v))
  }), scores$dataset)
  agreement <- x$by %in% x$result$study$agreements && !x$lower
  scores$shade <- if (agreement) pmax(0, scores$value) else place
  crowded <- length(x$tables) >= crowded_from
  room <- if (crowded) 22L else max(12L, 72L %/% length(x$tables))
  facts <- fl_facts(x)
  ggplot(scores, aes(.data$dataset, .data$contestant, fill = .data$shade)) +
    geom_tile(colour = "white", linewidth = 1.2) +
    geom_tile(data = scores[scores$best, ], fill = NA, colour = mark_strong, linewidth = 1.1, width = 0.96,
              height = 0.92) +
    geom_text(aes(label = fixed2(.data$value)), size = if (nrow(scores) > 120L) 2.8 else 4.4,
              colour = ifelse(scores$shade %in% NA | scores$shade < 0.55, ink, "white")) +
    scale_fill_gradient(low = "#F1F5F6", high = fjord_colours[1L], limits = c(0, 1), na.value = "white",
                        name = if (agreement) measure_said(x$by) else "place between\nworst and best") +
    scale_x_discrete(position = "top", labels = function(v) fitted_words(v, room, crowded)) +
    scale_y_discrete(labels = axis_names) +
    words_on(title = facts[1L],
             subtitle = c(standing_facts(x)[1L], "Outlined: the best of each table; in the order of mean ranks."),
             caption = study_caption(x$result), x = NULL, y = NULL) +
    fl_theme() + theme(panel.grid.major = element_blank(), axis.text = element_text(colour = ink),
                     axis.text.x.top = tilted(crowded, top = TRUE))
}

# Bars under the axis join contestants whose mean ranks are no farther apart than the critical difference.
draw_ranks <- function(x) {
  if (nrow(x$ranks) < 2L || length(x$tables) < 2L) {
    fl_abort("argument", "Ranks need two contestants and two tables.",
             found = paste0("There are ", nrow(x$ranks), " and ", length(x$tables), "."))
  }
  ranks <- x$ranks
  ranks$at <- rev(seq_len(nrow(ranks)))
  alike <- cliques_of_ranks(ranks$rank, x$difference)
  bars <- tibble::tibble(low = ranks$rank[alike$from], high = ranks$rank[alike$to],
                         at = -0.35 * seq_len(nrow(alike)) + 0.3)
  facts <- fl_facts(x)
  ggplot(ranks, aes(.data$rank, .data$at)) +
    geom_segment(aes(x = .data$low, xend = .data$high, yend = .data$at), colour = noise_grey, linewidth = 2.4,
                 alpha = 0.6) +
    geom_point(size = 4, colour = fjord_colours[1L]) +
    geom_text(aes(label = fixed2(.data$rank)), vjust = -1, size = 3.6, colour = ink_soft) +
    (if (nrow(bars) > 0L) geom_segment(data = bars, aes(x = .data$low, xend = .data$high, yend = .data$at),
                                       colour = mark_strong, linewidth = 1.6)) +
    scale_y_continuous(breaks = ranks$at, labels = axis_names(ranks$contestant),
                       limits = c(min(bars$at, 1) - 0.3, nrow(ranks) + 0.6)) +
    scale_x_continuous(breaks = seq_len(nrow(ranks)), limits = c(1, nrow(ranks)),
                       expand = expansion(mult = 0.04)) +
    words_on(title = facts[1L],
             subtitle = c(standing_facts(x)[-1L], if (nrow(bars) > 0L) paste0(
               "Red bars join what does not differ beyond chance (critical difference ", fixed2(x$difference), ")."
             ), if (any(ranks$high > ranks$low)) "Grey: the range over the repeats."),
             caption = study_caption(x$result), x = "mean rank (1 is best)", y = NULL) +
    fl_theme() + theme(panel.grid.major.y = element_blank(), axis.text.y = element_text(colour = ink))
}

# Longest runs of neighbours within the difference, none inside another.
cliques_of_ranks <- function(ranks, difference) {
  to <- vapply(seq_along(ranks), function(i) max(which(ranks - ranks[i] <= difference)), 0L)
  keep <- to > seq_along(ranks) & c(TRUE, diff(to) > 0)
  tibble::tibble(from = which(keep), to = to[keep])
}

draw_time <- function(x) {
  cells <- x$result$cells
  cells <- cells[cells$status == "done" & !is.na(cells$seconds), ]
  sets <- split(cells, list(cells$dataset, cells$method), drop = TRUE)
  study <- x$result$study
  times <- vctrs::vec_rbind(!!!unname(lapply(sets, function(mine) {
    tibble::tibble(dataset = mine$dataset[1L], method = mine$method[1L], seconds = stats::median(mine$seconds),
                   rows = nrow(study$datasets[[mine$dataset[1L]]]$table))
  })))
  times$seconds <- pmax(times$seconds, 0.001)
  overall <- tapply(times$seconds, times$method, function(v) exp(mean(log(v))))
  times$method <- factor(times$method, names(sort(overall, decreasing = TRUE)))
  methods <- levels(times$method)
  slow <- methods[1L]
  quick <- methods[length(methods)]
  ggplot(times, aes(.data$rows, .data$seconds, colour = .data$method, shape = .data$method)) +
    geom_line(linewidth = 0.6) + geom_point(size = 3) +
    ggplot2::scale_x_log10(labels = function(v) vapply(v, digits3, "")) +
    ggplot2::scale_y_log10(labels = function(v) vapply(v, digits3, "")) +
    scale_colour_manual(values = stats::setNames(fl_palette(length(methods)), methods), name = "method",
                        labels = axis_names) +
    scale_shape_manual(values = stats::setNames(rep_len(group_shapes, length(methods)), methods), name = "method",
                       labels = axis_names) +
    words_on(title = paste0("Slowest: ", slow, ", ", time_said(overall[[slow]]), " a fit; quickest: ", quick, ", ",
                            time_said(overall[[quick]]), "."),
             subtitle = paste("Median seconds of one fit on each table; both axes logarithmic. Under several workers",
                              "each fit has one thread."),
             caption = study_caption(x$result), x = "rows of the table", y = "seconds") +
    fl_theme()
}

#' @rdname draw_study
#' @export
autoplot.fl_track_record <- function(object, view = "found", most = 20, ...) {
  check_choice(view, "found", "view")
  check_whole(most, "most")
  record <- utils::head(object$record, most)
  record$name <- make.unique(paste0(ifelse(record$voter == "vote", "the vote", record$voter), " of ", record$method))
  record$name <- factor(record$name, rev(record$name))
  record$kind <- ifelse(record$voter == "vote", "vote", "index")
  facts <- fl_facts(object)
  ggplot(record, aes(.data$found, .data$name)) +
    geom_segment(aes(x = .data$low, xend = .data$high, yend = .data$name), colour = noise_grey, linewidth = 1.2) +
    geom_point(aes(x = .data$within_one), shape = 1, size = 3, colour = ink_soft) +
    geom_point(aes(colour = .data$kind, shape = .data$kind), size = 3.6) +
    scale_colour_manual(values = c(vote = mark_strong, index = fjord_colours[1L]), name = NULL) +
    scale_shape_manual(values = c(vote = 17, index = 16), name = NULL) +
    scale_x_continuous(limits = c(0, 1), labels = function(v) percent(v)) +
    scale_y_discrete(labels = function(v) axis_names(v, 46L)) +
    words_on(title = facts[1L],
             subtitle = c("Share of the tables in which the known count was put first; lines: 95 % intervals;",
                          "rings: found within one.",
                          if (nrow(object$record) > nrow(record)) paste0("The first ", nrow(record), " of ",
                                                                         nrow(object$record), " voters.")),
             caption = study_caption(object$result), x = "known count found", y = NULL) +
    fl_theme() + theme(legend.position = "top", axis.text.y = element_text(colour = ink))
}
