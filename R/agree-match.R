# Matching groups to classes.

# The class of each group, by either rule. Noise goes with noise alone.
match_groups <- function(table, match, noise_group = NULL, noise_class = NULL) {
  apart <- outer(rownames(table) %in% noise_group, colnames(table) %in% noise_class, `!=`)
  table[apart] <- 0
  if (match == "majority") match_majority(table) else match_one_to_one(table)
}

# The one-to-one matching with the most rows; equal ones go to the larger overlap in the lower-numbered group, then
# to the lower-numbered class. A pair without common rows is no match. Returns the class of each group, or NA.
match_one_to_one <- function(table) {
  size <- max(dim(table))
  padded <- matrix(0, size, size)
  padded[seq_len(nrow(table)), seq_len(ncol(table))] <- table
  most <- assignment_total(padded)
  chosen <- integer(0L)
  for (group in seq_len(nrow(table))) {
    chosen[group] <- first_possible(padded, chosen, group, most)
  }
  chosen[table_at(padded, chosen) == 0 | chosen > ncol(table)] <- NA
  chosen
}

table_at <- function(table, class) table[cbind(seq_along(class), class)]

# The preferred class of `group` with which the best total can still be reached.
first_possible <- function(table, chosen, group, most) {
  free <- setdiff(seq_len(ncol(table)), chosen)
  free <- free[order(-table[group, free], free)]
  so_far <- if (length(chosen) > 0L) sum(table_at(table, chosen)) else 0
  for (class in free) {
    rest <- table[-seq_len(group), setdiff(free, class), drop = FALSE]
    if (so_far + table[group, class] + assignment_total(rest) == most) {
      return(class)
    }
  }
  free[1L]
}

assignment_total <- function(table) {
  if (length(table) == 0L) 0 else round(lpSolve::lp.assign(table, direction = "max")$objval)
}

# Each group to the class that holds most of its rows; equal ones go to the lower-numbered class.
match_majority <- function(table) {
  class <- apply(table, 1L, which.max)
  class[rowSums(table) == 0L] <- NA
  as.integer(class)
}
