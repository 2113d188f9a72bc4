# The look shared by all figures: one theme, one palette, and how titles and groups are drawn.

#' The look of the figures
#'
#' `fl_theme()` is the ggplot2 theme, `fl_palette()` the colours of the groups. The first eight colours were chosen so
#' that any two stay apart for readers with normal, protan, deutan and tritan vision (at least 24 units in CIE Lab
#' after the simulation of Machado, Oliveira and Fernandes 2009); groups also differ by shape.
#'
#' @param size Base size of the text, in points.
#' @param n How many colours; beyond eight they are mixed from the eight and shapes must tell groups apart.
#' @return A ggplot2 theme; a vector of colours.
#' @references Machado, G. M., Oliveira, M. M. and Fernandes, L. A. F. (2009). A physiologically-based model for
#'   simulation of color vision deficiency. \doi{10.1109/TVCG.2009.113}
#' @section Errors: `fjordline_error_argument` where `n` is not one whole number of 0 or more.
#' @examples
#' fl_palette(5)
#' @importFrom ggplot2 ggplot aes geom_point geom_line geom_tile geom_rect geom_text  geom_segment geom_hline
#'   geom_vline geom_col scale_x_continuous scale_y_continuous scale_colour_manual scale_fill_manual scale_shape_manual
#'   scale_fill_gradient scale_alpha_identity facet_wrap labs theme theme_minimal element_text element_blank
#'   element_line element_rect margin unit guides guide_legend coord_cartesian expansion scale_colour_identity
#'   scale_fill_identity scale_size_identity scale_x_discrete scale_y_discrete autoplot rel stage after_scale
#' @importFrom rlang .data
#' @export
fl_theme <- function(size = 13) {
  theme_minimal(base_size = size) +
    theme(
      text = element_text(colour = ink), axis.text = element_text(colour = ink_soft),
      plot.title = element_text(face = "bold", size = rel(1.2)),
      plot.subtitle = element_text(colour = ink_soft, margin = margin(b = 10)), plot.title.position = "plot",
      plot.caption = element_text(colour = ink_soft, hjust = 0, size = rel(0.8), margin = margin(t = 10)),
      plot.caption.position = "plot", plot.margin = margin(14, 18, 10, 14),
      plot.background = element_rect(fill = "white", colour = NA),
      panel.grid.minor = element_blank(), panel.grid.major = element_line(colour = "#E7EBEE", linewidth = 0.4),
      strip.text = element_text(face = "bold", hjust = 0, size = rel(0.95)), panel.spacing = unit(16, "pt"),
      legend.position = "right", legend.title = element_text(face = "bold"),
      legend.key.height = unit(22, "pt")
    )
}

ink <- "#16222B"
ink_soft <- "#52616B"
mark_strong <- "#F14A4E"
mark_soft <- "#CFBB39"
noise_grey <- "#9AA5AC"

fjord_colours <- c("#224E56", "#F14A4E", "#59BD84", "#CFBB39", "#852A97", "#BFAFF5", "#56560A", "#D365A2")
group_shapes <- c(16, 17, 15, 18, 3, 8, 4, 25)

#' @rdname fl_theme
#' @export
fl_palette <- function(n) {
  check_whole(n, "n", least = 0)
  if (n <= length(fjord_colours)) fjord_colours[seq_len(n)] else grDevices::colorRampPalette(fjord_colours)(n)
}

# Text in lines of at most `width` characters.
folded <- function(text, width) {
  if (length(text) > 0L) paste(strwrap(paste(text, collapse = " "), width = width), collapse = "\n")
}

data_caption <- function(ready, extra = NULL) {
  paste(c(paste0("Data: ", ready$data$name, ", ", digits3(length(ready$rows)), " of ", counted(ready$total, "row"),
                 ". Preparation: ", ready$name, "."),
          extra), collapse = " ")
}

# The colour of each group, for lines and points, or for fills; noise is grey.
group_scale <- function(groups, scale = scale_colour_manual, of = NULL) {
  real <- setdiff(as.character(groups), "0")
  colours <- stats::setNames(fl_palette(max(length(real), 1L)), if (length(real) > 0L) real else "1")
  scale(values = c(colours, "0" = noise_grey), name = "group", labels = legend_labels(of))
}

shape_scale <- function(levels, title, of = NULL) {
  scale_shape_manual(values = stats::setNames(rep_len(group_shapes, length(levels)), levels), name = title,
                     drop = FALSE, labels = if (is.null(of)) ggplot2::waiver() else legend_labels(of))
}

# Figures of many rows draw an even sample, and say so.
drawn_rows <- function(n, most = 20000L) sampled_rows(n, most)

drawn_note <- function(drawn, n) {
  if (length(drawn) < n) paste0("Drawn: an even sample of ", counted(length(drawn), "row"), ".")
}

whole_breaks <- function(k) {
  span <- diff(range(k))
  seq(min(k), max(k), by = max(1L, ceiling(span / 15)))
}
