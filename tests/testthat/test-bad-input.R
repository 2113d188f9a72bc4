# Each bad input gives the designed error, or works by a documented rule, in R and in the shell, and leaves no file.

bad_file <- function(lines, ending = ".csv") {
  file <- tempfile(fileext = ending)
  writeLines(lines, file)
  file
}

empty_file <- function() {
  file <- tempfile(fileext = ".csv")
  file.create(file)
  file
}

in_r <- function(file, k = 2, ...) fl_partition(fl_prepare(fl_data(file, ...)), k = k)

# status of the shell's group verb, and what it left behind
in_shell <- function(file, ..., verb = "group") {
  folder <- tempfile("shell")
  dir.create(folder)
  withr::local_dir(folder)
  quiet <- withr::local_tempfile()
  con <- file(quiet, "w")
  sink(con)
  sink(con, type = "message")
  status <- tryCatch(cli_main(c(verb, file, ..., "--out", "out.csv")), finally = {
    sink(type = "message")
    sink()
    close(con)
  })
  list(status = status, files = list.files(folder, all.files = TRUE, no.. = TRUE),
       said = readLines(quiet, warn = FALSE))
}

cases <- list(
  "a missing file" = list(file = "nowhere.csv", class = "file", says = "no file"),
  "an empty file" = list(file = empty_file(), class = "file", says = "is empty"),
  "a header only" = list(file = bad_file("a,b"), class = "table", says = "nothing below"),
  "one row" = list(file = bad_file(c("a,b", "1,2")), class = "table", says = "At least two complete rows"),
  "all rows identical" = list(file = bad_file(c("a,b", rep("1,2", 5))), class = "table",
                              says = "all rows are the same"),
  "k above the distinct rows" = list(file = bad_file(c("a,b", "1,2", "1,2", "3,4")), k = 3, class = "count",
                                     says = "only 2 distinct rows"),
  "an infinite value" = list(file = bad_file(c("a,b", "1,2", "Inf,3", "4,5")), class = "values", says = "Row 2"),
  "a number too large" = list(file = bad_file(c("a,b", "1,2", "1e308,3", "4,5")), class = "values", says = "too large"),
  "only text" = list(file = bad_file(c("a,b", "x,y", "z,w")), class = "column", says = "no number column"),
  "ragged rows" = list(file = bad_file(c("a,b", "1,2", "3,4", "5,6,7,8", "9,10")), class = "file", says = "line 4"),
  "two columns of one name" = list(file = bad_file(c("a,a", "1,2", "3,4")), class = "table", says = "more than once"),
  "another kind of file" = list(file = bad_file("x", ".doc"), class = "file", says = "ending"),
  "a folder" = list(file = dirname(tempfile()), class = "file", says = "folder"),
  "every row with a gap" = list(file = bad_file(c("a,b", "1,", ",2", "3,")), class = "table",
                                says = "0 without a missing value")
)

for (name in names(cases)) {
  local({
    case <- cases[[name]]
    label <- name
    test_that(paste("bad input:", label), {
      k <- if (is.null(case$k)) 2 else case$k
      expect_error(in_r(case$file, k = k), class = paste0("fjordline_error_", case$class), regexp = case$says)
      run <- in_shell(case$file, "--k", k)
      expect_equal(run$status, 1L)
      expect_equal(run$files, character())
      expect_match(paste(run$said, collapse = " "), case$says)
    })
  })
}

test_that("a misspelt column names the nearest one, in every role, in R and in the shell", {
  file <- bad_file(c("salinity,oxygen,mass", "1,2,a", "3,4,b", "5,6,b"))
  for (role in c("truth", "id", "aside", "features")) {
    expect_error(do.call(fl_data, stats::setNames(list(file, "salinty"), c("table", role))),
                 class = "fjordline_error_column", regexp = "salinity")
    expect_equal(in_shell(file, "--k", "2", paste0("--", role), "salinty")[c("status", "files")],
                 list(status = 1L, files = character()))
  }
  expect_error(fl_prepare(fl_data(file), use = "oxigen"), class = "fjordline_error_column", regexp = "oxygen")
  expect_error(fl_data(file, truth = "mass", aside = "mass"), class = "fjordline_error_column", regexp = "two roles")
})

test_that("k = 0 and other counts that are none are wrong usage", {
  ready <- fl_prepare(heap_data())
  for (k in list(0, -1, 1.5, NA, Inf, "three", 1:2, NULL)) {
    expect_error(fl_partition(ready, k = k), class = "fjordline_error_argument")
  }
  expect_error(quick_sweep(ready, k = 0:3), class = "fjordline_error_argument")
  file <- bad_file(c("a,b", "1,2", "3,4"))
  expect_equal(in_shell(file, "--k", "0")[c("status", "files")], list(status = 2L, files = character()))
})

