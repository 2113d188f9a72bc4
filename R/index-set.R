# What an index sees: the fits of one method on one preparation over several counts, so that rules which need
# neighbouring counts and measures which share one pass over the distances are written the same way.

# `fits` in ascending order of the count. `how`: `metric` of the partitions; `given`, a matrix of distances where the
# metric is "given"; `references` and `resamples`, functions of the set that fit again (see sweep-references.R).
# Where a metric compares directions, all indices see directions: W and means of raw rows would judge another table.
index_set <- function(x, fits, how = list()) {
  fits <- fits[order(vapply(fits, `[[`, 0, "k"))]
  groups <- lapply(fits, `[[`, "group")
  metric <- how$metric %||% "euclidean"
  turned <- metric %in% sphere_metrics
  x <- as_seen(x, metric)
  set <- list(
    x = x, k = vapply(fits, `[[`, 0, "k"), groups = groups, metric = metric,
    n = vapply(groups, function(g) sum(g > 0L), 0), covered = vapply(groups, function(g) mean(g > 0L), 0),
    total = vapply(groups, function(g) total_scatter(x, g > 0L), 0),
    scatter = if (turned) vapply(groups, function(g) sum(group_scatter(x, g)), 0)
              else vapply(fits, function(f) sum(f$scatter), 0),
    likelihood = lapply(fits, `[[`, "likelihood")
  )
  parts <- new.env(parent = emptyenv())
  # Computed when the first index asks, then shared.
  shared <- function(name, make) {
    if (is.null(parts[[name]])) parts[[name]] <- make()
    parts[[name]]
  }
  # Distances in a metric among the first, or an even sample, of so many rows.
  among <- function(most, work, metric_used = metric) {
    rows <- sampled_rows(nrow(x), most)
    table <- if (metric_used == "given") how$given[rows, rows, drop = FALSE] else x[rows, , drop = FALSE]
    mine <- lapply(groups, `[`, rows)
    out <- work(table, mine, metric_used)
    if (is.list(out) && !is.data.frame(out)) c(out, list(groups = mine)) else out
  }
  few <- nrow(x) <= silhouette_most_rows
  set$pairs <- function() shared("pairs", function() {
    if (few || metric != "euclidean") among(silhouette_most_rows, pair_sums) else centre_silhouettes(x, groups)
  })
  # Sums of distances between groups; above the limit among a sample of rows.
  set$sums <- function(metric_used = metric) {
    if (few && metric_used == metric) set$pairs()
    else shared(paste("sums", metric_used), function() among(order_most_rows, pair_sums, metric_used))
  }
  set$widths <- function() set$pairs()$width
  set$ends <- function() shared("ends", function() among(ends_most_rows, pair_ends))
  set$order <- function() shared("order", function() among(order_most_rows, pair_order))
  set$density <- function() shared("density", function() {
    among(order_most_rows, function(table, mine, metric) density_validity(table, mine, metric, ncol(x)))
  })
  set$rank <- function() shared("rank", function() numerical_rank(x))
  set$geometry <- function() shared("geometry", function() lapply(groups, geometry_of, x = x))
  set$references <- function() if (!is.null(how$references)) shared("references", function() how$references(set))
  set$resamples <- function() if (!is.null(how$resamples)) shared("resamples", function() how$resamples(set))
  set
}
