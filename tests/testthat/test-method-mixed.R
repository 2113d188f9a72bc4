about <- list(category = c(0L, 0L, 1L, 1L, 1L, 2L, 2L), mismatch = c(2, 3))

# Two numbers and two categories as indicator columns.
mixed_rows <- function(n, seed) {
  withr::with_seed(seed, {
    first <- sample(3, n, TRUE)
    second <- sample(2, n, TRUE)
    cbind(rnorm(n), rnorm(n), diag(3)[first, ] * 1, diag(2)[second, ] * sqrt(1.5))
  })
}

naive_cost <- function(x, group) {
  codes <- cbind(max.col(x[, 3:5]), max.col(x[, 6:7]))
  sum(vapply(unique(group), function(g) {
    mine <- group == g
    numbers <- x[mine, 1:2, drop = FALSE]
    spread <- sum(sweep(numbers, 2, colMeans(numbers))^2)
    differ <- vapply(1:2, function(c) sum(mine) - max(table(codes[mine, c])), 0)
    spread + sum(about$mismatch * differ)
  }, 0))
}

run <- function(x, k, ..., seed = 1) fit_method(fl_method("mixed", ...), x, k, seed, about)

test_that("the cost is that of the labels, by its definition", {
  x <- mixed_rows(80, 1)
  fit <- run(x, 4)
  expect_equal(fit$objective, naive_cost(x, fit$group), tolerance = 1e-10)
  expect_true(fit$converged)
})

test_that("many restarts come close to the best of all partitions, and never below it", {
  gaps <- vapply(1:12, function(seed) {
    x <- mixed_rows(8, seed)
    best <- min(vapply(all_partitions(8, 2), function(g) naive_cost(x, g), 0))
    run(x, 2, restarts = 200, seed = seed)$objective / best
  }, 0)
  expect_true(all(gaps >= 1 - 1e-9))
  expect_gte(mean(gaps < 1 + 1e-9), 0.5)
})

test_that("every row is with its cheapest prototype", {
  x <- mixed_rows(120, 3)
  fit <- run(x, 5)
  placed <- assign_mixed(fit, x)
  own <- vapply(seq_len(nrow(x)), function(i) {
    g <- fit$group[i]
    sum((x[i, 1:2] - fit$model$means[g, ])^2) +
      sum(about$mismatch * (c(which.max(x[i, 3:5]), which.max(x[i, 6:7])) - 1 != fit$model$modes[g, ]))
  }, 0)
  expect_equal(placed$distance^2, own, tolerance = 1e-10)
})

test_that("without categories it is k-means, and says so", {
  x <- as.matrix(heaps()[2:3])
  fit <- fit_method(fl_method("mixed"), x, 3, 1, list(category = c(0L, 0L), mismatch = double()))
  expect_identical(fit$group, fit_method(fl_method("kmeans"), x, 3, 1)$group)
  expect_match(fit$notes, "no category", all = FALSE)
  expect_identical(fit_method(fl_method("mixed"), x, 3, 1)$group, fit$group)
})

test_that("the preparation tells which columns are levels, and what a mismatch costs", {
  visits <- fl_demo("vessel_visits")
  ready <- fl_prepare(visits)
  known <- about_columns(ready)
  categories <- ready$features[vapply(ready$columns, `[[`, "", "type") == "category"]
  expect_equal(length(known$mismatch), length(categories))
  for (c in seq_along(known$mismatch)) {
    mine <- ready$x[, known$category == c]
    rows <- c(which(mine[, 1] > 0)[1], which(mine[, 2] > 0)[1])
    expect_equal(sum((mine[rows[1], ] - mine[rows[2], ])^2), known$mismatch[c], tolerance = 1e-12)
  }
  weighted <- about_columns(fl_prepare(visits, weights = stats::setNames(0.5, categories[1])))
  expect_equal(sort(weighted$mismatch / known$mismatch)[1], 0.25, tolerance = 1e-9)
  expect_true(all(about_columns(fl_prepare(visits, reduce = 3))$category == 0))
})

test_that("a heavier charge makes groups purer in their categories; saved prototypes place rows as before", {
  visits <- fl_demo("vessel_visits")
  ready <- fl_prepare(visits)
  purity <- function(weight) {
    groups <- fl_partition(ready, fl_method("mixed", category_weight = weight, restarts = 5), k = 4)
    codes <- level_codes(ready$x, groups$model$category)
    mean(codes[, 1] == groups$model$modes[groups$group[ready$rows], 1])
  }
  expect_gt(purity(20), purity(0))
  groups <- fl_partition(ready, fl_method("mixed", restarts = 5), k = 3)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_identical(predict(fl_load(file), visits), fl_labels(groups))
  one <- withr::with_options(list(fjordline.threads = 1), fl_partition(ready, "mixed", k = 4))
  expect_identical(fl_labels(one), fl_labels(fl_partition(ready, "mixed", k = 4)))
})
