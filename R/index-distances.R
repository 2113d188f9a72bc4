# Distances between the rows of one table, gone through once for all labelings judged on it: those of every count,
# method and repeat of a sweep that sees the rows alike. Above the stated limits an even sample of the rows is taken.

# `x` as the metric sees it; `given`, a matrix of distances where the metric is "given". Of each result, picked() takes
# what belongs to the labelings at `of(groups)`.
distance_pool <- function(x, groups, metric = "euclidean", given = NULL) {
  distinct <- vctrs::vec_unique(lapply(groups, as.integer))
  kept <- new_cache()
  among <- function(most, work, metric_used = metric) {
    rows <- sampled_rows(nrow(x), most)
    table <- if (metric_used == "given") given[rows, rows, drop = FALSE] else x[rows, , drop = FALSE]
    mine <- lapply(distinct, `[`, rows)
    out <- work(table, mine, metric_used)
    if (is.list(out) && !is.data.frame(out)) c(out, list(groups = mine)) else out
  }
  few <- nrow(x) <= silhouette_most_rows
  pairs <- function() kept("pairs", function() {
    if (few || metric != "euclidean") among(silhouette_most_rows, pair_sums) else centre_silhouettes(x, distinct)
  })
  list(
    x = x, of = function(groups) vctrs::vec_match(lapply(groups, as.integer), distinct), pairs = pairs,
    # Sums of distances between groups; above the limit among a sample of rows.
    sums = function(metric_used = metric) {
      if (few && metric_used == metric) pairs()
      else kept(paste("sums", metric_used), function() among(order_most_rows, pair_sums, metric_used))
    },
    ends = function() kept("ends", function() among(ends_most_rows, pair_ends)),
    order = function() kept("order", function() among(order_most_rows, pair_order)),
    density = function() kept("density", function() {
      among(order_most_rows, function(table, mine, metric) density_validity(table, mine, metric, ncol(x)))
    })
  )
}

# What a pool holds of some of its labelings: a column, a row or an element each.
part_of_pool <- function(out, at) {
  if (is.data.frame(out) || is.matrix(out)) {
    return(out[at, , drop = FALSE])
  }
  if (!is.list(out)) {
    return(out[at])
  }
  lapply(out, function(part) if (is.matrix(part)) part[, at, drop = FALSE] else part[at])
}
