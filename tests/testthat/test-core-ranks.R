# Ranks over tables, against the definitions, R's own tests and a published example.

test_that("the best is first, ties share, and who has no score is last", {
  scores <- rbind(a = c(x = 0.9, y = 0.5, z = 0.9), b = c(0.1, NA, 0.3))
  expect_equal(ranks_in_rows(scores), rbind(a = c(x = 1.5, y = 3, z = 1.5), b = c(2, 3, 1)))
})

test_that("Friedman's test is R's own, with ties, and F is that of Iman and Davenport", {
  withr::local_seed(3)
  for (digits in c(1, 6)) {
    scores <- matrix(round(stats::rnorm(40), digits), 10, 4)
    ours <- rank_test(ranks_in_rows(scores))
    expect_equal(ours$statistic, unname(stats::friedman.test(scores)$statistic))
    expect_equal(ours$f, 9 * ours$statistic / (10 * 3 - ours$statistic))
    expect_equal(ours$p, 1 - stats::pf(ours$f, 3, 27), tolerance = 0.1)
  }
  many <- rank_test(ranks_in_rows(matrix(stats::rnorm(160), 40)))
  expect_equal(many$p, 1 - stats::pf(many$f, 3, 117))
  expect_equal(rank_test(matrix(2, 5, 3))$statistic, 0)
  expect_true(is.na(rank_test(matrix(1:3, 1))$p))
})

test_that("with few tables the chance is that of all ways to deal out the ranks, ties included", {
  orders <- as.matrix(expand.grid(1:3, 1:3, 1:3))
  orders <- orders[apply(orders, 1, function(o) length(unique(o)) == 3), ]
  for (ranks in list(rbind(c(1.5, 1.5, 3), c(1.5, 1.5, 3), c(1, 2, 3)), rbind(1:3, 1:3, c(1, 3, 2)), rbind(1:3, 3:1, c(2, 1, 3)))) {
    ways <- expand.grid(1:6, 1:6, 1:6)
    apart <- function(sums) sum((sums - 6)^2)
    all <- apply(ways, 1, function(w) apart(ranks[1, orders[w[1], ]] + ranks[2, orders[w[2], ]] + ranks[3, orders[w[3], ]]))
    exact <- mean(all >= apart(colSums(ranks)) - 1e-9)
    expect_equal(rank_test(ranks)$p, exact, tolerance = 4 * sqrt((1 - exact) / exact / 9999) + 1e-3)
  }
  expect_equal(rank_test(ranks), rank_test(ranks))
})

test_that("the critical difference is the published one: 1.25 for four over fourteen tables (Demsar 2006)", {
  expect_equal(critical_difference(4, 14), 1.25, tolerance = 0.004)
  expect_equal(critical_difference(2, 6) * sqrt(6 * 6 / (2 * 3)), 1.960, tolerance = 0.001)
})

test_that("signed ranks count all signs, and are R's own where nothing is tied", {
  withr::local_seed(4)
  for (n in c(3, 6, 12, 25)) {
    apart <- stats::rnorm(n, 0.4)
    expect_equal(signed_rank_chance(apart), stats::wilcox.test(apart, exact = TRUE)$p.value)
  }
  tied <- c(1, 1, -1, 2, 2, 3)
  signs <- as.matrix(expand.grid(rep(list(c(-1, 1)), 6)))
  up <- function(s) sum(rank(abs(tied))[s > 0])
  middle <- sum(rank(abs(tied))) / 2
  extreme <- apply(signs, 1, function(s) abs(up(s) - middle) >= abs(up(sign(tied)) - middle) - 1e-9)
  expect_equal(signed_rank_chance(tied), mean(extreme))
  expect_equal(signed_rank_chance(c()), 1)
  long <- stats::rnorm(60, 0.3)
  expect_equal(signed_rank_chance(long), stats::wilcox.test(long, exact = FALSE)$p.value, tolerance = 0.02)
  pairs <- paired_tests(matrix(c(1:8, (1:8) + 1, 8:1), 8, dimnames = list(NULL, c("a", "b", "c"))))
  expect_equal(pairs$p[1], 2 / 2^8)
  expect_equal(pairs$adjusted, stats::p.adjust(pairs$p, "holm"))
})
