# Centres, and how far rows and centres lie from each other. Euclidean, over the rows of a group.

geometry_of <- function(x, group) {
  inside <- group > 0L
  if (!all(inside)) {
    x <- x[inside, , drop = FALSE]
    group <- group[inside]
  }
  k <- max(group, 0L)
  means <- group_means(x, group, k)
  away <- sqrt(rowSums((x - means[group, , drop = FALSE])^2))
  gaps <- as.matrix(stats::dist(means))
  diag(gaps) <- NA_real_
  list(
    k = k, n = nrow(x), size = tabulate(group, k), means = means, gaps = unname(gaps),
    scatter = group_scatter(x, group, k), reach = vapply(split(away, factor(group, seq_len(k))), sum, 0,
                                                         USE.NAMES = FALSE)
  )
}

# By column: the share of the spread that lies between groups.
column_shares <- function(x, group) {
  inside <- group > 0L
  x <- x[inside, , drop = FALSE]
  group <- group[inside]
  vapply(seq_len(ncol(x)), function(j) {
    column <- x[, j, drop = FALSE]
    total <- total_scatter(column)
    if (total > 0) 1 - sum(group_scatter(column, group)) / total else NA_real_
  }, 0)
}

numerical_rank <- function(x) principal_axes(sweep(x, 2L, colMeans(x)))$rank
