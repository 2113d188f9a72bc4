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
  expect_equal(predict(partition, data.frame(east = c(0, 30), north = c(0, 30)), reach = Inf), c(1, 2))
  expect_true(fl_methods()$yours[fl_methods()$key == "halves"])
  sweep <- quick_sweep(ready, list("kmeans", "halves"), k = 2:3)
  expect_setequal(unique(as.data.frame(sweep)$method), c("kmeans", "halves"))
})

test_that("scoring one partition fits nothing that no index of it needs", {
  fitted <- 0L
  local_method("counting", function(x, k, settings, seed) {
    fitted <<- fitted + 1L
    list(group = 1L + (x[, 1] > 7.5))
  })
  partition <- fl_partition(fl_prepare(heap_data(), scale = "none"), "counting", k = 2)
  fitted <- 0L
  expect_match(fl_score(partition, "elbow")$reason, "directly below and above")
  expect_identical(fitted, 0L)
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

test_that("a method's own rule for new rows is used, in predictions and after loading", {
  local_method("east_west", function(x, k, settings, seed) list(group = 1L + (x[, 1] > 0)),
               assign = function(fit, x) list(group = rep(2L, nrow(x)), distance = rep(7, nrow(x))))
  partition <- fl_partition(fl_prepare(heap_data()), "east_west", k = 2)
  expect_equal(predict(partition, heaps()[1:3, ]), c(2, 2, 2))
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(partition, file)
  expect_equal(predict(fl_load(file), heaps()[1:3, ], type = "distance"), c(7, 7, 7))
})

test_that("a method that stops is one failed cell, with its message as the reason", {
  local_method("moody", function(x, k, settings, seed) if (k == 3) stop("not three") else list(group = rep(seq_len(k), length.out = nrow(x))))
  values <- as.data.frame(quick_sweep(fl_prepare(heap_data()), "moody", k = 2:4))
  expect_true(all(grepl("not three", values$reason[values$k == 3])))
  expect_false(is.na(values$value[values$k == 2 & values$index == "silhouette"]))
})
