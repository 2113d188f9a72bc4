# How far a row lies from the rest, by its nearest other rows. Scores of all rows; larger means further apart.

# Distance to the count-th nearest other row (Ramaswamy, Rastogi & Shim 2000).
neighbour_distance <- function(x, count) {
  near <- neighbours_kernel(x, count)
  near$distance[nrow(near$distance), ]
}

# Local outlier factor (Breunig, Kriegel, Ng & Sander 2000): the density around a row's neighbours over its own. About
# 1 inside a group, whatever its density. A neighbourhood is the `count` nearest rows; ties at its edge go to the lower
# row number. Among duplicates densities are endless: their ratio is 1.
density_ratio <- function(x, count) {
  near <- neighbours_kernel(x, count)
  edge <- near$distance[nrow(near$distance), ]
  reach <- matrix(pmax(near$distance, edge[near$row]), nrow = nrow(near$row))
  density <- 1 / colMeans(reach)
  around <- matrix(density[near$row], nrow = nrow(near$row))
  ratio <- sweep(around, 2L, density, "/")
  ratio[is.nan(ratio)] <- 1
  colMeans(ratio)
}
