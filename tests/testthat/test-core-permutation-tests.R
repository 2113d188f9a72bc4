# Tests by dealing values out anew: the chance is that of all ways to deal, and the level holds where F's does not.

all_deals <- function(values) {
  if (length(values) < 2) {
    return(matrix(values))
  }
  do.call(rbind, lapply(seq_along(values), function(i) cbind(values[i], all_deals(values[-i]))))
}

test_that("the chance is the share of all ways to deal the values out", {
  group <- c(1, 1, 1, 2, 2, 2, 2)
  for (values in list(c(0, 0, 1, 7, 2, 5, 9), c(0, 0, 0, 0, 3, 0, 8), c(4, 1, 6, 2, 3, 5, 7))) {
    own <- variance_test(values, group)
    among <- apply(all_deals(values), 1, function(dealt) variance_test(dealt, group)$effect)
    got <- dealt_variance_test(c(values, NA, 99), c(group, 1, 0), seed = 3)
    expect_equal(got[c("statistic", "effect")], own[c("statistic", "effect")])
    expect_equal(got$p, mean(among >= own$effect - 1e-9), tolerance = 0.2)
  }
  words <- c("a", "b", "a", "c", "c", "c", "b")
  own <- table_test(words, group)
  expect_true(own$rough)
  among <- apply(all_deals(words), 1, function(dealt) table_test(dealt, group)$statistic)
  got <- dealt_table_test(c(words, NA), c(group, 2), seed = 3)
  expect_equal(got$p, mean(among >= own$statistic - 1e-9), tolerance = 0.2)
  expect_false(got$rough)
  expect_identical(dealt_table_test(words, group, 3)$p, got$p)
})

test_that("values that are mostly equal, and rare ones, are not said to differ more often than stated", {
  group <- rep(1:3, c(36, 18, 6))
  said <- vapply(1:150, function(seed) withr::with_seed(seed, {
    values <- rbinom(60, 1, 0.1) * rexp(60)
    rare <- sample(letters[1:20], 60, TRUE, 1 / (1:20)^2)
    c(dealt = dealt_variance_test(values, group)$p <= 0.01, plain = variance_test(values, group)$p <= 0.01,
      rare = dealt_table_test(rare, group)$p <= 0.05)
  }), logical(3))
  expect_lte(mean(said["dealt", ]), 0.03)
  expect_gte(mean(said["plain", ]), 0.025)  # the level is .01
  expect_lte(mean(said["rare", ]), 0.09)
})

test_that("where nothing can be told the plain test is given: no spread, one group, one value per row, very many rows", {
  expect_true(is.na(dealt_variance_test(rep(1, 9), rep(1:3, 3))$p))
  expect_true(is.na(dealt_variance_test(1:9, rep(1, 9))$p))
  expect_true(is.na(dealt_table_test(rep("a", 9), rep(1:3, 3))$p))
  expect_equal(dealt_table_test(letters[1:9], rep(1:3, 3))$p, 1)
  values <- withr::with_seed(1, rnorm(6000))
  expect_identical(dealt_variance_test(values, rep(1:3, 2000)), variance_test(values, rep(1:3, 2000)))
})
