# Who voted for what, and how clear it is.

#' Draw a vote
#'
#' Below, a row per index with its first three choices; above, the points of every count. Where a mixture stands beside
#' k-means the counts of the three lines of evidence are on top. The chosen count is shaded.
#'
#' @param object From [fl_vote()] or [fl_settle()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' autoplot(fl_vote(fl_sweep(fl_prepare(fl_demo("icequakes"), transform = "log"), "kmeans", k = 1:6, indices = "fast")))
#' }
#' @export
autoplot.fl_vote <- function(object, ...) {
  check_no_dots(...)
  object$ballots <- object$ballots[!object$ballots$index %in% told_as_evidence(object), ]
  ballots <- object$ballots[object$ballots$rank <= object$depth, ]
  if (nrow(ballots) == 0L) {
    fl_abort("argument", "There is nothing to draw: no index could rank the counts.")
  }
  rows <- ballot_rows(object)
  ballots$y <- rows$y[match(ballots$index, rows$index)]
  totals <- object$points
  height <- max(3, nrow(rows) / 4)
  unit <- height / max(totals$points)
  base <- max(rows$y) + 1.1
  totals$top <- base + totals$points * unit
  evidence <- evidence_rows_at(object, base + height + 1.4)
  totals$look <- if (nrow(evidence) > 0L) rep("#C9D2D8", nrow(totals))
  else ifelse(totals$k == object$k, mark_strong, ifelse(totals$k %in% object$runner_up, mark_soft, "#C9D2D8"))
  chosen <- vote_choice(object)
  disc <- 10.5 * min(1, 10.5 / max(base + height, evidence$y + 1))
  ggplot() +
    (if (!is.na(chosen)) geom_rect(data = data.frame(k = chosen), aes(xmin = .data$k - 0.45, xmax = .data$k + 0.45),
                                   ymin = -Inf, ymax = Inf,
                                   fill = mark_soft, alpha = 0.22)) +
    geom_rect(data = totals, aes(xmin = .data$k - 0.32, xmax = .data$k + 0.32, ymin = base, ymax = .data$top,
                                 fill = .data$look)) +
    geom_text(data = totals, aes(.data$k, .data$top, label = digits3(.data$points)), colour = ink, size = 4,
              vjust = -0.4) +
    geom_point(data = ballots, aes(.data$k, .data$y, size = disc * (1.12 - 0.12 * pmin(.data$rank, 3)),
                                   colour = ifelse(.data$weight > 0, rank_ink(.data$rank), "#C9D2D8"))) +
    geom_text(data = ballots, aes(.data$k, .data$y, label = .data$rank,
                                  colour = ifelse(.data$rank == 1L & .data$weight > 0, "white", ink)),
              size = max(2.4, 0.42 * disc)) +
    geom_text(data = family_places(rows), aes(y = .data$y, label = .data$family),
              x = min(totals$k) - 0.5 - 0.2 * diff(range(totals$k)), hjust = 0,
              colour = ink_soft, size = 3.6) +
    geom_segment(data = family_places(rows), aes(y = .data$end, yend = .data$end), x = -Inf, xend = Inf,
                 colour = "#C9D2D8", linewidth = 0.4) +
    (if (nrow(evidence) > 0L) {
      list(geom_hline(yintercept = base + height + 0.7, colour = "#C9D2D8", linewidth = 0.4),
           geom_point(data = evidence, aes(.data$k, .data$y, colour = .data$look), shape = 18, size = 7),
           geom_text(data = evidence, aes(.data$k, .data$y, label = .data$k), colour = "white", size = 3.2))
    }) +
    scale_fill_identity() + scale_colour_identity() + scale_size_identity() +
    scale_x_continuous(breaks = whole_breaks(totals$k),
                       limits = range(totals$k) + c(-0.62 - 0.2 * diff(range(totals$k)), 0.6)) +
    scale_y_continuous(breaks = c(rows$y, base + height / 2, evidence$y),
                       labels = c(rows$label,
                                  if (is.null(object$found)) "points of the families" else "points of the indices",
                                  evidence$label),
                       limits = c(0.4, max(base + height + 0.2 + 0.06 * (base + height), evidence$y + 0.9))) +
    words_on(
      title = vote_title(object),
      subtitle = paste0(if (nrow(evidence) > 0L) {
        "On top: what each line of evidence counts, red where it is the count chosen. "
      },
                        "Below: each index's ",
                        if (object$depth > 1) paste("first", spelt(object$depth), "choices") else "choice",
                        ". A family has one vote, shared by its indices; pale ones have none.",
                        if (nrow(evidence) == 0L) " Above: points, red the winner, yellow the runner-up."),
      caption = data_caption(object$sweep$ready[[object$preparation]], gate_caption(object)),
      x = "number of groups", y = NULL
    ) +
    fl_theme() + theme(panel.grid.major.y = element_line(colour = "#EEF1F3"),
                       axis.text.y = element_text(lineheight = 0.95))
}

