# How well the groups of one labeling come back in another: for each group the largest share of rows in common with one
# of the others, |both| / |either| (Jaccard), and which rows are in that one. After Hennig (2007).
returning <- function(group, other) {
  k <- max(group, 0L)
  groups <- factor(group, seq_len(k))
  others <- factor(other, seq_len(max(other, 1L)))
  both <- table(groups, others)
  jaccard <- both / (outer(as.vector(table(groups)), as.vector(table(others)), `+`) - both)
  best <- max.col(jaccard, "first")
  stays <- group > 0L
  stays[stays] <- other[stays] == best[group[stays]]
  list(share = jaccard[cbind(seq_len(k), best)], stays = stays)
}
