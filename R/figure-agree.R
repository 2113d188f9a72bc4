# The cross-table of groups and classes.

#' Draw an agreement
#'
#' The cross-table as a heat map with the matches on the diagonal. The colour is the share of the group's rows, the
#' number the rows; matched cells are outlined.
#'
#' @param object From [fl_agree()].
#' @param ... Not used.
#' @return A ggplot.
#' @section Errors: `fjordline_error_argument` for a view that is not known, an argument that is not used, and where
#'   there is nothing to draw.
#' @examples
#' \donttest{
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' autoplot(fl_agree(groups))
#' }
#' @export
autoplot.fl_agree <- function(object, ...) {
  check_no_dots(...)
  cells <- as.data.frame(as.table(object$table), stringsAsFactors = FALSE, responseName = "rows")
  names(cells)[1:2] <- c("group", "class")
  sizes <- rowSums(object$table)
  cells$share <- cells$rows / sizes[cells$group]
  partner <- object$matched$class[match(cells$group, object$matched$group)]
  cells$matched <- !is.na(partner) & cells$class == partner
  cells$group <- factor(cells$group, rev(rownames(object$table)))
  cells$class <- factor(cells$class, colnames(object$table))
  outlined <- cells[cells$matched, ]
  facts <- fl_facts(object)
  crowded <- ncol(object$table) >= crowded_from
  room <- if (crowded) 22L else max(14L, 56L %/% ncol(object$table))
  large <- nrow(cells) > 150L
  ggplot(cells, aes(.data$class, .data$group, fill = .data$share)) +
    geom_tile(colour = "white", linewidth = 1.2) +
    geom_tile(data = outlined, fill = NA, colour = mark_strong, linewidth = 1.1, width = 0.96, height = 0.96) +
    geom_text(aes(label = ifelse(.data$rows == 0, "", format(.data$rows, big.mark = ",", trim = TRUE))),
              colour = ifelse(cells$share > 0.55, "white", ink), size = if (large) 2.8 else 4.6) +
    scale_fill_gradient(low = "#F1F5F6", high = fjord_colours[1L], limits = c(0, 1), labels = function(v) percent(v),
                        name = "share of\nthe group") +
    scale_y_discrete(labels = legend_labels(object$partition)) +
    scale_x_discrete(position = "top", labels = function(v) fitted_words(v, room, crowded)) +
    words_on(title = sub(" \\([^()]*%\\)\\.$", "", facts[1L]),
             subtitle = c(facts[-1L][startsWith(facts[-1L], as.character(length(object$disagree)))],
                          "Outlined: the matched class of each group."),
             caption = agree_caption(object), x = object$b, y = object$a) +
    fl_theme() + theme(panel.grid.major = element_blank(), axis.text = element_text(colour = ink),
                     axis.text.x.top = tilted_text(crowded, top = TRUE),
                     axis.title.x.top = element_text(margin = margin(b = 8)))
}

agree_caption <- function(object) {
  shown <- c("adjusted_rand", "adjusted_mutual_information", "accuracy", "purity")
  measures <- listed(paste(gsub("_", " ", shown), vapply(shown, with_interval, "", x = object)))
  compared <- paste0("Compared: ", counted(object$rows, "row"), ", ", object$left_out, " left out.")
  paste(c(if (!is.null(object$partition)) data_caption(object$partition$ready), compared,
          paste0(capital(sub("rand", "Rand", measures)), ".")), collapse = " ")
}
