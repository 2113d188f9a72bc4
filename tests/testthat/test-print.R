# How screens are laid out.

test_that("tables line up: text to the left, numbers to the right, missing as a dash", {
  lines <- table_lines(list(group = c("a", "long name"), rows = c(5, 1234), mass = c(NA, "x")), right = "rows")
  expect_equal(lines, c("  group      rows  mass", "  a             5  -", "  long name  1234  x"))
  expect_equal(table_lines(list("a", "b"), header = FALSE, indent = 0L), "a  b")
})

test_that("long text hangs below its label and stays within the width", {
  withr::local_options(cli.width = 60)
  lines <- hanging_lines(c("warn", "note"), c(strrep("word ", 20), "short"))
  expect_true(all(nchar(lines) <= 60))
  expect_match(lines[1], "^  warn  word")
  expect_match(lines[2], "^        word")
  expect_equal(lines[length(lines)], "  note  short")
})

test_that("no screen is wider than the terminal", {
  withr::local_options(cli.width = 70)
  sweep <- quick_sweep(water_ready(), fl_method("kmeans", restarts = 2), k = 1:6)
  vote <- fl_vote(sweep)
  groups <- fl_take(sweep, k = 5)
  screens <- list(fl_demo("water_samples"), fl_check(fl_demo("icequakes")), water_ready(), vote, groups, fl_agree(groups), fl_score(groups))
  for (x in screens) {
    body <- format(x)[-1]
    expect_lte(max(nchar(body[!grepl("^Next: ", body)])), 78)
  }
})

test_that("many classes and many columns are cut, and the rest is counted", {
  table <- transform(heaps(), kind = paste0("kind ", 1:20))
  agreement <- fl_agree(fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row")), k = 3))
  expect_match(format(agreement), "and [0-9]+ more classes: agreement\\$table", all = FALSE)
  wide <- fl_partition(ready_from(random_table(20, 30, 2)), k = 2)
  expect_match(format(wide), "and [0-9]+ more columns: groups\\$groups", all = FALSE)
})

test_that("format gives plain lines, print returns its object", {
  for (x in list(heap_data(), fl_prepare(heap_data()), fl_method("kmeans"), index_bic())) {
    expect_type(format(x), "character")
    expect_false(any(grepl("\033", format(x), fixed = TRUE)))
    expect_output(returned <- print(x), substr(format(x)[1], 1, 5))
    expect_identical(returned, x)
  }
})

test_that("an index prints what it picks and whether it votes", {
  expect_match(format(index_bic()), "none: shown only", all = FALSE)
  expect_match(format(index_silhouette()), "largest mean width", all = FALSE)
})

test_that("the screens of the data part read as they should", {
  withr::local_options(cli.width = 90, width = 90, cli.unicode = FALSE)
  visits <- fl_demo("vessel_visits")
  expect_snapshot(print(visits))
  expect_snapshot(print(fl_check(visits)))
  expect_snapshot(print(fl_sift(visits)))
  expect_snapshot(print(fl_outliers(fl_prepare(fl_demo("icequakes"), transform = "log"), "density_ratio")))
})
