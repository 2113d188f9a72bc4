test_that("roles are as given, and what was assumed is said", {
  data <- fl_data(heaps(), truth = "kind", id = "row")
  expect_equal(columns_of(data, "feature"), c("east", "north"))
  expect_equal(columns_of(data, "truth"), "kind")
  plain <- fl_data(heaps())
  expect_equal(columns_of(plain, "aside"), c("row", "kind"))
  expect_match(format(plain), "kept aside because you gave no role", all = FALSE)
  expect_equal(fl_data(heaps(), features = "east")$roles$role, c("aside", "feature", "aside", "aside"))
})

test_that("a table comes back as it came, whatever the roles", {
  table <- heaps()
  expect_identical(as.data.frame(fl_data(table, id = "row")), table)
})

test_that("the demo tables are what their pages say", {
  demos <- fl_demos()
  expect_equal(demos$rows, c(612, 408, 500))
  expect_equal(demos$features, c(6, 4, 5))
  water <- fl_demo("water_samples")
  expect_equal(sort(as.integer(table(truth_of(water)))), c(38, 78, 124, 158, 214))
  expect_gt(sum(is.na(features_of(water))), 0)
  expect_equal(anyDuplicated(water$table$sample), 0)
  expect_null(truth_of(fl_demo("still_water")))
})

test_that("a truth column without a value is refused", {
  expect_error(fl_data(transform(heaps(), kind = NA), truth = "kind"), class = "fjordline_error_column", regexp = "holds no value")
})

test_that("a summary of a table has a row a column, of a preparation a row a prepared column", {
  about <- summary(fl_demo("water_samples"))
  expect_equal(about$column, names(fl_demo("water_samples")$table))
  expect_equal(about$missing[about$column == "oxygen"], 7)
  expect_equal(about$median[about$column == "salinity"], median(fl_demo("water_samples")$table$salinity))
  expect_equal(summary(water_ready())$share_of_spread, rep(1 / 6, 6))
})

test_that("the demo tables are exactly what their scripts make", {
  scripts <- test_path("..", "..", "data-raw")
  skip_if_not(dir.exists(scripts), "the scripts are not beside the tests")
  folder <- withr::local_tempdir()
  dir.create(file.path(folder, "inst", "extdata"), recursive = TRUE)
  for (name in names(demo_tables)) {
    script <- normalizePath(file.path(scripts, paste0(name, ".R")))
    withr::with_dir(folder, system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(script))))
    expect_identical(readLines(file.path(folder, "inst", "extdata", paste0(name, ".csv"))), readLines(demo_file(name)), info = name)
  }
})
