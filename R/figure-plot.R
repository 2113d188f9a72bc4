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

# A PNG of 1280 x 800 pixels, or as many of them in each direction.
save_figure <- function(figure, file, pixels = 1) {
  write_whole(file, function(draft) {
    device <- if (rlang::is_installed("ragg")) ragg::agg_png else grDevices::png
    device(draft, width = 1280 * pixels, height = 800 * pixels, res = 110 * pixels)
    on.exit(grDevices::dev.off())
    print(figure)
  })
}

# Several, each drawn by a copy of this process where that is possible: copies only draw, what is drawn was worked out
# before. What a copy could not write is drawn here, where the error says why.
save_figures <- function(figures, files, pixels = 1) {
  draw <- function(i) {
    suppressWarnings(suppressMessages(save_figure(figures[[i]], files[[i]], pixels)))
    TRUE
  }
  written <- rep(FALSE, length(files))
  if (length(files) > 1L && thread_count() > 1L && may_copy_itself()) {
    done <- suppressWarnings(parallel::mclapply(seq_along(files), draw, mc.cores = thread_count(), mc.set.seed = FALSE))
    written <- vapply(done, isTRUE, NA)
  }
  for (i in which(!written)) draw(i)
  invisible(files)
}

# Not where others watch over the processes that this one has begun: processx and the copies take each other's signals.
may_copy_itself <- function() {
  .Platform$OS.type == "unix" && !nzchar(Sys.getenv("RSTUDIO")) && !isNamespaceLoaded("processx")
}
