# How well the groups of one labeling come back in another: for each group the largest share of rows in common with one
# of the others, |both| / |either| (Jaccard), and which rows are in that one. After Hennig (2007).
best_matches <- function(group, other) {
  k <- max(group, 0L)
  most <- max(other, 1L)
  both <- cross_counts(group, other, k, most)
  jaccard <- both / (outer(tabulate(group, k), tabulate(other, most), `+`) - both)
  best <- max.col(jaccard, "first")
  stays <- group > 0L
  stays[stays] <- other[stays] == best[group[stays]]
  list(share = jaccard[cbind(seq_len(k), best)], stays = stays)
}

# Limits of the mean overlap under resampling, from bench/defaults.R: of the groups that k-means found at counts around
# the known one, 1 in 15 below the first was a group of the table, nearly half of those between, and 9 in 10 from the
# second on. A group is found again in another partition where their overlap reaches the first.
unstable_below <- 0.75
stable_from <- 0.95
