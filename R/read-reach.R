# How far groups reach, and the rows that lie beyond: they belong to none of the groups.

reach_grid <- c(seq(0, 0.99, 0.01), 0.995, 1)  # shares of a group's rows whose distances are kept
small_group <- 5L
left_out_parts <- 10L
left_out_most_rows <- 5000L

# --- how far fitted rows lie

# Quantiles of the distances of a group's own rows to it: one row per group, one column per share of reach_grid. `all`,
# and `broad`, without the directions in which all rows hardly differ, where there are such. NULL where the method says
# nothing of new rows, or places with a guard of its own.
partition_reach <- function(partition) {
  if (!is.null(partition$placed)) {
    return(partition_reach(partition$placed$partition))
  }
  if (!is.null(partition$reach) || is.null(partition$ready$x) || partition$method$guards) {
    return(partition$reach)
  }
  group <- partition$group[partition$ready$rows]
  out <- lapply(own_distances(partition, group), distance_quantiles, group = group, k = partition$k)
  if (is.null(out$all)) NULL else Filter(Negate(is.null), out)
}

distance_quantiles <- function(distance, group, k) {
  if (!is.null(distance)) {
    t(vapply(seq_len(k), function(g) stats::quantile(distance[group == g], reach_grid, names = FALSE, type = 6L),
             double(length(reach_grid))))
  }
}

# The distance of every fitted row to its own group: from a fit without it, where that is farther.
own_distances <- function(partition, group) {
  x <- partition$ready$x
  # Where the nearest row decides, a row's own distance to its group is that to the next row of it.
  if (partition$method$by_rows) {
    return(list(all = own_by_group(partition, group, function(g, inside) core_distance(x[inside, , drop = FALSE], 2L))))
  }
  broad <- broad_partition(partition)
  own <- list(all = to_own_group(partition, x, group), broad = if (!is.null(broad)) to_own_group(broad, x, group))
  if (is.null(own$all)) {
    return(own)
  }
  if (is.null(partition$method$refit)) {
    own$all <- own$all * pull_of_means(partition, group)
    return(own)
  }
  # of more rows none pulls a component to itself that could be seen
  if (length(group) > left_out_most_rows) {
    return(own)
  }
  for (rows in left_out_rows(group)) {
    fit <- tryCatch(partition$method$refit(partition, setdiff(seq_along(group), rows), about_columns(partition$ready)),
                    fjordline_error = function(e) NULL)
    if (is.null(fit)) next
    part <- x[rows, , drop = FALSE]
    own$all[rows] <- farther_of(own$all[rows], to_own_group(fit, part, group[rows]))
    if (!is.null(broad)) {
      along <- broad_partition(fit, broad$directions)
      own$broad[rows] <- farther_of(own$broad[rows], to_own_group(along, part, group[rows]))
    }
  }
  own
}

farther_of <- function(a, b) if (is.null(b)) a else pmax(a, b, na.rm = TRUE)

# Ten parts of the rows, each with a tenth of every group; a group of one row is never left out.
left_out_rows <- function(group) {
  parts <- integer(length(group))
  for (g in unique(group[group > 0L])) {
    inside <- which(group == g)
    if (length(inside) > 1L) parts[inside] <- (seq_along(inside) - 1L) %% left_out_parts + 1L
  }
  unname(split(seq_along(group), factor(parts, seq_len(left_out_parts)), drop = TRUE))
}

# A mean of m rows without one of them lies m / (m - 1) times as far from it.
pull_of_means <- function(partition, group) {
  x <- partition$ready$x
  one <- rep(1, length(group))
  if (!identical(partition$method$settings$metric %||% "euclidean", "euclidean")) {
    return(one)
  }
  means <- group_means(x, group, partition$k)
  if (anyNA(means) || max(abs(means - partition$centres)) > 1e-6 * max(abs(x), 1e-300)) {
    return(one)
  }
  size <- tabulate(group[group > 0L], partition$k)
  one[group > 0L] <- ifelse(size > 1L, size / (size - 1), 1)[group[group > 0L]]
  one
}

