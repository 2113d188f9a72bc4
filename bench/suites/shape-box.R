# Uniform in a cube: flat, with corners.
shape_box <- function(n, d) matrix(runif(n * d, -1, 1) * sqrt(3), n)
