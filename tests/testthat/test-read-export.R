# Tables handed on: forms, parts, and text that a spreadsheet would run.

hostile_partition <- function() {
  table <- heaps()
  n <- nrow(table)
  table$note <- rep_len(c("=1+1", "+47 phone", "-3.5", "-x", "@sum", "\ttab", "plain", "-", NA, "\uff1dwide"), n)
  table$`=head` <- rep_len(c("a", "b"), n)
  fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row", aside = c("note", "=head"))), k = 3)
}

test_that("cells and names that a spreadsheet would run get an apostrophe, and this is said", {
  groups <- hostile_partition()
  file <- withr::local_tempfile(fileext = ".csv")
  expect_warning(fl_export(groups, file), class = "fjordline_warning_formula", regexp = "apostrophe")
  back <- read.csv(file, check.names = FALSE, na.strings = "")
  expect_equal(back$note[c(1, 2, 3, 4, 5, 7, 8)], c("'=1+1", "'+47 phone", "-3.5", "'-x", "'@sum", "plain", "-"))
  expect_true(is.na(back$note[9]))
  expect_equal(back$note[10], "'\uff1dwide")
  expect_true("'=head" %in% names(back))
  expect_equal(back$group, fl_labels(groups))
  expect_error(fl_export(groups, file, formulas = "refuse"), class = "fjordline_error_formula", regexp = "name of column")
  expect_no_warning(fl_export(groups, file, formulas = "keep"))
  expect_equal(read.csv(file, check.names = FALSE)$note[1], "=1+1")
})

test_that("every form gives the same table back", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), letters[1:5])
  expected <- generics::augment(groups)
  for (form in c("csv", "tsv", "json", if (rlang::is_installed(c("openxlsx", "readxl"))) "xlsx",
                 if (rlang::is_installed("nanoparquet")) "parquet")) {
    file <- withr::local_tempfile(fileext = paste0(".", form))
    fl_export(groups, file)
    back <- fl_data(file)$table
    expect_equal(names(back), names(expected))
    expect_equal(as.data.frame(back), as.data.frame(expected), ignore_attr = TRUE, tolerance = 1e-12)
    expect_equal(back$group, fl_labels(groups), ignore_attr = TRUE)
  }
})

test_that("text stays text in a sheet, and what a sheet cannot hold is refused or left out", {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("readxl")
  file <- withr::local_tempfile(fileext = ".xlsx")
  groups <- hostile_partition()
  expect_no_warning(fl_export(groups, file))
  expect_equal(openxlsx::read.xlsx(file)$note[1], "=1+1")
  xml <- unzip(file, exdir = withr::local_tempdir())
  expect_no_match(paste(readLines(grep("sheet1.xml$", xml, value = TRUE), warn = FALSE), collapse = ""), "<f>")
  expect_equal(sheet_table(data.frame(a = "x\x01y"))$a, "xy")
  expect_error(sheet_table(data.frame(a = strrep("x", 40000))), class = "fjordline_error_file", regexp = "32,767")
})

test_that("one group, several by name, and the centres", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), c("top", "mid", "basin", "shelf", "melt"))
  file <- withr::local_tempfile(fileext = ".csv")
  fl_export(groups, file, group = c("basin", "melt"))
  back <- read_table(file)$table
  expect_setequal(back$group, c(3, 5))
  expect_equal(nrow(back), sum(groups$group %in% c(3, 5)))
  fl_export(groups, file, group = NA)
  expect_equal(nrow(read_table(file)$table), sum(is.na(groups$group)))
  fl_export(groups, file, what = "centres")
  centres <- read_table(file)$table
  expect_equal(centres$name, groups$names)
  expect_equal(centres$salinity, groups$groups$salinity)
  expect_equal(centres$rows, groups$groups$rows)
  fl_export(groups, file, what = "centres", group = "melt")
  expect_equal(read_table(file)$table$group, 5)
  expect_error(fl_export(groups, file, group = "bsin"), class = "fjordline_error_argument", regexp = "basin")
  expect_error(fl_export(fl_agree(groups), file, what = "centres"), class = "fjordline_error_argument", regexp = "partitions")
})

test_that("a CSV file can have decimal commas, and reads back as it was", {
  groups <- fl_partition(fl_prepare(fl_demo("icequakes"), transform = "log"), k = 3)
  file <- withr::local_tempfile(fileext = ".csv")
  fl_export(groups, file, decimal = ",")
  expect_match(readLines(file, 2)[2], "[0-9],[0-9]+;")
  comma <- fl_data(file)$table
  fl_export(groups, file)
  expect_equal(comma, fl_data(file)$table)
  expect_error(fl_export(groups, sub("csv$", "xlsx", file), decimal = ","), class = "fjordline_error_argument")
})
