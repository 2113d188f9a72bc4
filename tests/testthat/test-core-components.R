# Components and groups: dips between groups, ridges between components, and whether components look as they say.

blob <- function(n, at, seed, draw = stats::rnorm) {
  withr::with_seed(seed, matrix(draw(n * length(at)), n)) + rep(at, each = n)
}

test_that("the dip between two groups is that along their discriminant, written out", {
  x <- rbind(blob(30, c(0, 0, 0), 1), blob(25, c(4, 1, 0), 2))
  group <- rep(1:2, c(30, 25))
  a <- x[1:30, ]
  b <- x[31:55, ]
  within <- (29 * stats::cov(a) + 24 * stats::cov(b)) / 53
  drawn <- 3 / 53  # towards round, since rows are few for the columns
  within <- (1 - drawn) * within + diag(drawn * mean(diag(within)), 3)
  along <- sort(as.vector(x %*% solve(within, colMeans(b) - colMeans(a))))
  expect_equal(dip_between(x, group, 1, 2), sqrt(55) * dip_kernel(along), tolerance = 1e-6)
  # whichever is named first, wherever the table lies and in whatever unit
  expect_equal(dip_between(x, 3L - group, 1, 2), dip_between(x, group, 1, 2))
  expect_equal(dip_between(1000 + 7 * x, group, 1, 2), dip_between(x, group, 1, 2), tolerance = 1e-6)
})

test_that("groups of equal rows, one row each or one column have a direction too", {
  x <- cbind(rep(c(0, 4), each = 15), rep(c(1, 2), each = 15))
  expect_gt(dip_between(x, rep(1:2, each = 15), 1, 2), 1)
  expect_true(is.finite(dip_between(rbind(c(0, 0), c(1, 1)), 1:2, 1, 2)))
  expect_true(is.finite(dip_between(cbind(c(1, 2, 3, 9, 9, 9)), rep(1:2, each = 3), 1, 2)))
  expect_true(is.finite(dip_between(x * 1e-160, rep(1:2, each = 15), 1, 2)))
  expect_equal(component_evidence(x, rep(1:2, each = 15))$groups, 2L)
})

test_that("of a far larger group only its rows next to the smaller one count", {
  x <- rbind(blob(300, c(0, 0), 1), blob(20, c(9, 0), 2))
  sides <- along_discriminant(x, rep(1:2, c(300, 20)), 1, 2)
  expect_length(sides$few, 20)
  expect_length(sides$many, 40)
  expect_gt(dip_between(x, rep(1:2, c(300, 20)), 1, 2), dip_needed(2))
})

test_that("halves of one cluster dip by less than is needed about nine times in ten, far groups always by more", {
  cut_box <- function(seed) {
    x <- withr::with_seed(seed, matrix(stats::runif(160), 80))
    dip_between(x, 1L + (x[, 1] > 0.5), 1, 2)
  }
  expect_gte(mean(vapply(1:40, cut_box, 0) < dip_needed(2)), 0.8)
  far <- vapply(1:20, function(seed) dip_between(rbind(blob(40, c(0, 0), seed), blob(40, c(6, 0), 50 + seed)),
                                                  rep(1:2, each = 40), 1, 2), 0)
  expect_true(all(far > dip_needed(2)))
})

test_that("pieces of one group are put together before groups are", {
  x <- rbind(blob(60, c(0, 0), 1), blob(60, c(9, 0), 2), blob(60, c(0, 9), 3))
  truth <- rep(1:3, each = 60)
  pieces <- truth + 3L * (x[, 2] > stats::ave(x[, 2], truth))
  merged <- merge_by_dips(x, pieces)
  expect_equal(adjusted_rand(table(merged$of[[3]][pieces], truth)), 1)
  expect_true(all(merged$dip[4:6] < dip_needed(2)))
  expect_true(all(merged$dip[2:3] > dip_needed(2)))
  found <- component_evidence(x, pieces)
  expect_equal(c(found$components, found$groups), c(6L, 3L))
  expect_equal(merge_by_dips(x, rep(1L, 180))$of, list(1L))
})

