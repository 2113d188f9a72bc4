# What a study shows: who wins where, whether ranks differ, and which index finds the known count.

#' Draw a study's standings or its track record
#'
#' Who finds the known groups on which table, by how much more than chance, how fast and how steadily; and which
#' indices and votes could be trusted with the count.
#'
#' @param object From [fl_run()] (its standings by default), [fl_standings()] or [fl_track_record()].
#' @param view Of standings: `"scores"`, methods by tables, the best of each table outlined; `"ranks"`, mean ranks with
#'   the range over the repeats, those joined by a line that do not differ beyond chance; `"time"`, the seconds of a fit
#'   against the rows of its table; `"stability"`, how similar the repeats of a fit are. Of a track record: `"found"`,
#'   how often each voter found the known count; `"relation"`, whether a better index value means a better agreement,
#'   by table; `"index"`, the values of one index against the agreement, one point per fit.
#' @param index The index to draw under `"index"`; left out, the silhouette, or the first of the study.
#' @param most How many voters of a track record to draw.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view or an index that is not known, and where there is too little
#'   to draw.
#' @references Demsar, J. (2006). Statistical comparisons of classifiers over multiple data sets. Journal of Machine
#'   Learning Research 7, 1-30.
#' @examples
#' \donttest{
#' study <- fl_study(c("water_samples", "icequakes"), c("kmeans", "linkage"), k = 2:6, indices = "fast")
#' autoplot(fl_standings(fl_run(study)))
#' }
#' @name draw_study
NULL

#' @rdname draw_study
#' @export
autoplot.fl_run <- function(object, view = "scores", ...) {
  check_choice(view, c(standing_views, record_views), "view")
  autoplot(if (view %in% record_views) fl_track_record(object) else fl_standings(object), view = view, ...)
}

standing_views <- c("scores", "ranks", "time", "stability")
record_views <- c("found", "relation", "index")

#' @rdname draw_study
#' @export
autoplot.fl_standings <- function(object, view = "scores", ...) {
  check_no_dots(...)
  check_choice(view, standing_views, "view")
  switch(view, scores = draw_scores(object), ranks = draw_ranks(object), time = draw_time(object),
         stability = draw_stability(object))
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
                     axis.text.x.top = tilted_text(crowded, top = TRUE))
}

