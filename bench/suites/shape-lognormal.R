# Lognormal, the logarithm with standard deviation 0.6: skewness 2.3.
shape_lognormal <- function(n, d) {
  (matrix(exp(rnorm(n * d, sd = 0.6)), n) - exp(0.18)) / sqrt((exp(0.36) - 1) * exp(0.36))
}
