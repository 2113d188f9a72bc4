# Gamma with shape 2 in every column: skewness 1.4.
shape_gamma <- function(n, d) matrix((rgamma(n * d, 2) - 2) / sqrt(2), n)
