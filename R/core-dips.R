# Dips between groups: whether the rows themselves are rarer between two groups than in them, along the direction that
# tells the two apart best (Fisher 1936, doi:10.1111/j.1469-1809.1936.tb02137.x). The dip of Hartigan & Hartigan (1985),
# doi:10.1214/aos/1176346577, times the root of the number of rows.

# The rows of two groups along their discriminant. A group that is far larger is cut to its rows nearest to the other.
along_discriminant <- function(x, group, a, b) {
  first <- x[group == a, , drop = FALSE]
  second <- x[group == b, , drop = FALSE]
  within <- crossprod(first - rep(colMeans(first), each = nrow(first))) +
    crossprod(second - rep(colMeans(second), each = nrow(second)))
  n <- nrow(first) + nrow(second)
  within <- within / max(1, n - 2)
  d <- ncol(x)
  # few rows for the columns: drawn towards round
  drawn <- min(1, d / max(1, n - 2))
  apart <- colMeans(second) - colMeans(first)
  spread <- max(diag(within))
  within <- (1 - drawn) * within + diag(drawn * mean(diag(within)) + 1e-9 * spread, d)
  # groups of equal rows have no direction in which they scatter: straight from one to the other
  way <- if (spread > 0) solve(within / spread, apart, tol = 0) else apart
  one <- as.vector(first %*% way)
  two <- as.vector(second %*% way)
  if (length(one) > length(two)) sides <- list(-two, -one) else sides <- list(one, two)
  few <- sides[[1L]]
  many <- sides[[2L]]
  most <- max(2L * length(few), 20L)
  if (length(many) > most) many <- sort(many)[seq_len(most)]
  list(few = few, many = many)
}

dip_between <- function(x, group, a, b) {
  sides <- along_discriminant(x, group, a, b)
  both <- sort(c(sides$few, sides$many))
  sqrt(length(both)) * dip_kernel(both)
}

# Rows that share a value are spread evenly between it and its neighbours, as the bars of a histogram are: between the
# steps of rounded values and counts there is no dip. Across a gap wider than twice the other one they do not spread.
# Columns of `fewest` values and less are no measures with steps: they stay.
spread_ties <- function(x, seed = 1, fewest = few_levels) {
  for (j in seq_len(ncol(x))) {
    values <- sort(unique(x[, j]))
    if (length(values) > fewest && length(values) < 0.9 * nrow(x)) {
      step <- diff(values)
      below <- c(step[1L], step)
      above <- c(step, step[length(step)])
      at <- match(x[, j], values)
      place <- uniform_numbers(nrow(x), derived_seed(seed, j)) * 2 - 1
      reach <- ifelse(place < 0, pmin(below, 2 * above)[at], pmin(above, 2 * below)[at])
      x[, j] <- x[, j] + place * reach / 2
    }
  }
  x
}

# Merges groups until one is left: at each step the two with the least dip between them. As merge_by_ridge().
merge_by_dips <- function(x, group) {
  x <- spread_ties(x)
  merged <- merge_least_apart(group, function(now, part, a, b) dip_between(x, now, a, b))
  list(dip = merged$apart, of = merged$of)
}

# The same by any measure of how far two groups are `apart`, a function of the group of each row now, the group each
# component is in now, and two groups.
merge_least_apart <- function(group, apart) {
  k <- max(group)
  of <- vector("list", k)
  of[[k]] <- seq_len(k)
  least <- rep(NA_real_, k)
  part <- seq_len(k)
  between <- matrix(NA_real_, k, k)
  left <- seq_len(k)
  now <- group
  while (length(left) > 1L) {
    for (a in left) for (b in left) if (a < b && is.na(between[a, b])) between[a, b] <- apart(now, part, a, b)
    pairs <- utils::combn(left, 2L)
    values <- between[t(pairs)]
    best <- which.min(values)
    a <- pairs[1L, best]
    b <- pairs[2L, best]
    least[length(left)] <- values[best]
    now[now == b] <- a
    part[part == b] <- a
    between[a, ] <- between[, a] <- NA_real_
    left <- setdiff(left, b)
    of[[length(left)]] <- match(part, sort(unique(part)))
  }
  list(apart = least, of = of)
}
