# What is counted over pairs of rows, for several labelings in one pass over the distances.

silhouette_most_rows <- 30000L  # exact up to here; above, by centres
ends_most_rows <- 10000L        # smallest and largest distances: a sample of them is biased
order_most_rows <- 3000L        # distances in order: 16 bytes per pair
reference_most_rows <- 1000L    # tables without groups are this long at most
resample_most_rows <- 2000L

# Labelings as the kernels take them: a matrix with a column each, groups 1 to k, 0 left out.
labelings <- function(groups, rows) {
  groups <- matrix(vapply(groups, as.integer, integer(rows)), nrow = rows)
  list(groups = groups, counts = as.integer(apply(groups, 2L, max, 0L)))
}

# Silhouette widths and nearest other groups (rows x labelings), and `between`: for each labeling the sums of distances
# between the rows of any two groups. `x` is a table, or with metric "given" a square matrix of distances.
pair_sums <- function(x, groups, metric = "euclidean") {
  by <- labelings(groups, nrow(x))
  fit <- pair_sums_kernel(x, by$groups, by$counts, metric, thread_count())
  fit$width[is.nan(fit$width)] <- NA_real_
  fit
}

# Smallest distance between groups and largest within one: one row per labeling.
pair_ends <- function(x, groups, metric = "euclidean") {
  by <- labelings(groups, nrow(x))
  pair_ends_kernel(x, by$groups, by$counts, metric, thread_count())
}

# Sums and counts over the distances in order: one row per labeling.
pair_order <- function(x, groups, metric = "euclidean") {
  by <- labelings(groups, nrow(x))
  pair_order_kernel(x, by$groups, by$counts, metric, thread_count())
}

# Density-based validity (Moulavi et al. 2014) of each labeling.
density_validity <- function(x, groups, metric = "euclidean", dimensions = ncol(x)) {
  by <- labelings(groups, nrow(x))
  density_kernel(x, by$groups, by$counts, metric, as.double(dimensions), thread_count())
}

# Silhouettes from distances to means instead of rows, where there are too many pairs: a is the distance to the mean of
# the own group, b that to the nearest other mean. Rows x labelings, with the nearest other group.
centre_silhouettes <- function(x, groups) {
  # about the middle, so that products of large numbers do not drown the distances
  x <- x - rep(colMeans(x), each = nrow(x))
  lengths <- rowSums(x^2)
  each <- lapply(groups, function(group) {
    k <- max(group, 0L)
    if (k < 2L) {
      return(list(width = rep(NA_real_, nrow(x)), neighbour = rep(0L, nrow(x))))
    }
    means <- group_means(x, group, k)
    square <- outer(lengths, rowSums(means^2), "+") - 2 * x %*% t(means)
    distance <- sqrt(pmax(square, 0))
    inside <- which(group > 0L)
    own <- distance[cbind(inside, group[inside])]
    distance[cbind(inside, group[inside])] <- Inf
    neighbour <- max.col(-distance, "first")
    other <- distance[cbind(seq_len(nrow(x)), neighbour)]
    width <- rep(NA_real_, nrow(x))
    larger <- pmax(own, other[inside])
    width[inside] <- ifelse(larger > 0 & tabulate(group, k)[group[inside]] > 1L, (other[inside] - own) / larger, 0)
    list(width = width, neighbour = ifelse(group > 0L, neighbour, 0L))
  })
  list(width = vapply(each, `[[`, numeric(nrow(x)), "width"),
       neighbour = vapply(each, `[[`, integer(nrow(x)), "neighbour"))
}

# Which rows a pairwise index works on: all up to the limit, an even, seeded sample above it. It has one row out of
# each stretch, drawn at random: equal steps would meet a table in cycles, hours of days say, at one hour.
sampled_rows <- function(n, most, seed = 1) {
  if (n <= most) {
    return(seq_len(n))
  }
  ends <- floor(n * seq(0, most) / most)
  as.integer(ends[-1L] - floor(uniform_numbers(most, derived_seed(seed, n)) * diff(ends)))
}
