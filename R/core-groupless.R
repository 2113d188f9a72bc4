# Tables without groups that are like `x` in size and spread. box: uniform in the box of its principal axes (Tibshirani,
# Walther & Hastie 2001). gaussian: one Gaussian with its means and covariance.
groupless_tables <- list(
  box = function(axes, seed) {
    spread <- axes$ranges[2L, ] - axes$ranges[1L, ]
    u <- matrix(uniform_numbers(axes$n * axes$rank, seed), axes$n)
    table_on(axes, u * rep(spread, each = axes$n) + rep(axes$ranges[1L, ], each = axes$n))
  },
  gaussian = function(axes, seed) {
    u <- matrix(normal_numbers(axes$n * axes$rank, seed), axes$n)
    table_on(axes, u * rep(axes$sd, each = axes$n))
  }
)

# What those tables need to know of `x`.
axes_for_tables <- function(x) {
  middle <- colMeans(x)
  axes <- principal_axes(x - rep(middle, each = nrow(x)))
  turn <- axes$turn[, seq_len(axes$rank), drop = FALSE]
  scores <- (x - rep(middle, each = nrow(x))) %*% turn
  list(n = nrow(x), rank = axes$rank, turn = turn, middle = middle, names = colnames(x),
       ranges = apply(scores, 2L, range),
       sd = sqrt(colSums(scores^2) / max(1, nrow(x) - 1)))
}

table_on <- function(axes, scores) {
  x <- scores %*% t(axes$turn) + rep(axes$middle, each = axes$n)
  colnames(x) <- axes$names
  x
}
