# How far a row lies from the rest, by its nearest other rows. Scores of all rows; larger means further apart.

# Distance to the count-th nearest other row (Ramaswamy, Rastogi & Shim 2000).
neighbour_distance <- function(x, count) neighbour_distance_kernel(x, as.integer(count), thread_count())

# Local outlier factor (Breunig, Kriegel, Ng & Sander 2000): the density around a row's neighbours over its own. About
# 1 inside a group, whatever its density. A neighbourhood is the `count` nearest rows; ties at its edge go to the lower
# row number. Among duplicates densities are endless: their ratio is 1.
density_ratio <- function(x, count) {
  near <- neighbours_kernel(x, count, thread_count())
  edge <- near$distance[nrow(near$distance), ]
  reach <- matrix(pmax(near$distance, edge[near$row]), nrow = nrow(near$row))
  density <- 1 / colMeans(reach)
  around <- matrix(density[near$row], nrow = nrow(near$row))
  ratio <- sweep(around, 2L, density, "/")
  ratio[is.nan(ratio)] <- 1
  colMeans(ratio)
}

# How dense it is around each row: the distance within which there are `rows` rows, itself counted.
core_distance <- function(x, rows) {
  if (rows < 2L || nrow(x) < 2L) rep(0, nrow(x)) else neighbour_distance(x, min(rows, nrow(x)) - 1L)
}

# Where a rising curve turns up: its point farthest below the line between its ends (Satopaa et al. 2011).
turning_point <- function(values) {
  values <- sort(values)
  n <- length(values)
  rise <- values[n] - values[1L]
  if (n < 3L || rise <= 0) {
    return(n)
  }
  which.max((seq_len(n) - 1) / (n - 1) - (values - values[1L]) / rise)
}

# Rows that make a place dense, where nothing else is asked for: one of the best rules of bench/defaults.R. Twice the
# columns (Sander et al. 1998) asks for too many where there are many.
usual_min_rows <- function(x) as.integer(max(4L, round(log(nrow(x)))))

# New rows by the nearest of some rows that are kept: a table with the columns and `group`, `reach` the distance up to
# which a row belongs.
by_nearest_kept <- function(x, kept, reach) {
  if (nrow(kept) == 0L) {
    return(list(group = rep(0L, nrow(x)), distance = rep(Inf, nrow(x)), core = rep(NA_integer_, nrow(x))))
  }
  found <- nearest_core_kernel(x, as.matrix(kept[setdiff(names(kept), "group")]), thread_count())
  list(group = ifelse(found$distance <= reach[found$core], kept$group[found$core], 0L), distance = found$distance,
       core = found$core)
}

rows_with_group <- function(x, group) {
  colnames(x) <- paste0("x", seq_len(ncol(x)))
  tibble::tibble(tibble::as_tibble(x), group = as.integer(group))
}

# How many there are is told with every partition.
noise_note <- function(group) if (all(group > 0L)) "No row is noise."

check_placeable <- function(metric) {
  if (metric == "given") {
    fl_abort("method", "These groups were made from a given dissimilarity, which says nothing of other rows.",
             advice = "Make them from the columns (metric = ) to place new rows.")
  }
}
