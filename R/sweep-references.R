# What indices need besides the fits of a sweep: the same method on tables without groups, and on parts of the rows.

reference_sets <- 100L
stability_pairs <- 50L
resample_fewest <- 40L
strength_halvings <- 10L
resample_restarts <- 10L
hasty_restarts <- 4L
finished_restarts <- 4L  # of these many, the best after a few rounds

# How the set of one method on one preparation is judged, see index_set().
judged_by <- function(method, ready, seed, step = function(...) NULL) {
  bound <- bind_method(method, ready)
  settings <- bound$settings
  given <- !is.null(settings$dissimilarity)
  again <- function(most = resample_restarts, finished = finished_restarts) {
    again_by(with_few_restarts(bound, most, finished), about_columns(ready))
  }
  unfit <- why_once(bound)
  list(
    metric = if (given) "given" else settings$metric %||% "euclidean", given = settings$dissimilarity,
    unfit = unfit,
    references = if (is.null(unfit)) function(set) reference_curves(set, again, seed, step),
    resamples = if (is.null(unfit)) function(set) resample_curves(set, again(), seed, step)
  )
}

# Why a method is not fitted again to other tables for an index; NULL where it is.
why_once <- function(method) {
  if (speaks_of_rows(method)) {
    "its settings name single rows of the table, which reference tables and resamples do not have"
  } else if (method$free_count) {
    "it finds the count itself, and other tables would get other counts"
  } else if (!is.null(method$settled)) {
    # very many fits of all its models would take too long
    "a mixture's count is judged by its own likelihood"
  }
}

# For one fit of very many, which need not be the best of its table. k-means of 10 starts, of which 4 go on, ends .0003
# to .004 above the log W of 25 starts in tables without groups, where tables differ by .005 to .015.
with_few_restarts <- function(method, most = resample_restarts, finished = finished_restarts) {
  if (isTRUE(method$settings$restarts > most)) method$settings$restarts <- most
  # a method of the user's own may have a setting of this name
  if (is.null(method$settings$finished)) method$settings$finished <- finished
  method
}

# A method that chooses among models fits the chosen one again.
as_settled <- function(method, model) {
  if (!is.null(method$settled) && !is.null(model)) method$settings <- method$settled(method$settings, model)
  method
}

# Whether the method compared several models on this table.
chose_model <- function(partition) NROW(partition$model$tried) > 1L

# Settings that hold something for each row or column cannot go with another table.
speaks_of_rows <- function(method) {
  !is.null(method$settings$dissimilarity) || !is.null(method$settings$starts) || !is.null(method$settings$row_weights)
}

# Fits the method to another table, labels rows by such a fit, or tells its W alone.
again_by <- function(method, about) {
  memo <- new_memo()
  list(
    fit = function(x, k, seed) fit_method(method, x, k, seed, about, memo),
    label = function(fit, x) assign_rows(method, fit, x)$group,
    scatter = function(x, counts, seed) scatter_of_fits(method, x, counts, seed, about),
    by_samples = function(x, k, samples, seeds) {
      if (!is.null(method$by_samples)) method$by_samples(x, k, samples, method$settings, seeds)
    },
    # too few different rows for so many groups: seen at once, since an error takes its time to tell
    hopeless = function(x, k) !method$free_count && distinct_kernel(x, as.integer(k), "euclidean") < k
  )
}

# log W over the counts of the set: `observed`, and for each kind of table without groups a matrix, one row per table:
# `box`, and `gaussian`, drawn when the elbow asks for it. Tables are drawn until the answers hardly can change, 20 to
# 100 of a kind. Where there are many rows all of it is done on an even sample of them.
reference_curves <- function(set, again, seed, step) {
  rows <- sampled_rows(nrow(set$x), reference_most_rows, seed)
  log_scatter <- function(by, table, seed) {
    scatter <- by$scatter(table, set$k, seed)
    ifelse(scatter > 0, log(scatter), NA_real_)
  }
  x <- set$x[rows, , drop = FALSE]
  observed <- if (length(rows) < nrow(set$x)) log_scatter(again(Inf, 0L), x, seed)
  else ifelse(set$scatter > 0, log(set$scatter), NA_real_)
  axes <- axes_for_tables(x)
  bends <- function(curves) bend_decided(set$k, observed, curves)
  curves_of <- function(kind, by, step, decided = bends) {
    until_decided(function(r) {
      step()
      own <- derived_seed(seed, match(kind, names(groupless_tables)), r)
      log_scatter(by, as_seen(groupless_tables[[kind]](axes, own), set$metric), own)
    }, decided)
  }
  box <- curves_of("box", again(), step, function(box) gap_decided(set$k, observed, box) && bends(box))
  step(amount = reference_sets - nrow(box))  # tables that need not be drawn
  list(observed = observed, box = box, gaussian = function(hasty = FALSE) {
    if (hasty) curves_of("gaussian", again(hasty_restarts, 2L), function() NULL)
    else curves_of("gaussian", again(), step)
  })
}

