# What one column looks like: place, spread, shape, and how far it sets rows apart. All in one pass over sorted values.

column_shape <- function(values) {
  v <- as.double(sort(values[is.finite(values)]))  # differences of integers may be too large for one
  n <- length(v)
  if (n == 0L) {
    return(list(n = 0L, distinct = 0L, sd = NA_real_, skew = NA_real_, dip = NA_real_, apart = NA_real_,
                commonest_share = 0))
  }
  steps <- which(c(TRUE, v[-1L] > v[-n]))
  counts <- diff(c(steps, n + 1L))
  quarters <- stats::quantile(v, c(0.25, 0.5, 0.75), names = FALSE, type = 7L)
  range <- v[n] - v[1L]
  list(
    n = n, sorted = v, distinct = length(steps), least = v[1L], most = v[n], sd = if (n > 1L) spread_of(v) else 0,
    lower = quarters[1L], median = quarters[2L], upper = quarters[3L], skew = skewness(v),
    commonest = v[steps[which.max(counts)]], commonest_share = max(counts) / n,
    apart = if (range > 0) 2 * mean_difference(v) * (1 - 1 / n) / range else 0,
    dip = dip_kernel(spread_rounding(v, steps, counts))
  )
}

# The standard deviation, also of numbers whose squares would vanish.
spread_of <- function(v) {
  off <- v - mean(v)
  largest <- max(abs(off))
  if (largest == 0) 0 else largest * stats::sd(off / largest)
}

# Mean absolute difference over pairs of different rows (Gini 1912), from sorted values.
mean_difference <- function(v) {
  n <- length(v)
  if (n < 2L) 0 else 2 * sum((2 * seq_len(n) - n - 1) * (v - v[1L])) / (n * (n - 1))
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

# Rounding makes steps that a dip would take for humps: equal values are spread over one rounding unit, unless the
# column has so few values that they are what it is about.
spread_rounding <- function(v, steps, counts) {
  if (length(steps) < 20L || length(steps) == length(v)) {
    return(v)
  }
  values <- v[steps]
  gaps <- diff(values)
  unit <- min(gaps)
  if (unit > (values[length(values)] - values[1L]) / 20 || unit < stats::median(gaps) / 10) {
    return(v)
  }
  rep(values, counts) + unit * ((sequence(counts) - 0.5) / rep(counts, counts) - 0.5)
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
  n <- if (is.null(known)) nrow(z) - 1 else pmax(crossprod(known[, block, drop = FALSE], known) - 1, 1)
  pmax(pmin(crossprod(z[, block, drop = FALSE], z) / n, 1), -1)
}

standardised <- function(values, shapes) {
  out <- matrix(0, nrow = length(values[[1L]]), ncol = length(values), dimnames = list(NULL, names(values)))
  for (j in seq_along(values)) {
    v <- values[[j]]
    v <- (v - mean(v[is.finite(v)])) / shapes[[j]]$sd
    v[!is.finite(v)] <- 0
    out[, j] <- v
  }
  out
}
