# The gap and its rule.

# W as observed and as expected without groups; and the gap, where each count must reach what the next one leaves.
draw_gap <- function(sweep, vote) {
  curves <- gap_middle(sweep, vote)
  pick <- gap_pick(vote)
  made <- sweep$methods[[vote$voters[1L]]]
  patchwork::wrap_plots(gap_courses(curves), gap_rule(curves, pick), widths = c(2, 3)) +
    words_on_panels(
      title = gap_title(curves, pick),
      subtitle = paste0(
        "Left: the spread within groups (log W), and its mean over ", curves$tables[1L] %||% reference_sets,
        " reference tables. Right: the gap between the two. The smallest count that reaches its mark is picked, not ",
        "the highest point."),
      caption = data_caption(sweep$ready[[vote$preparation]],
                             paste0(capital(method_said(made)), ", seed ", sweep$seed, ".",
                                    if (sweep$repeats > 1L) paste0(" Medians of ", sweep$repeats, " repeats.")))
    )
}

gap_title <- function(curves, pick) {
  if (is.na(pick)) {
    return("The gap abstains: every count is worse than the next by more than its error")
  }
  paste0("The gap picks ", if (pick == 1L) "a single group" else paste(pick, "groups"),
         ": the smallest count that reaches its mark")
}

gap_courses <- function(curves) {
  long <- rbind(data.frame(k = curves$k, value = curves$observed, what = "observed"),
                data.frame(k = curves$k, value = curves$expected, what = "expected without groups"))
  ends <- long[long$k == min(long$k), ]
  ggplot(long, aes(.data$k, .data$value, colour = .data$what, linetype = .data$what)) +
    geom_line(linewidth = 0.8) + geom_point(size = 2) +
    scale_colour_manual(values = c(observed = fjord_colours[1L], `expected without groups` = ink_soft), name = NULL) +
    ggplot2::scale_linetype_manual(values = c(observed = "solid", `expected without groups` = "dashed"), name = NULL) +
    scale_x_continuous(breaks = whole_breaks(curves$k)) +
    words_on(x = "number of groups", y = "log W") + fl_theme() +
    theme(legend.position = "top", legend.justification = "left", legend.direction = "vertical")
}

gap_rule <- function(curves, pick) {
  reaches <- c("reaches its mark", "below its mark", "has no mark: no count after it")
  curves$state <- factor(reaches[ifelse(is.na(curves$mark), 3L, ifelse(curves$gap >= curves$mark, 1L, 2L))], reaches)
  lead <- data.frame(k = curves$k[-nrow(curves)], mark = curves$mark[-nrow(curves)], to = curves$k[-1L])
  lead <- lead[!is.na(lead$mark), ]
  chosen <- curves[curves$k %in% pick, ]
  ggplot(curves, aes(.data$k, .data$gap)) +
    (if (nrow(chosen) > 0L) geom_rect(data = chosen, aes(xmin = .data$k - 0.35, xmax = .data$k + 0.35, ymin = -Inf,
                                                         ymax = Inf), fill = mark_soft, alpha = 0.3)) +
    geom_segment(data = lead, aes(x = .data$k, xend = .data$to, y = .data$mark, yend = .data$mark), colour = ink_soft,
                 linetype = "dotted") +
    geom_segment(data = lead, aes(x = .data$k - 0.22, xend = .data$k + 0.22, y = .data$mark, yend = .data$mark),
                 colour = ink, linewidth = 1) +
    ggplot2::geom_linerange(aes(ymin = .data$gap - .data$error, ymax = .data$gap + .data$error), colour = ink_soft) +
    geom_line(colour = fjord_colours[1L], linewidth = 0.5) +
    geom_point(aes(shape = .data$state), size = 3, colour = fjord_colours[1L], fill = "white") +
    geom_point(data = chosen, size = 5, colour = mark_strong) +
    scale_shape_manual(values = stats::setNames(c(16, 21, 4), reaches), name = NULL) +
    scale_x_continuous(breaks = whole_breaks(curves$k)) +
    words_on(x = "number of groups", y = "gap (bars: its error s)") + fl_theme() +
    theme(legend.position = "top", legend.justification = "left", legend.direction = "vertical")
}