# Stability and prediction strength over the counts, with standard errors; `returns`: how often each group of each fit
# comes back in the bootstrap samples.
resample_curves <- function(set, again, seed, step) {
  rows <- sampled_rows(nrow(set$x), resample_most_rows, seed)
  x <- set$x[rows, , drop = FALSE]
  # The largest counts take longest: first, so that workers end together.
  largest_first <- order(-set$k)
  counts <- set$k
  groups <- lapply(set$groups, `[`, rows)
  by_count <- shared_out(largest_first, function(m) {
    step()
    k <- counts[m]
    if (k == 1) {
      return(list(curves = c(NA_real_, NA_real_, 1, 0), returns = NULL))
    }
    labels <- bootstrap_labels(x, k, again, seed, samples = resample_fewest)
    stable <- agreement_of_pairs(labels)
    returns <- mean_returns(groups[[m]], labels)
    if (!settled_returns(returns, stable)) {
      labels <- c(labels, bootstrap_labels(x, k, again, seed, after = resample_fewest))
      stable <- agreement_of_pairs(labels)
      returns <- mean_returns(groups[[m]], labels)
    }
    strong <- strength_of_halves(x, k, again, seed)
    list(curves = c(mean_and_error(stable), mean_and_error(strong)),
         returns = returns[c("group", "returns", "stays")])
  })[order(largest_first)]
  curves <- vapply(by_count, `[[`, double(4), "curves")
  list(stability = curves[1L, ], stability_error = curves[2L, ], strength = curves[3L, ], strength_error = curves[4L, ],
       returns = lapply(by_count, `[[`, "returns"))
}

# Whether forty samples are enough: the stability to a hundredth, and every group by four standard errors on its side of
# what is called stable or not.
settled_returns <- function(returns, stable) {
  overall <- mean_and_error(stable)
  if (is.null(returns) || is.na(overall[1L]) || overall[2L] > 0.01) {
    return(FALSE)
  }
  near <- outer(returns$returns, c(unstable_below, stable_from), function(a, b) abs(a - b))
  all(near > 4 * returns$error)
}

# Samples that could not be fitted are left out, up to half of them.
mean_and_error <- function(values) {
  usable <- values[!is.na(values)]
  if (2L * length(usable) < length(values)) c(NA_real_, NA_real_)
  else c(mean(usable), stats::sd(usable) / sqrt(length(usable)))
}

# Rows of one sample: as many as there are, drawn again; where density makes the groups, eight in ten of them, since a
# row drawn twice would make its place dense.
sample_of_rows <- function(n, by_density, seed) {
  if (by_density) sort(order(uniform_numbers(n, seed))[seq_len(ceiling(0.8 * n))]) else drawn_again(n, seed)
}

# Labels of all rows by fits to bootstrap samples. A sample that cannot be fitted (fewer different rows than groups)
# gives NULL.
bootstrap_labels <- function(x, k, again, seed, samples = 2L * stability_pairs, by_density = FALSE, after = 0L) {
  seeds <- vapply(after + seq_len(samples - after), function(b) derived_seed(seed, 11, b), 0)
  drawn <- lapply(seeds, sample_of_rows, n = nrow(x), by_density = by_density)
  again$by_samples(x, k, drawn, seeds) %||% Map(function(rows, own) {
    part <- x[rows, , drop = FALSE]
    if (again$hopeless(part, k)) NULL
    else tryCatch(again$label(again$fit(part, k, own), x), fjordline_error = function(e) NULL)
  }, drawn, seeds)
}

# Adjusted Rand index of each two samples in turn; noise (0) counts as a group.
agreement_of_pairs <- function(labels) {
  vapply(seq_len(length(labels) %/% 2L), function(pair) {
    a <- labels[[2L * pair - 1L]]
    b <- labels[[2L * pair]]
    if (is.null(a) || is.null(b)) NA_real_ else adjusted_rand(cross_counts(a + 1L, b + 1L))
  }, 0)
}

# By group: the mean share that came back, and the mean share of samples in which its rows stayed. Nothing where more
# than half of the samples could not be fitted.
mean_returns <- function(group, labels) {
  fitted <- Filter(Negate(is.null), labels)
  if (length(fitted) == 0L || 2L * length(fitted) < length(labels)) {
    return(NULL)
  }
  labels <- fitted
  each <- lapply(labels, best_matches, group = group)
  stays <- rowMeans(vapply(each, `[[`, logical(length(group)), "stays"))
  k <- max(group)
  by_group <- vapply(seq_len(k), function(g) mean(stays[group == g]), 0)
  shares <- matrix(vapply(each, `[[`, double(k), "share"), nrow = k)
  tibble::tibble(group = seq_len(k), returns = rowMeans(shares), stays = by_group,
                 error = apply(shares, 1L, stats::sd) / sqrt(ncol(shares)))
}

# Smallest share over the groups, by halving: the mean of both roles.
strength_of_halves <- function(x, k, again, seed) {
  vapply(seq_len(strength_halvings), function(m) {
    own <- derived_seed(seed, 13, m)
    rows <- random_half(nrow(x), own)
    halves <- list(x[rows, , drop = FALSE], x[-rows, , drop = FALSE])
    if (any(vapply(halves, again$hopeless, NA, k = k))) NA_real_
    else tryCatch({
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
