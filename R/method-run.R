# A method run on prepared rows, and what it returns held to its contract.

# Runs a method and holds it to its contract: `group` from 1 to `k`, and `scatter` by group. `about`: what is known of
# the columns, see fl_new_method().
run_method <- function(method, x, k, seed, about = NULL, memo = new_memo()) {
  more <- c(if (length(formals(method$fit)) > 4L) list(about),
            if (!is.null(method$shared)) list(memo(method, x, about)))
  fit <- do.call(method$fit, c(list(x, k, method$settings, seed), more))
  group <- fit$group
  if (!is.numeric(group) || length(group) != nrow(x) || anyNA(group) || any(group < 0) || any(group != round(group)) ||
        any(tabulate(group, max(group)) == 0L)) {
    fl_abort("method", paste0("The method ", quoted(method$key), " broke its contract."),
             found = "`fit` must return `group`: one whole number a row, 1 to k without gaps, 0 for noise.")
  }
  fit$group <- as.integer(group)
  fit$k <- max(0L, fit$group)
  if (is.null(fit$scatter)) fit$scatter <- group_scatter(x, fit$group, fit$k)
  fit
}

# What all counts of a method on one table share, such as a tree, is computed once.
new_memo <- function() {
  kept <- new.env(parent = emptyenv())
  function(method, x, about = NULL) {
    key <- rlang::hash(list(method$key, method$settings, x, about))
    more <- if (length(formals(method$shared)) > 2L) list(about)
    if (is.null(kept[[key]])) kept[[key]] <- do.call(method$shared, c(list(x, method$settings), more))
    kept[[key]]
  }
}

# W alone, of fits to several counts. A method may know a shorter way, which need not have an answer.
scatter_of_fits <- function(method, x, counts, seed, about = NULL) {
  quick <- if (!is.null(method$scatter)) method$scatter(x, counts, method$settings, seed)
  if (!is.null(quick) && !anyNA(quick)) {
    return(quick)
  }
  memo <- new_memo()
  vapply(counts, function(k) {
    if (k == 1L) total_scatter(x) else sum(run_method(method, x, k, seed, about, memo)$scatter)
  }, 0)
}

# The same with groups numbered by size, their means as centres, and the time taken.
fit_method <- function(method, x, k, seed, about = NULL, memo = new_memo()) {
  started <- proc.time()[["elapsed"]]
  fit <- run_method(method, x, k, seed, about, memo)
  numbered_fit(method, fit, x, proc.time()[["elapsed"]] - started)
}

numbered_fit <- function(method, fit, x, seconds = 0) {
  centres <- fit$centres %||% group_means(x, fit$group, fit$k)
  dimnames(centres) <- list(NULL, colnames(x))
  order <- group_order(fit$group, centres)
  list(
    group = renumber(fit$group, order), k = fit$k, centres = centres[order, , drop = FALSE],
    scatter = fit$scatter[order], objective = fit$objective %||% sum(fit$scatter),
    minimises = fit$minimises %||% method$minimises, rounds = fit$rounds %||% NA_integer_,
    converged = fit$converged %||% NA, restarts = fit$restarts, likelihood = fit$likelihood,
    notes = as.character(fit$notes), rivals = fit$rivals,
    model = lapply(fit$model, numbered_along, order = order), seconds = seconds
  )
}

# Matrices have one row per group, and are numbered as the groups are; data frames are something else.
by_group <- function(part) is.matrix(part) && !is.data.frame(part)

numbered_along <- function(part, order) {
  if (is.data.frame(part) && "group" %in% names(part)) part$group <- renumber(part$group, order)
  if (by_group(part)) part[order, , drop = FALSE] else part
}

# What a model knows of one group alone.
of_one_group <- function(part, group) {
  if (by_group(part)) {
    return(part[group, , drop = FALSE])
  }
  if (is.data.frame(part) && "group" %in% names(part)) {
    part <- part[part$group %in% group, ]
    part$group <- rep(1L, nrow(part))
  }
  part
}

# Labels rows of `x` by a fitted method: by its own rule, or by the nearest centre.
assign_rows <- function(method, fit, x) {
  if (!is.null(method$assign)) method$assign(fit, x)
  else nearest_kernel(x, fit$centres, "euclidean", thread_count())
}
