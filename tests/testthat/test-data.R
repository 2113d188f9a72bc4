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

test_that("matrices, tibbles and files hold the same table", {
  table <- heaps()
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(table, file, row.names = FALSE)
  tab <- withr::local_tempfile(fileext = ".tsv")
  utils::write.table(table, tab, row.names = FALSE, sep = "\t")
  for (source in list(tibble::as_tibble(table), file, tab)) {
    expect_equal(as.data.frame(fl_data(source)), table, ignore_attr = TRUE)
  }
  expect_equal(columns_of(fl_data(as.matrix(table[2:3])), "feature"), c("east", "north"))
  expect_equal(names(as.data.frame(fl_data(matrix(1:6, 3)))), c("column_1", "column_2"))
})

test_that("files: missing spellings, leading zeros, dates, quotes and odd names are read as they should", {
  file <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("\"a, b\",code,when,x<script>", "1.5,007,2031-01-02,\"one, two\"", "N/A,008,2031-01-03,"), file)
  table <- as.data.frame(fl_data(file))
  expect_equal(names(table), c("a, b", "code", "when", "x<script>"))
  expect_equal(table[["a, b"]], c(1.5, NA))
  expect_equal(table$code, c("007", "008"))
  expect_s3_class(table$when, "Date")
  expect_equal(table[[4]], c("one, two", NA))
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

test_that("the check finds each planted trap, and nothing on a clean table", {
  n <- 60
  traps <- withr::with_seed(5, data.frame(
    clean = rnorm(n), copy = 0, number_text = c("high", as.character(round(rnorm(n - 1), 2))), flat = 7, running = seq_len(n) + 100,
    code = rep(c(1, 2, 3), each = 20), type = rep(c("x", "y", "z"), each = 20), wide = rnorm(n, sd = 5000),
    tail = exp(rnorm(n, sd = 2)), endless = c(Inf, rnorm(n - 1)), gaps = c(rep(NA, 20), rnorm(40))
  ))
  traps$copy <- traps$clean + 1e-3 * traps$wide / 5000
  found <- as.data.frame(fl_check(fl_data(traps, truth = "type")))
  at <- function(pattern) found$column[grepl(pattern, found$finding)]
  expect_equal(at("number column with text"), "number_text")
  expect_match(found$finding[found$column == "number_text"], "row 1: \"high\"")
  expect_equal(at("single value"), "flat")
  expect_equal(at("running number"), "running")
  expect_equal(at("gives the known class away"), "code")
  expect_equal(at("infinite"), "endless")
  expect_equal(found$severity[found$column == "endless"], "stop")
  expect_equal(at("nearly one column"), "clean, copy")
  expect_equal(at("long right tail"), "tail")
  expect_match(found$advice[grepl("tail", found$finding)], "tail = \"log\"")
  expect_match(at("very different spreads"), "wide")
  expect_match(found$finding[found$column == "gaps"], "20 missing cells.*20 rows of 60")
  expect_equal(found$severity[found$column == "gaps"], "warn")

  expect_equal(nrow(fl_check(heap_data())), 0)
  expect_equal(nrow(fl_check(fl_demo("still_water"))), 0)
})

test_that("codes and labels of classes are pointed out where no truth is named", {
  table <- transform(heaps(), code = rep(1:3, 20))
  found <- as.data.frame(fl_check(fl_data(table, id = "row")))
  expect_setequal(found$column, c("code", "kind"))
  expect_match(found$finding[found$column == "code"], "codes of classes")
})

test_that("scales are as defined", {
  x <- c(1, 2, 3, 4, 10)
  scaled <- function(scale) fl_prepare(fl_data(data.frame(x = x, y = rev(x))), scale = scale)$x[, 1]
  expect_equal(scaled("mean_sd"), (x - 4) / sqrt(sum((x - 4)^2) / 4))
  expect_equal(scaled("median_iqr"), (x - 3) / (2 / 1.349))
  expect_equal(scaled("unit_range"), (x - 1) / 9)
  expect_equal(scaled("none"), x)
})

test_that("median_iqr falls back to the standard deviation, and says so", {
  ready <- fl_prepare(fl_data(data.frame(x = c(rep(0, 9), 5), y = 1:10)), scale = "median_iqr")
  expect_match(ready$notes, "interquartile range of x is 0", all = FALSE)
  expect_equal(ready$x[10, 1], c(x = 5 / sd(c(rep(0, 9), 5))))
})

test_that("rows with missing values are set aside and keep their place", {
  table <- heaps()
  table$east[c(3, 50)] <- NA
  ready <- fl_prepare(fl_data(table, truth = "kind", id = "row"))
  expect_equal(ready$rows, setdiff(1:60, c(3, 50)))
  partition <- fl_partition(ready, k = 3)
  expect_equal(which(is.na(fl_labels(partition))), c(3, 50))
  expect_length(fl_labels(partition), 60)
  expect_error(fl_prepare(fl_data(table), missing = "stop"), class = "fjordline_error_values", regexp = "east in row 3")
})

test_that("a constant column is left out and said; the preparation of new rows leaves it out too", {
  table <- transform(heaps(), depth = 5)
  ready <- fl_prepare(fl_data(table, truth = "kind", id = "row"))
  expect_equal(colnames(ready$x), c("east", "north"))
  expect_match(ready$notes, "depth holds one single value", all = FALSE)
  expect_identical(replay(ready, table), ready$x)
})

test_that("steps are replayed to the last bit and inverted", {
  water <- fl_demo("water_samples")
  for (scale in names(scales_known)) {
    ready <- fl_prepare(water, scale = scale, transform = c(turbidity = "log", oxygen = "square_root", salinity = "log1p"))
    expect_identical(replay(ready, water$table)[ready$rows, ], ready$x)
    expect_equal(original_units(ready, ready$x), numeric_matrix(water$table, ready$features)[ready$rows, ],
                 tolerance = 1e-12)
  }
})

test_that("replaying never learns: one new row is scaled by the fitted table", {
  ready <- fl_prepare(heap_data())
  one <- heaps()[17, ]
  expect_equal(replay(ready, one)[1, ], ready$x[17, ])
})

test_that("a column that will decide is named", {
  expect_match(fl_prepare(fl_data(transform(heaps(), far = east * 1000, up = 1:60, down = 60:1)), scale = "none")$notes,
               "far has .* of all spread", all = FALSE)
  expect_equal(fl_prepare(heap_data())$notes, character())
})

bytes_file <- function(...) {
  file <- tempfile(fileext = ".csv")
  writeBin(do.call(c, lapply(list(...), function(part) if (is.character(part)) charToRaw(part) else as.raw(part))), file)
  file
}

test_that("byte-order marks, CRLF and semicolons are read; a file in another encoding is refused with its line", {
  marked <- bytes_file(c(0xef, 0xbb, 0xbf), "name;depth\r\na;1.5\r\nb;2.5\r\nc;9\r\n")
  expect_equal(as.data.frame(fl_data(marked)), data.frame(name = c("a", "b", "c"), depth = c(1.5, 2.5, 9)), ignore_attr = TRUE)
  expect_error(fl_data(bytes_file("caf", 0xe9, ",b\n1,2\n3,4\n")), class = "fjordline_error_file", regexp = "name of column 1")
  expect_error(fl_data(bytes_file("a,b\n1,x\n3,caf", 0xe9, "\n")), class = "fjordline_error_file", regexp = "Line 3")
})

test_that("a line that is blank, short or opens a quote is refused, never dropped", {
  for (text in c("a,b\n1,2\n\n3,4\n5,6\n", "a,b\n1,2\n3,4\n5\n", "a,b\n1,\"2\n3,4\n5,6\n")) {
    expect_error(fl_data(bytes_file(text)), class = "fjordline_error_file")
  }
  expect_error(fl_data(bytes_file("\n")), class = "fjordline_error_file")
})

test_that("a file without a header line, and decimal commas, are pointed out", {
  found <- as.data.frame(fl_check(fl_data(bytes_file("1,2\n3,4\n5,6\n8,1\n"))))
  expect_match(found$finding, "is the header line missing", all = FALSE)
  found <- as.data.frame(fl_check(fl_data(bytes_file("a;b\n1,5;2\n2,5;3\n9,0;7\n"))))
  expect_equal(found$column[grepl("decimal commas", found$finding)], "a")
})

test_that("a truth column without a value is refused", {
  expect_error(fl_data(transform(heaps(), kind = NA), truth = "kind"), class = "fjordline_error_column", regexp = "holds no value")
})

test_that("tiny and huge numbers are scaled as their shape says; rounding noise is no column", {
  x <- heaps()$east
  plain <- fl_prepare(fl_data(data.frame(x = x, y = rev(x))))$x[, 1]
  for (factor in c(1e-160, 1e-300, 1e120)) {
    expect_equal(fl_prepare(fl_data(data.frame(x = x * factor, y = rev(x))))$x[, 1], plain, tolerance = 1e-12)
  }
  ready <- fl_prepare(fl_data(data.frame(x = x, y = 1 + 1e-16 * seq_along(x))))
  expect_equal(colnames(ready$x), "x")
  expect_equal(ncol(fl_prepare(fl_data(data.frame(x = x, y = 1e8 + x)))$x), 2)
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
