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


test_that("a file without a header line, and decimal commas, are pointed out", {
  found <- as.data.frame(fl_check(fl_data(bytes_file("1,2\n3,4\n5,6\n8,1\n"))))
  expect_match(found$finding, "is the header line missing", all = FALSE)
  found <- as.data.frame(fl_check(fl_data(bytes_file("a;b\n1,5;2\n2,5;3\n9,0;7\n"))))
  expect_equal(found$column[grepl("decimal commas", found$finding)], "a")
})

