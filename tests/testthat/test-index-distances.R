# Distances gone through once for many labelings: each labeling must get what it would get alone.

three_labelings <- function(n = 40) {
  list(rep(1:2, length.out = n), rep(1:4, each = n / 4), c(rep(0L, 10), rep(1:3, length.out = n - 10)))
}

test_that("a labeling gets from a pool what it gets by itself, in any company", {
  x <- random_heaps(40, 3, 4, sd = 4, seed = 3)
  labels <- three_labelings()
  for (metric in c("euclidean", "manhattan")) {
    pool <- distance_pool(x, labels[c(1, 2, 3, 2, 1)], metric)
    for (group in labels) {
      at <- pool$of(list(group))
      alone <- pair_sums(x, list(group), metric)
      together <- part_of_pool(pool$pairs(), at)
      expect_equal(together$width[, 1], alone$width[, 1], tolerance = 1e-14)
      expect_equal(together$between, alone$between, tolerance = 1e-14)
      expect_equal(together$groups, list(as.integer(group)))
      expect_equal(part_of_pool(pool$ends(), at), pair_ends(x, list(group), metric), tolerance = 1e-14)
      expect_equal(part_of_pool(pool$order(), at), pair_order(x, list(group), metric), tolerance = 1e-12, ignore_attr = TRUE)
      expect_equal(part_of_pool(pool$density(), at), density_validity(x, list(group), metric), tolerance = 1e-12)
    }
  }
})

test_that("silhouettes of a pool are those written out, and Euclidean sums beside another metric are Euclidean", {
  x <- random_heaps(40, 2, 4, sd = 4, seed = 8)
  labels <- three_labelings()
  plain <- distance_pool(x, labels)
  for (group in labels[1:2]) {
    expect_equal(part_of_pool(plain$pairs(), plain$of(list(group)))$width[, 1], naive_silhouette(x, group), tolerance = 1e-10)
  }
  pool <- distance_pool(x, labels, "manhattan")
  expect_equal(part_of_pool(pool$sums("euclidean"), pool$of(labels[1]))$between[[1]],
               pair_sums(x, labels[1])$between[[1]], tolerance = 1e-14)
  expect_false(isTRUE(all.equal(pool$sums()$between[[1]], pool$sums("euclidean")$between[[1]])))
})

test_that("the rows are gone through once for all methods and repeats that see them alike", {
  ready <- fl_prepare(heap_data())
  walks <- function(code) {
    count <- 0L
    space <- asNamespace("fjordline")
    suppressMessages(trace("pair_sums", function() count <<- count + 1L, print = FALSE, where = space))
    on.exit(suppressMessages(untrace("pair_sums", where = space)))
    force(code)
    count
  }
  few <- function(...) fl_method("kmeans", restarts = 2, ...)
  sweep <- function(methods, ...) fl_sweep(ready, methods, k = 2:4, indices = "silhouette", ...)
  expect_equal(walks(sweep(few())), 1)
  expect_equal(walks(sweep(list(few(), fl_method("medoids")), repeats = 2)), 1)
  # another metric sees other distances, and so does another preparation
  expect_equal(walks(sweep(list(few(), fl_method("medoids", metric = "manhattan")))), 2)
  two <- list(a = ready, b = fl_prepare(heap_data(), scale = "none"))
  expect_equal(walks(fl_sweep(two, few(), k = 2:4, indices = "silhouette")), 2)
})

test_that("values do not depend on which other methods are in the sweep", {
  ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
  methods <- list(fl_method("kmeans", restarts = 2), fl_method("medoids"), fl_method("medoids", metric = "manhattan"))
  keys <- c("silhouette", "dunn", "c_index", "gamma", "dbcv", "generalized_dunn", "mcclain_rao")
  together <- as.data.frame(fl_sweep(ready, methods, k = 2:4, indices = keys, repeats = 2))
  for (method in methods) {
    alone <- as.data.frame(fl_sweep(ready, method, k = 2:4, indices = keys, repeats = 2))
    expect_equal(together$value[together$method == method_label(method)], alone$value, tolerance = 1e-14)
  }
})

test_that("given distances are the method's own, and a failed cell leaves the others theirs", {
  ready <- fl_prepare(heap_data())
  odd <- unname(as.matrix(distances_of(ready$x)))^3
  methods <- list(given = fl_method("medoids", dissimilarity = odd), fl_method("medoids"))
  values <- as.data.frame(fl_sweep(ready, methods, k = c(3, 61), indices = c("silhouette", "dunn")))
  labels <- unique(values$method)
  at <- function(method, index) values$value[values$method == method & values$index == index & values$k == 3]
  expect_gt(at(labels[1], "silhouette"), at(labels[2], "silhouette"))
  expect_equal(at(labels[1], "dunn"), at(labels[2], "dunn")^3, tolerance = 1e-9)
  expect_true(all(is.na(values$value[values$k == 61])))
  expect_match(values$reason[values$k == 61], "the fit failed")
})
