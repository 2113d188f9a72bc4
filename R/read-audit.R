# Tests of features that allow for the groups having been made from them, and the audit of deciding features.

audit_most_columns <- 50L

# By feature: how often a single cluster of the same spread, cut into as many groups by the same method, has as large a
# share of the feature's spread between groups. The largest over the kinds of reference tables. None where the method
# speaks of single rows.
one_cluster_tests <- function(partition, sets, seed) {
  ready <- partition$ready
  method <- with_few_restarts(as_settled(bind_method(partition$method, ready), partition$model))
  columns <- cluster_like(ready)
  group <- partition$group[ready$rows]
  inside <- group > 0L
  # reference tables must be cut in as many pieces; a mixture fits this table closer than it would others
  if (method$free_count || !is.null(method$settled) || speaks_of_rows(method) || length(columns) == 0L ||
        partition$k < 2L || sum(inside) <= partition$k) {
    return(NULL)
  }
  observed <- between_shares(ready$x[inside, , drop = FALSE], group[inside])[columns]
  rows <- sampled_rows(nrow(ready$x), reference_most_rows, seed)
  about <- about_columns(ready)
  kinds <- one_cluster_tables(ready$x[rows, , drop = FALSE])
  step <- progressr::progressor(steps = length(kinds) * sets)
  p <- vapply(seq_along(kinds), function(kind) {
    drawn <- shared_out(seq_len(sets), function(set) {
      own <- derived_seed(seed, 17, kind, set)
      table <- kinds[[kind]](own)
      step()
      tryCatch({
        cut <- run_method(method, table, partition$k, own, about)$group
        between_shares(table[cut > 0L, , drop = FALSE], cut[cut > 0L])[columns]
      }, fjordline_error = function(e) NULL)
    })
    drawn <- do.call(rbind, drawn)
    if (NROW(drawn) * 2L < sets) {
      return(rep(NA_real_, length(columns)))
    }
    (1 + colSums(drawn >= rep(observed, each = nrow(drawn)))) / (1 + nrow(drawn))
  }, double(length(columns)))
  stats::setNames(apply(matrix(p, length(columns)), 1L, max), columns)
}

# Two kinds of tables of one cluster, as functions of a seed.
one_cluster_tables <- function(x) {
  axes <- axes_for_tables(x)
  shapes <- shapes_for_tables(x)
  list(gaussian = function(seed) groupless_tables$gaussian(axes, seed),
       shaped = function(seed) shaped_table(shapes, seed))
}

# Features that can be compared with a single cluster: numbers that are prepared columns themselves. Levels, ranks and
# columns of few values lie in lumps by nature, and any cut along them is sharper than a cut through a single cluster:
# of columns of five values one in four tables of one cluster was said to differ.
few_to_compare <- 7L

cluster_like <- function(ready) {
  columns <- intersect(ready$features, colnames(ready$x))
  number <- vapply(columns, function(column) {
    ready$columns[[column]]$type == "number" && length(unique(ready$x[, column])) > few_to_compare
  }, NA)
  columns[number]
}

# What each feature contributes to the groups, and what becomes of them without it.
column_audit <- function(partition, refit) {
  ready <- partition$ready
  group <- partition$group[ready$rows]
  inside <- group > 0L
  x <- before_components(ready)
  source <- source_columns(colnames(x), ready$features)
  reduced <- ncol(x) != ncol(ready$x) || !identical(colnames(x), colnames(ready$x))
  kept <- x[inside, , drop = FALSE]
  total <- colSums((kept - rep(colMeans(kept), each = nrow(kept)))^2)
  within <- column_scatter(kept, group[inside])
  by_source <- function(v) tapply(v, factor(source, unique(source)), sum)
  between <- pmax(0, by_source(total) - by_source(within))
  columns <- unique(source)
  possible <- refit && !reduced && !speaks_of_rows(partition$method) &&
    length(columns) > 1L && length(columns) <= audit_most_columns
  refit_without <- if (possible) agreement_without(partition, group)
  without <- vapply(columns, function(column) {
    if (possible) refit_without(source == column) else NA_real_
  }, 0)
  share <- as.vector(between / sum(between))
  decides <- if (!possible) NA else (share > 0.6 | without < 0.5) %in% TRUE
  # other rows of the same kind move the groups as well: only what moves them more is the column's doing
  if (any(decides %in% TRUE)) decides <- decides & (without < min(agreement_of_samples(partition, group))) %in% TRUE
  tibble::tibble(column = columns, explained = as.vector(between / by_source(total)), between = share,
                 without = unname(without), decides = decides)
}

# How far the groups made from bootstrap samples of the rows agree with these; where few can be made nothing is shown.
agreement_of_samples <- function(partition, group) {
  ready <- partition$ready
  rows <- sampled_rows(nrow(ready$x), resample_most_rows, partition$seed)
  method <- with_few_restarts(as_settled(bind_method(partition$method, ready), partition$model))
  drawn <- bootstrap_labels(ready$x[rows, , drop = FALSE], partition$k, again_by(method, about_columns(ready)),
                            derived_seed(partition$seed, 53), audit_samples, partition$method$guards)
  moved <- vapply(Filter(Negate(is.null), drawn), function(labels) {
    adjusted_rand(cross_counts(group[rows] + 1L, labels + 1L))
  }, 0)
  if (length(moved) < audit_samples / 2) -Inf else moved
}

audit_samples <- 19L  # as many that agree better: one in twenty by chance

# How far the groups made without some columns agree with these. Where there are many rows both are made anew on an even
# sample of them.
agreement_without <- function(partition, group) {
  ready <- partition$ready
  rows <- sampled_rows(nrow(ready$x), resample_most_rows, partition$seed)
  # as the method was asked for, choosing anew what it chose: a covariance that suits all columns may collapse without
  # one
  method <- with_few_restarts(bind_method(partition$method, ready))
  refit <- function(kept) {
    about <- about_kept(about_columns(ready), kept)
    fit_method(method, ready$x[rows, kept, drop = FALSE], partition$k, partition$seed, about)$group
  }
  every <- rep(TRUE, ncol(ready$x))
  group <- if (length(rows) < nrow(ready$x)) tryCatch(refit(every), fjordline_error = function(e) NULL) else group
  function(dropped) {
    tryCatch(adjusted_rand(cross_counts(group + 1L, refit(!dropped) + 1L)), fjordline_error = function(e) NA_real_)
  }
}
