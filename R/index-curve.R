# Curve: indices read off the course of W over the counts.

# The bend of log W against log k, as in definitions of the elbow: the slope after a count less the slope before
# it. Only positive ones are bends: elsewhere the curve goes on as before or steeper, and a count is not ranked.
# Idea: Thorndike (1953), doi:10.1007/BF02289263; the rule is ours.
index_elbow <- function() {
  declare_index(
    "elbow", sampled = references_sampled(),
    label = "Elbow (Thorndike 1953)", family = "curve", direction = "higher",
    family_about = "The course of W over the counts.", rule = "sharpest bend of log W",
    across = function(set) tested_bend(set), silent = why_no_bend,
    order = function(k, value) k[value > 0][order(-value[value > 0], k[value > 0])],
    cost = "none beyond the fits; whether it is sharper than chance: the reference sets", tier = "fast",
    source = "idea Thorndike 1953; rule ours",
    formula = paste("the bend b(k) = s(k+1) - s(k) with the slopes s(k) = (log W(k) - log W(k-1)) / log(k /",
                    "(k-1)). Only positive bends are ranked, and only where the largest is sharper than 95% of",
                    "the largest bends of reference tables (boxes and Gaussians; not tested in the set",
                    "`\"fast\"`)."),
    reference = "Thorndike, R. L. (1953). Who belongs in the family? \\doi{10.1007/BF02289263}"
  )
}

# A bend no sharper than those of tables without groups does not vote.
tested_bend <- function(set) {
  value <- elbow_bend(set$k, set$scatter)
  references <- if (!all(is.na(value))) set$references()  # of one partition there is no bend to test
  if (is.null(references)) {
    return(value)
  }
  observed <- elbow_bend(set$k, exp(references$observed))
  sharpest <- sharpest_bend(set$k, references$observed)
  chance <- likely_bend(set$k, references$box)
  # A bend that boxes have too need not be compared with Gaussians; one sharper than those of Gaussians fitted hastily,
  # whose curves are rougher, not with Gaussians fitted well.
  if (isTRUE(sharpest > chance)) {
    chance <- likely_bend(set$k, references$gaussian(hasty = TRUE))
    if (!isTRUE(sharpest > chance)) chance <- likely_bend(set$k, references$gaussian())
  }
  if (!isTRUE(sharpest > chance)) {
    attr(value, "abstains") <- if (sharpest <= 0) "log W has no bend"
    else paste0("its sharpest bend, ", digits3(sharpest), " at ", set$k[which.max(observed)],
                ", is no sharper than chance (", digits3(chance), ")")
  }
  value
}

# What 95 in 100 of the largest bends of tables without groups do not exceed.
likely_bend <- function(k, curves) {
  stats::quantile(apply(curves, 1L, sharpest_bend, k = k), likely, names = FALSE)
}

likely <- 0.95

# The largest bend of a curve of log W.
sharpest_bend <- function(k, curve) max(elbow_bend(k, exp(curve)), -Inf, na.rm = TRUE)

elbow_bend <- function(k, scatter) {
  curve <- ifelse(scatter > 0, log(scatter), NA_real_)
  at <- function(count) curve[match(count, k)]
  after <- (at(k + 1) - at(k)) / log((k + 1) / k)
  before <- (at(k) - at(k - 1)) / log(k / (k - 1))
  after - before
}

why_no_bend <- function(set) {
  has <- (set$k + 1) %in% set$k & (set$k - 1) %in% set$k
  ifelse(has, "W is zero", "it needs the counts directly below and above")
}

# (W(k) / W(k+1) - 1)(n - k - 1). Hartigan (1975), Clustering Algorithms, Wiley.
index_hartigan <- function() {
  declare_index(
    "hartigan",
    label = "Hartigan (1975)", family = "curve", direction = "lower", rule = "smallest count with 10 or less",
    from = 1L, weight = 0, across = hartigan_values, silent = function(set) {
      ifelse((set$k + 1) %in% set$k, "W is zero", "it needs the count one above")
    },
    order = function(k, value) {
      if (!any(value <= 10)) {
        return(integer())
      }
      pick <- min(k[value <= 10])
      away <- abs(log(pmax(value, 0) / 10))  # W may rise: then it is farthest away
      c(pick, setdiff(k[order(away, k)], pick))
    },
    cost = "none beyond the fits", tier = "fast", source = "Hartigan 1975",
    formula = "(W(k) / W(k+1) - 1)(n - k - 1); picks the smallest count with 10 or less, one allowed.",
    reference = "Hartigan, J. A. (1975). Clustering Algorithms. Wiley."
  )
}

