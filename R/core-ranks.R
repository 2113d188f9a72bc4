# Ranks of contestants over tables, and whether they differ beyond chance. Demsar (2006), Journal of Machine Learning
# Research 7, 1-30; pairs after Benavoli, Corani & Mangili (2016), the same 17, 1-10.

# The best first; a contestant without a score comes last. One row per table, one column per contestant.
ranks_in_rows <- function(scores) {
  ranked <- t(apply(scores, 1L, function(row) rank(-ifelse(is.na(row), -Inf, row), ties.method = "average")))
  dimnames(ranked) <- dimnames(scores)
  ranked
}

# Friedman (1937) over tables, with ties; F as Iman & Davenport (1980). Of few tables F makes too much: their chance is
# that of ranks dealt out anew within tables. NA with fewer than two of either.
rank_test <- function(ranks) {
  n <- nrow(ranks)
  m <- ncol(ranks)
  if (n < 2L || m < 2L) {
    return(list(statistic = NA_real_, f = NA_real_, p = NA_real_))
  }
  spread <- sum((ranks - (m + 1) / 2)^2) / (n * (m - 1))
  statistic <- if (spread > 0) n^2 * sum((colMeans(ranks) - (m + 1) / 2)^2) / (n * spread) else 0
  f <- if (n * (m - 1) - statistic > 1e-12) (n - 1) * statistic / (n * (m - 1) - statistic) else Inf
  p <- if (n <= few_tables) dealt_chance(ranks) else stats::pf(f, m - 1, (m - 1) * (n - 1), lower.tail = FALSE)
  list(statistic = statistic, f = f, p = p)
}

few_tables <- 30L
deals <- 9999L

# How often mean ranks lie as far apart when the ranks of each table are dealt out anew.
dealt_chance <- function(ranks) {
  m <- ncol(ranks)
  apart <- function(sums) rowSums((sums - nrow(ranks) * (m + 1) / 2)^2)
  sums <- matrix(0, deals, m)
  for (table in seq_len(nrow(ranks))) {
    drawn <- order(rep(seq_len(deals), m), uniform_numbers(deals * m, table))
    sums <- sums + matrix(ranks[table, (drawn - 1L) %/% deals + 1L], deals, byrow = TRUE)
  }
  (1 + sum(apart(sums) >= apart(rbind(colSums(ranks))) - 1e-9)) / (1 + deals)
}

# Mean ranks farther apart than this differ beyond chance: Nemenyi (1963).
critical_difference <- function(contestants, tables, level = 0.05) {
  stats::qtukey(1 - level, contestants, Inf) / sqrt(2) * sqrt(contestants * (contestants + 1) / (6 * tables))
}

# Each two contestants by their own scores alone: Wilcoxon's (1945) signed ranks, adjusted after Holm (1979).
paired_tests <- function(scores) {
  names <- colnames(scores)
  pairs <- which(upper.tri(diag(length(names))), arr.ind = TRUE)
  p <- vapply(seq_len(nrow(pairs)), function(i) {
    apart <- scores[, pairs[i, 1L]] - scores[, pairs[i, 2L]]
    signed_rank_chance(apart[!is.na(apart) & apart != 0])
  }, 0)
  tibble::tibble(first = names[pairs[, 1L]], second = names[pairs[, 2L]], p = p,
                 adjusted = stats::p.adjust(p, "holm"))
}

# Exact for up to 25 differences, ties included: every sign is as likely.
signed_rank_chance <- function(apart) {
  n <- length(apart)
  if (n == 0L) {
    return(1)
  }
  ranks <- rank(abs(apart))
  up <- sum(ranks[apart > 0])
  if (n > 25L) {
    z <- (abs(up - sum(ranks) / 2) - 0.25) / sqrt(sum(ranks^2) / 4)
    return(min(1, 2 * stats::pnorm(z, lower.tail = FALSE)))
  }
  # sums of ranks, in halves, with the number of ways to each
  ways <- 1
  for (r in as.integer(round(2 * ranks))) ways <- c(ways, rep(0, r)) + c(rep(0, r), ways)
  at <- seq_along(ways) - 1
  middle <- sum(ranks)
  min(1, sum(ways[abs(at - middle) >= abs(2 * up - middle) - 1e-9]) / 2^n)
}
