# What the rows say of the components of a mixture: whether they look as the components say, whether the density falls
# between each two, and how many groups are left once those without a dip between them are put together. Of the rows and
# their labels alone, so that stored fits can be asked as well.

# Rows that fill a stretch evenly and are cut in two dip by less than this nine times in ten (simulated for 2 to 10
# columns and 20 to 300 rows; the discriminant finds more by chance where there are more columns).
dip_needed <- function(columns) 0.45 + 0.02 * min(columns, 10)

# Misfits are standard deviations from what drawn tables have.
misfit_most <- c(skewness = 4, kurtosis = 4, peak = 3)
valley_least <- 0.5  # a density that falls to less than half of the lower peak

evidence_rows <- 2000L  # more are sampled evenly for the drawn tables

component_evidence <- function(x, group, heavy = FALSE, seed = 1) {
  components <- max(group)
  merged <- merge_by_dips(x, group)
  needed <- dip_needed(ncol(x))
  groups <- components
  while (groups > 1L && merged$dip[groups] < needed) groups <- groups - 1L
  rows <- sampled_rows(nrow(x), evidence_rows)
  misfit <- component_adequacy(x[rows, , drop = FALSE], group[rows], heavy, seed = seed)
  saddle <- deepest_saddle(x, group)
  list(components = components, groups = groups, of = merged$of[[groups]],
       levels = nested_levels(x, merged$of[[groups]][group], merged$dip[groups] / needed),
       dips = merged$dip, needed = needed, beyond = merged$dip[groups] / needed,
       misfit = misfit, fits = !anyNA(misfit) && misfit[["skewness"]] < misfit_most[["skewness"]] &&
         misfit[["kurtosis"]] < misfit_most[["kurtosis"]] && abs(misfit[["peak"]]) < misfit_most[["peak"]],
       saddle = saddle, valleys = isTRUE(saddle < valley_least), apart_by = "dips")
}

# Groups within groups: where the distances between group centres have two scales, the number of clumps and of groups.
# Only where all groups are well apart (`dips`: the least dip between two, as a multiple of what is needed), one scale
# is at least twice the other, and two clumps or more hold several groups.
nested_levels <- function(x, group, dips) {
  k <- max(group)
  if (k < 4L || is.na(dips) || dips < 1.6) {
    return(k)
  }
  tree <- linkage_kernel(group_means(x, group), FALSE, "euclidean", "single", FALSE, thread_count())
  steps <- tree$height[-1L] / tree$height[-(k - 1L)]
  at <- which.max(steps)
  clumps <- k - at
  of <- cut_kernel(tree$low, tree$high, k, clumps)
  if (steps[at] < 2 || sum(tabulate(of) > 1L) < 2L) k else c(clumps, k)
}

# Between the two components that are least apart: how high the density stays, as a share of the lower peak. Components
# are taken as Gaussians with the means and covariances of their rows.
deepest_saddle <- function(x, group) {
  if (max(group) < 2L) {
    return(0)
  }
  parts <- if (min(tabulate(group)) >= ncol(x) + 2L) component_moments(x, group, 1e-6)
  if (is.null(parts)) {
    return(NA_real_)
  }
  density <- function(points) {
    each <- component_densities(parts, points)
    most <- row_most(each)
    most + log(rowSums(exp(each - most)))
  }
  covariance <- do.call(rbind, lapply(parts$covariance, as.vector))
  max(merge_by_ridge(ridge_heights(parts$mean, covariance, density))$ratio, na.rm = TRUE)
}

row_most <- function(values) do.call(pmax, lapply(seq_len(ncol(values)), function(j) values[, j]))
