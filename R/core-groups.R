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

group_means <- function(x, group, k = max(0L, group)) {
  sums <- matrix(0, k, ncol(x), dimnames = list(NULL, colnames(x)))
  inside <- group > 0L
  present <- rowsum(x[inside, , drop = FALSE], group[inside], reorder = TRUE)
  sums[as.integer(rownames(present)), ] <- present
  sums / tabulate(group[inside], nbins = k)
}

# Sum of squared distances of the rows to their group's mean, by group. Columns are centred first, so that
# large offsets cost no digits.
group_scatter <- function(x, group, k = max(0L, group)) {
  inside <- group > 0L
  x <- sweep(x, 2L, colMeans(x))[inside, , drop = FALSE]
  group <- group[inside]
  centres <- group_means(x, group, k)
  squares <- rowSums((x - centres[group, , drop = FALSE])^2)
  out <- numeric(k)
  sums <- rowsum(squares, group)
  out[as.integer(rownames(sums))] <- sums
  out
}

total_scatter <- function(x) sum(sweep(x, 2L, colMeans(x))^2)

# Rows are duplicates when all their values are equal.
distinct_rows <- function(x) vctrs::vec_unique_count(x + 0)
