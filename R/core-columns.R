# What columns look like: place, spread, shape, and how far they set rows apart.

# A list for each column, named as they are: how many values, their standard deviation, quartiles, skewness, how far two
# rows lie apart (`apart`, see fl_sift()), the dip (equal values spread over a rounding unit, see columns.cpp) and the
# values themselves, `sorted`. Missing and infinite cells are left out.
column_shapes <- function(columns) {
  plain <- lapply(columns, function(v) if (is.object(v)) as.double(v) else v)
  found <- column_shapes_kernel(plain, thread_count())
  parts <- rownames(found$shape)
  whole <- c("n", "distinct")
  out <- lapply(seq_along(columns), function(j) {
    shape <- as.list(stats::setNames(found$shape[, j], parts))
    shape[whole] <- lapply(shape[whole], as.integer)
    if (shape$n == 0L) shape$commonest_share <- 0
    c(shape, list(sorted = found$sorted[[j]]))
  })
  stats::setNames(out, names(columns))
}

column_shape <- function(values) column_shapes(list(values))[[1L]]

# The standard deviation, also of numbers whose squares would vanish.
spread_of <- function(v) {
  off <- v - mean(v)
  largest <- max(abs(off))
  if (largest == 0) 0 else largest * stats::sd(off / largest)
}

skewness <- function(values) {
  off <- values - mean(values)
  largest <- max(abs(off))
  if (length(values) < 8L || largest == 0) {
    return(NA_real_)
  }
  off <- off / largest
  mean(off^3) / mean(off^2)^1.5
}

# How large a dip uniform values reach by chance, once in a thousand samples of n: simulated with 20,000 samples each
# (uniform_dips_kernel), in units of 1 / sqrt(n), which settle as n grows.
dip_limits <- c(`20` = 0.62, `50` = 0.67, `100` = 0.69, `200` = 0.70, `500` = 0.71, `1000` = 0.725)

dip_limit <- function(n) {
  stats::approx(log(as.double(names(dip_limits))), dip_limits, xout = log(n), rule = 2)$y / sqrt(n)
}

# How evenly the levels of a category can be put on two sides: 1 where half the rows fall on each, 0 where there is one
# level. Large levels are dealt first, to the side that has less (Graham 1969).
two_sides <- function(values) {
  shares <- sort(as.double(table(values)), decreasing = TRUE)
  sides <- c(0, 0)
  for (share in shares) {
    least <- which.min(sides)
    sides[least] <- sides[least] + share
  }
  if (sum(sides) == 0) NA_real_ else 2 * min(sides) / sum(sides)
}

# Correlations of columns with a block of them; missing cells are left out pair by pair. `z` holds standardised columns
# with 0 in missing cells, `known` 1 where there was a value (or NULL when nothing is missing).
block_correlation <- function(z, known, block) {
  n <- if (is.null(known)) nrow(z) - 1 else pmax(column_products(known[, block, drop = FALSE], known) - 1, 1)
  pmax(pmin(column_products(z[, block, drop = FALSE], z) / n, 1), -1)
}

# Columns, or a sample of their rows, with mean 0 and standard deviation 1. The sd in `shapes` keeps their squares from
# vanishing.
standardised <- function(values, shapes) {
  out <- matrix(0, nrow = length(values[[1L]]), ncol = length(values), dimnames = list(NULL, names(values)))
  for (j in seq_along(values)) {
    v <- values[[j]]
    known <- if (all(is.finite(v))) TRUE else is.finite(v)
    v <- (v - mean(v[known])) / shapes[[j]]$sd
    v[!known] <- 0
    own <- sqrt(sum(v^2) / (if (isTRUE(known)) length(v) - 1 else sum(known) - 1))
    out[, j] <- if (isTRUE(own > 0)) v / own else 0
  }
  out
}
