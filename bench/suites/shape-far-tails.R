# Tails of a t distribution with 3 degrees of freedom.
shape_far_tails <- function(n, d) matrix(rt(n * d, 3), n) / sqrt(3)
