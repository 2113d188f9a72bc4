# Who voted for what, and how clear it is.

#' Draw a vote
#'
#' Below, a row an index with its first three choices; above, the points of every count. The chosen count is shaded,
#' the runner-up outlined.
#'
#' @param object From [fl_vote()] or [fl_settle()].
#' @param ... Not used.
#' @return A ggplot.
#' @examples
#' \donttest{
#' autoplot(fl_vote(fl_sweep(fl_prepare(fl_demo("icequakes"), transform = "log"), k = 1:6)))
#' }
#' @export
autoplot.fl_vote <- function(object, ...) {
  ballots <- object$ballots[object$ballots$rank <= object$depth, ]
  if (nrow(ballots) == 0L) {
    fl_abort("argument", "There is nothing to draw: no index could rank the counts.")
  }
  rows <- ballot_rows(object)
  ballots$y <- rows$y[match(ballots$index, rows$index)]
  totals <- object$points
  unit <- 3 / max(totals$points)
  base <- max(rows$y) + 1.1
  totals$top <- base + totals$points * unit
  totals$look <- ifelse(totals$k == object$k, mark_strong, ifelse(totals$k %in% object$runner_up, mark_soft, "#C9D2D8"))
  chosen <- vote_choice(object)
  ggplot() +
    (if (!is.na(chosen)) geom_rect(data = data.frame(k = chosen), aes(xmin = .data$k - 0.45, xmax = .data$k + 0.45),
                                   ymin = -Inf, ymax = Inf,
                                   fill = mark_soft, alpha = 0.22)) +
    geom_rect(data = totals, aes(xmin = .data$k - 0.32, xmax = .data$k + 0.32, ymin = base, ymax = .data$top,
                                 fill = .data$look)) +
    geom_text(data = totals, aes(.data$k, .data$top + 0.22, label = digits3(.data$points)), colour = ink, size = 4) +
    geom_point(data = ballots, aes(.data$k, .data$y, size = 13 - 2.5 * .data$rank,
                                   colour = ifelse(.data$weight > 0, rank_ink(.data$rank), "#C9D2D8"))) +
    geom_text(data = ballots, aes(.data$k, .data$y, label = .data$rank,
                                  colour = ifelse(.data$rank == 1L & .data$weight > 0, "white", ink)), size = 3.8) +
    scale_fill_identity() + scale_colour_identity() + scale_size_identity() +
    scale_x_continuous(breaks = whole_breaks(totals$k), limits = range(totals$k) + c(-0.6, 0.6)) +
    scale_y_continuous(breaks = c(rows$y, base + 1.5), labels = c(rows$label, "points of the families"),
                       limits = c(0.4, base + 3.5)) +
    words_on(
      title = vote_title(object),
      subtitle = paste0("Below: each index's ",
                        if (object$depth > 1) paste("first", spelt(object$depth), "choices") else "choice",
                        ". A family has one vote, shared by its indices; pale ones have none. ",
                        "Above: points, red the winner, yellow the runner-up."),
      caption = data_caption(object$sweep$ready[[object$preparation]],
                             "Not tested: whether there are groups at all, and groups that are not round."),
      x = "count of groups", y = NULL
    ) +
    fl_theme() + theme(panel.grid.major.y = element_line(colour = "#EEF1F3"),
                       axis.text.y = element_text(lineheight = 0.95))
}

rank_ink <- function(rank) c("#224E56", "#8FB3BA", "#CBDDE0")[pmin(rank, 3L)]

# One row an index, families together, those without a vote at the bottom.
ballot_rows <- function(vote) {
  rows <- unique(vote$ballots[, c("index", "family", "weight")])
  order <- order(rows$weight > 0, match(rows$family, unique(vote$shares$family)), decreasing = c(FALSE, TRUE),
                 method = "radix")
  rows <- rows[order, ]
  rows$y <- seq_len(nrow(rows))
  rows$label <- paste0(rows$index, "\n", ifelse(rows$weight > 0, rows$family, paste0(rows$family, ", no vote")))
  rows
}
