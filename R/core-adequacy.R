# Whether rows look like what the components of a mixture say they are. Skewness and kurtosis of the rows of each
# component (Mardia 1970, doi:10.1093/biomet/57.3.519) are compared with those of tables drawn from the components, in
# which rows are given to components as here: what cutting overlapping components does to their forms happens there
# too.

adequacy_sets <- 39L

# `group`: the component of each row. Standard deviations from what the drawn tables have: `skewness`, `kurtosis`
# along the columns, and `peak`, negative where components are flatter than said, positive where they are more peaked
# or long-tailed.
component_adequacy <- function(x, group, heavy = FALSE, freedom = 4, sets = adequacy_sets, seed = 1) {
  d <- ncol(x)
  sizes <- tabulate(group, max(group))
  able <- which(sizes >= max(8L, d + 2L))
  if (length(able) == 0L) {
    return(c(skewness = NA_real_, kurtosis = NA_real_, peak = NA_real_))
  }
  inside <- group %in% able
  x <- x[inside, , drop = FALSE]
  group <- match(group[inside], able)
  sizes <- sizes[able]
  k <- length(able)
  mean <- group_means(x, group)
  roots <- lapply(seq_len(k), function(j) {
    gaps <- x[group == j, , drop = FALSE] - rep(mean[j, ], each = sizes[j])
    s <- crossprod(gaps) / sizes[j]
    tryCatch(chol(s + diag(1e-9 * mean(diag(s)) + 1e-300, d)), error = function(e) NULL)
  })
  if (any(vapply(roots, is.null, NA))) {
    return(c(skewness = NA_real_, kurtosis = NA_real_, peak = NA_real_))
  }
  densities <- function(rows) {
    vapply(seq_len(k), function(j) {
      z <- backsolve(roots[[j]], t(rows - rep(mean[j, ], each = nrow(rows))), transpose = TRUE)
      far <- colSums(z^2)
      shape <- if (heavy) -(freedom + d) / 2 * log1p(far / freedom) else -far / 2
      log(sizes[j]) - sum(log(diag(roots[[j]]))) + shape
    }, numeric(nrow(rows)))
  }
  forms <- function(rows, own) {
    each <- lapply(seq_len(k), function(j) {
      part <- rows[own == j, , drop = FALSE]
      if (nrow(part) < 8L) {
        return(NULL)
      }
      z <- t(backsolve(roots[[j]], t(part - rep(colMeans(part), each = nrow(part))), transpose = TRUE))
      spread <- colMeans(z^2)
      radius <- rowSums(z^2)
      root <- sqrt(nrow(part))
      cbind(skewness = mean((root * colMeans(z^3) / spread^1.5)^2),
            kurtosis = mean((root * (colMeans(z^4) / spread^2 - 3))^2),
            peak = root * mean(radius^2) / mean(radius)^2)
    })
    colMeans(do.call(rbind, each))
  }
  drawn <- vapply(seq_len(sets), function(set) {
    n <- nrow(x)
    z <- matrix(normal_numbers(n * d, derived_seed(seed, 53, set)), n)
    if (heavy) {  # t: a Gaussian over the root of a mean square
      squares <- stats::qchisq(uniform_numbers(n, derived_seed(seed, 54, set)), freedom)
      z <- z / sqrt(squares / freedom)
    }
    rows <- x
    for (j in seq_len(k)) {
      rows[group == j, ] <- z[group == j, , drop = FALSE] %*% roots[[j]] + rep(mean[j, ], each = sizes[j])
    }
    forms(rows, if (k > 1L) max.col(densities(rows), "first") else group)
  }, numeric(3))
  (forms(x, group) - rowMeans(drawn)) / pmax(apply(drawn, 1L, stats::sd), 1e-12)
}
