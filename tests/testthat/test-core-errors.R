# The small checks every argument goes through.

test_that("whole numbers: what passes and what is refused, with what was found", {
  expect_equal(check_whole(3, "k"), 3)
  expect_equal(check_whole(c(1, 4), "k", many = TRUE), c(1, 4))
  for (wrong in list(0, 2.5, NA_real_, Inf, "3", c(1, 2), NULL, list(1))) {
    expect_error(check_whole(wrong, "k"), class = "fjordline_error_argument", regexp = "`k` must be one whole number of at least 1")
  }
  expect_error(check_whole(9, "turn", most = 3), class = "fjordline_error_argument", regexp = "from 1 to 3")
})

test_that("seeds are whole numbers from 0", {
  expect_equal(check_seed(0), 0)
  for (wrong in list(-1, 0.5, 2^60, "a")) expect_error(check_seed(wrong), class = "fjordline_error_argument")
})

test_that("words and text", {
  expect_equal(check_choice("a", c("a", "b"), "x"), "a")
  expect_error(check_choice(c("a", "b"), c("a", "b"), "x"), class = "fjordline_error_argument", regexp = "\"a\" or \"b\"")
  expect_error(check_choice("alpa", c("alpha", "beta"), "x", what = "method"), class = "fjordline_error_method", regexp = "alpha")
  expect_error(check_text("", "reason"), class = "fjordline_error_argument")
  expect_error(check_text(NA_character_, "reason"), class = "fjordline_error_argument")
})

test_that("what was found is described shortly", {
  expect_equal(shape_of(NULL), "NULL")
  expect_equal(shape_of("x"), "\"x\"")
  expect_equal(shape_of(1:3), "c(1, 2, 3)")
  expect_equal(shape_of(data.frame(a = 1:2)), "a data frame (2 x 1)")
  expect_match(shape_of(1:100), "100 values of class integer")
})

test_that("files: endings, folders and near names", {
  folder <- withr::local_tempdir()
  writeLines("a", file.path(folder, "water.csv"))
  expect_error(check_file(file.path(folder, "watr.csv")), class = "fjordline_error_file", regexp = "Did you mean .*water.csv")
  expect_error(check_file(folder), class = "fjordline_error_file", regexp = "folder")
  expect_equal(file_form("A.CSV", c("csv", "tsv")), "csv")
  expect_error(file_form("a", "json"), class = "fjordline_error_file", regexp = ".json")
})
