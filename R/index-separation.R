# Separation: how far the means lie apart, against how far the rows lie from their means.

# (B / (k - 1)) / (W / (n - k)); Calinski & Harabasz (1974), doi:10.1080/03610927408827101
index_calinski_harabasz <- function() {
  declare_index(
    "calinski_harabasz", compares = TRUE, range = c(0, Inf),
    label = "Calinski-Harabasz (1974)", family = "separation", direction = "higher",
    family_about = "Means against scatter.", rule = "largest value",
    across = function(set) calinski_harabasz(set$k, set$scatter, set$total, set$n),
    silent = function(set) ifelse(set$scatter <= 0, "W is zero", "there are no more rows than groups"),
    cost = "rows x columns", tier = "fast", source = "Calinski & Harabasz 1974",
    formula = "(B / (k-1)) / (W / (n-k)).",
    reference = paste("Calinski, T. and Harabasz, J. (1974). A dendrite method for cluster analysis.",
                      "\\doi{10.1080/03610927408827101}")
  )
}

calinski_harabasz <- function(k, scatter, total, n) {
  value <- ((total - scatter) / (k - 1)) / (scatter / (n - k))
  ifelse(k < 2 | k >= n | scatter <= 0, NA_real_, value)
}

same_centres <- function(set) rep("two centres are the same point", length(set$k))

# mean_j max_l (S_j + S_l) / |m_j - m_l|; Davies & Bouldin (1979), doi:10.1109/TPAMI.1979.4766909
index_davies_bouldin <- function() {
  declare_index(
    "davies_bouldin", compares = TRUE, range = c(0, Inf),
    label = "Davies-Bouldin (1979)", family = "separation", direction = "lower", rule = "smallest value",
    across = of_geometry(function(g) {
      spread <- g$reach / g$size
      mean(apply(outer(spread, spread, `+`) / g$gaps, 1L, max, na.rm = TRUE))
    }), silent = same_centres, cost = "rows x columns", tier = "fast", source = "Davies & Bouldin 1979",
    formula = paste("the mean over groups of the largest (S_j + S_l) / |m_j - m_l|, S the mean distance to the",
                    "mean."),
    reference = paste("Davies, D. L. and Bouldin, D. W. (1979). A cluster separation measure.",
                      "\\doi{10.1109/TPAMI.1979.4766909}")
  )
}

# W / (n min |m_j - m_l|^2); Xie & Beni (1991), doi:10.1109/34.85677, for crisp groups.
index_xie_beni <- function() {
  declare_index(
    "xie_beni", range = c(0, Inf),
    label = "Xie-Beni (1991)", family = "separation", direction = "lower", rule = "smallest value",
    across = of_geometry(function(g) sum(g$scatter) / (g$n * min(g$gaps, na.rm = TRUE)^2)), silent = same_centres,
    cost = "rows x columns", tier = "fast", source = "Xie & Beni 1991",
    formula = "W / (n min |m_j - m_l|^2).",
    reference = paste("Xie, X. L. and Beni, G. (1991). A validity measure for fuzzy clustering.",
                      "\\doi{10.1109/34.85677}")
  )
}

# ((1/k)(E_1 / E_k) D)^2; Pakhira, Bandyopadhyay & Maulik (2004), doi:10.1016/j.patcog.2003.06.005
index_pbm <- function() {
  declare_index(
    "pbm", range = c(0, Inf),
    label = "PBM (Pakhira, Bandyopadhyay & Maulik 2004)", family = "separation", direction = "higher",
    rule = "largest value",
    across = function(set) {
      mapply(function(g, group) {
        if (g$k < 2L) {
          return(NA_real_)
        }
        one <- geometry_of(set$x, as.integer(group > 0L))$reach
        (one / sum(g$reach) * max(g$gaps, na.rm = TRUE) / g$k)^2
      }, set$geometry(), set$groups)
    },
    silent = function(set) rep("every row lies on its centre", length(set$k)), cost = "rows x columns", tier = "fast",
    source = "Pakhira, Bandyopadhyay & Maulik 2004",
    formula = paste("((1/k)(E_1 / E_k) D)^2, E the sum of distances to the means, D the largest distance between",
                    "means."),
    reference = paste("Pakhira, M. K., Bandyopadhyay, S. and Maulik, U. (2004). Validity index for crisp and",
                      "fuzzy clusters. \\doi{10.1016/j.patcog.2003.06.005}")
  )
}

# Mean over columns of sqrt(B_v / T_v), divided by sqrt(k); Ratkowsky & Lance (1978), Australian Computer Journal 10,
# 115-117.
index_ratkowsky_lance <- function() {
  declare_index(
    "ratkowsky_lance", range = c(0, 1),
    label = "Ratkowsky-Lance (1978)", family = "separation", direction = "higher", rule = "largest value",
    across = function(set) {
      mapply(function(group, k) mean(sqrt(between_shares(set$x, group, NA_real_)), na.rm = TRUE) / sqrt(k), set$groups,
             set$k)
    },
    cost = "rows x columns", tier = "all", source = "Ratkowsky & Lance 1978",
    formula = "the mean over columns of sqrt(B_v / T_v), divided by sqrt(k).",
    reference = paste("Ratkowsky, D. A. and Lance, G. N. (1978). A criterion for determining the number of groups",
                      "in a classification. Australian Computer Journal 10, 115--117.")
  )
}

# min mean distance between the rows of two groups / max (2 x mean distance to the centre); one of the forms of Bezdek &
# Pal (1998), doi:10.1109/3477.678624
index_generalized_dunn <- function() {
  declare_index(
    "generalized_dunn", sampled = pairs_sampled(), range = c(0, Inf),
    label = "Generalized Dunn (Bezdek & Pal 1998)", family = "separation", direction = "higher",
    rule = "largest value", across = generalized_dunn,
    silent = function(set) rep("every row lies on its centre", length(set$k)),
    cost = "rows x rows x columns, shared with the silhouettes", tier = "fast", source = "Bezdek & Pal 1998",
    formula = "the smallest mean distance between the rows of two groups / the largest 2 S_j.",
    reference = paste("Bezdek, J. C. and Pal, N. R. (1998). Some new indexes of cluster validity.",
                      "\\doi{10.1109/3477.678624}")
  )
}

generalized_dunn <- function(set) {
  geometry <- set$geometry()
  sums <- set$sums("euclidean")
  vapply(seq_along(set$k), function(m) {
    g <- geometry[[m]]
    if (g$k < 2L) {
      return(NA_real_)
    }
    size <- tabulate(sums$groups[[m]], g$k)
    apart <- sums$between[[m]] / outer(size, size)
    diag(apart) <- NA_real_
    min(apart, na.rm = TRUE) / max(2 * g$reach / g$size)
  }, 0)
}

# Values of a function of the geometry, for counts of two and more whose centres differ.
of_geometry <- function(value) {
  function(set) {
    vapply(set$geometry(), function(g) if (g$k < 2L || any(g$gaps == 0, na.rm = TRUE)) NA_real_ else value(g), 0)
  }
}
