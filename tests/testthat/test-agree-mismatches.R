# Where disagreeing rows lie, and what they have in common.

# Two heaps on a line, and columns kept aside: a place that goes with the class, a crew that goes with the mistakes.
mistaken <- function() {
  n <- 60
  side <- rep(c("west", "east"), each = n)
  x <- withr::with_seed(4, c(stats::rnorm(n, -3, 0.6), stats::rnorm(n, 3, 0.6)))
  table <- data.frame(x = x, y = withr::with_seed(5, stats::rnorm(2 * n, sd = 0.3)), id = sprintf("r%03d", seq_len(2 * n)),
                      kind = side, place = ifelse(side == "west", "cove", "reef"),
                      crew = rep(c("one", "two", "three"), length.out = 2 * n), depth = withr::with_seed(6, stats::runif(2 * n)))
  wrong <- c(1, 7, 13, 19, 25, 31, 37)
  table$kind[wrong] <- "east"
  table$place[wrong] <- "reef"
  table$crew[wrong] <- "four"
  list(table = table, wrong = wrong)
}

mistaken_partition <- function(made = mistaken()) {
  data <- fl_data(made$table, truth = "kind", id = "id", aside = c("place", "crew", "depth"))
  fl_partition(fl_prepare(data, scale = "none"), k = 2)
}

test_that("the disagreeing rows, their groups and the expected ones are those planted", {
  groups <- mistaken_partition()
  mismatches <- fl_mismatches(fl_agree(groups))
  rows <- as.data.frame(mismatches)
  expect_setequal(rows$row, mistaken()$wrong)
  expect_equal(rows$id, sprintf("r%03d", rows$row))
  expect_equal(rows$group, groups$group[rows$row])
  expect_equal(rows$expected, 3L - rows$group)
  expect_equal(rows$toward, rows$expected)
  expect_true(all(diff(rows$border) >= 0))
  expect_equal(mismatches$kinds$rows, 7)
  expect_equal(fl_facts(mismatches)[1], "7 rows of 120 (6%) disagree with kind.")
})

test_that("the border is the plane halfway to the nearest other centre, and the share nearer is counted", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  x <- groups$ready$x
  got <- border_distances(groups)
  for (i in c(1, 20, 40)) {
    g <- groups$group[groups$ready$rows[i]]
    to <- vapply(setdiff(1:3, g), function(h) {
      # along the line between the centres: how far until both are equally near
      way <- (groups$centres[h, ] - groups$centres[g, ]) / naive_distance(groups$centres[h, ], groups$centres[g, ])
      uniroot(function(t) naive_distance(x[i, ] + t * way, groups$centres[h, ]) -
                naive_distance(x[i, ] + t * way, groups$centres[g, ]), c(-50, 50), tol = 1e-12)$root
    }, 0)
    expect_equal(got$border[groups$ready$rows[i]], min(to), tolerance = 1e-8)
    expect_equal(got$toward[groups$ready$rows[i]], setdiff(1:3, g)[which.min(to)])
  }
  agreement <- fl_agree(mistaken_partition())
  rows <- fl_mismatches(agreement)$rows
  border <- border_distances(agreement$partition)$border
  agreeing <- setdiff(seq_along(border), agreement$disagree)
  expect_equal(rows$nearer[3], mean(border[agreeing] < rows$border[3]))
  one <- fl_partition(fl_prepare(heap_data()), k = 1)
  expect_true(all(is.na(border_distances(one)$border)))
})

test_that("the planted cause is found, the place that goes with the class is not blamed", {
  mismatches <- fl_mismatches(fl_agree(mistaken_partition()))
  causes <- mismatches$causes
  expect_equal(unlist(causes[1, c("column", "value")], use.names = FALSE), c("crew", "four"))
  expect_equal(causes$rows[1], 7)
  expect_lt(causes$p[1], 0.001)
  expect_false("place" %in% causes$column[causes$p <= 0.05])
  expect_match(fl_facts(mismatches), "Crew is four for 7 of them", all = FALSE)
  # shuffled crews explain nothing
  made <- mistaken()
  made$table$crew <- withr::with_seed(9, sample(made$table$crew))
  expect_match(fl_facts(fl_mismatches(fl_agree(mistaken_partition(made)))), "No column kept aside accounts", all = FALSE)
})

test_that("dates are asked by their parts, two-valued numbers by value, rare values up to a limit", {
  dates <- as.Date("2031-01-01") + 0:59
  asked <- askable_values("day", dates)
  expect_setequal(unique(vapply(asked, `[[`, "", "column")), c("day", "day year", "day month", "day weekday"))
  month <- Filter(function(one) identical(one$column, "day month") && identical(one$value, "02"), asked)[[1]]
  expect_equal(sum(month$score), 28)
  expect_length(askable_values("open", c(0, 1, 1, NA)), 2)
  expect_length(askable_values("name", as.character(1:100)), 30)
})

