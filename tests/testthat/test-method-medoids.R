run <- function(x, k, ..., seed = 1) fit_method(fl_method("medoids", ...), x, k, seed)

naive_metric <- function(metric) {
  switch(metric,
    euclidean = naive_distance, manhattan = function(a, b) sum(abs(a - b)),
    chebyshev = function(a, b) max(abs(a - b)),
    cosine = function(a, b) 1 - sum(a * b) / sqrt(sum(a^2) * sum(b^2)),
    correlation = function(a, b) 1 - stats::cor(a, b)
  )
}

all_distances <- function(x, metric) {
  d <- naive_metric(metric)
  outer(seq_len(nrow(x)), seq_len(nrow(x)), Vectorize(function(i, l) if (i == l) 0 else d(x[i, ], x[l, ])))
}

cost_of <- function(distances, medoids) sum(apply(distances[, medoids, drop = FALSE], 1, min))

test_that("the best of many restarts is the best set of medoids there is, under every metric", {
  for (metric in medoid_metrics) {
    for (seed in 1:8) {
      x <- random_table(12, 3, seed) + 2
      distances <- all_distances(x, metric)
      k <- 2 + seed %% 2
      best <- min(utils::combn(12, k, function(m) cost_of(distances, m)))
      fit <- run(x, k, metric = metric, restarts = 30, seed = seed)
      expect_equal(fit$objective, best, tolerance = 1e-9)
      expect_equal(cost_of(distances, fit$model$medoid[, 1]), best, tolerance = 1e-9)
    }
  }
})

test_that("no swap of a medoid for another row lowers the sum, and every row is with its nearest medoid", {
  x <- random_table(60, 2, 5)
  distances <- all_distances(x, "euclidean")
  for (k in 1:4) {
    fit <- run(x, k, restarts = 1)
    expect_true(fit$converged)
    medoids <- fit$model$medoid[, 1]
    swaps <- outer(seq_len(k), setdiff(1:60, medoids),
                   Vectorize(function(slot, row) cost_of(distances, replace(medoids, slot, row))))
    expect_gte(min(swaps), fit$objective * (1 - 1e-9))
    expect_equal(fit$group, max.col(-distances[, medoids, drop = FALSE], ties.method = "first"))
    expect_equal(fit$centres, x[medoids, , drop = FALSE])
  }
})

test_that("a given dissimilarity gives what the columns give, and cannot place new rows", {
  ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
  own <- fl_partition(ready, "medoids", k = 3)
  distances <- matrix(0, ready$total, ready$total)
  distances[ready$rows, ready$rows] <- as.matrix(stats::dist(ready$x))
  given <- fl_partition(ready, fl_method("medoids", dissimilarity = distances), k = 3)
  expect_identical(given$group, own$group)
  small <- fl_method("medoids", dissimilarity = distances[ready$rows, ready$rows])
  expect_identical(fl_partition(ready, small, k = 3)$group, own$group)
  expect_error(predict(given, fl_demo("icequakes")), class = "fjordline_error_method", regexp = "given dissimilarity")
  expect_match(method_label(given$method), "dissimilarity = given")
  expect_lt(max(nchar(fl_steps(given))), 500)
  wrong <- function(d) fl_partition(ready, fl_method("medoids", dissimilarity = d), k = 3)
  expect_error(wrong(distances[1:5, 1:5]), class = "fjordline_error_argument")
  expect_error(wrong(replace(distances, 2, 7)), class = "fjordline_error_values", regexp = "symmetric")
  expect_error(wrong(-distances), class = "fjordline_error_values", regexp = "0 or more")
})

test_that("the same seed gives the same medoids for any number of threads; new rows go to the nearest", {
  x <- random_heaps(500, 3, 4, sd = 4, seed = 2)
  one <- withr::with_options(list(fjordline.threads = 1), run(x, 4, restarts = 2))
  two <- withr::with_options(list(fjordline.threads = 2), run(x, 4, restarts = 2))
  expect_identical(two[names(two) != "seconds"], one[names(one) != "seconds"])
  placed <- assign_medoids(one, x)
  expect_identical(placed$group, one$group)
  expect_equal(sum(placed$distance), one$objective, tolerance = 1e-10)
})

test_that("large tables are sampled, said, and come close to the fit of all rows", {
  x <- random_heaps(3000, 2, 5, sd = 8, seed = 3)
  whole <- run(x, 5, restarts = 3)
  sampled <- run(x, 5, restarts = 3, sample_rows = 200)
  expect_match(sampled$notes, "3 samples of 200 rows", all = FALSE)
  expect_lt(sampled$objective, whole$objective * 1.05)
  expect_gte(sampled$objective, whole$objective * (1 - 1e-9))
  expect_length(sampled$group, 3000)
  expect_equal(sampled$objective, sum(sqrt(rowSums((x - sampled$centres[sampled$group, ])^2))), tolerance = 1e-10)
  expect_identical(run(x, 5, sample_rows = 200)$group, run(x, 5, sample_rows = 200)$group)
})

test_that("far rows pull medoids less than means", {
  x <- rbind(random_heaps(40, 2, 1, sd = 0, seed = 1), c(500, 500))
  expect_lt(naive_distance(run(x, 1)$centres, c(0, 0)), 1)
  expect_gt(naive_distance(fit_method(fl_method("kmeans"), x, 1, 1)$centres, c(0, 0)), 10)
})

test_that("edges: as many groups as rows, duplicates, rows without a direction", {
  x <- random_table(8, 2, 1)
  expect_equal(run(x, 8)$objective, 0)
  expect_error(run(x[c(1, 1, 2), ], 3), class = "fjordline_error_count", regexp = "only 2 distinct rows")
  expect_equal(run(x[c(1, 1, 1, 2), ], 2)$objective, 0)
  expect_error(run(rbind(x, 0), 2, metric = "cosine"), class = "fjordline_error_values", regexp = "row 9")
  expect_error(run(rbind(x, 0), 2, metric = "cosine", sample_rows = 10, restarts = 2), class = "fjordline_error_values")
  expect_error(fl_method("medoids", metric = "euclid"), class = "fjordline_error_method", regexp = "euclidean")
})

test_that("a saved partition of medoids places rows by its metric, and says which rows the medoids are", {
  quakes <- fl_demo("icequakes")
  groups <- fl_partition(fl_prepare(quakes, transform = "log"), fl_method("medoids", metric = "manhattan"), k = 4)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  again <- fl_load(file)
  expect_identical(predict(again, quakes), fl_labels(groups))
  expect_identical(again$model, groups$model)
  expect_equal(predict(again, quakes, type = "distance"), as.data.frame(groups)$distance, tolerance = 1e-12)
  at <- groups$ready$rows[groups$model$medoid]
  expect_equal(groups$groups$duration, quakes$table$duration[at], tolerance = 1e-10)
  expect_match(fl_facts(groups), "The medoids are", all = FALSE)
})
