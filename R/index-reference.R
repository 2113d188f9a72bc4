# Reference: W against its course on tables without groups.

# E*[log W(k)] - log W(k); Tibshirani, Walther & Hastie (2001), doi:10.1111/1467-9868.00293
index_gap <- function() {
  declare_index(
    "gap", sampled = references_sampled(), needs = "references",
    label = "Gap (Tibshirani, Walther & Hastie 2001)", family = "reference", direction = "higher",
    family_about = "Reference tables, without groups, clustered alike.",
    rule = "smallest count no worse than the next, less one standard error", from = 1L, across = gap_values,
    silent = no_references, order = gap_order,
    cost = "20 to 100 more fits for every count, on up to 1,000 rows; shared with the elbow", tier = "standard",
    source = "Tibshirani, Walther & Hastie 2001",
    formula = paste("E*\\[log W(k)\\] - log W(k) over B tables drawn uniformly in the box of the principal axes",
                    "and clustered by the same method (k-means from ten starts, of which the best four go on);",
                    "picks the smallest count whose gap is no smaller than the next one less its error s(k) = sd",
                    "sqrt(1 + 1/B), one allowed. B is 20, or 20 more at a time up to 100 while",
                    "the pick, or whether the elbow is sharper than chance, is within five standard errors of",
                    "another answer. Not a test of one group."),
    reference = paste("Tibshirani, R., Walther, G. and Hastie, T. (2001). Estimating the number of clusters in a",
                      "data set via the gap statistic. \\doi{10.1111/1467-9868.00293}")
  )
}

gap_values <- function(set) {
  curves <- gap_curves(set)
  if (is.null(curves)) {
    return(rep(NA_real_, length(set$k)))
  }
  structure(curves$gap, error = curves$error)
}

# log W as observed and as expected in the boxes, the standard deviation over the boxes, and s(k).
gap_curves <- function(set) {
  references <- set$references()
  if (is.null(references)) {
    return(NULL)
  }
  box <- references$box
  sd <- sqrt(colMeans(sweep(box, 2L, colMeans(box))^2))
  tibble::tibble(k = as.integer(set$k), observed = references$observed, expected = colMeans(box), sd = sd,
                 gap = colMeans(box) - references$observed, error = sd * sqrt(1 + 1 / nrow(box)),
                 tables = nrow(box))
}

# Whether a count is no worse than the next, less its error.
gap_holds <- function(k, value, error) {
  following <- match(k + 1, k)
  value >= value[following] - error[following]
}

# The rule's pick first, the others by their gap.
gap_order <- function(k, value, error, asked = rep(TRUE, length(k))) {
  pick <- k[which(gap_holds(k, value, error) & asked)][1L]
  if (is.na(pick)) integer() else c(pick, setdiff(k[order(-value, k)], pick))
}

no_references <- function(set) {
  lacking <- if (is.null(set$references())) "there are no reference tables" else "W is zero"
  rep(set$unfit %||% lacking, length(set$k))
}
