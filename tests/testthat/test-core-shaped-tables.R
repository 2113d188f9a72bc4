# Tables of one cluster with the columns' own shapes.

test_that("the distribution with one peak has one, and is as near as twice the dip", {
  for (seed in 1:4) {
    values <- withr::with_seed(seed, switch(seed, stats::runif(80), stats::rexp(80), stats::rnorm(80),
                                            c(stats::rnorm(40), stats::rnorm(40, 6))))
    peak <- one_peak(values)
    slopes <- diff(peak$share) / diff(peak$at)
    turns <- diff(sign(diff(slopes)))
    expect_lte(sum(turns != 0), 1)  # up, then down
    far <- max(abs(stats::approx(peak$at, peak$share, sort(values))$y - (seq_along(values) - 0.5) / 80))
    # the dip is the least distance of any distribution with one peak, and the hulls are within twice of it
    expect_gte(far, dip_kernel(sort(values)) - 1 / 80)
    expect_lte(far, 2 * dip_kernel(sort(values)) + 1.5 / 80)
  }
})

test_that("two peaks become one flat top, one peak stays", {
  two <- withr::with_seed(5, c(stats::rnorm(200, 0), stats::rnorm(200, 8)))
  drawn <- shaped_table(shapes_for_tables(cbind(a = two)), 1)[, 1]
  expect_gt(mean(drawn > 2.5 & drawn < 5.5), 0.15)
  expect_lt(mean(two > 2.5 & two < 5.5), 0.02)
  skewed <- withr::with_seed(6, stats::rexp(4000))
  drawn <- shaped_table(shapes_for_tables(cbind(a = skewed)), 1)[, 1]
  expect_equal(unname(quantile(drawn, c(0.1, 0.5, 0.9))), unname(quantile(skewed, c(0.1, 0.5, 0.9))), tolerance = 0.15)
})

test_that("columns keep their levels, their names and how they go together", {
  x <- withr::with_seed(7, {
    a <- stats::rnorm(500)
    cbind(a = a, b = exp(a + 0.5 * stats::rnorm(500)), level = sample(c(1, 2, 4), 500, TRUE, c(0.6, 0.3, 0.1)), still = 3)
  })
  drawn <- shaped_table(shapes_for_tables(x), 2)
  expect_equal(dim(drawn), dim(x))
  expect_equal(colnames(drawn), colnames(x))
  expect_equal(cor(drawn[, "a"], drawn[, "b"], method = "spearman"), cor(x[, "a"], x[, "b"], method = "spearman"),
               tolerance = 0.05)
  expect_setequal(unique(drawn[, "level"]), c(1, 2, 4))
  expect_equal(mean(drawn[, "level"] == 1), 0.6, tolerance = 0.15)
  expect_true(all(drawn[, "still"] == 3))
  expect_identical(drawn, shaped_table(shapes_for_tables(x), 2))
})
