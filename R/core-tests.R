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

# Of shares of n rows (Wilson 1927).
wilson_interval <- function(share, n, level) {
  z <- stats::qnorm((1 + level) / 2)
  middle <- (share + z^2 / (2 * n)) / (1 + z^2 / n)
  reach <- z / (1 + z^2 / n) * sqrt(share * (1 - share) / n + z^2 / (4 * n^2))
  list(low = pmax(0, middle - reach), high = pmin(1, middle + reach))
}

# Whether the scores of the chosen rows exceed those of as many rows of each stratum chosen at random: counts by the
# exact distribution, numbers by their ranks within the stratum, normal where many rows are chosen and by drawn choices
# else. `p` is for a larger sum, of numbers for a larger or a smaller one. Nothing where chance allows no difference.
excess_within <- function(score, chosen, strata, seed = 1) {
  ranked <- !all(score %in% c(0, 1, NA))
  parts <- lapply(split(seq_along(score), strata), function(rows) {
    rows <- rows[!is.na(score[rows])]
    # ranks are brought to one scale, so that large strata do not outweigh the others (van Elteren 1960)
    value <- if (ranked) rank(score[rows]) / (length(rows) + 1) else score[rows]
    list(value = value, chosen = chosen[rows], n = length(rows), m = sum(chosen[rows]))
  })
  open <- Filter(function(part) part$m > 0L && part$m < part$n, parts)
  moments <- vapply(open, function(part) {
    n <- part$n
    c(part$m * mean(part$value),
      part$m * (n - part$m) / (n * (n - 1)) * sum((part$value - mean(part$value))^2))
  }, double(2))
  variance <- sum(moments[2L, ])
  if (length(open) == 0L || variance <= 0) {
    return(NULL)
  }
  sum_of <- function(of) sum(vapply(of, function(part) sum(part$value[part$chosen]), 0))
  excess <- sum_of(open) - sum(moments[1L, ])
  fixed <- if (ranked) 0 else sum_of(parts) - sum_of(open)
  z <- excess / sqrt(variance)
  free <- sum(vapply(open, function(part) min(part$m, part$n - part$m), 0))
  p <- if (!ranked) chance_of_count(open)
  else if (free >= normal_from) 2 * stats::pnorm(-abs(z))
  else chance_of_choice(open, excess, sum(moments[1L, ]), seed)
  list(expected = fixed + sum(moments[1L, ]), z = z, p = p)
}

normal_from <- 30L  # chosen rows (or others, if they are fewer) from which a sum of ranks is taken for normal

# How often as many ones or more are chosen: sums of hypergeometric counts.
chance_of_count <- function(parts) {
  chance <- 1
  for (part in parts) {
    ones <- sum(part$value)
    of_part <- stats::dhyper(0:min(part$m, ones), ones, part$n - ones, part$m)
    longer <- numeric(length(chance) + length(of_part) - 1L)
    for (i in seq_along(of_part)) {
      at <- i - 1L + seq_along(chance)
      longer[at] <- longer[at] + of_part[i] * chance
    }
    chance <- longer
  }
  seen <- sum(vapply(parts, function(part) sum(part$value[part$chosen]), 0))
  min(1, sum(chance[seq_along(chance) > seen]))
}

# How often choices drawn at random differ as far from what is expected.
chance_of_choice <- function(parts, excess, expected, seed) {
  sequential_chance(function(sets, from) {
    sums <- 0
    for (i in seq_along(parts)) sums <- sums + chosen_sums(parts[[i]], sets, derived_seed(seed, from, i))
    abs(sums - expected)
  }, abs(excess), most = 9999L, enough = 20L)
}

# How often drawn statistics are as large as the observed one; drawing ends with the one that makes `enough` of them
# (Besag & Clifford 1991, doi:10.1093/biomet/78.2.301). `draw`: how many, and how many were drawn before.
sequential_chance <- function(draw, observed, most, enough, at_once = 100L) {
  least <- observed - 1e-9 * abs(observed)
  reached <- drawn <- 0L
  while (drawn < most) {
    sets <- min(at_once, most - drawn)
    hits <- reached + cumsum(draw(sets, drawn) >= least)
    last <- match(enough, hits)
    if (!is.na(last)) {
      return(enough / (drawn + last))
    }
    reached <- hits[sets]
    drawn <- drawn + sets
  }
  (1 + reached) / (1 + drawn)
}

# Sums over `m` of the `n` values, drawn `sets` times; of more than half the rest is drawn.
chosen_sums <- function(part, sets, seed) {
  few <- min(part$m, part$n - part$m)
  at <- matrix(ceiling(uniform_numbers(few * sets, seed) * part$n), sets)
  twice <- which(apply(at, 1L, anyDuplicated) > 0L)
  turn <- 0L
  while (length(twice) > 0L) {
    turn <- turn + 1L
    at[twice, ] <- ceiling(uniform_numbers(few * length(twice), derived_seed(seed, turn)) * part$n)
    twice <- twice[apply(at[twice, , drop = FALSE], 1L, anyDuplicated) > 0L]
  }
  sums <- rowSums(matrix(part$value[pmax(at, 1)], sets))
  if (few < part$m) sum(part$value) - sums else sums
}
