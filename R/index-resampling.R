# Resampling: what comes back when only a part of the rows is seen.

# Mean adjusted Rand index of fits to pairs of bootstrap samples, extended to all rows. After Ben-Hur, Elisseeff & Guyon
# (2002), Pacific Symposium on Biocomputing 7, 6-17, and Fang & Wang (2012), doi:10.1016/j.csda.2011.09.003
index_stability <- function() {
  declare_index(
    "stability", sampled = resamples_sampled(), needs = "resamples", range = c(-1, 1),
    label = "Stability (after Ben-Hur et al. 2002)", family = "resampling", direction = "higher",
    family_about = "What is found again when only a part of the rows is seen.",
    rule = "largest value", weight = 0, across = function(set) from_resamples(set, "stability"), silent = no_resamples,
    cost = "40 or 100 more fits for every count, on up to 2,000 rows", tier = "standard",
    source = "after Ben-Hur et al. 2002, Fang & Wang 2012",
    formula = paste("the mean adjusted Rand index between fits to pairs of bootstrap samples, extended to all rows:",
                    "20 pairs where that settles it to 0.01, and every group on its side of stable; else 50."),
    reference = c(paste("Ben-Hur, A., Elisseeff, A. and Guyon, I. (2002). A stability based method for",
                        "discovering structure in clustered data. Pacific Symposium on Biocomputing 7, 6--17."),
                  paste("Fang, Y. and Wang, J. (2012). Selection of the number of clusters via the bootstrap",
                        "method. \\doi{10.1016/j.csda.2011.09.003}"))
  )
}

# Share of the pairs of a half's group that the other half's fit also puts together, in the worst group; Tibshirani &
# Walther (2005), doi:10.1198/106186005X59243
index_prediction_strength <- function() {
  declare_index(
    "prediction_strength", sampled = resamples_sampled(), needs = "resamples", range = c(0, 1),
    label = "Prediction strength (Tibshirani & Walther 2005)", family = "resampling", direction = "higher",
    rule = "largest count with 0.8 within one standard error", from = 1L,
    across = function(set) from_resamples(set, "strength"), silent = no_resamples,
    order = function(k, value, error) {
      strong <- value + error >= 0.8
      if (!any(strong[k > 1])) {
        return(if (1 %in% k) c(1L, setdiff(k[order(abs(value - 0.8), k)], 1L)) else integer())
      }
      pick <- max(k[strong])
      c(pick, setdiff(k[order(abs(value - 0.8), k)], pick))
    },
    cost = "20 more fits for every count, on up to 2,000 rows", tier = "standard",
    source = "Tibshirani & Walther 2005",
    formula = paste("rows are halved ten times; the share of the pairs of a half's group that the fit of the",
                    "other half puts together too, in the worst group; picks the largest count with 0.8 within",
                    "one standard error."),
    reference = paste("Tibshirani, R. and Walther, G. (2005). Cluster validation by prediction strength.",
                      "\\doi{10.1198/106186005X59243}")
  )
}

from_resamples <- function(set, field) {
  resamples <- set$resamples()
  if (is.null(resamples)) {
    return(rep(NA_real_, length(set$k)))
  }
  structure(resamples[[field]], error = resamples[[paste0(field, "_error")]])
}

no_resamples <- function(set) {
  lacking <- if (is.null(set$resamples())) "there are no samples" else "too few of the samples could be fitted"
  rep(set$unfit %||% lacking, length(set$k))
}
