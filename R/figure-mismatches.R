# Where the rows that disagree lie, and in what they differ from the others.

#' Draw the rows that disagree
#'
#' * `view = "border"`: how far the agreeing and the disagreeing rows are from the nearest border of their group. Cases
#'   on the border lie to the left; disagreeing rows far to the right are exceptions of another kind.
#' * `view = "causes"`: the values of columns kept aside that are found among the disagreeing rows more, or less, often
#'   than chance within the classes and groups gives.
#'
#' @param object From [fl_mismatches()].
#' @param view `"border"` or `"causes"`.
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` where no row disagrees, or no column is kept aside.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' mismatches <- fl_mismatches(fl_agree(groups))
#' autoplot(mismatches)
#' autoplot(mismatches, "causes")
#' }
#' @export
autoplot.fl_mismatches <- function(object, view = "border", ...) {
  check_no_dots(...)
  check_choice(view, c("border", "causes"), "view")
  if (nrow(object$rows) == 0L) {
    fl_abort("argument", "There is nothing to draw: no row disagrees.")
  }
  if (view == "causes") draw_causes(object) else draw_borders(object)
}

draw_borders <- function(object) {
  partition <- object$agreement$partition
  border <- border_distances(partition)$border
  compared <- object$agreement$compared
  compared <- compared[!is.na(border[compared])]
  if (length(compared) == 0L) {
    fl_abort("argument", "There is nothing to draw: one group has no border.")
  }
  wrong <- compared %in% object$agreement$disagree
  said <- c(paste0("agree (", counted(sum(!wrong), "row"), ")"), paste0("disagree (", counted(sum(wrong), "row"), ")"))
  rows <- data.frame(border = border[compared], side = factor(said[1L + wrong], said))
  limit <- stats::quantile(rows$border[!wrong], border_share, names = FALSE)
  facts <- fl_facts(object)
  ggplot(rows, aes(.data$border, fill = .data$side)) +
    ggplot2::geom_histogram(bins = 40, boundary = 0, colour = "white", linewidth = 0.2, show.legend = FALSE) +
    geom_vline(xintercept = limit, linetype = "dashed", colour = ink_soft) +
    facet_wrap(ggplot2::vars(.data$side), ncol = 1L, scales = "free_y") +
    scale_fill_manual(values = c(fjord_colours[1L], mark_strong)) +
    scale_y_continuous(breaks = function(limits) pretty(limits, 4), expand = expansion(c(0, 0.05))) +
    words_on(title = sub("\\.$", "", facts[1L]), subtitle = facts[3L],
             caption = paste(data_caption(partition$ready), "Dashed: a tenth of the agreeing rows lie to its left."),
             x = "distance to the nearest border of the own group, in scaled units (0: on the border)", y = "rows") +
    fl_theme()
}

draw_causes <- function(object, most = 15L) {
  causes <- utils::head(object$causes, most)
  if (nrow(causes) == 0L) {
    fl_abort("argument", "There is nothing to draw: no column is kept aside.",
             advice = "fl_data(aside = ) keeps some.")
  }
  said <- paste(causes$column, ifelse(is.na(causes$rows), "is", "="), causes$value)
  causes$said <- factor(said, rev(unique(said)))
  thing <- ifelse(causes$rows == 1, "row,", "rows,")
  causes$counts <- ifelse(is.na(causes$rows), "", paste(causes$rows, thing, "by chance", digits3(causes$expected)))
  causes$sure <- factor(ifelse(causes$p <= 0.05, "beyond chance", "not beyond chance"),
                        c("beyond chance", "not beyond chance"))
  reach <- max(abs(causes$z), 3)
  ggplot(causes, aes(.data$z, .data$said, fill = .data$sure)) +
    geom_col(width = 0.7) +
    geom_vline(xintercept = 0, colour = ink) +
    geom_text(aes(x = ifelse(.data$z >= 0, .data$z, 0) + reach * 0.02, label = .data$counts), hjust = 0, size = 3.7,
              colour = ink) +
    scale_fill_manual(values = c("beyond chance" = mark_strong, "not beyond chance" = "#B9C6CC"), drop = FALSE,
                      name = "adjusted p up to 0.05") +
    scale_x_continuous(limits = c(-reach, reach * 2)) +
    words_on(title = cause_title(object), subtitle = paste0(
      "Bars: how far the ", counted(nrow(object$rows), "disagreeing row"), " exceed chance within classes and groups, ",
      "in standard deviations. Numbers are compared by ranks."),
      caption = paste0(data_caption(object$agreement$partition$ready), " Columns kept aside, the ",
                       counted(nrow(causes), "surest value"), " of ", nrow(object$causes), "."),
      x = "standard deviations above chance", y = NULL) +
    fl_theme()
}

cause_title <- function(object) {
  sure <- object$causes[object$causes$p <= 0.05, ]
  if (nrow(sure) == 0L) "No column kept aside accounts for the rows that disagree"
  else {
    said <- paste(sure$column, "is", sure$value)[!duplicated(sure$column)]
    paste0("The rows that disagree: ", listed(said, most = 3L), " beyond chance")
  }
}