own_by_group <- function(partition, group, distance) {
  out <- rep(NA_real_, length(group))
  for (g in seq_len(partition$k)) {
    inside <- which(group == g)
    away <- distance(g, inside)
    if (is.null(away)) return(NULL)
    out[inside] <- away
  }
  out
}

to_own_group <- function(partition, x, group) {
  own_by_group(partition, group, function(g, inside) {
    if (length(inside) == 0L) double() else distance_to(partition, g, x[inside, , drop = FALSE])
  })
}

# Distances of rows to one group, by the method's own rule: as if that were the only group. NULL where that says
# nothing of new rows.
distance_to <- function(partition, g, x) {
  alone <- list(k = 1L, centres = partition$centres[g, , drop = FALSE],
                model = lapply(partition$model, of_one_group, group = g))
  tryCatch(assign_rows(partition$method, alone, x)$distance, error = function(e) NULL)
}

# The same groups seen along all directions but those in which all rows hardly differ; NULL where there are none.
broad_partition <- function(partition, directions = NULL) {
  if (!is.null(partition$method$broad)) partition$method$broad(partition, directions)
}

# --- rows beyond

# Where rows go: `group`, 0 for none, `nearest`, `distance` to that and its `reach`, and whether a row is only `broken`:
# beyond all groups for a relation between columns alone, and placed without that.
guarded_rows <- function(partition, x, reach) {
  placed <- place_rows(partition, x)
  limits <- reach_limits(partition, reach)
  none <- none_of_these(partition, x, placed, limits$all)
  out <- list(group = placed$group, nearest = placed$group, distance = placed$distance,
              reach = reach_of(limits$all, placed$group), broken = rep(FALSE, nrow(x)), guarded = !is.null(limits))
  out$group[none] <- 0L
  broad <- if (!is.null(limits$broad) && any(none)) broad_partition(partition)
  if (!is.null(broad)) {
    rows <- which(none)
    part <- x[rows, , drop = FALSE]
    again <- place_rows(broad, part)
    beyond <- none_of_these(broad, part, again, limits$broad)
    out$group[rows] <- ifelse(beyond, 0L, again$group)
    out$nearest[rows] <- again$group
    out$distance[rows] <- again$distance
    out$reach[rows] <- reach_of(limits$broad, again$group)
    out$broken[rows] <- !beyond
  }
  out
}

reach_of <- function(limits, group) {
  if (is.null(limits)) rep(NA_real_, length(group)) else limits[ifelse(group %in% 0L, NA, group)]
}

reach_limits <- function(partition, reach) {
  kept <- if (is.finite(reach)) partition_reach(partition)
  few <- partition$groups$rows < small_group
  if (!is.null(kept)) lapply(kept, function(quantiles) {
    limits <- apply(quantiles, 1L, function(q) stats::approx(reach_grid, q, reach)$y)
    if (any(few) && !all(few)) limits[few] <- pmax(limits[few], stats::median(limits[!few]))
    limits
  })
}

# Only rows beyond the reach of their nearest group can belong to none.
none_of_these <- function(partition, x, placed, limits) {
  none <- rep(FALSE, nrow(x))
  if (is.null(limits)) {
    return(none)
  }
  far <- which(placed$group > 0L & placed$distance > limits[pmax(1L, placed$group)] * (1 + 1e-9))
  if (length(far) == 0L) {
    return(none)
  }
  within <- vapply(seq_len(partition$k), function(g) {
    distance <- distance_to(partition, g, x[far, , drop = FALSE])
    if (is.null(distance)) rep(FALSE, length(far)) else distance <= limits[g] * (1 + 1e-9)
  }, logical(length(far)))
  none[far] <- rowSums(matrix(within, length(far))) == 0L
  none
}

# The columns of the relation that rows break most, out of their prepared values.
broken_columns <- function(partition, x) {
  narrow <- broad_partition(partition)$narrow
  size <- colSums(abs((x[, narrow$columns, drop = FALSE] - rep(narrow$middle, each = nrow(x))) %*% narrow$axes))
  weight <- abs(narrow$loadings[, which.max(size / narrow$spread)])
  names <- partition$ready$prepared %||% colnames(partition$ready$x)
  order <- order(-weight)
  names[narrow$columns[order[weight[order] >= 0.3]]]
}
