# k-medoids: groups around rows of the table, under any metric or a given dissimilarity. The work is done in
# src/medoids.cpp.

method_medoids <- function() {
  declare_method(
    "medoids",
    fit = run_medoids,
    settings = list(restarts = 3L, metric = "euclidean", sample_rows = 10000L, max_rounds = 100L, dissimilarity = NULL),
    check = check_medoids,
    about = list(label = "k-medoids (Kaufman & Rousseeuw 1990; Schubert & Rousseeuw 2021)",
                 when = paste("far rows should pull less, the metric is not Euclidean, or a real row must stand for",
                              "each group"),
                 shape = "round groups under its metric; far rows pull less than on means",
                 needs = "numbers, or a dissimilarity of all pairs; k",
                 cost = "time n^2 d a pass, with samples s^2 d; memory: the table once more, n k distances",
                 source = "Kaufman & Rousseeuw 1990; Schubert & Rousseeuw 2021", minimises = "sum of distances",
                 centre = "medoid"),
    placing = list(assign = assign_medoids, rule = rule_of_medoids)
  )
}

medoid_metrics <- c("euclidean", "manhattan", "chebyshev", "cosine", "correlation")

check_medoids <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$sample_rows, "sample_rows", least = 10)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_choice(settings$metric, medoid_metrics, "metric", what = "method")
}

run_medoids <- function(x, k, settings, seed) {
  given <- settings$dissimilarity
  if (is.null(given)) check_distinct(k, distinct_kernel(x, as.integer(k), settings$metric), settings$metric)
  if (!is.null(given) && k > nrow(given)) {
    fl_abort("count", paste0(k, " groups are impossible: the table has only ", counted(nrow(given), "row"), "."))
  }
  sampled <- nrow(x) > settings$sample_rows && is.null(given)
  fit <- if (sampled) sampled_medoids(x, k, settings, seed) else all_medoids(given %||% x, k, settings, seed)
  check_directions(x, fit, settings$metric)
  list(
    group = fit$group, centres = x[fit$medoid, , drop = FALSE], objective = fit$objective, converged = fit$converged,
    model = list(metric = if (is.null(given)) settings$metric else "given", medoid = cbind(fit$medoid)),
    restarts = restart_counts(fit$reached, fit$objective, swaps = fit$swaps),
    notes = c(
      paste0("The sum of ", if (is.null(given)) metric_said(settings$metric) else "the given dissimilarities",
             " to the medoids, which are rows of the table, is ", digits3(fit$objective), "."),
      if (sampled) paste0("The medoids were sought in ", counted(settings$restarts, "sample"), " of ",
                          counted(settings$sample_rows, "row"), "; all rows were then placed and the best kept."),
      if (!fit$converged) "Swaps still helped when the passes ran out; try a larger max_rounds."
    )
  )
}

metric_said <- function(metric) {
  if (metric %in% sphere_metrics) paste("1 -", metric) else paste(capital_metric(metric), "distances")
}

capital_metric <- function(metric) {
  switch(metric, euclidean = "Euclidean", manhattan = "Manhattan", chebyshev = "Chebyshev", metric)
}

all_medoids <- function(x, k, settings, seed, restarts = settings$restarts) {
  medoids_kernel(x, !is.null(settings$dissimilarity), settings$metric, as.integer(k), as.integer(restarts),
                 as.integer(settings$max_rounds), thread_count(), as.double(seed))
}

# Kaufman & Rousseeuw's sampling: medoids of a sample, judged on all rows; the best so far take part in the next sample.
sampled_medoids <- function(x, k, settings, seed) {
  best <- NULL
  reached <- double()
  for (turn in seq_len(settings$restarts)) {
    rows <- draw_kernel(nrow(x), settings$sample_rows, derived_seed(seed, k, turn))
    rows <- sort(union(rows, best$medoid))
    fit <- all_medoids(x[rows, , drop = FALSE], k, settings, derived_seed(seed, k, turn, 1), restarts = 1L)
    if (fit$without_direction <= length(rows)) {
      fit$without_direction <- rows[fit$without_direction]
      return(fit)
    }
    fit$medoid <- rows[fit$medoid]
    fit$without_direction <- nrow(x) + 1
    placed <- nearest_kernel(x, x[fit$medoid, , drop = FALSE], settings$metric, thread_count())
    fit$group <- replace(placed$group, fit$medoid, seq_len(k))
    fit$objective <- sum(placed$distance)
    reached <- c(reached, fit$objective)
    if (is.null(best) || fit$objective < best$objective) best <- fit
  }
  best$reached <- reached
  best
}

assign_medoids <- function(fit, x) {
  check_placeable(fit$model$metric)
  nearest_kernel(x, fit$centres, fit$model$metric, thread_count())
}

rule_of_medoids <- function(fit) {
  check_placeable(fit$model$metric)
  rule_of_centres(as_seen(fit$centres, fit$model$metric), fit$model$metric)
}

#' k-medoids
#'
#' Puts each row into the group whose medoid, a row of the table, is nearest, so that the sum of distances is small. Far
#' rows count by their distance, not its square, so they pull less than in k-means; and any metric will do.
#'
#' Restarts are seeded with rows far from each other. Then a medoid is swapped for another row as long as that
#' lowers the sum of distances by more than 1e-10 of it. For every candidate, what removing each of the k medoids
#' costs is summed up in one pass over the rows, so that a pass over all candidates takes time n squared whatever k
#' is; of every 32 candidates the best is taken. A returned fit (up to `sample_rows` rows) allows no swap that lowers
#' the sum. No matrix of distances is kept: they are computed when needed.
#'
#' Above `sample_rows` rows the medoids are sought in samples of that size, and each set of medoids is judged on all
#' rows (Kaufman & Rousseeuw 1990); a note tells it.
#'
#' `centres` of the partition are the medoids' values; `partition$model$medoid` are their places among the rows
#' clustered.
#'
#' @section Settings:
#' * `metric` (`"euclidean"`): also `"manhattan"` (sum of absolute differences), `"chebyshev"` (the largest), `"cosine"`
#'   and `"correlation"` (1 less the cosine or correlation of two rows), in scaled units.
#' * `dissimilarity`: a square symmetric matrix (or an object that [as.matrix()] makes one of) with a row for each row
#'   of the table, used instead of the columns. You hold that matrix in memory; such groups cannot place new rows.
#' * `restarts` (3): seeded starts, or samples.
#' * `sample_rows` (10,000): rows above which samples are used, and how large they are.
#' * `max_rounds` (100): most passes over all candidates.
#'
#' @references
#' Kaufman, L. and Rousseeuw, P. J. (1990). Finding Groups in Data. Wiley. \doi{10.1002/9780470316801}
#'
#' Schubert, E. and Rousseeuw, P. J. (2021). Fast and eager k-medoids clustering.
#' \doi{10.1016/j.is.2021.101804}
#' @examples
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' fl_partition(ready, fl_method("medoids", metric = "manhattan"), k = 4)
#' @name method-medoids
NULL
