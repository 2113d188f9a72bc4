# Labelled tables in the manner of Milligan & Cooper (1985), doi:10.1007/BF02294245, and tables without groups: lists
# of functions that each draw one, as `x`, the count `k` and the `group` of each row.
# The study clustered its tables in the units they were drawn in; `recipe scaled` are the same tables with every column
# brought to one spread, as all others are, which takes weight from the one column that separates the groups.

# Milligan (1985), doi:10.1007/BF02294153: 50 rows; truncated normals that do not overlap in the first column.
recipe <- function() {
  k <- sample(2:5, 1)
  d <- sample(c(4, 6, 8), 1)
  first <- switch(sample(3, 1), 1 / k, 0.1, 0.6)
  share <- c(first, rep((1 - first) / (k - 1), k - 1))
  sizes <- pmax(2, round(50 * share))
  lengths <- matrix(runif(k * d, 10, 40), k)
  sd <- lengths / 3
  middle <- matrix(0, k, d)
  order <- sample(k)
  for (i in seq_len(k)[-1]) {
    a <- order[i - 1]
    b <- order[i]
    gap <- runif(1, 0.25, 0.75) * (sd[a, 1] + sd[b, 1])
    middle[b, 1] <- middle[a, 1] + (lengths[a, 1] + lengths[b, 1]) / 2 + gap
  }
  range <- diff(range(middle[, 1])) + 40
  for (j in seq_len(d)[-1]) middle[, j] <- runif(k, 0, range * 2 / 3)
  group <- rep(seq_len(k), sizes)
  draw <- function(n) qnorm(runif(n, pnorm(-1.5), pnorm(1.5)))
  list(x = middle[group, ] + sd[group, ] * matrix(draw(length(group) * d), ncol = d), k = k, group = group)
}

# Means, drawn ever wider until each two lie `apart` from each other.
places <- function(k, d, apart) {
  side <- apart
  repeat {
    m <- matrix(rnorm(k * d), k) * side
    if (k == 1 || min(dist(m)) > apart) return(m)
    side <- side * 1.03
  }
}

sizes_of <- function(n, k, even) {
  share <- if (even) rep(1, k) else exp(rnorm(k, sd = 0.6))
  pmax(8, round(n * share / sum(share)))
}

# Round groups, means at least `apart` standard deviations from each other.
round_groups <- function(apart, k = sample(2:8, 1)) {
  d <- sample(2:8, 1)
  n <- sample(150:500, 1)
  group <- rep(seq_len(k), sizes_of(n, k, runif(1) < 0.5))
  list(x = places(k, d, apart)[group, ] + matrix(rnorm(length(group) * d), ncol = d), k = k, group = group)
}

# Stretched and turned, each group its own way.
elongated <- function() {
  made <- round_groups(runif(1, 5, 8))
  d <- sample(2:6, 1)
  n <- sample(150:500, 1)
  k <- made$k
  group <- rep(seq_len(k), sizes_of(n, k, FALSE))
  x <- places(k, d, 7)[group, ]
  for (g in seq_len(k)) {
    rows <- which(group == g)
    turn <- qr.Q(qr(matrix(rnorm(d * d), d)))
    x[rows, ] <- x[rows, ] + matrix(rnorm(length(rows) * d),
                                    ncol = d) %*% diag(exp(runif(d, log(0.3), log(3)))) %*% turn
  }
  list(x = x, k = k, group = group)
}

# Heavy tails and columns of noise.
heavy <- function() {
  made <- round_groups(runif(1, 5, 8))
  made$x <- made$x + matrix(rt(length(made$x), 3), nrow(made$x)) * 0.5
  made$x <- cbind(made$x, matrix(rnorm(nrow(made$x) * 2, sd = 2), ncol = 2))
  made
}

one_heap <- function(kind) {
  d <- sample(2:10, 1)
  n <- sample(c(100, 200, 400), 1)
  z <- matrix(rnorm(n * d), n)
  x <- switch(kind,
    box = matrix(runif(n * d), n), `long box` = matrix(runif(n * d), n) %*% diag(seq(1, 8, length.out = d)),
    ball = z / sqrt(rowSums(z^2)) * runif(n)^(1 / d), gaussian = z,
    `long gaussian` = z %*% diag(seq(1, 8, length.out = d)),
    `t with 3 df` = matrix(rt(n * d, 3), n), exponential = matrix(rexp(n * d), n),
    lognormal = exp(z * 0.6), rounded = round(z * 2)
  )
  list(x = x, k = 1)
}

kinds <- c("box", "long box", "ball", "gaussian", "long gaussian", "t with 3 df", "exponential", "lognormal", "rounded")
heaps <- stats::setNames(lapply(kinds, function(kind) function() one_heap(kind)), kinds)
suites <- list(recipe = recipe, `recipe scaled` = recipe,
               separated = function() round_groups(runif(1, 6, 9), sample(2:5, 1)),
               overlapping = function() round_groups(runif(1, 3, 5)), elongated = elongated, heavy = heavy)
scale_of <- function(suite) if (suite == "recipe") "none" else "mean_sd"
