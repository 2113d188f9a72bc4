# Categories in a prepared table: `category` holds for each column the number of the category it is a level of, 0 for
# numbers.

# Of a model that may know of categories.
columns_of_numbers <- function(model, columns) {
  if (is.null(model$category)) seq_len(columns) else which(model$category == 0L)
}

# Which level each row has in each category, from 0; -1 where it has none of those known.
level_codes <- function(x, category) {
  codes <- vapply(seq_len(max(0L, category)), function(c) {
    mine <- x[, category == c, drop = FALSE]
    code <- max.col(mine, ties.method = "first") - 1L
    replace(code, mine[cbind(seq_len(nrow(mine)), code + 1L)] <= 0, -1L)
  }, integer(nrow(x)))
  matrix(as.integer(codes), nrow = nrow(x))
}

# Number columns that hold two values, which say no more than two levels do: `column`, `low`, `high`. In a part of the
# rows such a column may hold one value; what the other is does not matter there.
two_valued <- function(x, columns = seq_len(ncol(x))) {
  range <- vapply(columns, function(j) range(x[, j]), numeric(2))
  two <- vapply(seq_along(columns), function(at) {
    all(x[, columns[at]] == range[1L, at] | x[, columns[at]] == range[2L, at])
  }, NA)
  low <- range[1L, two]
  high <- range[2L, two]
  data.frame(column = columns[two], low = low, high = high + (low == high))
}

# Codes of such columns, from 0; -1 for a third value.
two_codes <- function(x, two) {
  codes <- vapply(seq_len(nrow(two)), function(at) {
    place <- (x[, two$column[at]] - two$low[at]) / (two$high[at] - two$low[at])
    ifelse(abs(place) < 1e-6, 0L, ifelse(abs(place - 1) < 1e-6, 1L, -1L))
  }, integer(nrow(x)))
  matrix(codes, nrow = nrow(x))
}

# Log chance of each row's levels under every component, categories independent: rows x components. A level that is not
# known says nothing. `chance`: components x levels, category after category, `many` of each.
log_chances <- function(codes, chance, many) {
  out <- matrix(0, nrow(codes), nrow(chance))
  before <- cumsum(many) - many
  for (c in seq_along(many)) {
    known <- which(codes[, c] >= 0L)
    out[known, ] <- out[known, ] + t(log(chance))[before[c] + codes[known, c] + 1L, ]
  }
  out
}
