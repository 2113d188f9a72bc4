# 20 to 100 columns. Groups told apart by many columns a little each: no column alone shows them.
many_a_little_table <- function(...) {
  k <- sample(2:5, 1)
  d <- sample(20:100, 1)
  shape <- list(shape_box, shape_gamma, shape_laplace)[[sample(3, 1)]]
  n <- sample(150:600, 1)
  sizes <- pmax(25, round(n * uneven_shares(k)))
  group <- rep(seq_len(k), sizes)
  each <- runif(1, 8, 11) / sqrt(2 * d)  # two groups lie 8 to 11 apart in the mean
  x <- matrix(rnorm(k * d), k)[group, ] * each
  for (g in seq_len(k)) x[group == g, ] <- x[group == g, ] + shape(sizes[g], d)
  list(x = x, k = k, group = group)
}

# 12 to 60 columns in blocks that say nearly the same, as sensors side by side do.
blocks_table <- function(apart = 7) {
  made <- shaped_table(list(shape_box, shape_gamma, shape_mixed_skew)[[sample(3, 1)]], apart, sample(2:5, 1),
                       d = sample(3:6, 1))
  each <- sample(4:10, 1)
  x <- made$x[, rep(seq_len(ncol(made$x)), each = each)]
  made$x <- x + matrix(rnorm(length(x), sd = 0.4), nrow(x))
  made
}

# Daily curves: 24 to 48 columns in a row, each group a smooth profile of its own, rows differ in level and size.
profiles_table <- function(...) {
  k <- sample(2:4, 1)
  d <- sample(24:48, 1)
  n <- sample(200:600, 1)
  group <- rep(seq_len(k), pmax(25, round(n * uneven_shares(k))))
  hours <- seq(0, 2 * pi, length.out = d)
  repeat {
    profile <- t(vapply(seq_len(k), function(g) {
      rowSums(vapply(1:3, function(h) rnorm(1) / h * sin(h * hours) + rnorm(1) / h * cos(h * hours), numeric(d)))
    }, numeric(d)))
    if (min(dist(profile)) / sqrt(d) > 0.9) break
  }
  n <- length(group)
  smooth <- t(vapply(seq_len(n), function(i) as.numeric(stats::filter(rnorm(d + 4), rep(1, 5) / 5))[3:(d + 2)] * 1.2,
                     numeric(d)))
  x <- profile[group, ] * exp(rnorm(n, sd = 0.12)) + 0.15 * rnorm(n) + 0.35 * smooth
  list(x = x, k = k, group = group)
}
