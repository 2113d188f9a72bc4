# On the surface of a sphere, with a little thickness: empty in the middle.
shape_shell <- function(n, d) {
  z <- matrix(rnorm(n * d), n)
  z / sqrt(rowSums(z^2)) * rnorm(n, 1, 0.08) * sqrt(d)
}
