# What a verdict may say, and how its margin reads.

test_that("every rate in the record is one of counts, and no word is stronger than its rate", {
  rates <- vote_rates()
  expect_gt(nrow(rates), 10)
  expect_true(all(rates$right <= rates$tables & rates$worst_right <= rates$worst_tables & rates$worst_tables <= rates$tables))
  expect_true(all(rates$word %in% c("clear", "weak", "no clear count")))
  expect_equal(anyDuplicated(rates[c("set", "methods", "situation")]), 0L)
  share <- rates$right / rates$tables
  expect_true(all(share[rates$word == "clear"] >= 0.93))
  expect_true(all(share[rates$word == "weak"] >= 0.6))
  # k-means by itself cannot tell round groups from others
  expect_false(any(rates$word[rates$methods == "kmeans"] == "clear"))
})

test_that("what is said of a vote is the row of the record it belongs to", {
  rates <- vote_rates()
  row <- rates[rates$set == "fast" & rates$methods == "both" & rates$situation == "all, clear", ]
  vote <- list(measured = "fast", measured_as = "both", voters = c("kmeans", "mixture"), shape = list(rows = 300), by = "agreed",
               found = list(components = 3L, groups = 3L, apart_by = "dips"), evidence = evidence_table(3L, TRUE, NULL),
               verdict = "clear", k = 3L)
  vote$situation <- situation_of(vote)
  expect_equal(vote$situation, "all, clear")
  expect_equal(measured_rate(vote)$right, row$right)
  vote$rate <- measured_rate(vote)
  expect_match(track_fact(vote), paste0(" in ", row$right, " of ", row$tables, " simulated tables"))
  less <- utils::modifyList(row, list(right = 90L, tables = 100L, worst = "shells", worst_right = 4L, worst_tables = 6L))
  expect_match(rate_said(less), "in the worst kind (shells) in 4 of 6.", fixed = TRUE)
  # few rows are a situation of their own; weights of the reader's, and what was not measured, have no rate
  expect_equal(situation_of(utils::modifyList(vote, list(shape = list(rows = 60)))), "few rows, all, clear")
  expect_null(measured_rate(utils::modifyList(vote, list(by = "weights"))))
  expect_null(measured_rate(utils::modifyList(vote, list(measured = NA_character_))))
})

test_that("a margin that rounding lifts over a limit is not shown as reaching it", {
  expect_equal(margin_said(c(0.0978, 0.0949, 0.1, 0.1978, 0.204, NA)),
               c("just below 0.10", "0.09", "0.10", "just below 0.20", "0.20", "-"))
  expect_equal(verdict_of(0.0978, 2, 3), "no clear count")
})

test_that("what rounding takes off a sum of shares does not take a verdict away", {
  expect_equal(verdict_of(0.1 - 1e-15, 2, 3), "weak")
  expect_equal(verdict_of(0.2 - 1e-15, 2, 3), "clear")
  expect_equal(verdict_of(0.1 - 1e-6, 2, 3), "no clear count")
})

test_that("a family's first is its count of most points, the smaller of equals", {
  shares <- tibble::tibble(family = c("a", "a", "a", "b", "b"), k = c(2L, 3L, 4L, 5L, 3L), points = c(1, 2, 2, 3, 3))
  expect_equal(family_firsts(shares), c(a = 3L, b = 3L))
})

test_that("rates are quoted for votes like the measured ones only", {
  counting <- function(...) utils::modifyList(list(weights = NULL, rule = "ranked", depth = 3), list(...))
  sweep <- function(method = fl_method("kmeans"), k = 1:10, indices = as_indices("standard")) {
    list(methods = list(m = method), k = k, indices = indices, ready = list(table))
  }
  table <- ready_from(random_table(60, 3, 1))
  expect_equal(measured_set(sweep(), "m", counting()), "standard")
  expect_equal(measured_set(sweep(indices = as_indices("fast")), "m", counting()), "fast")
  expect_equal(measured_set(sweep(k = 2:12), "m", counting()), "standard")
  others <- list(
    sweep(fl_method("medoids")), sweep(fl_method("kmeans", metric = "cosine")), sweep(k = 2:6), sweep(k = c(1:8, 10)),
    sweep(fl_method("kmeans", restarts = 1, max_rounds = 1)), sweep(fl_method("kmeans", restarts = 1)),
    sweep(fl_method("mixture", tails = "normal")), sweep(k = 3:10), sweep(k = 1:40), sweep(indices = as_indices("all")),
    sweep(indices = as_indices("silhouette"))
  )
  for (other in others) expect_true(is.na(measured_set(other, "m", counting())))
  expect_true(is.na(measured_set(sweep(), "m", counting(weights = c(curve = 2)))))
  expect_true(is.na(measured_set(sweep(), "m", counting(rule = "plurality"))))
  expect_true(is.na(measured_set(sweep(), "m", counting(depth = 2))))
  expect_equal(measured_set(sweep(fl_method("kmeans", restarts = 100)), "m", counting()), "standard")
  # tables outside the measured range: few rows, one column, many columns, components of categories
  with_table <- function(ready) {
    out <- sweep()
    out$ready <- list(ready)
    out
  }
  mixed <- fl_prepare(fl_data(data.frame(a = rnorm(60), b = rnorm(60), c = rep(c("x", "y", "z"), 20)),
                              features = c("a", "b", "c"), name = "mixed"), reduce = 2)
  outside <- list(ready_from(random_table(49, 3, 1)), ready_from(random_table(60, 1, 1)),
                  ready_from(random_table(60, 101, 1)), mixed)
  for (ready in outside) expect_true(is.na(measured_set(with_table(ready), "m", counting())))
})

test_that("an index of the reader's own changes no built-in set and no stated rate", {
  before <- lapply(c("fast", "standard", "all"), function(set) names(as_indices(set)))
  fl_new_index("mine_one", value = function(x, groups) 1, direction = "higher", tier = "fast")
  withr::defer(rm("mine_one", envir = own_indices))
  expect_equal(lapply(c("fast", "standard", "all"), function(set) names(as_indices(set))), before)
  expect_true("mine_one" %in% names(as_indices(c("fast", "mine_one"))))
  sweep <- list(methods = list(m = fl_method("kmeans")), k = 1:10, indices = as_indices(c("fast", "mine_one")),
                ready = list(ready_from(random_table(60, 3, 1))))
  expect_true(is.na(measured_set(sweep, "m", list(weights = NULL, rule = "ranked", depth = 3))))
})

test_that("a vote lowered below its record prints no rate of that record, and says what lowered it", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:8))
  vote$rate <- c(as.list(vote_rates()[vote_rates()$word == "clear", ][1L, ]), kinds = 3L)[names(vote_rates())]
  vote$verdict <- "clear"
  expect_match(track_fact(vote), "^Votes like this one")
  vote$verdict <- "no clear count"
  expect_null(track_fact(vote))
})
