# Tables without groups are drawn until the answers can hardly change: then those of all hundred are the same.

curves_of <- function(tables, k, spread, seed) {
  withr::with_seed(seed, {
    shared <- rnorm(tables, sd = spread)
    t(vapply(seq_len(tables), function(b) -log(k) + shared[b] + rnorm(length(k), sd = spread / 3), 0 * k))
  })
}
pick_of <- function(k, observed, box) {
  gap <- colMeans(box) - observed
  sd <- sqrt(colMeans(sweep(box, 2, colMeans(box))^2))
  error <- sd * sqrt(1 + 1 / nrow(box))
  next_one <- match(k + 1, k)
  k[which(gap >= gap[next_one] - error[next_one])[1]]
}

test_that("batches are drawn until it is decided, in the order of their numbers", {
  asked <- integer()
  make <- function(number) {
    asked <<- c(asked, number)
    c(number, number^2)
  }
  rows <- until_decided(make, function(rows) nrow(rows) >= 35)
  expect_equal(asked, 1:40)
  expect_equal(rows, cbind(1:40, (1:40)^2))
  expect_equal(nrow(until_decided(make, function(rows) NA)), reference_sets)
  expect_equal(nrow(until_decided(make, function(rows) FALSE, most = 39, fewest = 25)), 39L)
})

test_that("where twenty tables decide the gap's pick, a hundred pick the same; close ones are not decided", {
  k <- 1:8
  same <- decided <- logical()
  for (seed in 1:300) {
    box <- curves_of(100, k, 0.1, seed)
    # the gap grows up to 4 by nothing, by about its error, or by much: some picks hang on the tables drawn
    observed <- -log(k) - pmin(k, 4) * (seed %% 30) / 100
    decided[seed] <- gap_decided(k, observed, box[1:20, ])
    same[seed] <- pick_of(k, observed, box[1:20, ]) == pick_of(k, observed, box)
  }
  expect_gt(sum(decided), 50)
  expect_true(all(same[decided]))
  # some of those that go on would have been answered otherwise
  expect_lt(mean(same[!decided]), 1)
})

test_that("where twenty tables decide whether a bend is sharper than chance, a hundred say the same", {
  k <- 1:8
  same <- decided <- logical()
  for (seed in 1:300) {
    box <- curves_of(100, k, 0.03, seed)
    observed <- -log(k) - c(0, 0, 0, 1, 1, 1, 1, 1) * (seed %% 30) / 100
    says <- function(curves) sharpest_bend(k, observed) > likely_bend(k, curves)
    decided[seed] <- bend_decided(k, observed, box[1:20, ])
    same[seed] <- says(box[1:20, ]) == says(box)
  }
  expect_gt(sum(decided), 100)
  expect_true(all(same[decided]))
  expect_true(bend_decided(1:3, c(0, -1, -3), matrix(rnorm(60), 20)))  # no bend at all
})

test_that("a sweep says how many tables it drew, and uses the same ones however many", {
  ready <- fl_prepare(fl_data(as.data.frame(random_table(60, 2, 3) + rep(c(0, 9, 18), each = 20))))
  sweep <- fl_sweep(ready, fl_method("kmeans", restarts = 2), k = 1:5)
  tables <- unique(sweep$gaps$tables)
  expect_length(tables, 1L)
  expect_true(tables %in% seq(20, 100, 20))
  expect_equal(sweep$gaps$error, sweep$gaps$sd * sqrt(1 + 1 / tables))
})

test_that("more tables without groups can be added to those of an earlier call", {
  scores <- scale(random_table(40, 2, 5), scale = FALSE)
  all <- structure_kernel(scores, 0L, 7L, 3, FALSE, 1L)
  more <- structure_kernel(scores, 4L, 3L, 3, FALSE, 2L)
  for (part in c("dips", "runts")) expect_equal(more[[part]], all[[part]][5:7, , drop = FALSE])
})

test_that("the test for groups ends early where nothing can bring p down, and only there", {
  heap <- fl_structure(fl_prepare(fl_data(as.data.frame(random_table(100, 3, 1)))))
  expect_false(heap$groups)
  expect_lt(heap$sets, 199)
  expect_gte(round(heap$p * (heap$sets + 1)) - 1, 10)
  clear <- fl_structure(fl_prepare(fl_data(as.data.frame(random_table(80, 2, 2) + rep(c(0, 12), each = 40)))))
  expect_true(clear$groups)
  expect_equal(clear$sets, 199)
  expect_match(fl_facts(heap)[1], paste("against", heap$sets, "reference tables"))
})

test_that("samples go on where groups come back about as often as the border of stable", {
  returns <- function(shares, error) tibble::tibble(returns = shares, error = error)
  still <- rep(0.9, 20)
  expect_true(settled_returns(returns(c(0.99, 0.5), 0.005), still))
  expect_false(settled_returns(returns(c(0.99, 0.74), 0.005), still))
  expect_false(settled_returns(returns(c(0.99, 0.5), 0.005), rep(c(0.5, 1), 10)))
  expect_false(settled_returns(NULL, still))
})
