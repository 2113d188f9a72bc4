# Means whose values may be skewed or mostly equal: intervals, and a comparison of groups.

interval_sets <- 1999L
bootstrap_most_rows <- 2000L

# The bootstrap-t interval of a mean (Hall 1988), of many values Student's. `rough` where it cannot be relied on: few
# values, or hardly any but the most frequent one.
mean_interval <- function(values, level, seed) {
  n <- length(values)
  none <- list(low = NA_real_, high = NA_real_, rough = TRUE)
  spread <- if (n > 1L) spread_of(values) else 0
  if (!is.finite(spread) || spread <= 0) {
    return(none)
  }
  middle <- mean(values)
  # in standard units: sums of squares of large values would lose what they differ by
  tails <- (1 + c(-1, 1) * level) / 2
  ends <- if (n > bootstrap_most_rows) stats::qt(tails, n - 1)
  else rev(-stats::quantile(drawn_t((values - middle) / spread, seed), tails, names = FALSE, type = 1L))
  if (!all(is.finite(ends))) {
    return(none)
  }
  others <- n - max(tabulate(match(values, unique(values))))
  rough <- n < rough_below || others < fewest_others
  list(low = middle + ends[1L] * spread / sqrt(n), high = middle + ends[2L] * spread / sqrt(n), rough = rough)
}

# Set with simulated values (bench/claims/outcome.R measures on others).
rough_below <- 20L
fewest_others <- 5L

# Student's t of samples drawn with replacement; samples of equal values lie beyond all others, unless they are the
# mean.
drawn_t <- function(values, seed) {
  n <- length(values)
  drawn <- matrix(values[ceiling(uniform_numbers(n * interval_sets, seed) * n)], interval_sets)
  means <- rowMeans(drawn)
  spread <- sqrt(pmax(0, rowSums(drawn^2) - n * means^2) / (n - 1))
  off <- means - mean(values)
  beyond <- spread <= 1e-9 * spread_of(values) & off != 0
  ifelse(beyond, sign(off) * Inf, off / pmax(spread / sqrt(n), 1e-300))
}

# Welch's (1951) analysis of variance. Of up to `permuted_most_rows` rows its p-value is how often the statistic is as
# large when the values are dealt out to the groups anew (Chung & Romano 2013); dealing stops when that is decided.
# Groups of one row have no spread of their own and stay out; no group counts as more even than a thousandth of all.
welch_test <- function(values, group, seed = 1) {
  none <- list(name = "Welch's analysis of variance", statistic = NA_real_, p = NA_real_,
               effect = variance_test(values, group)$effect)
  usable <- group %in% which(tabulate(group) > 1L)
  values <- values[usable]
  group <- match(group[usable], sort(unique(group[usable])))
  spread <- if (length(unique(group)) < 2L) 0 else spread_of(values)
  if (!is.finite(spread) || spread <= 0) {
    return(none)
  }
  values <- (values - mean(values)) / spread
  n <- tabulate(group)
  observed <- welch_statistic(values, group, n)
  if (length(values) > permuted_most_rows) {
    none[c("statistic", "p")] <- list(observed, stats::pf(observed, length(n) - 1, welch_freedom(values, group, n),
                                                          lower.tail = FALSE))
    return(none)
  }
  p <- dealt_chance_of(values, function(dealt) apply(dealt, 2L, welch_statistic, group = group, n = n), seed)
  utils::modifyList(none, list(name = "Welch's analysis of variance, by permutation", statistic = observed, p = p))
}

group_moments <- function(values, group, n) {
  means <- rowsum(values, group)[, 1L] / n
  variance <- pmax(1e-3, (rowsum(values^2, group)[, 1L] - n * means^2) / (n - 1))
  list(means = means, weight = n / variance)
}

welch_statistic <- function(values, group, n) {
  of <- group_moments(values, group, n)
  k <- length(n)
  share <- of$weight / sum(of$weight)
  middle <- sum(share * of$means)
  uneven <- sum((1 - share)^2 / (n - 1))
  sum(of$weight * (of$means - middle)^2) / (k - 1) / (1 + 2 * (k - 2) / (k^2 - 1) * uneven)
}

welch_freedom <- function(values, group, n) {
  weight <- group_moments(values, group, n)$weight
  (length(n)^2 - 1) / (3 * sum((1 - weight / sum(weight))^2 / (n - 1)))
}
