# Exponential in every column: skewness 2, most dense at its edge.
shape_exponential <- function(n, d) matrix(rexp(n * d) - 1, n)
