# Density-based groups of one radius. The work is done in src/dbscan.cpp.

method_dbscan <- function() {
  declare_method(
    "dbscan",
    fit = run_dbscan,
    settings = list(radius = "suggested", min_rows = NULL),
    check = check_dbscan,
    about = list(label = "DBSCAN (Ester, Kriegel, Sander & Xu 1996)",
                 when = "groups of any shape are about equally dense, and there is noise",
                 shape = "groups of any shape and of one density, with sparse noise between",
                 needs = "numbers in like units; a radius, which is suggested; finds the count itself",
                 cost = "time n log n in few columns, n^2 d in many; memory: the table twice",
                 source = "Ester, Kriegel, Sander & Xu 1996", minimises = "W"),
    counts = list(free_count = TRUE, parameter = "radius", grid = dbscan_grid),
    placing = list(assign = assign_dbscan, by_rows = TRUE, guards = TRUE),
    traits = list(views = function(partition) {
      c(radius = "The sorted distances that the radius is suggested from")
    }, untried = density_untried)
  )
}

density_untried <- "Density (dbscan, hdbscan), which sees groups in curves among noise."

check_dbscan <- function(settings) {
  if (!identical(settings$radius, "suggested")) check_number(settings$radius, "radius", least = 0)
  if (!is.null(settings$min_rows)) check_whole(settings$min_rows, "min_rows")
}

run_dbscan <- function(x, k, settings, seed) {
  min_rows <- as.integer(settings$min_rows %||% usual_min_rows(x))
  suggested <- identical(settings$radius, "suggested")
  radius <- if (suggested) suggested_radius(x, min_rows) else settings$radius
  fit <- dbscan_kernel(x, radius, min_rows, thread_count())
  group <- if (any(fit$group > 0L)) number_groups(fit$group, x) else fit$group
  list(
    group = group,
    model = list(radius = radius, min_rows = min_rows,
                 cores = rows_with_group(x[fit$core, , drop = FALSE], group[fit$core])),
    notes = c(
      paste0("Radius ", digits3(radius), " in scaled units", if (suggested) {
        paste0(", suggested by the elbow of the sorted distances to the ", ordinal(min_rows), " nearest row")
      }, ". A core row has ", min_rows, " rows within it, itself counted."),
      noise_note(group),
      if (all(group == 0L)) "No place is that dense: try a larger radius, or fewer min_rows."
    )
  )
}

suggested_radius <- function(x, min_rows) {
  distance <- sort(core_distance(x, min_rows))
  distance[turning_point(distance)]
}

# Radii that are tried where none is given: those at which more and more rows are core rows.
dbscan_grid <- function(x, settings) {
  distance <- core_distance(x, settings$min_rows %||% usual_min_rows(x))
  radius <- stats::quantile(distance, c(0.5, 0.7, 0.8, 0.85, 0.9, 0.93, 0.95, 0.97, 0.99), names = FALSE)
  unique(signif(sort(c(radius[radius > 0], suggested_radius(x, settings$min_rows %||% usual_min_rows(x)))), 6L))
}

# By the rule of the fit: to the nearest core row, if that is within the radius.
assign_dbscan <- function(fit, x) {
  by_nearest_kept(x, fit$model$cores, rep(fit$model$radius, nrow(fit$model$cores)))[c("group", "distance")]
}

#' DBSCAN
#'
#' Rows with at least `min_rows` rows within `radius`, themselves included, are core rows. Core rows within the radius
#' of each other share a group; other rows within the radius of a core row join the nearest one's group (of equally near
#' ones the lowest row), and the rest is noise, group 0. Exact, by a tree of boxes; the result does not depend on the
#' order of the rows.
#'
#' The radius is suggested where none is given: each row's distance to its `min_rows`-th nearest row is sorted, and the
#' radius is where that curve turns up, its point farthest below the line between its ends (Satopaa et al. 2011).
#' `autoplot(partition, "radius")` draws it. It is one guess: a sweep tries others, `fl_sweep(ready, "dbscan")`.
#'
#' `partition$model` holds `radius`, `min_rows` and the core rows, by which new rows are placed: to the nearest core row
#' if it is within the radius, else to noise. It finds the count itself: a `k` given is ignored.
#'
#' @section Settings:
#' * `radius` (`"suggested"`): a distance in scaled units, inclusive.
#' * `min_rows` (`NULL`): rows that make a place dense; left out, the larger of 4 and the logarithm of the number of
#'   rows, one of the best rules among those compared by `bench/defaults.R` of the sources.
#' @references
#' Ester, M., Kriegel, H.-P., Sander, J. and Xu, X. (1996). A density-based algorithm for discovering clusters in large
#' spatial databases with noise. KDD, 226--231.
#'
#' Satopaa, V., Albrecht, J., Irwin, D. and Raghavan, B. (2011). Finding a "kneedle" in a haystack.
#' \doi{10.1109/ICDCSW.2011.20}
#' @examples
#' seals <- fl_prepare(fl_demo("seal_haulouts"))
#' fl_partition(seals, fl_method("dbscan", min_rows = 10))
#' @name method-dbscan
NULL
