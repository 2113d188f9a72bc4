# The test for groups: discriminants, several statistics as one, and what may not count as a dip.

many_columns <- function(apart, k = 3, n = 60, d = 13, seed = 1) {
  withr::with_seed(seed, {
    at <- matrix(stats::rnorm(k * d), k)
    at <- at / sqrt(rowSums((at - rep(colMeans(at), each = k))^2)) * apart
    at[rep(seq_len(k), each = n), ] + matrix(stats::rnorm(k * n * d), ncol = d)
  })
}

test_that("three groups that thirteen columns tell apart a little each are found, and it says where it looked", {
  test <- fl_structure(ready_from(many_columns(4.5)), sets = 39)
  expect_true(test$groups)
  expect_lte(test$p, 0.05)
  expect_match(fl_facts(test), "^Along the discriminants of fits with two to six groups", all = FALSE)
  expect_equal(as.data.frame(test)$statistic, c("dip", "between", "runt"))
})

test_that("in few columns nothing is looked for along discriminants, and nothing is said of them", {
  test <- fl_structure(ready_from(many_columns(6, d = 4)), sets = 39)
  expect_true(test$groups)
  expect_true(is.na(test$p_between))
  expect_no_match(fl_facts(test), "discriminants")
})

test_that("one skewed, long-tailed or rounded cluster is not taken for several", {
  draws <- list(function(n) stats::rexp(n), function(n) stats::rt(n, 3), function(n) exp(stats::rnorm(n)),
                function(n) round(2 * stats::rnorm(n)), function(n) stats::runif(n))
  claimed <- vapply(seq_along(draws), function(i) {
    fl_structure(ready_from(withr::with_seed(i, matrix(draws[[i]](600), 150))), sets = 39)$groups
  }, NA)
  expect_lte(sum(claimed), 1)  # one in twenty may be
})

test_that("the p-value is that of the most remarkable statistic, for having looked at all of them", {
  sets <- 99
  drawn <- withr::with_seed(4, matrix(stats::rnorm(sets * 5), sets))
  between <- withr::with_seed(5, matrix(stats::rnorm(sets * 10), sets))
  test <- list(dip = 0, between = c(0, 0), runt = 1, dips = drawn, betweens = between, runts = exp(drawn))
  plain <- combined_chance(test, sets)
  expect_gt(plain$p, 0.1)
  test$between <- c(0, 9)
  found <- combined_chance(test, sets)
  expect_equal(found$of[["between"]], 0.01)
  expect_equal(found$p, 0.01)
  expect_equal(found$deepest, 3)
  # more statistics, more chances: the p-value is no smaller than that of one alone
  test$between <- c(2, 0)
  expect_gte(combined_chance(test, sets)$p, combined_chance(test, sets)$of[["between"]])
})

test_that("rows next to the middle must be sparse for a dip to count", {
  x <- withr::with_seed(6, rbind(matrix(stats::rnorm(120), 60), matrix(stats::rnorm(120), 60) + rep(c(6, 0), each = 60)))
  pair <- list(rows = seq_len(120), along = x[, 1], middle = 3)
  expect_true(sparse_between(pair, x))
  band <- seq(0, pi, length.out = 120)
  arc <- cbind(cos(band), sin(band)) + withr::with_seed(7, matrix(stats::rnorm(240, sd = 0.05), 120))
  expect_false(sparse_between(list(rows = seq_len(120), along = arc[, 1], middle = 0), arc))
  expect_false(sparse_between(list(rows = 1:10, along = 1:10, middle = 5), x))
})

test_that("a p-value at its floor says so", {
  expect_match(p_of_test(list(p = 0.025, sets = 39)), "^p <= 0.025, the smallest possible with 39 reference tables")
  expect_match(p_of_test(list(p = 0.3, sets = 39)), "^p = 0.3, against 39")
  expect_equal(p_of_test(list(p = NA)), "not tested")
})

test_that("the rows of a pair are those the projections belong to", {
  x <- many_columns(6, k = 2, d = 3)
  centred <- x - rep(colMeans(x), each = nrow(x))
  scores <- centred %*% principal_axes(centred)$turn
  pair <- structure_kernel(scores, 0L, 1L, 1, TRUE, 1L)$pairs[[1]]
  expect_equal(pair$rows, seq_len(120))
  sides <- pair$along > pair$middle
  expect_equal(adjusted_rand(table(sides, rep(1:2, each = 60))), 1)
})

test_that("a half circle beside columns of noise is one heap; three clumps along it are groups", {
  columns <- function(angle) {
    withr::with_seed(3, cbind(cos(angle), sin(angle), 0) + matrix(stats::rnorm(3 * length(angle), sd = 0.12), ncol = 3))
  }
  band <- withr::with_seed(2, stats::runif(400, 0, pi))
  expect_gt(fl_structure(ready_from(columns(band)), sets = 39)$p, 0.05)
  clumps <- rep(c(0.1, 0.5, 0.9) * pi, length.out = 400)
  expect_true(fl_structure(ready_from(columns(clumps)), sets = 39)$groups)
})
