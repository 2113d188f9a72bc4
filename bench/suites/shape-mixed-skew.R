# Every column has a form of its own: symmetric, one-sided to the right, one-sided to the left, flat.
shape_mixed_skew <- function(n, d) {
  forms <- list(function(n) rnorm(n), function(n) (rgamma(n, 1.5) - 1.5) / sqrt(1.5),
                function(n) (1.5 - rgamma(n, 1.5)) / sqrt(1.5), function(n) runif(n, -sqrt(3), sqrt(3)))
  vapply(seq_len(d), function(j) forms[[(j - 1) %% 4 + 1]](n), numeric(n))
}
