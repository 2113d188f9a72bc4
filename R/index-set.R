# What an index sees: the fits of one method on one preparation over several counts, so that rules which need
# neighbouring counts and measures which share one pass over the distances are written the same way.

# `fits` in ascending order of the count. `how`: `metric` of the partitions; `given`, a matrix of distances where the
# metric is "given"; `pool`, the distances where other sets share them; `references` and `resamples`, functions of the
# set that fit again (see sweep-references.R).
# Where a metric compares directions, all indices see directions: W and means of raw rows would judge another table.
index_set <- function(x, fits, how = list()) {
  fits <- fits[order(vapply(fits, `[[`, 0, "k"))]
  groups <- lapply(fits, `[[`, "group")
  metric <- how$metric %||% "euclidean"
  turned <- metric %in% sphere_metrics
  pool <- how$pool %||% distance_pool(as_seen(x, metric), groups, metric, how$given)
  x <- pool$x
  total <- vapply(groups, function(g) total_scatter(x, g > 0L), 0)
  scatter <- if (turned) vapply(groups, function(g) sum(group_scatter(x, g)), 0)
  else vapply(fits, function(f) sum(f$scatter), 0)
  scatter[scatter <= rounding * total] <- 0
  set <- list(
    x = x, k = vapply(fits, `[[`, 0, "k"), groups = groups, metric = metric,
    n = vapply(groups, function(g) sum(g > 0L), 0), covered = vapply(groups, function(g) mean(g > 0L), 0),
    total = total, scatter = scatter,
    likelihood = lapply(fits, `[[`, "likelihood"), unfit = how$unfit
  )
  shared <- new_cache()
  at <- pool$of(groups)
  set$pairs <- function() part_of_pool(pool$pairs(), at)
  set$sums <- function(metric_used = metric) part_of_pool(pool$sums(metric_used), at)
  set$widths <- function() set$pairs()$width
  set$ends <- function() part_of_pool(pool$ends(), at)
  set$order <- function() part_of_pool(pool$order(), at)
  set$density <- function() part_of_pool(pool$density(), at)
  set$rank <- function() shared("rank", function() numerical_rank(x))
  set$geometry <- function() shared("geometry", function() lapply(groups, geometry_of, x = x))
  set$references <- function() if (!is.null(how$references)) shared("references", function() how$references(set))
  set$resamples <- function() if (!is.null(how$resamples)) shared("resamples", function() how$resamples(set))
  set
}

# W of rows that are equal but for rounding, against T: differences of 1e-10 of the spread.
rounding <- 1e-20

# Computed when first asked for, then kept under its name.
new_cache <- function() {
  parts <- new.env(parent = emptyenv())
  function(name, make) {
    if (is.null(parts[[name]])) parts[[name]] <- make()
    parts[[name]]
  }
}
