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
  expect_equal(demos$rows, c(612, 408, 900, 300, 2020, 416, 500))
  expect_equal(demos$features, c(6, 4, 2, 32, 11, 8, 5))
  expect_equal(type_of(fl_demo("vessel_visits"), c("pilot", "cargo", "condition")), c("logical", "category", "ordered"))
  water <- fl_demo("water_samples")
  expect_equal(sort(as.integer(table(truth_of(water)))), c(38, 78, 124, 158, 214))
  expect_gt(sum(is.na(features_of(water))), 0)
  expect_equal(anyDuplicated(water$table$sample), 0)
  expect_null(truth_of(fl_demo("still_water")))
})

test_that("a truth column without a value is refused", {
  expect_error(fl_data(transform(heaps(), kind = NA), truth = "kind"), class = "fjordline_error_column", regexp = "holds no value")
})

test_that("a summary of a table has one row per column, of a preparation a row a prepared column", {
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

# --- roles

test_that("columns are named by position and by pattern; a pattern takes what has no other role", {
  table <- cbind(heaps(), depth_5 = 1:60, depth_10 = 60:1)
  expect_equal(columns_of(fl_data(table, features = 2:3), "feature"), c("east", "north"))
  expect_equal(columns_of(fl_data(table, features = c("2-3", "6")), "feature"), c("east", "north", "depth_10"))
  expect_error(fl_data(table, features = "5-9"), class = "fjordline_error_column", regexp = "no column 7")
  expect_equal(columns_of(fl_data(stats::setNames(table, c("row", "2", "3", "4", "5", "1")), features = "1"), "feature"), "1")
  expect_equal(columns_of(fl_data(table, aside = "depth_*"), "aside"), c("row", "kind", "depth_5", "depth_10"))
  all <- fl_data(table, truth = "kind", id = "row", features = "*")
  expect_equal(columns_of(all, "feature"), c("east", "north", "depth_5", "depth_10"))
  expect_equal(columns_of(fl_data(table, features = "depth_??"), "feature"), "depth_10")
  expect_error(fl_data(table, features = 9), class = "fjordline_error_column", regexp = "columns 1 to 6")
  expect_error(fl_data(table, aside = "deep_*"), class = "fjordline_error_column", regexp = "No column matches")
  expect_error(fl_data(table, truth = "depth_*"), class = "fjordline_error_column", regexp = "one column")
  starred <- stats::setNames(data.frame(1:3, 4:6), c("a*", "ab"))
  expect_equal(columns_of(fl_data(starred, features = "a*"), "feature"), "a*")
})

test_that("a column of names is suggested as id, and dates and text are kept aside, in words", {
  table <- data.frame(sample = paste0("s", 1:30), day = as.Date("2031-01-01") + 1:30, kind = rep(c("a", "b"), 15),
                      note = paste(strrep("long ", 20), 1:30), v = rnorm(30))
  data <- fl_data(table)
  expect_equal(data$roles$type, c("text", "date", "category", "text", "number"))
  expect_match(format(data), "suggested +id = \"sample\"", all = FALSE)
  expect_match(format(data), "aside +sample \\(text\\), day \\(date\\), kind \\(category\\) and note \\(text\\)", all = FALSE)
  expect_null(suggested_id(fl_data(table, id = "sample")))
  expect_equal(fl_data(table, features = c("v", "kind"))$roles$role[c(3, 5)], c("feature", "feature"))
  expect_error(fl_data(table, features = c("v", "day")), class = "fjordline_error_column", regexp = "fl_dates")
  expect_error(fl_data(table, features = c("v", "note")), class = "fjordline_error_column", regexp = "category")
})

test_that("types are as given: levels in order, dates of another form, codes as categories", {
  table <- data.frame(ice = c("thin", "none", "thick"), day = c("03.04.2031", "05.04.2031", NA), code = c(1, 2, 1),
                      flag = c("yes", "no", NA), n = c("1.5", "2", NA))
  data <- fl_data(table, types = list(ice = c("none", "thin", "thick"), day = "%d.%m.%Y", code = "category", flag = "logical",
                                      n = "number"))
  expect_equal(data$roles$type, c("ordered", "date", "category", "logical", "number"))
  expect_equal(data$table$day[1], as.Date("2031-04-03"))
  expect_equal(data$table$flag, c(TRUE, FALSE, NA))
  expect_equal(as.integer(data$table$ice), c(2, 1, 3))
  given <- function(...) fl_data(table, types = list(...), features = "code")
  expect_error(given(ice = c("none", "thin")), class = "fjordline_error_column", regexp = "Row 3 holds \"thick\"")
  expect_error(given(ice = "ordered"), class = "fjordline_error_argument", regexp = "order")
  expect_error(given(ice = "number"), class = "fjordline_error_column", regexp = "Row 1")
  expect_error(given(day = "date"), class = "fjordline_error_column", regexp = "%d.%m.%Y")
  expect_error(given(ice = "catgory"), class = "fjordline_error_argument", regexp = "category")
  expect_error(given(icy = "category"), class = "fjordline_error_column", regexp = "\"ice\"")
  expect_error(given(flag = "number"), class = "fjordline_error_column")
  expect_equal(given(code = "ordered")$roles$type[3], "ordered")
})

# --- rows

test_that("rows that are not kept stay in the table, without a group; counts before and after are said", {
  water <- fl_demo("water_samples")
  shallow <- fl_keep(water, depth < 50)
  kept <- which(water$table$depth < 50)
  expect_equal(taking_part(shallow), kept)
  expect_match(fl_facts(shallow), paste0(length(kept), " of 612 rows left: kept depth < 50"), all = FALSE)
  ready <- fl_prepare(shallow)
  alone <- fl_prepare(fl_data(water$table[kept, ], features = ready$features))
  expect_equal(ready$x, alone$x)
  groups <- fl_partition(ready, k = 3)
  expect_length(fl_labels(groups), 612)
  expect_true(all(is.na(fl_labels(groups)[-kept])))
  expect_equal(nrow(augment(groups)), 612)
  limit <- 20
  twice <- fl_keep(fl_keep(water, depth < 50), depth > limit)
  expect_equal(taking_part(twice), which(water$table$depth < 50 & water$table$depth > 20))
  expect_equal(fl_steps(twice)[2:3], c("data <- fl_keep(data, depth < 50)", "data <- fl_keep(data, depth > limit)"))
  expect_match(fl_facts(fl_keep(water, oxygen > 0)), "7 rows without a value", all = FALSE)
})

test_that("conditions that are none, and ones no row fulfils, are refused", {
  water <- fl_demo("water_samples")
  expect_error(fl_keep(water, dept < 50), class = "fjordline_error_column", regexp = "\"depth\"")
  expect_error(fl_keep(water, depth), class = "fjordline_error_argument", regexp = "true or false")
  expect_error(fl_keep(water, depth < -1), class = "fjordline_error_argument", regexp = "No row would be left")
  expect_error(fl_keep(water, depth + "a" > 1), class = "fjordline_error_argument", regexp = "worked out")
})

test_that("rows are set apart by number, id or flag, with a reason", {
  data <- heap_data()
  expect_equal(which(!is.na(fl_set_apart(data, c("r02", "r09"), "leaked")$apart)), c(2, 9))
  expect_equal(fl_set_apart(data, 5, "late")$apart[5], "late")
  expect_match(fl_facts(fl_partition(fl_prepare(fl_set_apart(data, 5:6, "late")), k = 3)), "2 rows were set apart", all = FALSE)
  expect_error(fl_set_apart(data, "r99", "x"), class = "fjordline_error_argument", regexp = "no row \"r99\"")
  expect_error(fl_set_apart(data, 61, "x"), class = "fjordline_error_argument", regexp = "1 to 60")
  expect_error(fl_set_apart(data, 1), class = "fjordline_error_argument", regexp = "reason")
  expect_error(fl_set_apart(fl_data(heaps()), "r01", "x"), class = "fjordline_error_argument", regexp = "no id column")
})

test_that("a row is found by its id ever after, and with its group", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  rows <- fl_rows(groups, id = c("r41", "r02"))
  expect_equal(rows$row, c(2, 41))
  expect_equal(rows$group, fl_labels(groups)[c(2, 41)])
  expect_equal(rows$east, heaps()$east[c(2, 41)])
  g <- fl_labels(groups)[1]
  expect_equal(fl_rows(groups, group = g)$row, which(fl_labels(groups) == g))
  expect_equal(fl_rows(groups, where = east > 5 & group == g)$row, which(heaps()$east > 5 & fl_labels(groups) == g))
  expect_equal(fl_rows(heap_data(), where = kind == "b")$row, 21:40)
  expect_error(fl_rows(groups, id = "r4l"), class = "fjordline_error_argument", regexp = "r4")
  expect_error(fl_rows(groups, group = 4), class = "fjordline_error_argument", regexp = "1 to 3")
  expect_error(fl_rows(heap_data(), group = 1), class = "fjordline_error_argument")
})

# --- shapes

test_that("one row per measurement becomes one row per subject; repeated measures are not lost without a word", {
  long <- data.frame(cast = c("b", "b", "a", "a", "a"), season = c("s", "s", "w", "w", "w"), depth = c(5, 100, 5, 20, 100),
                     salinity = c(30, 34, 28, 31, 33), crew = 1:5)
  wide <- fl_widen(long, "cast", "depth", "salinity")
  expect_equal(wide, data.frame(cast = c("b", "a"), season = c("s", "w"), salinity_5 = c(30, 28), salinity_20 = c(NA, 31),
                                salinity_100 = c(34, 33)))
  again <- rbind(long, transform(long[1, ], salinity = 40))
  expect_error(fl_widen(again, "cast", "depth", "salinity"), class = "fjordline_error_values", regexp = "\"b\".*row 6")
  expect_equal(fl_widen(again, "cast", "depth", "salinity", several = "mean")$salinity_5, c(35, 28))
  expect_equal(fl_widen(again, "cast", "depth", "salinity", several = "sum")$salinity_5, c(70, 28))
  expect_equal(fl_widen(again, "cast", "depth", "salinity", several = "first")$salinity_5, c(30, 28))
  expect_error(fl_widen(long, "cast", "deep", "salinity"), class = "fjordline_error_column", regexp = "depth")
  expect_error(fl_widen(long, "cast", "depth", "season"), class = "fjordline_error_column", regexp = "Row 1")
})

test_that("fl_data() widens in one step, as fl_widen() does, and its call gives the same table again", {
  long <- data.frame(cast = rep(c("b", "a", "c"), each = 2), depth = rep(c(5, 10), 3), salinity = c(30, 34, 28, 31, 33, "x"))
  data <- fl_data(long, widen = c("cast", "depth", "salinity"), blanks = "x")
  expect_equal(data$table, fl_widen(transform(long, salinity = c(30, 34, 28, 31, 33, NA)), "cast", "depth", "salinity"))
  expect_equal(columns_of(data, "id"), "cast")
  expect_equal(eval(parse(text = data$call))$table, data$table)
  twice <- rbind(long, data.frame(cast = "a", depth = 5, salinity = 30))
  expect_error(fl_data(twice, widen = c("cast", "depth", "salinity"), blanks = "x"), class = "fjordline_error_values")
  expect_equal(fl_data(twice, widen = c("cast", "depth", "salinity", "mean"), blanks = "x")$table$salinity_5[2], 29)
  expect_error(fl_data(long, widen = c("cast", "depth")), class = "fjordline_error_argument", regexp = "three columns")
  expect_error(fl_data(long, widen = c("cast", "deep", "salinity")), class = "fjordline_error_column", regexp = "depth")
  expect_error(fl_sample(long, rows = 3, widen = c("cast", "depth", "salinity")), class = "fjordline_error_argument",
               regexp = "whole table")
})

test_that("numbers with signs between the thousands are numbers where one value shows which sign is which", {
  read <- function(values) {
    data <- fl_data(data.frame(v = values, other = seq_along(values)))
    list(values = data$table$v, said = paste(data$said, collapse = " "))
  }
  expect_equal(read(c("1.234,50", "664,37", NA, "12"))$values, c(1234.5, 664.37, NA, 12))
  expect_match(read(c("1.234,50", "664,37"))$said, "numbers such as \"1.234,50\" in v")
  expect_equal(read(c("-1,234.50", "2,000,000", "3"))$values, c(-1234.5, 2e6, 3))
  expect_equal(read(c("1 234,5", "12 000", "7"))$values, c(1234.5, 12000, 7))
  expect_equal(read(c("1'234.5", "12'000"))$values, c(1234.5, 12000))
  # what may be either stays text, and so do codes and words
  for (unclear in list(c("1,234", "5,678"), c("1.234", "1.234.567"), c("1.234,5", "n/a?"), c("01.234,5", "2"),
                       c("123 456", "234 567"))) {
    expect_identical(read(unclear)$values, unclear)
  }
  expect_match(fl_check(fl_data(data.frame(v = c("1,234", "5,678", "9"), w = 1:3)))$finding, "thousands", all = FALSE)
  typed <- function(type) fl_data(data.frame(v = c("1.234,50", "2"), w = 1:2), types = list(v = type))$table$v
  expect_equal(as.character(typed("category")), c("1.234,50", "2"))
  expect_equal(typed("number"), c(1234.5, 2))
})

test_that("the word numbers stands for all number columns, beside others by name", {
  table <- data.frame(a = 1:6, b = c(2.5, 1, 3, 4, 5, 6), kind = rep(c("x", "y"), 3), row = 11:16)
  expect_equal(columns_of(fl_data(table, features = c("numbers", "kind"), id = "row"), "feature"), c("a", "b", "kind"))
  expect_equal(columns_of(fl_data(table, features = c("numbers", "kind"), aside = "b"), "feature"), c("a", "kind", "row"))
  table$numbers <- 6:1
  expect_equal(columns_of(fl_data(table, features = c("numbers", "kind")), "feature"), c("kind", "numbers"))
})

test_that("parts of dates become columns", {
  data <- fl_data(data.frame(day = as.Date(c("2031-01-01", "2031-12-29", NA)), v = 1:3))
  parts <- fl_dates(data, "day", c("year", "month", "week", "weekday", "day_of_year", "hour"))
  expect_equal(unname(lapply(parts$table[1:2, -(1:2)], as.integer)),
               list(c(2031L, 2031L), c(1L, 12L), c(1L, 1L), c(3L, 1L), c(1L, 363L), c(0L, 0L)))
  expect_equal(as.character(parts$table$day_month[1:2]), c("Jan", "Dec"))
  expect_equal(as.character(parts$table$day_weekday[1:2]), c("Wed", "Mon"))
  expect_equal(parts$roles$type[parts$roles$column %in% c("day_month", "day_week")], c("category", "number"))
  expect_type(fl_dates(data, "day", "month", role = "feature")$table$day_month, "integer")
  expect_true(all(is.na(parts$table[3, -(1:2)])))
  expect_equal(columns_of(fl_dates(data, "day", "month", role = "feature"), "feature"), c("v", "day_month"))
  expect_error(fl_dates(data, "v"), class = "fjordline_error_column", regexp = "no dates")
  expect_match(fl_steps(parts), "fl_dates\\(data, \"day\"", all = FALSE)
})

# --- the file

test_that("a file says what the arguments would, and errors name the word", {
  folder <- withr::local_tempdir()
  utils::write.csv(heaps(), file.path(folder, "heaps.csv"), row.names = FALSE)
  file <- file.path(folder, "setup.yml")
  writeLines(c("table:", "  file: heaps.csv", "  truth: kind", "  id: row", "  units: {east: m}", "prepare:", "  scale: median_iqr",
               "  weights: {east: 2}", "  transform: {north: rank}"), file)
  ready <- fl_prepare_file(file)
  wanted <- fl_prepare(fl_data(heaps(), truth = "kind", id = "row", units = c(east = "m")), scale = "median_iqr",
                       weights = c(east = 2), transform = c(north = "rank"))
  expect_equal(ready$x, wanted$x)
  expect_equal(fl_prepare_file(file, table = heaps())$x, wanted$x)
  expect_equal(fl_data_file(file)$units, c(east = "m"))
  refused <- function(..., says) {
    writeLines(c(...), file)
    expect_error(fl_prepare_file(file, table = heaps()), class = "fjordline_error_file", regexp = says)
  }
  refused("prepare: {scal: none}", says = "\"scal\".*Did you mean \"scale\"")
  refused("tabel: {id: row}", says = "Did you mean \"table\"")
  refused("prepare: [1, 2]", says = "names with values")
  refused("prepare: {scale: none", says = "line")
  writeLines("prepare: {scale: none}", file)
  expect_error(fl_prepare_file(file), class = "fjordline_error_file", regexp = "names no table")
  expect_error(fl_prepare_file(file.path(folder, "none.yml")), class = "fjordline_error_file")
})

# --- bad tables

test_that("bad tables are refused with place and advice, or work by a stated rule", {
  wrong <- function(table, says, class = "table") {
    expect_error(fl_prepare(fl_data(table)), class = paste0("fjordline_error_", class), regexp = says)
  }
  wrong(stats::setNames(data.frame(1:2, 3:4), c("a", "")), "Column 2 has none")
  wrong(stats::setNames(data.frame(1:2, 3:4), c("a", NA)), "Column 2 has none")
  wrong(data.frame(a = 1:2, a = 3:4, check.names = FALSE), "\"a\" appears more than once")
  wrong(bytes_file("a,b,a,\n1,2,3,\n4,5,6,\n"), "\"a\" appears more than once")
  wrong(data.frame(a = numeric()), "nothing below")
  wrong(data.frame(a = I(list(1:2, 3))), "lists")
  wrong(data.frame(a = c(1, Inf, 2)), "Row 2: Inf", "values")
  wrong(data.frame(a = c(1, 2, 1e308)), "too large", "values")
  expect_equal(fl_prepare(fl_data(data.frame(a = c(1, NaN, 3), b = 1:3)))$rows, c(1, 3))
  unused <- data.frame(v = 1:4, f = factor(c("x", "y", "x", "y"), c("x", "y", "z")))
  expect_equal(ncol(fl_prepare(fl_data(unused, features = c("v", "f")))$x), 3)
  moments <- data.frame(v = 1:3)
  moments$t <- as.POSIXlt("2031-01-01 10:00:00", tz = "UTC") + 1:3
  expect_equal(fl_data(moments)$roles$type, c("number", "date"))
  expect_no_warning(fl_prepare(fl_data(data.frame(a = rep(2, 5), b = 1:5)), transform = "power"))
  wide <- as.data.frame(random_table(20, 5000, 1))
  expect_equal(dim(fl_prepare(fl_data(wide))$x), c(20, 5000))
  expect_lt(nrow(as.data.frame(fl_check(fl_data(wide)))), 100)
})
