# Uniform in a ball: flat, with an edge.
shape_ball <- function(n, d) {
  z <- matrix(rnorm(n * d), n)
  z / sqrt(rowSums(z^2)) * runif(n)^(1 / d) * sqrt(d + 2)
}
