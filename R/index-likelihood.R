# Likelihood: how well a probability model with k components describes the rows, its parameters charged for. A method
# that fits such a model gives its log-likelihood and the number of its parameters; for the others rows are taken to
# come from round groups of one common variance. The two are different likelihoods.

# -2 log L + p log n. Schwarz (1978), doi:10.1214/aos/1176344136; the common-variance form after Pelleg & Moore (2000),
# ICML, 727-734.
index_bic <- function() {
  declare_index(
    "bic",
    label = "BIC (Schwarz 1978)", family = "likelihood", direction = "lower",
    family_about = "How well a probability model describes the rows; one group is allowed.",
    rule = "smallest value, one group allowed", from = 1L, weight = 0, across = function(set) information_criterion(set,
      log(set$n)),
    silent = no_likelihood, cost = "none beyond the fits", tier = "fast", of_round = "bic of round groups",
    source = "Schwarz 1978; after Pelleg & Moore 2000",
    formula = paste("-2 log L + p log n. A method that fits a mixture gives its own likelihood. For the others",
                    "rows are taken to come from round groups of one variance W / (d (n-k)): log L = sum n_j",
                    "log(n_j / n) - (nd/2) log(2 pi variance) - d (n-k)/2, p = k - 1 + kd + 1; this over-counts",
                    "elongated groups."),
    reference = c("Schwarz, G. (1978). Estimating the dimension of a model. \\doi{10.1214/aos/1176344136}",
                  paste("Pelleg, D. and Moore, A. (2000). Extending k-means with efficient estimation of the",
                        "number of clusters. ICML, 727--734."))
  )
}

# -2 log L + 2 p. Akaike (1974), doi:10.1109/TAC.1974.1100705
index_aic <- function() {
  declare_index(
    "aic",
    label = "AIC (Akaike 1974)", family = "likelihood", direction = "lower",
    rule = "smallest value, one group allowed", from = 1L, weight = 0,
    across = function(set) information_criterion(set, 2),
    silent = no_likelihood, cost = "none beyond the fits", tier = "all", source = "Akaike 1974",
    formula = "-2 log L + 2 p.",
    reference = paste("Akaike, H. (1974). A new look at the statistical model identification.",
                      "\\doi{10.1109/TAC.1974.1100705}")
  )
}

no_likelihood <- function(set) ifelse(set$scatter <= 0, "W is zero", "there are no more rows than groups")

# `charge` for a parameter.
information_criterion <- function(set, charge) {
  charge <- rep_len(charge, length(set$k))
  vapply(seq_along(set$k), function(m) {
    own <- set$likelihood[[m]]
    group <- set$groups[[m]]
    fit <- own %||% round_likelihood(tabulate(group[group > 0L], set$k[m]), set$scatter[m], ncol(set$x))
    -2 * fit$log + charge[m] * fit$free
  }, 0)
}

# BIC - 2 sum log t(i, own), t the memberships of a mixture; Biernacki, Celeux & Govaert (2000), doi:10.1109/34.865189
index_icl <- function() {
  declare_index(
    "icl",
    label = "ICL (Biernacki, Celeux & Govaert 2000)", family = "likelihood", direction = "lower",
    rule = "smallest value, one group allowed", from = 1L, weight = 0,
    across = function(set) {
      certain <- vapply(set$likelihood, function(own) own$certainty %||% NA_real_, 0)
      information_criterion(set, log(set$n)) - 2 * certain
    },
    silent = function(set) rep("the method fits no mixture, so rows have no probabilities", length(set$k)),
    cost = "none beyond the fits", tier = "standard", source = "Biernacki, Celeux & Govaert 2000",
    formula = "for mixtures, BIC less twice the sum of the log probabilities of the rows' groups.",
    reference = paste("Biernacki, C., Celeux, G. and Govaert, G. (2000). Assessing a mixture model for clustering",
                      "with the integrated completed likelihood. \\doi{10.1109/34.865189}")
  )
}
