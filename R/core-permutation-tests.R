# Tests whose chance is that of the values dealt out to the groups anew (Pitman 1937, doi:10.2307/2984124): exact in
# level whatever the values are, where F and chi-squared lean on many rows of even spread.

permuted_most_rows <- 5000L
dealt_most <- 1999L
dealt_enough <- 50L

# How often the statistic is as large when values are dealt out anew; dealing stops when that is decided. `statistic`:
# of a matrix with one column per deal.
dealt_chance_of <- function(values, statistic, seed, at_once = 100L) {
  n <- length(values)
  sequential_chance(function(sets, from) {
    statistic(vapply(from + seq_len(sets), function(set) values[order(uniform_numbers(n, derived_seed(seed, 71, set)))],
                     values))
  }, statistic(matrix(values)), most = dealt_most, enough = dealt_enough, at_once = at_once)
}

# One-way analysis of variance, as variance_test(); of very many rows by the F distribution.
dealt_variance_test <- function(values, group, seed = 1) {
  found <- variance_test(values, group)
  kept <- !is.na(values) & group > 0L
  if (is.na(found$p) || sum(kept) > permuted_most_rows) {
    return(found)
  }
  group <- group[kept]
  rows <- as.vector(table(group))
  values <- values[kept] - mean(values[kept])
  # with the total given, F rises with what lies between the groups
  found$p <- dealt_chance_of(values / max(abs(values)), function(dealt) colSums(rowsum(dealt, group)^2 / rows), seed)
  found
}

# Chi-squared, as table_test(); where that is rough its p-value is of values dealt out anew.
dealt_table_test <- function(values, group, seed = 1) {
  found <- c(list(name = "chi-squared"), table_test(values, group))
  kept <- !is.na(values) & group > 0L
  if (!found$rough || is.na(found$p) || sum(kept) > permuted_most_rows) {
    return(found)
  }
  values <- match(values[kept], unique(values[kept]))
  group <- match(group[kept], unique(group[kept]))
  expected <- outer(tabulate(group), tabulate(values)) / length(values)
  cells <- length(expected)
  chi <- function(dealt) {
    apply(dealt, 2L, function(column) {
      counts <- tabulate(group + nrow(expected) * (column - 1L), cells)
      sum((counts - expected)^2 / expected)
    })
  }
  found$p <- dealt_chance_of(values, chi, seed)
  found$rough <- FALSE
  found$name <- "chi-squared, by permutation"
  found
}
