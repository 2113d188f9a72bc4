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

# Below, less than this much of a group and its like is common to both: Hennig (2007), doi:10.1016/j.csda.2006.11.025,
# would not trust it.
unstable_below <- 0.6
stable_from <- 0.85
