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
  mapply(function(k, group, scatter) round_bic(tabulate(group[group > 0L], k), scatter, ncol(set$x)),
         set$k, set$groups, set$scatter)
}
