# A bent cloud: the second direction follows the square of the first. Each group is turned its own way.
shape_bent <- function(n, d) {
  z <- matrix(rnorm(n * d), n)
  if (d > 1) z[, 2] <- ((z[, 1]^2 - 1) / sqrt(2)) * 0.85 + z[, 2] * sqrt(1 - 0.85^2)
  z %*% random_turn(d)
}
