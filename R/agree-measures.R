# Numbers that compare two labelings, from their cross-table: groups in rows, classes in columns.

# Every measure, in the order they are shown; `matched` is the class of each group.
agreement_measures <- list(
  adjusted_rand = function(table, matched) adjusted_rand(table),
  adjusted_mutual_information = function(table, matched) adjusted_information(table),
  accuracy = function(table, matched) accuracy_of(table, matched),
  purity = function(table, matched) purity_of(table),
  v_measure = function(table, matched) shared_information(table)$v_measure,
  homogeneity = function(table, matched) shared_information(table)$homogeneity,
  completeness = function(table, matched) shared_information(table)$completeness,
  mutual_information = function(table, matched) shared_information(table)$mutual,
  variation_of_information = function(table, matched) shared_information(table)$variation,
  rand = function(table, matched) of_pairs(table)$rand,
  jaccard = function(table, matched) of_pairs(table)$jaccard,
  fowlkes_mallows = function(table, matched) of_pairs(table)$fowlkes_mallows
)

lower_is_better <- "variation_of_information"

# Share of the rows on matched pairs.
accuracy_of <- function(table, match) {
  known <- !is.na(match)
  sum(table[cbind(which(known), match[known])]) / sum(table)
}

# Share of the rows in their group's majority class.
purity_of <- function(table) sum(apply(table, 1L, max)) / sum(table)

# Pairs of rows that both labelings put together, or apart. Where neither puts any pair together they agree.
of_pairs <- function(table) {
  together <- pairs_of(table)
  in_groups <- pairs_of(rowSums(table))
  in_classes <- pairs_of(colSums(table))
  all <- pairs_of(sum(table))
  either <- in_groups + in_classes - together
  list(
    rand = if (all == 0) 1 else (all - either + together) / all,
    jaccard = if (either == 0) 1 else together / either,
    fowlkes_mallows = if (either == 0) 1 else if (together == 0) 0 else together / sqrt(in_groups * in_classes)
  )
}

entropy_of <- function(counts) {
  share <- counts[counts > 0] / sum(counts)
  -sum(share * log(share))
}

# In nats. Mutual information normalised by the mean of the entropies is the v-measure (Rosenberg & Hirschberg 2007).
shared_information <- function(table) {
  groups <- entropy_of(rowSums(table))
  classes <- entropy_of(colSums(table))
  mutual <- groups + classes - entropy_of(table)
  # of independent labelings rounding leaves a hair
  if (mutual < 1e-14 * (groups + classes)) mutual <- 0
  homogeneity <- if (classes == 0) 1 else mutual / classes
  completeness <- if (groups == 0) 1 else mutual / groups
  list(mutual = mutual, homogeneity = homogeneity, completeness = completeness,
       v_measure = if (groups + classes == 0) 1 else 2 * mutual / (groups + classes),
       variation = if (identical_up_to_names(table)) 0 else max(0, groups + classes - 2 * mutual))
}

# Vinh, Epps & Bailey (2010), with the mean of the entropies.
adjusted_information <- function(table) {
  if (identical_up_to_names(table)) {
    return(1)
  }
  mutual <- shared_information(table)$mutual
  most <- (entropy_of(rowSums(table)) + entropy_of(colSums(table))) / 2
  expected <- expected_information(rowSums(table), colSums(table))
  if (most - expected <= 1e-12 * max(1, most)) 0 else (mutual - expected) / (most - expected)
}

# The mean mutual information of labelings with these sizes put together at random: each cell is hypergeometric. Cells
# farther than 12 standard deviations from their mean add nothing that a double could hold.
expected_information <- function(groups, classes) {
  n <- sum(groups)
  pairs <- expand.grid(a = groups[groups > 0], b = classes[classes > 0])
  one <- function(a, b) {
    mean <- a * b / n
    reach <- 12 * sqrt(mean * (1 - a / n) * (n - b) / max(1, n - 1)) + 30
    cell <- seq(max(1, a + b - n, floor(mean - reach)), max(1, min(a, b, ceiling(mean + reach))))
    sum(cell / n * log(n * cell / (a * b)) * stats::dhyper(cell, a, n - a, b))
  }
  sum(mapply(one, pairs$a, pairs$b))
}

# By class: what share of the rows matched to it is of it, what share of it is matched, and their harmonic mean.
class_measures <- function(table, matched) {
  classes <- seq_len(ncol(table))
  known <- which(!is.na(matched))
  hit <- vapply(classes, function(j) sum(table[known[matched[known] == j], j]), 0)
  claimed <- vapply(classes, function(j) sum(table[known[matched[known] == j], ]), 0)
  rows <- unname(colSums(table))
  tibble::tibble(
    class = colnames(table), rows = as.integer(rows), precision = ifelse(claimed > 0, hit / claimed, NA_real_),
    recall = hit / rows, f1 = ifelse(hit > 0, 2 * hit / (claimed + rows), 0)
  )
}

# Measures of information are the larger the fewer the rows: their intervals held the truth too seldom
# (bench/claims.R), so they get none.
with_intervals <- c("adjusted_rand", "accuracy", "purity", "rand", "jaccard", "fowlkes_mallows")

# Ends of the middle 95 in 100 of each measure over cross-tables of rows drawn with replacement; the matching stays.
# Half a row per group is spread over its classes first, so that a cell no row fell into is not thought impossible.
measure_intervals <- function(table, matched, samples, seed) {
  drawn <- drawn_tables(table + 0.5 / ncol(table), sum(table), samples, seed)
  ends <- vapply(names(agreement_measures), function(name) {
    if (!name %in% with_intervals) {
      return(c(NA_real_, NA_real_))
    }
    values <- apply(drawn, 1L, function(cells) {
      one <- matrix(cells, nrow(table))
      used <- rowSums(one) > 0
      agreement_measures[[name]](one[used, , drop = FALSE], matched[used])
    })
    middle <- stats::quantile(values, c(0.025, 0.975), names = FALSE, type = 7L)
    range(agreement_measures[[name]](table, matched), middle)
  }, double(2))
  list(low = unname(ends[1L, ]), high = unname(ends[2L, ]))
}

# One row per sample, one column per cell: `rows` fall into the cells one cell after another, by binomial shares of what
# is left.
drawn_tables <- function(weights, rows, samples, seed) {
  chance <- matrix(uniform_numbers(samples * length(weights), seed), samples)
  out <- matrix(0, samples, length(weights))
  left <- rep(rows, samples)
  rest <- rev(cumsum(rev(as.vector(weights))))
  for (i in seq_along(weights)) {
    out[, i] <- stats::qbinom(chance[, i], left, if (rest[i] > 0) weights[i] / rest[i] else 0)
    left <- left - out[, i]
  }
  out
}
