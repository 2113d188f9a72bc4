# Gaussian, written down with few different values: steps of half a standard deviation to a whole one.
shape_rounded <- function(n, d) matrix(rnorm(n * d), n)
