# plot() draws what autoplot() makes; files are written at a fixed size in pixels.

#' @export
ggplot2::autoplot

draw_now <- function(x, ...) {
  print(autoplot(x, ...))
  invisible(x)
}

#' @export
plot.fl_data <- draw_now

#' @export
plot.fl_prepare <- draw_now

#' @export
plot.fl_outliers <- draw_now

#' @export
plot.fl_sweep <- draw_now

#' @export
plot.fl_vote <- draw_now

#' @export
plot.fl_partition <- draw_now

#' @export
plot.fl_agree <- draw_now

#' @export
plot.fl_mismatches <- draw_now

#' @export
plot.fl_profile <- draw_now

#' @export
plot.fl_outcome <- draw_now

#' @export
plot.fl_contrast <- draw_now

#' @export
plot.fl_lineage <- draw_now

#' @export
plot.fl_paths <- draw_now

#' @export
plot.fl_place <- draw_now

#' @export
plot.fl_structure <- draw_now

#' @export
plot.fl_reliability <- draw_now

#' @export
plot.fl_run <- draw_now

#' @export
plot.fl_standings <- draw_now

#' @export
plot.fl_track_record <- draw_now

# A PNG of 1280 x 800 pixels.
save_figure <- function(figure, file, width = 1280, height = 800, dpi = 110) {
  write_whole(file, function(draft) {
    if (rlang::is_installed("ragg")) {
      ragg::agg_png(draft, width = width, height = height, res = dpi)
    } else {
      grDevices::png(draft, width = width, height = height, res = dpi)
    }
    on.exit(grDevices::dev.off())
    print(figure)
  })
}
