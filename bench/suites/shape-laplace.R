# Double exponential in every column: a sharp peak and long tails.
shape_laplace <- function(n, d) matrix(rexp(n * d) * sample(c(-1, 1), n * d, TRUE) / sqrt(2), n)
