# The smallest and the poorest tables through everything that is made of a partition: each call works by its rule, or stops
# with an error of ours; nothing crashes and nothing is silently NaN.

everything_made_of <- function(groups, column = NULL) {
  named <- fl_name(groups)
  made <- list(facts = fl_facts(named), contrast = fl_facts(fl_contrast(groups, named)),
               profile = fl_facts(fl_profile(named, sets = 9)), typical = fl_rows(named, kind = "typical"),
               boundary = fl_rows(named, kind = "boundary"), place = fl_facts(fl_place(named, groups$ready$data)),
               adopted = fl_facts(fl_adopt(fl_place(named, groups$ready$data))),
               again = fl_facts(fl_adopt(groups$ready, fl_labels(groups))),
               outcome = if (!is.null(column)) fl_facts(fl_outcome(named, column)),
               paths = if (groups$k > 1) fl_facts(fl_paths(named)))
  said <- unlist(made[vapply(made, is.character, NA)])
  expect_false(any(grepl("NaN|Inf\\b|NA %|numeric\\(0\\)|character\\(0\\)", said)), info = paste(said, collapse = " "))
  for (view in c("plane", "boxes")) expect_s3_class(ggplot2::ggplot_build(autoplot(named, view))$plot, "ggplot")
  expect_s3_class(ggplot2::ggplot_build(autoplot(fl_contrast(groups, named)))$plot, "ggplot")
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(named, file)
  expect_identical(predict(fl_load(file), groups$ready$data), fl_labels(groups))
  out <- withr::local_tempfile(fileext = ".csv")
  fl_export(named, out)
  expect_equal(nrow(read_table(out)$table), length(fl_labels(groups)))
  invisible(made)
}

test_that("two rows, one group or two", {
  data <- fl_data(data.frame(id = c("a", "b"), x = c(1, 5), y = c(2, 9), z = c("u", "v")), id = "id", aside = "z")
  ready <- fl_prepare(data)
  everything_made_of(fl_partition(ready, k = 1), "z")
  everything_made_of(fl_partition(ready, k = 2), "z")
  # a group of one row has no reach of its own: only the row itself belongs to it
  expect_equal(fl_place(fl_partition(ready, k = 2), data.frame(x = c(1, 3), y = c(2, 5)))$rows$group, c(1, 0))
})

test_that("missing values, in features and aside", {
  table <- heaps()
  table$east[c(2, 30)] <- NA
  table$catch <- c(NA, seq_len(nrow(table) - 1))
  groups <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row", aside = "catch")), k = 3)
  made <- everything_made_of(groups, "catch")
  expect_match(made$place, "2 rows could not be placed", all = FALSE)
  expect_false(any(c(2, 30) %in% c(made$typical$row, made$boundary$row)))
})

test_that("a constant column beside others is left out and said, and asks no question", {
  table <- transform(heaps(), flat = 7)
  groups <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row")), k = 3)
  everything_made_of(groups)
  expect_no_match(fl_paths(groups)$rules$condition, "flat", all = FALSE)
  # next month it moves: that is drift, and the rows stay where they were
  moved <- fl_place(groups, transform(table, flat = seq_len(nrow(table))), strict = FALSE)
  expect_true(moved$drift$drifted[moved$drift$column == "flat"])
  expect_equal(moved$rows$group, fl_labels(groups))
})

test_that("duplicated rows, and more groups than distinct rows", {
  table <- data.frame(x = rep(c(0, 5, 9), each = 4), y = rep(c(1, 1, 8), each = 4))
  ready <- fl_prepare(fl_data(table))
  groups <- fl_partition(ready, k = 3)
  everything_made_of(groups)
  expect_error(fl_partition(ready, k = 4), class = "fjordline_error_count")
  lineage <- fl_lineage(quick_sweep(ready, k = 1:5))
  expect_equal(lineage$missed, c(4, 5))
  expect_match(fl_facts(lineage), "Not followed, because the fit had failed: k = 4 and 5", all = FALSE)
})

test_that("names of columns that look like our own, like formulas or like markup", {
  table <- heaps()
  names(table)[names(table) %in% c("east", "north")] <- c("group", "=cmd|' /C'!A0")
  table$group_name <- "x"
  table$distance <- 1
  data <- fl_data(table, truth = "kind", id = "row", aside = c("group_name", "distance"))
  groups <- fl_name(fl_partition(fl_prepare(data), k = 3), c("<b>", "a,b", "\"q\""))
  expect_warning(fl_export(groups, out <- withr::local_tempfile(fileext = ".csv")), class = "fjordline_warning_formula")
  back <- read.csv(out, check.names = FALSE)
  expect_equal(back$group, table$group)
  expect_equal(back$fjordline_group, fl_labels(groups))
  expect_equal(back$fjordline_group_name, groups$names[fl_labels(groups)])
  rows <- fl_rows(groups, group = "a,b")
  expect_true(all(rows$group == 2 & rows$group_name == "a,b"))
  expect_equal(rows$group_1, table$group[rows$row])
  expect_match(fl_paths(groups)$rules$condition, "group|cmd", all = TRUE)
  for (g in 1:3) expect_equal(groups$groups$group_1[g], mean(table$group[fl_labels(groups) == g]))
  centres <- read.csv(suppressWarnings(fl_export(groups, out, what = "centres")), check.names = FALSE)
  expect_equal(centres$group_1, groups$groups$group_1)
  # as starts the centres go by the names of the table
  again <- fl_partition(groups$ready, fl_method("kmeans", starts = groups), k = 3)
  expect_identical(fl_labels(again), fl_labels(groups))
})

test_that("no rows to place, and rows that are all beyond", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  empty <- fl_place(groups, heaps()[0, ])
  expect_equal(nrow(empty$rows), 0)
  expect_match(fl_facts(empty)[1], "^0 of 0 rows")
  expect_error(fl_adopt(empty), class = "fjordline_error_values")
  beyond <- fl_place(groups, transform(heaps(), east = east + 1e6), strict = FALSE)
  expect_true(all(beyond$rows$group == 0))
  expect_true(all(beyond$rows$outside == "east"))
  expect_error(fl_profile(beyond), class = "fjordline_error")
})
