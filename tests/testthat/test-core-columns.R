# Shapes of single columns against their definitions.

# The dip as a linear programme: the least t such that some distribution with one mode (convex, then concave, with a step
# at the mode allowed) stays within t of the sample's, before and after each of its steps.
naive_dip <- function(x) {
  v <- sort(unique(x))
  after <- cumsum(tabulate(match(x, v))) / length(x)
  before <- c(0, after[-length(v)])
  m <- length(v)
  min(vapply(seq_len(m), function(mode) {
    left <- seq_len(mode)
    right <- mode + seq_len(m - mode + 1)
    t <- m + 2
    rows <- rhs <- dir <- NULL
    add <- function(at, by, how, value) {
      row <- numeric(t)
      row[at] <- by
      rows <<- rbind(rows, row)
      dir <<- c(dir, how)
      rhs <<- c(rhs, value)
    }
    near <- function(i, value) {
      add(c(i, t), c(1, 1), ">=", value)
      add(c(i, t), c(1, -1), "<=", value)
    }
    for (j in left) near(j, before[j])
    for (j in left[-mode]) near(j, after[j])
    for (j in mode:m) near(j + 1, after[j])
    for (j in (mode:m)[-1]) near(j + 1, before[j])
    for (i in seq_len(m)) add(c(i, i + 1), c(-1, 1), ">=", 0)
    bend <- function(i, j, how) {
      a <- 1 / (v[j] - v[j - 1])
      b <- 1 / (v[j + 1] - v[j])
      add(c(i - 1, i, i + 1), c(a, -a - b, b), how, 0)
    }
    if (mode > 2) for (j in 2:(mode - 1)) bend(j, j, ">=")
    if (m - mode > 1) for (j in (mode + 1):(m - 1)) bend(j + 1, j, "<=")
    for (i in seq_len(m + 1)) add(i, 1, "<=", 1)
    fit <- lpSolve::lp("min", c(numeric(m + 1), 1), rows, dir, rhs)
    if (fit$status == 0) fit$objval else Inf
  }, 0))
}

test_that("the dip is that of the definition, with and without ties", {
  withr::with_seed(1, for (turn in 1:120) {
    n <- sample(2:12, 1)
    x <- switch(turn %% 4 + 1, runif(n), sample(1:5, n, TRUE), c(rnorm(n), rnorm(3, 6)), round(rnorm(n), 1))
    expect_equal(dip_kernel(sort(x)), naive_dip(x), tolerance = 1e-9, info = toString(x))
  })
})

test_that("the dip of two equal heaps is a quarter, of even steps half a step; units do not matter", {
  expect_equal(dip_kernel(rep(c(1, 9), each = 10)), 0.25)
  expect_equal(dip_kernel(1:40 + 0), 1 / 80)
  x <- sort(withr::with_seed(1, c(rnorm(50), rnorm(30, 5))))
  expect_equal(dip_kernel(x * 1e-9 + 4), dip_kernel(x), tolerance = 1e-6)
  expect_equal(dip_kernel(rev(-x)), dip_kernel(x))
  expect_equal(dip_kernel(numeric()), 0)
})

test_that("the limits of the dip are what uniform samples reach", {
  for (n in c(50, 500)) {
    reached <- stats::quantile(uniform_dips_kernel(n, 4000L, 5), 0.999) / sqrt(n)
    expect_equal(dip_limit(n), unname(reached), tolerance = 0.08)
  }
})