hartigan_values <- function(set) {
  after <- set$scatter[match(set$k + 1, set$k)]
  ifelse(after > 0, (set$scatter / after - 1) * (set$n - set$k - 1), NA_real_)
}

# |D(k) / D(k+1)|, D(k) = (k-1)^(2/d) W(k-1) - k^(2/d) W(k). Krzanowski & Lai (1988), doi:10.2307/2531893
index_krzanowski_lai <- function() {
  declare_index(
    "krzanowski_lai", range = c(0, Inf),
    label = "Krzanowski-Lai (1988)", family = "curve", direction = "higher", rule = "largest value",
    across = krzanowski_lai, silent = function(set) {
      has <- (set$k + 1) %in% set$k & (set$k - 1) %in% set$k
      ifelse(has, "W falls no faster here than by chance, or not at all after it",
             "it needs the counts directly below and above")
    },
    cost = "none beyond the fits", tier = "fast", source = "Krzanowski & Lai 1988",
    formula = "|D(k) / D(k+1)|, D(k) = (k-1)^(2/d) W(k-1) - k^(2/d) W(k), d the rank of the table.",
    reference = paste("Krzanowski, W. J. and Lai, Y. T. (1988). A criterion for determining the number of groups",
                      "in a data set using sum-of-squares clustering. \\doi{10.2307/2531893}")
  )
}

krzanowski_lai <- function(set) {
  weighed <- set$k^(2 / set$rank()) * set$scatter
  fall <- weighed[match(set$k - 1, set$k)] - weighed
  after <- fall[match(set$k + 1, set$k)]
  ifelse(fall > 0 & abs(after) >= 1e-8 * set$total, abs(fall / after), NA_real_)
}

# D(k)^(-d/2) - D(k-1)^(-d/2), D(k) = W / (n d). Sugar & James (2003), doi:10.1198/016214503000000666
index_jump <- function() {
  declare_index(
    "jump",
    label = "Jump (Sugar & James 2003)", family = "curve", direction = "higher", rule = "largest jump", from = 1L,
    across = jump_values, silent = function(set) {
      ifelse(set$k == 1 | (set$k - 1) %in% set$k, "W is zero", "it needs the count one below")
    },
    order = function(k, value) {
      best <- k[order(-value, k)]
      if (best[1L] == max(k)) integer() else best
    },
    cost = "none beyond the fits", tier = "fast", source = "Sugar & James 2003",
    formula = "D(k)^(-d/2) - D(k-1)^(-d/2), D(k) = W / (n d); abstains where its pick is the last count.",
    reference = paste("Sugar, C. A. and James, G. M. (2003). Finding the number of clusters in a dataset.",
                      "\\doi{10.1198/016214503000000666}")
  )
}

# In logarithms: the powers overflow in many columns. Then the values are shares of the largest power.
jump_values <- function(set) {
  d <- set$rank()
  power <- ifelse(set$scatter > 0, -d / 2 * log(set$scatter / (set$n * d)), NA_real_)
  most <- max(power, -Inf, na.rm = TRUE)
  if (most > 700) power <- power - most
  before <- ifelse(set$k == 1, 0, exp(power[match(set$k - 1, set$k)]))
  exp(power) - before
}

# Mean over groups of their mean squared distance to the mean. Ball & Hall (1965), Stanford Research Institute; the rule
# is that of later comparisons.
index_ball_hall <- function() {
  declare_index(
    "ball_hall", range = c(0, Inf),
    label = "Ball-Hall (1965)", family = "curve", direction = "lower", rule = "sharpest levelling off", from = 1L,
    across = function(set) {
      vapply(set$geometry(), function(g) mean(g$scatter / g$size), 0)
    },
    order = function(k, value, error, asked) {
      at <- function(count) value[match(count, k)]
      bend <- at(k - 1) - 2 * value + at(k + 1)
      k[order(-bend, k)][seq_len(sum(!is.na(bend)))]
    },
    cost = "rows x columns", tier = "all", source = "Ball & Hall 1965; rule from later comparisons",
    formula = paste("the mean over groups of their mean squared distance to the mean; picks the sharpest",
                    "levelling off."),
    reference = paste("Ball, G. H. and Hall, D. J. (1965). A novel method of data analysis and pattern",
                      "classification. Stanford Research Institute.")
  )
}
