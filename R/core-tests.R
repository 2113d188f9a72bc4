# Tests and intervals, from plain vectors.

# One-way analysis of variance: F, eta squared, p. Noise and missing values are left out.
variance_test <- function(values, group) {
  kept <- !is.na(values) & group > 0L
  values <- values[kept]
  group <- match(group[kept], sort(unique(group[kept])))
  k <- max(0L, group)
  n <- length(values)
  total <- sum((values - mean(values))^2)
  if (k < 2L || n <= k || total <= 0) {
    return(list(statistic = NA_real_, effect = NA_real_, p = NA_real_))
  }
  within <- sum(group_scatter(matrix(values), group, k))
  f <- (total - within) / (k - 1) / (within / (n - k))
  list(statistic = f, effect = max(0, 1 - within / total), p = stats::pf(f, k - 1, n - k, lower.tail = FALSE))
}

# Chi-squared of the cross-table, Cramer's V. Rough: where one cell in five is expected to hold fewer than five rows, or
# any less than one (Cochran 1954).
table_test <- function(values, group) {
  kept <- !is.na(values) & group > 0L
  counts_test(unclass(base::table(group[kept], values[kept])))
}

# The same of counts.
counts_test <- function(table) {
  table <- table[rowSums(table) > 0, colSums(table) > 0, drop = FALSE]
  n <- sum(table)
  if (min(dim(table)) < 2L) {
    return(list(statistic = NA_real_, effect = NA_real_, p = NA_real_, rough = FALSE))
  }
  expected <- outer(rowSums(table), colSums(table)) / n
  chi <- sum((table - expected)^2 / expected)
  list(statistic = chi, effect = sqrt(chi / (n * (min(dim(table)) - 1))),
       p = stats::pchisq(chi, prod(dim(table) - 1), lower.tail = FALSE),
       rough = mean(expected < 5) > 0.2 || any(expected < 1))
}

# Groups of one row, and groups that do not vary, cannot be weighed by their variance.
welch_test <- function(values, group) {
  spreads <- vapply(split(values, group), function(v) if (length(v) < 2L) 0 else spread_of(v), 0)
  usable <- group %in% as.integer(names(spreads)[spreads > 0])
  none <- list(name = "Welch's analysis of variance", statistic = NA_real_, p = NA_real_,
               effect = variance_test(values, group)$effect)
  if (length(unique(group[usable])) < 2L) {
    return(none)
  }
  test <- stats::oneway.test(values ~ group, data.frame(values = values[usable], group = factor(group[usable])))
  utils::modifyList(none, list(statistic = unname(test$statistic), p = test$p.value))
}

# Of shares of n rows (Wilson 1927).
wilson_interval <- function(share, n, level) {
  z <- stats::qnorm((1 + level) / 2)
  middle <- (share + z^2 / (2 * n)) / (1 + z^2 / n)
  reach <- z / (1 + z^2 / n) * sqrt(share * (1 - share) / n + z^2 / (4 * n^2))
  list(low = pmax(0, middle - reach), high = pmin(1, middle + reach))
}

# By how many standard deviations the sum of scores over the chosen rows exceeds what choosing as many rows of each
# class at random gives; numbers by their ranks within the class. Nothing where chance allows no difference.
excess_within <- function(score, chosen, class) {
  ranked <- !all(score %in% c(0, 1, NA))
  observed <- expected <- variance <- 0
  for (rows in split(seq_along(score), class)) {
    rows <- rows[!is.na(score[rows])]
    n <- length(rows)
    m <- sum(chosen[rows])
    if (n < 2L || m == 0L || m == n) {
      fixed <- sum(if (ranked) 0 else score[rows][chosen[rows]])
      observed <- observed + fixed
      expected <- expected + fixed
      next
    }
    # ranks are brought to one scale, so that large classes do not outweigh the others (van Elteren 1960)
    value <- if (ranked) rank(score[rows]) / (n + 1) else score[rows]
    observed <- observed + sum(value[chosen[rows]])
    expected <- expected + m * mean(value)
    variance <- variance + m * (n - m) / (n * (n - 1)) * sum((value - mean(value))^2)
  }
  if (variance <= 0) {
    return(NULL)
  }
  excess <- observed - expected
  # counts: half a row less
  if (!ranked) excess <- sign(excess) * max(0, abs(excess) - 0.5)
  list(expected = expected, z = excess / sqrt(variance))
}
