# Numbers that compare two labelings, from their cross-table: groups in rows, classes in columns.

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

# Share of the rows on matched pairs.
accuracy_of <- function(table, match) {
  known <- !is.na(match)
  sum(table[cbind(which(known), match[known])]) / sum(table)
}

# Share of the rows in their group's majority class.
purity_of <- function(table) sum(apply(table, 1L, max)) / sum(table)
