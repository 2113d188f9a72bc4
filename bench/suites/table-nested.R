# Three clumps far from each other, of two or three groups each: 3 is right, and so is 6 to 9.
nested_table <- function(...) {
  d <- sample(2:4, 1)
  each <- sample(2:3, 3, replace = TRUE)
  shape <- list(shape_ball, shape_gamma, shape_box)[[sample(3, 1)]]
  clump <- rep(1:3, each)
  centre <- places_apart(3, d, 30)[clump, , drop = FALSE]
  for (c in 1:3) {
    centre[clump == c, ] <- centre[clump == c, , drop = FALSE] + places_apart(each[c], d, 6.5, start = 6.5 / 2)
  }
  k <- length(clump)
  group <- rep(seq_len(k), pmax(20, round(sample(300:800, 1) / k)))
  x <- centre[group, , drop = FALSE]
  for (g in seq_len(k)) x[group == g, ] <- x[group == g, ] + shape(sum(group == g), d)
  list(x = x, k = k, group = group, also = 3L)
}
