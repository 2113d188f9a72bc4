# Separation: how far the means lie apart, against how far the rows lie from their means.

# (B / (k - 1)) / (W / (n - k)); Calinski & Harabasz (1974), doi:10.1080/03610927408827101
index_calinski_harabasz <- function() {
  declare_index(
    "calinski_harabasz", range = c(0, Inf),
    label = "Calinski-Harabasz (1974)", family = "separation", direction = "higher", rule = "largest value",
    across = function(set) calinski_harabasz(set$k, set$scatter, set$total, set$n),
    silent = function(set) ifelse(set$scatter <= 0, "W is zero", "there are no more rows than groups"),
    cost = "rows x columns", tier = "fast", source = "Calinski & Harabasz 1974"
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
    "davies_bouldin", range = c(0, Inf),
    label = "Davies-Bouldin (1979)", family = "separation", direction = "lower", rule = "smallest value",
    across = of_geometry(function(g) {
      spread <- g$reach / g$size
      mean(apply(outer(spread, spread, `+`) / g$gaps, 1L, max, na.rm = TRUE))
    }), silent = same_centres, cost = "rows x columns", tier = "fast", source = "Davies & Bouldin 1979"
  )
}

# W / (n min |m_j - m_l|^2); Xie & Beni (1991), doi:10.1109/34.85677, for crisp groups.
index_xie_beni <- function() {
  declare_index(
    "xie_beni", range = c(0, Inf),
    label = "Xie-Beni (1991)", family = "separation", direction = "lower", rule = "smallest value",
    across = of_geometry(function(g) sum(g$scatter) / (g$n * min(g$gaps, na.rm = TRUE)^2)), silent = same_centres,
    cost = "rows x columns", tier = "fast", source = "Xie & Beni 1991"
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
    source = "Pakhira, Bandyopadhyay & Maulik 2004"
  )
}

# Mean over columns of sqrt(B_v / T_v), divided by sqrt(k); Ratkowsky & Lance (1978), Australian Computer Journal 10,
# 115-117.
index_ratkowsky_lance <- function() {
  declare_index(
    "ratkowsky_lance", range = c(0, 1),
    label = "Ratkowsky-Lance (1978)", family = "separation", direction = "higher", rule = "largest value",
    across = function(set) {
      mapply(function(group, k) mean(sqrt(column_shares(set$x, group)), na.rm = TRUE) / sqrt(k), set$groups, set$k)
    },
    cost = "rows x columns", tier = "all", source = "Ratkowsky & Lance 1978"
  )
}

# min mean distance between the rows of two groups / max (2 x mean distance to the centre); one of the forms of Bezdek &
# Pal (1998), doi:10.1109/3477.678624
index_generalized_dunn <- function() {
  declare_index(
    "generalized_dunn", range = c(0, Inf),
    label = "Generalized Dunn (Bezdek & Pal 1998)", family = "separation", direction = "higher",
    rule = "largest value", across = generalized_dunn,
    silent = function(set) rep("every row lies on its centre", length(set$k)),
    cost = "rows x rows x columns, shared with the silhouettes", tier = "fast", source = "Bezdek & Pal 1998"
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
