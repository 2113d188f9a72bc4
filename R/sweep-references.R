# What indices need besides the fits of a sweep: the same method on tables without groups, and on parts of the rows.

reference_sets <- 100L
reference_most_rows <- 1000L
resample_most_rows <- 2000L
stability_pairs <- 50L
strength_halvings <- 10L

# How the set of one method on one preparation is judged, see index_set().
judged_by <- function(method, ready, seed, step = function() NULL) {
  bound <- bind_method(method, ready)
  settings <- bound$settings
  given <- !is.null(settings$dissimilarity)
  again <- again_by(bound, about_columns(ready))
  by_row <- given || !is.null(settings$row_weights) || !is.null(settings$starts) || method$free_count
  list(
    metric = if (given) "given" else settings$metric %||% "euclidean", given = settings$dissimilarity,
    references = if (!by_row) function(set) reference_curves(set, again, seed, step),
    resamples = if (!by_row) function(set) resample_curves(set, again, seed, step)
  )
}

# Fits the method to another table, and labels rows by such a fit.
again_by <- function(method, about) {
  list(
    fit = function(x, k, seed) fit_method(method, x, k, seed, about),
    label = function(fit, x) assign_rows(method, fit, x)$group
  )
}

# log W over the counts of the set: `observed`, and for each kind of table without groups a matrix, a row a table. Where
# there are many rows all of it is done on an even sample of them.
reference_curves <- function(set, again, seed, step) {
  rows <- sampled_rows(nrow(set$x), reference_most_rows, seed)
  x <- set$x[rows, , drop = FALSE]
  log_scatter <- function(table, seed) {
    vapply(set$k, function(k) {
      scatter <- if (k == 1) total_scatter(table) else sum(again$fit(table, k, seed)$scatter)
      if (scatter > 0) log(scatter) else NA_real_
    }, 0)
  }
  observed <- if (length(rows) == nrow(set$x)) ifelse(set$scatter > 0, log(set$scatter), NA_real_) else log_scatter(x, seed)
  axes <- axes_for_tables(x)
  sets <- lapply(seq_along(groupless_tables), function(kind) {
    curves <- vapply(seq_len(reference_sets), function(r) {
      step()
      own <- derived_seed(seed, kind, r)
      log_scatter(groupless_tables[[kind]](axes, own), own)
    }, numeric(length(set$k)))
    matrix(t(curves), nrow = reference_sets)
  })
  list(k = set$k, observed = observed, rows = length(rows), sets = stats::setNames(sets, names(groupless_tables)))
}

# Stability and prediction strength over the counts, with standard errors.
resample_curves <- function(set, again, seed, step) {
  x <- set$x[sampled_rows(nrow(set$x), resample_most_rows, seed), , drop = FALSE]
  by_count <- lapply(set$k, function(k) {
    step()
    stable <- if (k > 1) pairs_of_samples(x, k, again, seed) else NA_real_
    strong <- if (k > 1) strength_of_halves(x, k, again, seed) else 1
    c(stability = mean(stable), stability_error = standard_error(stable), strength = mean(strong),
      strength_error = if (k > 1) standard_error(strong) else 0)
  })
  as.list(as.data.frame(do.call(rbind, by_count)))
}

standard_error <- function(values) stats::sd(values) / sqrt(length(values))

# Adjusted Rand index of two bootstrap fits, on all rows, by pair of samples. A sample that cannot be fitted (fewer
# different rows than groups) gives NA.
pairs_of_samples <- function(x, k, again, seed) {
  labels <- function(b) {
    tryCatch({
      own <- derived_seed(seed, 11, b)
      again$label(again$fit(x[drawn_again(nrow(x), own), , drop = FALSE], k, own), x)
    }, fjordline_error = function(e) NULL)
  }
  vapply(seq_len(stability_pairs), function(pair) {
    a <- labels(2 * pair)
    b <- labels(2 * pair + 1)
    if (is.null(a) || is.null(b)) NA_real_ else adjusted_rand(table(a, b))
  }, 0)
}

# Smallest share over the groups, by halving: the mean of both roles.
strength_of_halves <- function(x, k, again, seed) {
  vapply(seq_len(strength_halvings), function(m) {
    own <- derived_seed(seed, 13, m)
    rows <- random_half(nrow(x), own)
    halves <- list(x[rows, , drop = FALSE], x[-rows, , drop = FALSE])
    tryCatch({
      fits <- lapply(halves, again$fit, k = k, seed = own)
      mean(c(kept_together(fits[[1L]]$group, again$label(fits[[2L]], halves[[1L]])),
             kept_together(fits[[2L]]$group, again$label(fits[[1L]], halves[[2L]]))))
    }, fjordline_error = function(e) NA_real_)
  }, 0)
}

# The smallest share, over the groups of two rows and more, of a group's pairs that `other` puts together too.
kept_together <- function(group, other) {
  inside <- group > 0L
  tables <- split(other[inside], group[inside])
  shares <- vapply(tables[lengths(tables) >= 2L], function(o) pairs_of(tabulate(o)) / pairs_of(length(o)), 0)
  if (length(shares) == 0L) 0 else min(shares)
}
