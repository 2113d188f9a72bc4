# Curve: indices read off the course of W over the counts.

# The bend of log W against log k, as in definitions of the elbow: the slope after a count less the slope before
# it. Only positive ones are bends: elsewhere the curve goes on as before or steeper, and a count is not ranked.
# Idea: Thorndike (1953), doi:10.1007/BF02289263; the rule is ours.
index_elbow <- function() {
  declare_index(
    "elbow",
    label = "Elbow (Thorndike 1953)", family = "curve", direction = "higher", rule = "sharpest bend of log W",
    across = function(set) elbow_bend(set$k, set$scatter), silent = why_no_bend,
    order = function(k, value) k[value > 0][order(-value[value > 0], k[value > 0])],
    cost = "none beyond the fits", source = "idea Thorndike 1953; rule ours"
  )
}

elbow_bend <- function(k, scatter) {
  curve <- ifelse(scatter > 0, log(scatter), NA_real_)
  at <- function(count) curve[match(count, k)]
  after <- (at(k + 1) - at(k)) / log((k + 1) / k)
  before <- (at(k) - at(k - 1)) / log(k / (k - 1))
  after - before
}

why_no_bend <- function(set) {
  has <- (set$k + 1) %in% set$k & (set$k - 1) %in% set$k
  ifelse(has, "W is zero", "it needs the counts one below and one above")
}
