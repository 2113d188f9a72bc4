# Labels: numbered by decreasing size, ties by the first coordinate of the centre, then the next, so that the
# same grouping has the same numbers on every run. 0 (noise) and NA (no group) stay.

group_order <- function(group, centres) {
  sizes <- tabulate(group[!is.na(group) & group > 0L], nbins = nrow(centres))
  keys <- c(list(-sizes), lapply(seq_len(ncol(centres)), function(j) centres[, j]))
  do.call(order, keys)
}

renumber <- function(group, order) {
  out <- as.integer(group)
  real <- !is.na(out) & out > 0L
  out[real] <- match(out[real], order)
  out
}

# Numbered so by their means: for methods that keep something by group number.
number_groups <- function(group, x) renumber(group, group_order(group, group_means(x, group)))

# Rows by group of one labeling and of another; rows without a group (0) in either are left out.
cross_counts <- function(a, b, most_a = max(a, 0L), most_b = max(b, 0L)) {
  inside <- a > 0L & b > 0L
  matrix(tabulate(a[inside] + most_a * (b[inside] - 1L), most_a * most_b), most_a)
}

group_means <- function(x, group, k = max(0L, group)) {
  means <- group_scatter_kernel(x, as.integer(group), as.integer(k))$means
  dimnames(means) <- list(NULL, colnames(x))
  means
}

# Sum of squared distances of the rows to their group's mean, by group.
group_scatter <- function(x, group, k = max(0L, group)) {
  group_scatter_kernel(x, as.integer(group), as.integer(k))$scatter
}

# `covered`: which rows count; left out, all of them.
total_scatter <- function(x, covered = TRUE) {
  sum(group_scatter(x, rep_len(as.integer(covered), nrow(x)), 1L))
}

# Rows are duplicates when all their values are equal.
distinct_rows <- function(x) vctrs::vec_unique_count(x + 0)

# Sum of squared distances of the rows to their group's mean, by column.
column_scatter <- function(x, group) {
  means <- group_means(x, group, max(group))
  colSums((x - means[group, , drop = FALSE])^2)
}

# By column: the share of the spread that lies between groups; `none` of a column without spread. Noise is left out.
between_shares <- function(x, group, none = 0) {
  inside <- group > 0L
  if (!all(inside)) {
    x <- x[inside, , drop = FALSE]
    group <- group[inside]
  }
  total <- colSums((x - rep(colMeans(x), each = nrow(x)))^2)
  ifelse(total > 0, pmax(0, 1 - column_scatter(x, group) / total), none)
}

# Agreement of two labelings from their cross-table.

pairs_of <- function(n) sum(n * (n - 1) / 2)

# Hubert & Arabie (1985), doi:10.1007/BF01908075. Two identical labelings score 1 even with one group each; one group
# against several scores 0.
adjusted_rand <- function(table) {
  together <- pairs_of(table)
  in_groups <- pairs_of(rowSums(table))
  in_classes <- pairs_of(colSums(table))
  expected <- in_groups * in_classes / pairs_of(sum(table))
  most <- (in_groups + in_classes) / 2
  if (isTRUE(all.equal(most, expected)) || sum(table) < 2) {
    return(if (identical_up_to_names(table)) 1 else 0)
  }
  (together - expected) / (most - expected)
}

identical_up_to_names <- function(table) {
  table <- table[rowSums(table) > 0L, colSums(table) > 0L, drop = FALSE]
  nrow(table) == ncol(table) && all(rowSums(table > 0) == 1L) && all(colSums(table > 0) == 1L)
}

# Labels in the order people expect: numbers by value, the rest by name.
in_order <- function(label) {
  levels <- unique(as.character(label))
  numeric <- suppressWarnings(as.numeric(levels))
  factor(as.character(label), levels[if (anyNA(numeric)) order(levels) else order(numeric)])
}
