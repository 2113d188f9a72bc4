# Whether rows look like what the components of a mixture say they are. Skewness and kurtosis of the rows of each
# component (Mardia 1970, doi:10.1093/biomet/57.3.519) are compared with those of tables drawn from the components, in
# which rows are given to components as here: what cutting overlapping components does to their forms happens there
# too.

adequacy_sets <- 39L

# `group`: the component of each row. Standard deviations from what the drawn tables have: `skewness`, `kurtosis`
# along the columns, and `peak`, negative where components are flatter than said, positive where they are more peaked
# or long-tailed.
component_adequacy <- function(x, group, heavy = FALSE, freedom = 4, sets = adequacy_sets, seed = 1) {
  inside <- group %in% which(tabulate(group, max(group)) >= max(8L, ncol(x) + 2L))
  parts <- if (any(inside)) component_moments(x[inside, , drop = FALSE], dense_ranks(group[inside]), 1e-9)
  if (is.null(parts)) {
    return(c(skewness = NA_real_, kurtosis = NA_real_, peak = NA_real_))
  }
  tails <- if (heavy) freedom
  drawn <- vapply(seq_len(sets), function(set) {
    rows <- drawn_from_components(parts, tails, derived_seed(seed, 53, set), derived_seed(seed, 54, set))
    component_forms(rows, max.col(component_densities(parts, rows, tails), "first"), parts)
  }, numeric(3))
  own <- component_forms(x[inside, , drop = FALSE], parts$group, parts)
  (own - rowMeans(drawn)) / pmax(apply(drawn, 1L, stats::sd), 1e-12)
}

dense_ranks <- function(group) match(group, sort(unique(group)))

# Means, covariances and roots of covariances of the rows of each component; `add`, as a share of the mean variance, is
# added to every variance. NULL where a component has no volume.
component_moments <- function(x, group, add) {
  d <- ncol(x)
  sizes <- tabulate(group, max(group))
  mean <- unname(group_means(x, group))
  covariance <- lapply(seq_along(sizes), function(j) {
    gaps <- x[group == j, , drop = FALSE] - rep(mean[j, ], each = sizes[j])
    s <- crossprod(gaps) / sizes[j]
    unname(s) + diag(add * mean(diag(s)) + 1e-300, d)
  })
  roots <- lapply(covariance, function(s) tryCatch(chol(s), error = function(e) NULL))
  if (!any(vapply(roots, is.null, NA))) {
    list(group = group, sizes = sizes, mean = mean, covariance = covariance, roots = roots)
  }
}

# Log densities of rows under each component, its share included, up to what all have in common. `freedom`: of t
# components; Gaussian ones when NULL.
component_densities <- function(parts, rows, freedom = NULL) {
  d <- ncol(rows)
  each <- vapply(seq_along(parts$sizes), function(j) {
    z <- backsolve(parts$roots[[j]], t(rows - rep(parts$mean[j, ], each = nrow(rows))), transpose = TRUE)
    far <- colSums(z^2)
    shape <- if (is.null(freedom)) -far / 2 else -(freedom + d) / 2 * log1p(far / freedom)
    log(parts$sizes[j]) - sum(log(diag(parts$roots[[j]]))) + shape
  }, numeric(nrow(rows)))
  matrix(each, nrow(rows))
}

# As many rows of each component as it has. t: Gaussians over the root of a mean square.
drawn_from_components <- function(parts, freedom, seed, seed_of_tails) {
  n <- length(parts$group)
  d <- ncol(parts$mean)
  z <- matrix(normal_numbers(n * d, seed), n)
  if (!is.null(freedom)) z <- z / sqrt(stats::qchisq(uniform_numbers(n, seed_of_tails), freedom) / freedom)
  for (j in seq_along(parts$sizes)) {
    own <- parts$group == j
    z[own, ] <- z[own, , drop = FALSE] %*% parts$roots[[j]] + rep(parts$mean[j, ], each = parts$sizes[j])
  }
  z
}

# The means over the components of how skewed, long-tailed and peaked their rows are, each by the root of its rows.
component_forms <- function(rows, group, parts) {
  each <- lapply(seq_along(parts$sizes), function(j) {
    part <- rows[group == j, , drop = FALSE]
    if (nrow(part) < 8L) {
      return(NULL)
    }
    z <- t(backsolve(parts$roots[[j]], t(part - rep(colMeans(part), each = nrow(part))), transpose = TRUE))
    spread <- colMeans(z^2)
    radius <- rowSums(z^2)
    root <- sqrt(nrow(part))
    cbind(skewness = mean((root * colMeans(z^3) / spread^1.5)^2),
          kurtosis = mean((root * (colMeans(z^4) / spread^2 - 3))^2),
          peak = root * mean(radius^2) / mean(radius)^2)
  })
  colMeans(do.call(rbind, each))
}
