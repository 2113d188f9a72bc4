# Likelihood: how well a probability model with k components describes the rows, its parameters charged for.

# -2 log L + p log n with the dimensionally consistent form of the spherical, common-variance classification
# likelihood. Schwarz (1978), doi:10.1214/aos/1176344136; after Pelleg & Moore (2000), ICML, 727-734.
index_bic <- function() {
  declare_index(
    "bic",
    label = "BIC (Schwarz 1978), round groups of one spread", family = "likelihood", direction = "lower",
    rule = "smallest value, one group allowed", from = 1L, weight = 0,
    across = function(set) centre_bic(set),
    silent = function(set) ifelse(set$scatter <= 0, "W is zero", "there are no more rows than groups"),
    cost = "none beyond the fits", source = "Schwarz 1978; after Pelleg & Moore 2000"
  )
}

centre_bic <- function(set) {
  d <- ncol(set$x)
  mapply(function(k, group, scatter) {
    sizes <- tabulate(group[group > 0L], k)
    n <- sum(sizes)
    if (n <= k || scatter <= 0) {
      return(NA_real_)
    }
    variance <- scatter / (d * (n - k))
    log_likelihood <- sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2
    -2 * log_likelihood + (k - 1 + k * d + 1) * log(n)
  }, set$k, set$groups, set$scatter)
}
