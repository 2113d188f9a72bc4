# What files and settings of strangers must not do. Each of these once hurt.

test_that("a query cannot load native code, from a table or a store", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbWriteTable(connection, "t", data.frame(x = 1:3))
  DBI::dbDisconnect(connection)
  expect_error(fl_data(file, query = "SELECT load_extension('nothing')"), class = "fjordline_error_source",
               regexp = "not authorized")
  store <- connect_store(withr::local_tempfile(fileext = ".sqlite"))
  withr::defer(disconnect_store(store))
  expect_error(DBI::dbGetQuery(store$con, "SELECT load_extension('nothing')"), "not authorized")
})

test_that("numbers whose squares are beyond all numbers are refused, by every method and weight", {
  x <- data.frame(x = c(1e149, -1e149, 3, 4, 5, 6), y = 1:6)
  expect_error(fl_prepare(fl_data(x), scale = "none"), class = "fjordline_error_values", regexp = "too large to square")
  expect_error(fl_prepare(heap_data(), weights = c(east = 1e300)), class = "fjordline_error_values",
               regexp = "too large to square")
  large <- fl_prepare(fl_data(data.frame(x = c(1, 2, 3, 11, 12, 13) * 1e138, y = 1:6)), scale = "none")
  for (method in c("kmeans", "medoids", "fuzzy", "linkage", "mixture", "bisecting", "spectral")) {
    expect_setequal(fl_labels(fl_partition(large, method, k = 2)), 1:2)
  }
})

test_that("kernels refuse what is not finite, and k-medoids keeps its place whatever the distances are", {
  x <- cbind(c(1, 2, Inf, 4, 5, 6), 1:6)
  expect_error(nearest_kernel(x, x[1:2, ], "euclidean", 1L), "not finite")
  expect_error(distinct_kernel(replace(x, 3, NaN), 2L, "euclidean"), "not finite")
  # squares that overflow: every distance is infinite
  far <- cbind(c(1, -1, 2, -2, 3, -3) * 1e200, c(1, 1, -1, -1, 2, 2) * 1e200)
  fit <- medoids_kernel(far, FALSE, "euclidean", 2L, 3L, 50L, 1L, 1)
  expect_true(all(fit$group %in% 1:2))
})

test_that("numbers that set an amount of work have bounds", {
  ready <- fl_prepare(heap_data())
  expect_error(fl_partition(ready, fl_method("dbscan", radius = Inf)), class = "fjordline_error_argument", regexp = "radius")
  expect_null(counts_in("1-1000000000"))
  expect_null(counts_in("1-600,2000-3000"))
  expect_identical(counts_in("2-4,9"), c(2:4, 9L))
  file <- withr::local_tempfile(fileext = ".yml")
  for (counts in c("1-1000000000", ".nan", "[2, .inf]", "1,2,,3", "2000000")) {
    writeLines(c("study: wide", "datasets: [still_water]", "methods: [kmeans]", paste("counts:", counts)), file)
    expect_error(fl_study_file(file), class = "fjordline_error", regexp = "counts")
  }
})
