# Counts of 5 to 15 kinds of things (catches, visits), Poisson or more scattered than that (negative binomial); every
# group has its own means.
counts_table <- function(...) {
  k <- sample(2:5, 1)
  d <- sample(5:15, 1)
  group <- rep(seq_len(k), pmax(15, round(sample(200:600, 1) * uneven_shares(k))))
  repeat {
    means <- matrix(exp(rnorm(k * d, log(6), 1)), k)
    gap <- as.matrix(dist(sqrt(means)))
    diag(gap) <- Inf
    if (min(gap) > 3.2) break
  }
  size <- sample(c(Inf, 8), 1)
  x <- matrix(if (is.infinite(size)) rpois(length(group) * d, means[group, ])
              else rnbinom(length(group) * d, mu = means[group, ], size = size), ncol = d)
  list(x = x, k = k, group = group)
}
