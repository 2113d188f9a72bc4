# How groups split as the count grows.

nested_table <- function() {
  # two far heaps, each of two, one of which is again two: the lineage is known
  at <- rbind(c(0, 0), c(0, 8), c(60, 0), c(60, 12), c(63, 12))
  withr::with_seed(3, {
    x <- at[rep(1:5, c(30, 25, 20, 16, 14)), ] + rnorm(210, sd = 0.4)
  })
  data.frame(east = x[, 1], north = x[, 2])
}

nested_sweep <- function() quick_sweep(fl_prepare(fl_data(nested_table(), name = "nested"), scale = "none"), k = 1:5)

test_that("parents, shares and branches are those of the cross-tables", {
  sweep <- nested_sweep()
  lineage <- fl_lineage(sweep)
  groups <- as.data.frame(lineage)
  for (k in 2:5) {
    before <- fl_labels(fl_take(sweep, k = k - 1))
    now <- fl_labels(fl_take(sweep, k = k))
    for (g in 1:k) {
      from <- table(before[now == g])
      row <- groups[groups$k == k & groups$group == g, ]
      expect_equal(row$parent, as.integer(names(which.max(from))))
      expect_equal(row$from_parent, max(from) / sum(from))
    }
  }
  shared <- groups[groups$k == 2, ]
  expect_true(any(shared$shared == 1) && any(shared$shared < 0.9))
  # the heap of 20 rows is apart from k = 4 on at the latest and stays
  lasting <- lineage$branches[lineage$branches$counts >= 2, ]
  expect_true(any(lasting$rows == 20 & lasting$to == 5))
})

test_that("a branch is broken exactly where the overlap falls below 0.9", {
  groups <- as.data.frame(fl_lineage(nested_sweep()))
  for (i in which(!is.na(groups$shared))) {
    after <- groups[groups$k == groups$k[i] + 1 & groups$group == groups$successor[i], ]
    expect_equal(after$branch == groups$branch[i], groups$shared[i] >= 0.9)
  }
})

test_that("names go down with letters and up with sums", {
  sweep <- nested_sweep()
  two <- fl_name(fl_take(sweep, k = 2), c("west", "east"))
  groups <- as.data.frame(fl_lineage(sweep, names = two))
  expect_equal(groups$name[groups$k == 2], c("west", "east"))
  expect_equal(groups$name[groups$k == 1], "west + east")
  at3 <- groups[groups$k == 3, ]
  split <- at3$parent[duplicated(at3$parent)]
  expect_setequal(at3$name, c(paste(c("west", "east")[split], c("a", "b")), c("west", "east")[-split]))
  expect_equal(at3$name[at3$parent == split], paste(c("west", "east")[split], c("a", "b")))
  deepest <- groups$name[groups$k == 5]
  expect_equal(anyDuplicated(deepest), 0)
  expect_true(all(grepl("^(west|east)( [ab]+)?$", deepest)))
  expect_match(fl_facts(fl_lineage(sweep, names = two)), "1 to 2: splits \"west \\+ east\" into \"west\" \\(55\\) and \"east\" \\(50\\)",
               all = FALSE)
})

test_that("what cannot be followed is refused", {
  sweep <- nested_sweep()
  expect_error(fl_lineage(sweep, k = 3), class = "fjordline_error_argument", regexp = "two counts")
  expect_error(fl_lineage(sweep, k = c(2, 9)), class = "fjordline_error_argument", regexp = "k = 9")
  expect_error(fl_lineage(sweep, names = fl_take(sweep, k = 2)), class = "fjordline_error_argument", regexp = "without names")
  finding <- quick_sweep(fl_prepare(heap_data()), list("kmeans", "splitting"), k = 2:4)
  expect_error(fl_lineage(finding, method = "splitting"), class = "fjordline_error_argument", regexp = "finds the count itself")
  stranger <- fl_name(fl_partition(fl_prepare(heap_data()), k = 3), c("a", "b", "c"))
  expect_error(fl_lineage(sweep, names = stranger), class = "fjordline_error_argument", regexp = "one of the fits")
})

test_that("a vote leads to its own method's lineage, which can be drawn and printed", {
  vote <- fl_vote(nested_sweep())
  lineage <- fl_lineage(vote, k = 2:4)
  expect_equal(unique(lineage$groups$k), 2:4)
  expect_output(print(lineage), "2 to 3: splits")
  # one bar per group, as high as it has rows
  bars <- ggplot2::ggplot_build(autoplot(lineage))$data[[2]]
  expect_equal(nrow(bars), sum(2:4))
  expect_equal(sort(bars$ymax - bars$ymin), sort(lineage$groups$rows))
  expect_error(autoplot(lineage, k = 7), class = "fjordline_error_argument")
})
