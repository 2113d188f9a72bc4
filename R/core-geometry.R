# Centres, and how far rows and centres lie from each other. Euclidean, over the rows of a group.

geometry_of <- function(x, group) {
  inside <- group > 0L
  if (!all(inside)) {
    x <- x[inside, , drop = FALSE]
    group <- group[inside]
  }
  k <- max(group, 0L)
  means <- group_means(x, group, k)
  away <- sqrt(rowSums((x - means[group, , drop = FALSE])^2))
  gaps <- as.matrix(stats::dist(means))
  diag(gaps) <- NA_real_
  list(
    k = k, n = nrow(x), size = tabulate(group, k), means = means, gaps = unname(gaps),
    scatter = group_scatter(x, group, k), reach = vapply(split(away, factor(group, seq_len(k))), sum, 0,
                                                         USE.NAMES = FALSE)
  )
}

numerical_rank <- function(x) principal_axes(sweep(x, 2L, colMeans(x)))$rank

# Round groups of one common variance, in the dimensionally consistent form: log-likelihood and the number of free
# parameters. NA where there are no more rows than groups, or no scatter. After Pelleg & Moore (2000).
round_likelihood <- function(sizes, scatter, d) {
  n <- sum(sizes)
  k <- length(sizes)
  if (n <= k || scatter <= 0) {
    return(list(log = NA_real_, free = NA_real_))
  }
  variance <- scatter / (d * (n - k))
  list(log = sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2,
       free = k - 1 + k * d + 1)
}

# Its BIC, -2 log L + p log n: Schwarz (1978), doi:10.1214/aos/1176344136
round_bic <- function(sizes, scatter, d) {
  fit <- round_likelihood(sizes, scatter, d)
  -2 * fit$log + fit$free * log(sum(sizes))
}