test_that("the parts of a shape are those of R's own functions, whatever is missing, tied, tiny or huge", {
  x <- withr::with_seed(6, rgamma(301, 2))
  for (v in list(x, round(x), c(x, NA, Inf), x * 1e-200, x * 1e200, x[1:7], rep(4, 9), 3, c(5L, NA, 2L, 2L))) {
    shape <- column_shape(v)
    v <- v[is.finite(v)]
    expect_identical(shape$sorted, as.double(sort(v)))
    expect_identical(c(shape$n, shape$distinct), c(length(v), length(unique(v))))
    expect_equal(c(shape$least, shape$lower, shape$median, shape$upper, shape$most),
                 stats::quantile(v, names = FALSE), tolerance = 1e-14)
    unit <- max(abs(v))
    expect_equal(shape$sd / unit, if (length(v) > 1) stats::sd(v / unit) else 0)
    expect_equal(shape$skew, if (length(v) < 8 || length(unique(v)) == 1) NaN
                 else mean((v / unit - mean(v / unit))^3) / mean((v / unit - mean(v / unit))^2)^1.5)
    expect_equal(shape$commonest_share, max(table(v)) / length(v))
  }
  expect_identical(column_shapes(list(a = c(NA, Inf), b = 1:3))[["a"]][c("n", "distinct")],
                   list(n = 0L, distinct = 0L))
  many <- as.list(as.data.frame(random_table(50, 30, 1)))
  expect_identical(withr::with_options(list(fjordline.threads = 2), column_shapes(many)), lapply(many, column_shape))
})

test_that("rounding makes no humps", {
  x <- withr::with_seed(2, rnorm(500))
  plain <- column_shape(x)$dip
  expect_gt(dip_kernel(sort(round(x, 1))), 1.3 * plain)
  expect_lt(column_shape(round(x, 1))$dip, 1.2 * plain)
  expect_equal(column_shape(rep(c(0, 1), each = 20))$dip, 0.25)
})

test_that("mean differences, variation, sides and relations are those of the pairs themselves", {
  v <- withr::with_seed(3, rexp(40))
  pairs <- utils::combn(40, 2)
  expect_equal(column_shape(v)$apart, mean(abs(v[pairs[1, ]] - v[pairs[2, ]])) * (39 / 40) / (diff(range(v)) / 2))
  kind <- withr::with_seed(4, sample(letters[1:4], 40, TRUE, c(0.5, 0.3, 0.1, 0.1)))
  differ <- mean(kind[pairs[1, ]] != kind[pairs[2, ]])
  expect_equal(share_apart(kind), differ)
  two <- rep(c(0, 1), c(30, 10))
  # a two-valued column gets the same numbers as number and as category; 1 is the most
  expect_equal(column_shape(two)$apart, qualitative_variation(as.character(two)))
  expect_equal(column_shape(rep(c(3, 9), 5))$apart, 1)
  expect_equal(4 * column_shape(two)$dip, two_sides(as.character(two)))
  expect_equal(two_sides(c("a", "a", "b", "c")), 1)
  expect_equal(two_sides(rep("a", 5)), 0)
  number <- withr::with_seed(5, rnorm(40))
  expect_equal(correlation_ratio(number, kind)^2, summary(lm(number ~ kind))$r.squared)
  expect_equal(cramers_v(kind, kind), 1)
  expect_equal(cramers_v(rep(c("a", "b"), each = 8), rep(c("x", "y"), 8)), 0)
})

test_that("correlations leave missing cells out pair by pair", {
  x <- as.data.frame(random_table(60, 4, 2))
  x$v2 <- x$v1 + 0.01 * x$v2
  pairs <- number_pairs(x, column_shapes(x))
  expect_equal(pairs$close[, 1:2], c(1, 2))
  expect_equal(unname(pairs$close[, 3]), cor(x$v1, x$v2))
  expect_equal(unname(pairs$best[1:2]), c("v2", "v1"))
  x$v1[c(2, 9)] <- NA
  expect_equal(unname(number_pairs(x, column_shapes(x))$strength["v2"]), cor(x$v1, x$v2, use = "complete.obs"), tolerance = 0.05)
})

test_that("principal axes turn to where they are stronger, and are orthogonal", {
  x <- scale(random_table(50, 4, 1) %*% matrix(c(2, 0, 1, 0, 1, 1, 0, 0, 0, 3, 1, 1, 0, 0, 0, 1), 4), scale = FALSE)
  axes <- principal_axes(x)
  expect_equal(crossprod(axes$turn), diag(4))
  expect_true(all(colSums(axes$turn^3) > 0))
  expect_equal(axes$share, svd(x)$d^2 / sum(x^2))
})