# Bars under the axis join contestants whose mean ranks are no farther apart than the critical difference.
draw_ranks <- function(x) {
  if (nrow(x$ranks) < 2L || length(x$tables) < 2L) {
    fl_abort("argument", "Ranks need at least two methods and two tables.",
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
    words_on(title = paste0("Slowest: ", slow, ", ", time_said(overall[[slow]]), " per fit; quickest: ", quick, ", ",
                            time_said(overall[[quick]]), "."),
             subtitle = paste("Median seconds of one fit on each table; both axes logarithmic. Under several workers",
                              "each fit has one thread."),
             caption = study_caption(x$result), x = "rows of the table", y = "seconds") +
    fl_theme()
}

# Below 0.9 another seed gives another answer.
draw_stability <- function(x) {
  scores <- x$scores[!is.na(x$scores$stability), ]
  if (nrow(scores) == 0L) {
    fl_abort("argument", "How stable fits are shows only where they were repeated.",
             advice = "Run the study with repeats = 5, say: what is there stays.")
  }
  scores$contestant <- factor(scores$contestant, rev(x$ranks$contestant))
  scores$dataset <- factor(scores$dataset, x$tables)
  loose <- scores[scores$stability < 0.9, ]
  # tables below each other, since most lie at 1
  m <- length(x$tables)
  scores$place <- as.integer(scores$contestant) + 0.5 * ((m + 1) / 2 - as.integer(scores$dataset)) / m
  ggplot(scores, aes(.data$stability, .data$place)) +
    geom_vline(xintercept = 0.9, colour = noise_grey, linetype = 2) +
    geom_point(aes(colour = .data$dataset, shape = .data$dataset), size = 3.6) +
    scale_colour_manual(values = fl_palette(length(x$tables)), name = NULL, drop = FALSE) +
    scale_shape_manual(values = rep_len(group_shapes, length(x$tables)), name = NULL, drop = FALSE) +
    scale_x_continuous(limits = c(min(0, scores$stability), 1)) +
    scale_y_continuous(breaks = seq_len(nlevels(scores$contestant)), labels = axis_names(levels(scores$contestant))) +
    words_on(title = if (nrow(loose) == 0L) "Other seeds give the same groups, everywhere"
             else paste0("Other seeds give other groups in ", nrow(loose), " of ",
                         counted(nrow(scores), "pair of method and table", "pairs of method and table")),
             subtitle = "Mean adjusted Rand index between the repeats of a fit; left of the line, below 0.90.",
             caption = study_caption(x$result), x = "adjusted Rand between repeats", y = NULL) +
    fl_theme() + theme(legend.position = "top", axis.text.y = element_text(colour = ink))
}

#' @rdname draw_study
#' @export
autoplot.fl_track_record <- function(object, view = "found", most = 20, index = NULL, ...) {
  check_no_dots(...)
  check_choice(view, record_views, "view")
  check_whole(most, "most")
  switch(view, found = draw_found(object, most), relation = draw_relation(object), index = draw_index(object, index))
}

draw_relation <- function(x) {
  relation <- x$relation
  if (is.null(relation)) fl_abort("argument", "No table of the study has enough fits with index values.")
  means <- sort(tapply(relation$correlation, relation$index, mean))
  relation$index <- factor(relation$index, names(means))
  tables <- intersect(names(x$known), relation$dataset)
  best <- means[length(means)]
  relation$dataset <- factor(relation$dataset, tables)
  crowded <- length(tables) >= crowded_from
  ggplot(relation, aes(.data$dataset, .data$index, fill = .data$correlation)) +
    geom_tile(colour = "white", linewidth = 1.2) +
    geom_text(aes(label = fixed2(.data$correlation)), size = if (nrow(relation) > 120L) 2.8 else 4.2,
              colour = ifelse(abs(relation$correlation) < 0.55, ink, "white")) +
    ggplot2::scale_fill_gradient2(low = mark_strong, mid = "#F1F5F6", high = fjord_colours[1L], limits = c(-1, 1),
                                  name = "rank\ncorrelation") +
    scale_x_discrete(position = "top", labels = function(v) fitted_words(v, 18L, crowded)) +
    words_on(title = if (best >= 0.3) paste0("A better value means a better answer most with ", names(best))
             else paste0("No index tells the better answer on all tables; ", names(best), " comes closest"),
             subtitle = paste0("Rank correlation of index value and ", measure_said(x$by), " over all fits of a ",
                               "table, both turned so that more is better; below zero the index misleads."),
             caption = study_caption(x$result), x = NULL, y = NULL) +
    fl_theme() + theme(panel.grid.major = element_blank(), axis.text = element_text(colour = ink),
                     axis.text.x.top = tilted_text(crowded, top = TRUE))
}

draw_index <- function(x, index) {
  judging <- names(judging_indices(x$result$study))
  index <- check_choice(index %||% c(intersect(comparing_indices(), judging), judging)[1L], judging, "index")
  fits <- valued_fits(x$result, index, x$by)
  fits <- fits[fits$dataset %in% names(x$known), ]
  lower <- lower_wins(x$result, index)
  if (lower) fits$value <- -fits$value
  if (x$by %in% lower_is_better) fits$agreement <- -fits$agreement
  methods <- unique(fits$method)
  fits$method <- factor(fits$method, methods)
  fits$known <- fits$k == x$known[fits$dataset]
  said <- x$relation[x$relation$index == index, ]
  at <- match(fits$dataset, said$dataset)
  fits$panel <- ifelse(is.na(at), fits$dataset, paste0(fits$dataset, " (", fixed2(said$correlation[at]), ")"))
  fits$panel <- factor(fits$panel, unique(fits$panel[order(match(fits$dataset, names(x$known)))]))
  ggplot(fits, aes(.data$value, .data$agreement)) +
    geom_point(data = fits[fits$known %in% TRUE, ], shape = 1, size = 5, colour = ink) +
    geom_point(aes(colour = .data$method, shape = .data$method), size = 2.4, alpha = 0.85) +
    facet_wrap("panel", scales = "free_x") +
    scale_colour_manual(values = stats::setNames(fl_palette(length(methods)), methods), name = NULL,
                        labels = axis_names) +
    scale_shape_manual(values = stats::setNames(rep_len(group_shapes, length(methods)), methods), name = NULL,
                       labels = axis_names) +
    words_on(title = paste0("Does a better ", index, " mean a better answer? Rank correlation ",
                            if (nrow(said) == 1L) fixed2(said$correlation)
                            else paste(fixed2(min(said$correlation)), "to", fixed2(max(said$correlation)))),
             subtitle = paste0("A point is a fit; ringed: as many groups as there are classes. In brackets: the rank ",
                               "correlation on the table, both turned so that more is better."),
             caption = study_caption(x$result), x = paste0(index, if (lower) " (lower is better)" else
               " (higher is better)"), y = measure_said(x$by)) +
    fl_theme() + theme(legend.position = "top")
}

draw_found <- function(object, most) {
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
    words_on(title = sub(" [(][^()]*interval[^()]*[)]", "", facts[1L]),
             subtitle = c("Share of the tables in which the known count was put first; lines: 95% intervals;",
                          "rings: found within one.",
                          if (nrow(object$record) > nrow(record)) paste0("The first ", nrow(record), " of ",
                                                                         nrow(object$record), " voters.")),
             caption = study_caption(object$result), x = "known count found", y = NULL) +
    fl_theme() + theme(legend.position = "top", axis.text.y = element_text(colour = ink))
}
