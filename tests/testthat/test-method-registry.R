local_method <- function(key, fit, ..., env = parent.frame()) {
  made <- fl_new_method(key, fit, ...)
  withr::defer(suppressWarnings(rm(list = key, envir = own_methods)), envir = env)
  made
}

halves <- function(x, k, settings, seed) list(group = 1L + (x[, 1] > settings$at))

test_that("a method of the user's works in partitions, sweeps, predictions and the catalogue", {
  local_method("halves", halves, settings = list(at = 5))
  ready <- fl_prepare(heap_data(), scale = "none")
  partition <- fl_partition(ready, fl_method("halves", at = 7.5), k = 2)
  expect_equal(tabulate(fl_labels(partition)), c(40, 20))
  expect_equal(partition$name, "halves(at = 7.5), 2")
  expect_equal(predict(partition, data.frame(east = c(0, 30), north = c(0, 30))), c(1, 2))
  expect_true(fl_methods()$yours[fl_methods()$key == "halves"])
  sweep <- fl_sweep(ready, list("kmeans", "halves"), k = 2:3)
  expect_setequal(unique(as.data.frame(sweep)$method), c("kmeans", "halves"))
})

test_that("a method that breaks its contract is refused, whatever it returns", {
  ready <- fl_prepare(heap_data())
  for (group in list(NULL, 1:3, rep(NA, 60), rep(-1, 60), rep(c(1, 3), 30), rep(1.5, 60), letters)) {
    local_method("broken", function(x, k, settings, seed) list(group = group))
    expect_error(fl_partition(ready, "broken", k = 2), class = "fjordline_error_method", regexp = "contract")
  }
})

test_that("noise from a user's method is kept as 0, out of sizes and indices", {
  local_method("edgy", function(x, k, settings, seed) list(group = c(rep(0L, 5), rep(1:2, length.out = nrow(x) - 5))))
  partition <- fl_partition(fl_prepare(heap_data()), "edgy", k = 2)
  expect_equal(sum(fl_labels(partition) == 0), 5)
  expect_equal(sum(partition$groups$rows), 55)
  score <- fl_score(partition, c("calinski_harabasz", "silhouette"))
  x <- partition$ready$x[-(1:5), ]
  group <- fl_labels(partition)[-(1:5)]
  w <- naive_scatter(x, group)
  total <- naive_scatter(x, rep(1, 55))
  expect_equal(score$value, c((total - w) / (w / 53), mean(naive_silhouette(x, group))), tolerance = 1e-10)
})

test_that("keys are words, and built-in ones are taken", {
  expect_error(fl_new_method("kmeans", halves), class = "fjordline_error_method", regexp = "built-in")
  expect_error(fl_new_method("Two words", halves), class = "fjordline_error_method")
  expect_error(fl_new_method("short", function(x) x), class = "fjordline_error_method", regexp = "settings")
})

test_that("settings that were changed stand in the label, and only those", {
  expect_equal(method_label(fl_method("kmeans")), "kmeans")
  expect_equal(method_label(fl_method("kmeans", restarts = 5)), "kmeans(restarts = 5)")
})
