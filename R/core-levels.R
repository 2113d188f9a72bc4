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

# Number columns with at most `few_levels` values, each held by five rows or more in the mean: no density describes
# them, and a component on one value alone would have any likelihood. One row per value: `column`, `value`.
few_levels <- 4L

few_valued <- function(x, columns = seq_len(ncol(x))) {
  values <- lapply(columns, function(j) {
    # a few rows tell that a column has many
    if (length(unique(utils::head(x[, j], 200L))) > few_levels) numeric() else sort(unique(x[, j]))
  })
  few <- lengths(values) > 0L & lengths(values) <= few_levels & 5L * lengths(values) <= nrow(x)
  data.frame(column = rep(columns[few], lengths(values)[few]), value = as.double(unlist(values[few])))
}

# Codes of such columns, from 0; -1 for another value.
value_codes <- function(x, valued) {
  columns <- unique(valued$column)
  codes <- vapply(columns, function(j) {
    values <- valued$value[valued$column == j]
    near <- apply(abs(outer(x[, j], values, "-")), 1L, which.min)
    ifelse(abs(x[, j] - values[near]) < 1e-6 * value_unit(values), near - 1L, -1L)
  }, integer(nrow(x)))
  matrix(codes, nrow = nrow(x))
}

# The least step between such values.
value_unit <- function(values) if (length(values) > 1L) min(diff(values)) else max(abs(values), 1)

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
