# BIC of round groups of one common variance: -2 log L + p log n, the dimensionally consistent form. NA where there
# are no more rows than groups, or no scatter. Schwarz (1978), doi:10.1214/aos/1176344136; after Pelleg & Moore
# (2000).
round_bic <- function(sizes, scatter, d) {
  n <- sum(sizes)
  k <- length(sizes)
  if (n <= k || scatter <= 0) {
    return(NA_real_)
  }
  variance <- scatter / (d * (n - k))
  log_likelihood <- sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2
  -2 * log_likelihood + (k - 1 + k * d + 1) * log(n)
}