# The ballots of BIC stand on top, as evidence, unless they have votes beside the indices.
told_as_evidence <- function(vote) {
  if (is.null(vote$found) || length(vote$voters) < 2L) {
    return(character())
  }
  own <- names(mixture_ballots())
  own[own %in% indices_without_vote(vote)]
}

evidence_rows_at <- function(vote, from) {
  if (is.null(vote$found)) {
    return(data.frame(k = integer(), y = double(), label = character(), look = character()))
  }
  rows <- vote$evidence[!is.na(vote$evidence$k) & vote$evidence$k %in% c(1L, vote$points$k), ]
  data.frame(k = rows$k, y = from + 1.1 * rev(seq_len(nrow(rows)) - 1), label = unname(evidence_words[rows$evidence]),
             look = ifelse(rows$k %in% vote_choice(vote), mark_strong, ink_soft))
}

gate_caption <- function(vote) {
  test <- vote$structure
  if (is.na(test$groups)) "Whether there are groups at all could not be tested."
  else paste0(if (test$groups) "There are groups: p " else "No evidence of groups: p ",
              if (test$p <= 1 / (test$sets + 1) + 1e-12) "<= " else "= ", p_said(test$p), ".")
}

# Where a family's indices stand, and where they end. Those without a vote stand apart.
family_places <- function(rows) {
  block <- paste(rows$family, rows$weight > 0)
  by <- split(rows$y, factor(block, unique(block)))
  data.frame(family = rows$family[match(names(by), block)], y = vapply(by, mean, 0), end = vapply(by, max, 0) + 0.5)
}

rank_ink <- function(rank) c("#224E56", "#8FB3BA", "#CBDDE0")[pmin(rank, 3L)]

# One row per index, families together, those without a vote at the bottom.
ballot_rows <- function(vote) {
  rows <- unique(vote$ballots[, c("index", "family", "weight")])
  family <- match(rows$family, unique(c(vote$shares$family, rows$family)))
  order <- order(rows$weight > 0, family, decreasing = c(FALSE, TRUE), method = "radix")
  rows <- rows[order, ]
  rows$y <- seq_len(nrow(rows))
  rows$label <- paste0(rows$index, ifelse(rows$weight > 0, "", " (no vote)"))
  rows
}

# All the figures that speak for a count; NULL where there is nothing to draw.
vote_figures <- function(vote) {
  key <- gap_key(vote$sweep)
  gap <- any(key %in% vote$ballots$index) || any(key %in% vote$abstained$index) && NROW(vote$sweep$gaps) > 0L
  Filter(Negate(is.null), list(
    curves = autoplot(vote$sweep, vote = vote), vote = autoplot(vote),
    gap = if (gap) autoplot(vote$sweep, view = "gap", vote),
    models = if (!is.null(vote$shape)) autoplot(vote$sweep, "models", vote),
    methods = if (NROW(vote$contest) > 0L) autoplot(vote$sweep, "methods", vote),
    structure = if (!is.na(vote$structure$groups)) autoplot(vote$structure)
  ))
}
