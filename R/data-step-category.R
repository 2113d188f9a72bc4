# Categories as numbers: an ordered one by the place of its level, any other by a column for each level.

step_order <- list(
  make = function(columns, levels) {
    list(kind = "order", columns = columns, levels = unname(levels[columns]))
  },
  apply = function(frame, step) {
    change_columns(frame, step$columns, function(v, i) as.double(match(v, unlist(step$levels[[i]]))))
  },
  invert = function(x, step) x,
  say = function(step) {
    paste0("count the levels of ", step$columns, ": ",
           vapply(step$levels, function(l) listed(paste(seq_along(unlist(l)), unlist(l)), most = 6L), ""))
  }
)

# Multiplied so that the mean squared distance over pairs of rows is 2 (or what the number columns have).
step_indicators <- list(
  make = function(frame, columns, target) {
    levels <- lapply(frame[columns], function(v) sort(unique(as.character(v)), method = "radix"))
    factor <- vapply(frame[columns], function(v) sqrt(target / 2 / share_apart(v)), 0, USE.NAMES = FALSE)
    list(kind = "indicators", columns = columns, levels = unname(levels), factor = factor)
  },
  invert = function(x, step) {
    for (i in seq_along(step$columns)) {
      names <- indicator_name(step$columns[i], unlist(step$levels[[i]]))
      x <- change_matrix(x, names, function(v, j) v / step$factor[i])
    }
    x
  },
  say = function(step) {
    paste0("turn ", step$columns, " into ", lengths(step$levels), " columns, one per level, times ",
           digits3(step$factor))
  }
)

# What each indicator column shows, by its name.
level_columns <- function(step) {
  out <- lapply(seq_along(step$columns), function(i) {
    levels <- unlist(step$levels[[i]])
    made <- lapply(levels, function(level) list(column = step$columns[i], level = level, factor = step$factor[i]))
    stats::setNames(made, indicator_name(step$columns[i], levels))
  })
  unlist(out, recursive = FALSE)
}

indicator_name <- function(column, level) paste0(column, ": ", level)

# The share of pairs of different rows whose values differ: (1 - sum p^2) n / (n - 1).
share_apart <- function(values) {
  n <- as.double(table(values))
  total <- sum(n)
  (1 - sum((n / total)^2)) * total / (total - 1)
}
