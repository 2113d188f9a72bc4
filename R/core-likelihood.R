# Round groups of one common variance, in the dimensionally consistent form: log-likelihood and the number of free
# parameters. NA where there are no more rows than groups, or no scatter. After Pelleg & Moore (2000).
round_likelihood <- function(sizes, scatter, d) {
  n <- sum(sizes)
  k <- length(sizes)
  if (n <= k || scatter <= 0) {
    return(list(log = NA_real_, free = NA_real_))
  }
  variance <- scatter / (d * (n - k))
  list(log = sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2,
       free = k - 1 + k * d + 1)
}

# Its BIC, -2 log L + p log n: Schwarz (1978), doi:10.1214/aos/1176344136
round_bic <- function(sizes, scatter, d) {
  fit <- round_likelihood(sizes, scatter, d)
  -2 * fit$log + fit$free * log(sum(sizes))
}