test_that("the ridge between two components meets the peaks and the valley of their density, found on a grid", {
  for (apart in c(1, 3, 5)) {
    mean <- rbind(0, apart)
    covariance <- rbind(1, 0.5)
    density <- function(points) log(0.6 * stats::dnorm(points[, 1], 0, 1) + 0.4 * stats::dnorm(points[, 1], apart, sqrt(0.5)))
    heights <- ridge_heights(mean, covariance, density)
    grid <- seq(-1, apart + 1, length.out = 4001)
    values <- exp(density(cbind(grid)))
    peaks <- which(diff(sign(diff(values))) < 0) + 1
    valley <- if (length(peaks) == 2) min(values[peaks[1]:peaks[2]]) / min(values[peaks]) else 1
    expect_equal(merge_by_ridge(heights)$ratio[2], valley, tolerance = 0.02)
  }
  # in a plane, tilted components: the ridge begins and ends at the centres
  precision <- list(diag(2), solve(matrix(c(2, 1, 1, 2), 2)))
  path <- ridge_between(rbind(c(0, 0), c(3, 1)), precision, 1, 2)
  expect_equal(path[c(1, nrow(path)), ], rbind(c(0, 0), c(3, 1)))
})

test_that("components that nest are one by their ridge, and far ones stay apart to the last", {
  density <- function(points) {
    each <- cbind(0.4 * stats::dnorm(points[, 1], 0, 0.3), 0.3 * stats::dnorm(points[, 1], 0.2, 2),
                  0.3 * stats::dnorm(points[, 1], 12, 1))
    log(rowSums(each))
  }
  merged <- merge_by_ridge(ridge_heights(rbind(0, 0.2, 12), rbind(0.09, 4, 1), density))
  expect_equal(merged$ratio[3], 1)
  expect_lt(merged$ratio[2], 0.01)
  expect_equal(merged$of[[2]], c(1L, 1L, 2L))
})

test_that("components are held against what they say they are", {
  two <- rep(1:2, each = 150)
  of <- function(draw) {
    x <- rbind(blob(150, c(0, 0), 1, draw), blob(150, c(12, 0), 2, draw))
    component_adequacy(x, two)
  }
  normal <- of(stats::rnorm)
  expect_true(all(abs(normal) < 3))
  expect_lt(of(function(n) stats::runif(n, -2, 2))[["peak"]], -3)
  expect_gt(of(function(n) stats::rexp(n))[["skewness"]], 4)
  expect_gt(of(function(n) stats::rt(n, 3))[["peak"]], 3)
  # as t components long tails are no misfit
  tailed <- rbind(blob(150, c(0, 0), 1, function(n) stats::rt(n, 4)), blob(150, c(30, 0), 2, function(n) stats::rt(n, 4)))
  expect_lt(abs(component_adequacy(tailed, two, heavy = TRUE)[["peak"]]), 4)
  # the same answer every time, and none where components are tiny
  expect_identical(of(stats::rnorm), normal)
  expect_true(all(is.na(component_adequacy(blob(6, c(0, 0), 1), rep(1:2, 3)))))
})

test_that("overlapping components that were cut are not taken for flat ones", {
  x <- rbind(blob(200, c(0, 0), 1), blob(200, c(3, 0), 2))
  nearer <- 1L + (x[, 1] > 1.5)
  expect_true(all(abs(component_adequacy(x, nearer)) < 4))
})

test_that("groups within groups are seen where distances have two scales, and only there", {
  near <- rbind(c(0, 0), c(0, 8), c(60, 0), c(60, 8), c(8, 0), c(30, 60))
  x <- do.call(rbind, lapply(seq_len(6), function(g) blob(20, near[g, ], g)))
  group <- rep(1:6, each = 20)
  expect_equal(nested_levels(x, group, dips = 2), c(3L, 6L))
  expect_equal(nested_levels(x, group, dips = 1), 6L)  # not well enough apart to say so
  even <- do.call(rbind, lapply(seq_len(6), function(g) blob(20, c(10 * g, 0), g)))
  expect_equal(nested_levels(even, group, dips = 2), 6L)
})

test_that("the axes of a wide table are those that chance does not give", {
  x <- withr::with_seed(4, {
    factors <- matrix(stats::rnorm(600), 200)
    factors[, rep(1:3, each = 10)] + matrix(stats::rnorm(6000, sd = 0.7), 200)
  })
  expect_equal(telling_axes(x, 1L, 10L), 3L)
  expect_equal(telling_axes(withr::with_seed(5, matrix(stats::rnorm(4000), 200)), 2L, 10L), 2L)
})
