# Tests and intervals from plain vectors.

test_that("F, eta squared and chi-squared are those of the textbook tests", {
  value <- withr::with_seed(1, stats::rnorm(60))
  group <- rep(1:4, c(10, 20, 25, 5))
  got <- variance_test(value, group)
  table <- stats::anova(stats::lm(value ~ factor(group)))
  expect_equal(got$statistic, table$`F value`[1])
  expect_equal(got$p, table$`Pr(>F)`[1])
  expect_equal(got$effect, table$`Sum Sq`[1] / sum(table$`Sum Sq`))
  # noise and missing values stay out
  expect_equal(variance_test(c(value, 99, NA), c(group, 0, 2)), got)
  level <- withr::with_seed(2, sample(c("a", "b", "c"), 60, TRUE))
  chi <- suppressWarnings(stats::chisq.test(table(group, level), correct = FALSE))
  got <- table_test(level, group)
  expect_equal(got$statistic, unname(chi$statistic))
  expect_equal(got$p, chi$p.value)
  expect_equal(got$effect, unname(sqrt(chi$statistic / (60 * 2))))
  expect_true(is.na(variance_test(rep(1, 60), group)$p))
  expect_true(is.na(table_test(rep("a", 60), group)$effect))
})

test_that("the excess within classes is that of all ways to choose the rows", {
  score <- c(1, 0, 0, 1, 1, 0, 0)
  class <- c("a", "a", "a", "a", "b", "b", "b")
  chosen <- c(TRUE, FALSE, FALSE, TRUE, TRUE, FALSE, FALSE)
  sums <- outer(apply(combn(4, 2), 2, function(r) sum(score[r])), score[5:7], `+`)
  got <- excess_within(score, chosen, class)
  expect_equal(got$expected, mean(sums))
  expect_equal(got$z, (3 - mean(sums)) / sqrt(mean((sums - mean(sums))^2)), tolerance = 1e-12)
  expect_equal(got$p, mean(sums >= 3))
  # one class, numbers: the rank sum test without its correction
  value <- withr::with_seed(1, round(stats::rnorm(30), 1))
  half <- rep(c(TRUE, FALSE), 15)
  z <- excess_within(value, half, rep("a", 30))$z
  test <- suppressWarnings(stats::wilcox.test(value[half], value[!half], exact = FALSE, correct = FALSE))
  expect_equal(2 * pnorm(-abs(z)), test$p.value, tolerance = 1e-10)
  expect_null(excess_within(rep(1, 7), chosen, class))
})

test_that("the chance of few chosen numbers is that of all ways to choose them", {
  value <- c(3.1, 5, 0.2, 7, 9, 4, 1, 8)
  class <- rep(c("a", "b"), each = 4)
  chosen <- c(FALSE, TRUE, FALSE, TRUE, TRUE, TRUE, FALSE, TRUE)
  # ranks within the class over five: two of a, three of b
  sums <- outer(combn(rank(value[1:4]) / 5, 2, sum), combn(rank(value[5:8]) / 5, 3, sum), `+`)
  seen <- sum(rank(value[1:4])[chosen[1:4]], rank(value[5:8])[chosen[5:8]]) / 5
  exact <- mean(abs(sums - mean(sums)) >= abs(seen - mean(sums)) - 1e-9)
  # a chance as large as this is decided after few choices: repeated, its mean is right
  p <- vapply(1:60, function(seed) excess_within(value, chosen, class, seed)$p, 0)
  expect_equal(mean(p), exact, tolerance = 0.1)
  # and a small one is not taken for less than what was drawn can show
  last <- seq_len(200) > 195
  expect_equal(excess_within(seq_len(200), last, rep(1, 200))$p, 1e-4)
})

test_that("by chance alone a cause is claimed in few tables", {
  claims <- vapply(1:100, function(seed) {
    withr::with_seed(seed, {
      class <- sample(c("a", "b", "c"), 200, TRUE)
      chosen <- seq_len(200) %in% sample(200, 20)
      place <- ifelse(class == "a", sample(5, 200, TRUE), sample(2:6, 200, TRUE))
    })
    p <- vapply(1:6, function(v) {
      excess <- excess_within(as.double(place == v), chosen, class)
      if (is.null(excess)) 1 else excess$p
    }, 0)
    min(p.adjust(p, "holm")) <= 0.05
  }, NA)
  expect_lte(mean(claims), 0.09)
})

test_that("between-group shares by column are eta squared; a column without spread has none", {
  x <- cbind(random_table(50, 2, 3), 7)
  group <- rep(1:5, 10)
  expect_equal(unname(between_shares(x, group)),
               c(variance_test(x[, 1], group)$effect, variance_test(x[, 2], group)$effect, 0))
})

test_that("the rule of Cochran (1954) calls chi-squared rough", {
  group <- rep(1:2, each = 20)
  expect_false(table_test(rep(c("a", "b"), 20), group)$rough)
  # one value once: expected 0.5 in two cells
  expect_true(table_test(c("c", rep(c("a", "b"), length.out = 39)), group)$rough)
  # expected 3 and 2 in four of six cells
  expect_true(table_test(rep(c("a", "b", "c"), c(30, 6, 4)), group)$rough)
})