test_that("what cannot be asked is said", {
  expect_error(fl_mismatches(fl_agree(c(1, 2), c("a", "b"))), "two vectors", class = "fjordline_error_argument")
  all_right <- fl_mismatches(fl_agree(fl_partition(fl_prepare(heap_data()), k = 3)))
  expect_equal(nrow(all_right$rows), 0)
  expect_match(format(all_right)[1], "No row disagrees")
  expect_error(autoplot(all_right), "no row disagrees", class = "fjordline_error_argument")
  made <- mistaken()
  bare <- fl_data(made$table[c("x", "y", "kind")], truth = "kind")
  mismatches <- fl_mismatches(fl_agree(fl_partition(fl_prepare(bare, scale = "none"), k = 2)))
  expect_match(fl_facts(mismatches), "No column is kept aside", all = FALSE)
  expect_error(autoplot(mismatches, "causes"), "no column is kept aside", class = "fjordline_error_argument")
})

test_that("memberships are told where the method has them", {
  data <- fl_data(mistaken()$table, truth = "kind", id = "id", aside = c("place", "crew", "depth"))
  rows <- fl_mismatches(fl_agree(fl_partition(fl_prepare(data, scale = "none"), "fuzzy", k = 2)))$rows
  expect_true(all(rows$membership > 0.5 & rows$membership <= 1))
})

test_that("both views are drawn and name the finding", {
  mismatches <- fl_mismatches(fl_agree(mistaken_partition()))
  expect_equal(autoplot(mismatches)$labels$title, "7 rows of 120 (6%) disagree with kind")
  expect_match(autoplot(mismatches, "causes")$labels$title, "crew is four")
  for (view in c("border", "causes")) expect_s3_class(ggplot2::ggplot_build(autoplot(mismatches, view))$plot, "ggplot")
})

test_that("noise left out counts neither as agreeing nor among the chances", {
  groups <- mistaken_partition()
  groups$group[c(40, 41, 90)] <- 0L
  with_noise <- fl_mismatches(fl_agree(groups))
  without <- fl_mismatches(fl_agree(groups, without_noise = TRUE))
  expect_equal(nrow(with_noise$rows), nrow(without$rows) + 3)
  expect_true(all(is.na(with_noise$rows$border[with_noise$rows$group == 0])))
  # of the 58 rows left in the west group seven disagree, and there chance explains most; those left out change it
  table <- groups$ready$data$table
  left <- setdiff(1:60, c(40, 41))
  four <- without$causes[without$causes$column == "crew" & without$causes$value == "four", ]
  expect_equal(four$expected, 7 * mean(table$crew[left] == "four"))
})

test_that("under cosine rows, centres and borders are those of directions", {
  angle <- withr::with_seed(2, c(stats::rnorm(40, 0.3, 0.05), stats::rnorm(40, 1.2, 0.05)))
  length <- withr::with_seed(3, stats::runif(80, 1, 50))
  data <- fl_data(data.frame(a = cos(angle) * length, b = sin(angle) * length, kind = rep(c("low", "high"), each = 40)),
                  truth = "kind")
  groups <- fl_partition(fl_prepare(data, scale = "none"), fl_method("kmeans", metric = "cosine"), k = 2)
  seen <- seen_points(groups)
  expect_equal(rowSums(seen$x^2), rep(1, 80))
  expect_equal(rowSums(seen$centres^2), rep(1, 2))
  expect_true(all(border_distances(groups)$border > 0))
  tight <- fl_profile(groups, sets = 0, audit = FALSE)$groups
  expect_lt(max(tight$tightness), 0.1)
  expect_equal(tight$isolation, rep(naive_distance(seen$centres[1, ], seen$centres[2, ]), 2))
})

test_that("a column that goes with the groups is no cause of rows called by another class", {
  made <- mistaken()
  side <- rep(c("west", "east"), each = 60)
  made$table$depth <- ifelse(side == "west", 1, 5) + made$table$depth  # within the class the exceptions are shallow
  made$table$place <- side
  causes <- fl_mismatches(fl_agree(mistaken_partition(made)))$causes
  expect_false(any(c("depth", "place") %in% causes$column[causes$p <= 0.05]))
  expect_lt(causes$p[causes$column == "crew" & causes$value == "four"], 0.001)
})

test_that("how many disagreeing rows are borderline is told as it is, none included", {
  rows <- function(near, judged) data.frame(nearer = rep(c(0.01, 0.5), c(near, judged - near)))
  expect_match(near_fact(rows(0, 8)), "^None of them is borderline")
  expect_match(near_fact(rows(1, 8)), "^Few of them \\(1\\) are borderline, .*; the others lie well inside another group")
  expect_match(near_fact(rows(4, 8)), "^Some of them \\(4\\)")
  expect_match(near_fact(rows(7, 8)), "^Most of them \\(7\\) are borderline: closer to a border")
})
