# Tables of one cluster, of nineteen kinds: no groups at all.
heap_kinds <- list(
  box = function(n, d) matrix(runif(n * d), n),
  `long box` = function(n, d) matrix(runif(n * d), n) %*% diag(seq(1, 8, length.out = d), d),
  ball = function(n, d) shape_ball(n, d),
  gaussian = function(n, d) matrix(rnorm(n * d), n),
  `long gaussian` = function(n, d) matrix(rnorm(n * d), n) %*% diag(seq(1, 8, length.out = d), d),
  `t with 3 df` = function(n, d) matrix(rt(n * d, 3), n),
  laplace = function(n, d) shape_laplace(n, d),
  exponential = function(n, d) matrix(rexp(n * d), n),
  lognormal = function(n, d) matrix(exp(rnorm(n * d, sd = 0.6)), n),
  gamma = function(n, d) matrix(rgamma(n * d, 2), n),
  `skewed, turned` = function(n, d) matrix(rgamma(n * d, 1.5), n) %*% random_turn(d),
  rounded = function(n, d) matrix(round(rnorm(n * d) * 2), n),
  arc = function(n, d) {
    t <- runif(n, 0, pi * runif(1, 0.6, 1.1))
    along_curve(d, cos(t), sin(t))
  },
  counts = function(n, d) matrix(rnbinom(n * d, mu = rep(exp(runif(d, 0.5, 3)), each = n), size = 4), n),
  ordinal = function(n, d) {
    latent <- rnorm(n) * 0.7 + matrix(rnorm(n * d), n)
    matrix(findInterval(latent, c(-1.5, -0.5, 0.5, 1.5)) + 1, n)
  },
  blocks = function(n, d) {
    factors <- matrix(rnorm(n * ceiling(d / 5)), n)
    factors[, rep(seq_len(ncol(factors)), each = 5)[seq_len(d)], drop = FALSE] + matrix(rnorm(n * d, sd = 0.6), n)
  },
  parabola = function(n, d) {
    t <- runif(n, -1, 1)
    along_curve(d, t, runif(1, 0.6, 1.5) * t^2)
  },
  `three quarters of a circle` = function(n, d) {
    t <- runif(n, 0, 1.5 * pi)
    along_curve(d, cos(t), sin(t))
  },
  wave = function(n, d) {
    t <- runif(n, 0, 2 * pi)
    along_curve(d, t / 2, sin(t))
  }
)

# Rows that lie evenly along a curve in two columns, among columns that scatter as they do to its sides.
along_curve <- function(d, first, second) {
  out <- matrix(rnorm(length(first) * d, sd = 0.15), length(first))
  out[, 1] <- out[, 1] + first
  out[, 2] <- out[, 2] + second
  out
}

heap_table <- function(kind, wide = FALSE) {
  d <- if (wide) sample(12:100, 1) else sample(2:10, 1)
  n <- sample(c(100, 200, 400, 800), 1)
  list(x = heap_kinds[[kind]](n, d), k = 1L, group = rep(1L, n))
}
