# Silhouette widths (Rousseeuw 1987) of several labelings of the same rows, in one pass over the distances.

silhouette_most_rows <- 10000L

silhouette_widths <- function(x, groups) {
  groups <- vapply(groups, as.integer, integer(nrow(x)))
  groups <- matrix(groups, nrow = nrow(x))
  counts <- as.integer(apply(groups, 2L, max))
  fit <- silhouette_kernel(x, groups, counts)
  fit$width[is.nan(fit$width)] <- NA_real_
  fit
}

# Which rows a pairwise index works on: all up to the limit, an even, seeded sample above it.
sampled_rows <- function(n, most = silhouette_most_rows, seed = 1) {
  if (n <= most) {
    return(seq_len(n))
  }
  start <- derived_seed(seed, n) %% n
  step <- n / most
  sort(unique(as.integer(floor((start + step * (seq_len(most) - 1)) %% n)) + 1L))
}
