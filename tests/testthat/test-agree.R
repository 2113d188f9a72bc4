cross <- function(a, b) unclass(table(a, b))

test_that("adjusted Rand equals its definition over pairs of rows", {
  for (seed in 1:10) {
    labels <- withr::with_seed(seed, list(sample(3, 40, TRUE), sample(4, 40, TRUE)))
    expect_equal(adjusted_rand(cross(labels[[1]], labels[[2]])), naive_adjusted_rand(labels[[1]], labels[[2]]),
                 tolerance = 1e-12)
  }
})

test_that("a hand-worked adjusted Rand", {
  # groups 3 + 2, classes 2 + 3: together 1 + 1 + 1 = ... table rbind(c(2, 1), c(0, 2))
  # pairs together 1 + 0 + 0 + 1 = 2, in groups 3 + 1 = 4, in classes 1 + 3 = 4, of 10: expected 1.6
  expect_equal(adjusted_rand(rbind(c(2, 1), c(0, 2))), (2 - 1.6) / (4 - 1.6))
})

test_that("edges: identical labelings 1, one group against several 0", {
  expect_equal(adjusted_rand(cross(c(1, 1, 1), c("a", "a", "a"))), 1)
  expect_equal(adjusted_rand(cross(1:4, letters[1:4])), 1)
  expect_equal(adjusted_rand(cross(c(1, 1, 1, 1), c("a", "b", "a", "b"))), 0)
  expect_equal(adjusted_rand(cross(1:4, rep("a", 4))), 0)
})

test_that("the matching is the best of all, by enumeration up to 6 groups", {
  for (seed in 1:25) {
    k <- 2 + seed %% 5
    table <- withr::with_seed(seed, matrix(sample(0:9, k * k, TRUE), k))
    best <- max(vapply(all_orders(k), function(o) sum(table[cbind(seq_len(k), o)]), 0))
    match <- match_one_to_one(table)
    known <- !is.na(match)
    expect_equal(sum(table[cbind(which(known), match[known])]), best)
    expect_equal(anyDuplicated(match[known]), 0)
  }
})

test_that("equal matchings go to the larger overlap in the lower-numbered group; empty pairs are no match", {
  expect_equal(match_one_to_one(rbind(c(3, 5), c(3, 5))), c(2, 1))
  expect_equal(match_one_to_one(rbind(c(4, 4), c(4, 4))), c(1, 2))
  expect_equal(match_one_to_one(rbind(c(5, 0), c(5, 0))), c(1, NA))
  expect_equal(match_one_to_one(rbind(c(1, 9), c(2, 8), c(3, 0))), c(2, NA, 1))
  expect_equal(match_one_to_one(matrix(c(2, 7), 1)), 2)
})

test_that("accuracy, disagreeing rows and left-out rows add up on a worked example", {
  a <- c(1, 1, 1, 2, 2, 2, 3, NA)
  b <- c("x", "x", "y", "y", "y", NA, "x", "x")
  agreement <- fl_agree(a, b)
  expect_equal(agreement$rows, 6)
  expect_equal(agreement$left_out, 2)
  expect_equal(agreement$measures$value[agreement$measures$measure == "accuracy"], 4 / 6)
  expect_equal(agreement$disagree, c(3, 7))
  expect_equal(agreement$matched$class, c("x", "y", NA))
  expect_equal(agreement$measures$value[agreement$measures$measure == "purity"], 5 / 6)
})

test_that("majority matching lets groups share a class", {
  a <- c(1, 1, 2, 2, 3)
  b <- c("x", "x", "x", "x", "y")
  expect_equal(fl_agree(a, b, match = "majority")$matched$class, c("x", "x", "y"))
  expect_equal(fl_agree(a, b, match = "majority")$disagree, integer())
})

test_that("renaming groups and shuffling rows change nothing", {
  a <- rep(1:3, 10)
  b <- withr::with_seed(1, sample(letters[1:3], 30, TRUE))
  order <- withr::with_seed(2, sample(30))
  expect_equal(fl_agree(c("r", "p", "q")[a], b)$measures, fl_agree(a, b)$measures)
  expect_equal(fl_agree(a[order], b[order])$measures, fl_agree(a, b)$measures)
  expect_equal(fl_agree(b, a)$measures$value[1], fl_agree(a, b)$measures$value[1])
})

test_that("partitions compare with the truth, a column, another partition and a vector", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_equal(fl_agree(groups)$measures$value, c(1, 1, 1))
  expect_equal(fl_agree(groups, "kind")$measures, fl_agree(groups)$measures)
  expect_equal(fl_agree(groups, fl_partition(fl_prepare(heap_data()), k = 3, seed = 9))$measures$value[1], 1)
  expect_equal(fl_agree(groups, heaps()$kind)$measures, fl_agree(groups)$measures)
  expect_equal(colnames(fl_agree(groups)$table), fl_agree(groups)$matched$class)
})

test_that("noise counts as one group of its own", {
  expect_equal(rownames(fl_agree(c(0, 0, 1, 1), c("a", "b", "c", "c"))$table), c("0", "1"))
})

test_that("a truth with one class works by the stated rule, and the check says so", {
  table <- transform(heaps(), kind = "a")
  data <- fl_data(table, truth = "kind", id = "row")
  expect_match(as.data.frame(fl_check(data))$finding, "one class only", all = FALSE)
  expect_equal(fl_agree(fl_partition(fl_prepare(data), k = 3))$measures$value[1], 0)
})

test_that("labels that cannot be compared are refused", {
  groups <- fl_partition(fl_prepare(fl_demo("still_water")), k = 2)
  expect_error(fl_agree(groups), class = "fjordline_error_argument", regexp = "no known classes")
  expect_error(fl_agree(groups, "dya"), class = "fjordline_error_column", regexp = "day")
  expect_error(fl_agree(1:3, 1:4), class = "fjordline_error_argument", regexp = "a has 3 rows, b has 4")
  expect_error(fl_agree(c(1, NA), c(NA, 1)), class = "fjordline_error_argument", regexp = "no row")
  expect_error(fl_agree(list(1), 1), class = "fjordline_error_argument")
})
