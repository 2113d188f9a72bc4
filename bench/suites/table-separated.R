# Groups of one shape, `apart` standard deviations from each other: 2 to 6 of them, 2 to 5 columns, 200 to 800 rows, of
# equal sizes or unequal ones.
shaped_table <- function(shape, apart, k = sample(2:6, 1), d = sample(2:5, 1), n = sample(200:800, 1),
                         share = uneven_shares(k)) {
  sizes <- pmax(12, round(n * share))
  group <- rep(seq_len(k), sizes)
  x <- places_apart(k, d, apart)[group, , drop = FALSE]
  for (g in seq_len(k)) x[group == g, ] <- x[group == g, ] + shape(sizes[g], d)
  list(x = x, k = k, group = group)
}

rounded_table <- function(apart) {
  made <- shaped_table(shape_rounded, apart)
  step <- runif(1, 0.5, 1)
  made$x <- round(made$x / step) * step
  made
}