test_that("text where numbers should be: said by the check, refused as a feature, refused in new rows", {
  file <- bad_file(c("a,b", "1,2", "2,x", "3,4", "4,5"))
  expect_match(as.data.frame(fl_check(fl_data(file)))$finding, "row 2: \"x\"", all = FALSE)
  expect_error(fl_data(file, features = c("a", "b")), class = "fjordline_error_column", regexp = "Row 2 holds \"x\"")
  expect_equal(in_shell(file, "--features", "a,b", "--k", "2")$status, 1L)
})

test_that("one column and one group work", {
  file <- bad_file(c("a", 1, 2, 9, 10))
  expect_equal(fl_labels(in_r(file)), fl_labels(in_r(file))[c(1, 1, 3, 3)])
  expect_equal(in_shell(file, "--k", "2")[c("status", "files")], list(status = 0L, files = "out.csv"))
  expect_equal(unique(fl_labels(in_r(file, k = 1))), 1L)
})

test_that("a truth with one level works: agreement 0, and the check says it means nothing", {
  file <- bad_file(c("a,t", "1,x", "2,x", "9,x", "10,x"))
  expect_equal(fl_agree(in_r(file, truth = "t"))$measures$value[1], 0)
  expect_equal(in_shell(file, "--truth", "t", "--k", "2")$status, 0L)
})

test_that("models that are not ours or are cut short: refused in the shell too, nothing written", {
  rows <- bad_file(c("east,north", "1,2"))
  model <- tempfile(fileext = ".json")
  fl_save(fl_partition(fl_prepare(heap_data()), k = 3), model)
  cut <- bad_file(utils::head(readLines(model), 12), ".json")
  for (wrong in list(cut, bad_file("{\"form\": \"other\"}", ".json"), rows)) {
    run <- in_shell(wrong, rows, verb = "place")
    expect_equal(run[c("status", "files")], list(status = 1L, files = character()))
    expect_match(run$said[1], "not a model this can use")
  }
  expect_equal(in_shell(model, rows, verb = "place")[c("status", "files")], list(status = 0L, files = "out.csv"))
})

test_that("a place that cannot be written to is an error before anything is there", {
  file <- bad_file(c("a,b", "1,2", "3,4", "9,9"))
  groups <- in_r(file)
  expect_error(fl_export(groups, file.path(tempdir(), "none", "x.csv")), class = "fjordline_error_file",
               regexp = "does not exist")
  expect_error(fl_export(groups, "x.xyz"), class = "fjordline_error_file", regexp = ".csv")
  expect_error(fl_save(groups, "x.csv"), class = "fjordline_error_file", regexp = ".json")
})

test_that("objects of the wrong kind are refused by what they should be", {
  expect_error(fl_prepare(heaps()), class = "fjordline_error_argument", regexp = "fl_data")
  expect_error(fl_partition(heap_data(), k = 2), class = "fjordline_error_argument", regexp = "fl_prepare")
  expect_error(quick_sweep(1), class = "fjordline_error_argument", regexp = "fl_prepare")
  expect_error(fl_vote(1), class = "fjordline_error_argument", regexp = "fl_sweep")
  expect_error(fl_data(NULL), class = "fjordline_error_table")
  expect_error(fl_data(list(1)), class = "fjordline_error_table")
  expect_error(fl_data(data.frame(a = I(list(1, 2)))), class = "fjordline_error_table", regexp = "lists")
  expect_error(fl_export(1, tempfile(fileext = ".csv")), class = "fjordline_error_argument")
})

test_that("logarithms of numbers that have none are refused with column and count", {
  data <- fl_data(data.frame(a = c(0, 1, 2), b = c(-5, 1, 2)))
  expect_error(fl_prepare(data, transform = c(a = "log")), class = "fjordline_error_values", regexp = "\"a\".*above 0")
  expect_error(fl_prepare(data, transform = c(b = "log1p")), class = "fjordline_error_values")
  expect_error(fl_prepare(data, transform = c(a = "lg")), class = "fjordline_error_argument", regexp = "log")
  expect_error(fl_prepare(data, transform = c(z = "log")), class = "fjordline_error_column")
})

test_that("the shell looks at all endings before it writes anything", {
  file <- bad_file(c("a,b", "1,2", "3,4", "9,9"))
  for (wrong in list(c("--model", "m.txt"), c("--report", "r.pdf"))) {
    run <- in_shell(file, "--k", "2", wrong)
    expect_equal(run[c("status", "files")], list(status = 1L, files = character()))
  }
})
