# What three lines of evidence make of a count: the rule, case by case, and the rule on tables that no model here draws.

found <- function(indices, components, groups, clear = FALSE, fits = TRUE, valleys = TRUE, few = FALSE,
                  apart_by = "dips", ...) {
  list(indices = indices, components = components, groups = groups, clear = clear, fits = fits, valleys = valleys,
       few = few, apart_by = apart_by, ...)
}

test_that("the rule, case by case", {
  said <- function(...) unlist(decided_count_by(found(...)))
  expect_equal(said(4, 7, 4), c(k = "4", by = "agreed"))
  expect_equal(said(4, 4, 4), c(k = "4", by = "agreed"))
  # clear indices stand against components that merely describe a form
  expect_equal(said(4, 9, 6, clear = TRUE), c(k = "4", by = "indices"))
  expect_equal(said(4, 6, 6, clear = TRUE, fits = FALSE), c(k = "4", by = "indices"))
  # but not against components that look as they say and have dips between them
  expect_equal(said(4, 6, 6, clear = TRUE), c(k = "6", by = "components"))
  expect_equal(said(2, 5, 5), c(k = "5", by = "components"))
  # overlapping components with valleys of density, too few rows for a dip
  expect_equal(said(5, 7, 6), c(k = "7", by = "valleys"))
  expect_equal(said(5, 7, 6, valleys = FALSE), c(k = "6", by = "dips"))
  expect_equal(said(5, 7, 6, fits = FALSE), c(k = "6", by = "dips"))
  expect_equal(said(NA, 7, 6), c(k = "6", by = "dips"))
  # few rows: the indices have heard BIC already
  expect_equal(said(3, 5, 1, few = TRUE), c(k = "3", by = "indices"))
  expect_equal(unlist(decided_count_by(list(indices = 3L))), c(k = "3", by = "indices"))
  expect_equal(unlist(decided_by_mixture(found(NA, 4, 4), few = FALSE)), c(k = "4", by = "components"))
  expect_equal(unlist(decided_by_mixture(found(NA, 6, 4, fits = FALSE), few = FALSE)), c(k = "4", by = "dips"))
})

groups_of <- function(draw, k = 3, n = 120, seed = 1) {
  at <- rbind(c(0, 0), c(9, 0), c(0, 9), c(9, 9))[seq_len(k), ]
  withr::with_seed(seed, at[rep(seq_len(k), each = n), ] + matrix(draw(2 * k * n), ncol = 2))
}

swept <- function(x) fl_sweep(ready_from(x), k = 1:8, indices = "fast")

test_that("exponential groups are counted as groups, whatever number of components describes them", {
  vote <- fl_vote(swept(groups_of(function(n) stats::rexp(n))))
  expect_equal(vote$k, 3L)
  expect_gt(vote$evidence$k[vote$evidence$evidence == "components"], 3L)
  expect_equal(vote$evidence$k[vote$evidence$evidence == "dips"], 3L)
  expect_false(vote$found$fits)
  expect_match(fl_facts(vote), "components make 3 groups: between the others the rows do not dip", all = FALSE)
  expect_match(fl_facts(vote), "do not look as the mixture assumes \\(.*skewed", all = FALSE)
  expect_lte(length(format(vote)), 22L)
})

test_that("rows far from everything are told as noise, not as groups", {
  x <- groups_of(function(n) stats::rnorm(n))
  far <- withr::with_seed(2, matrix(stats::rnorm(16), 8))
  x[seq(5, 355, 50), ] <- far / sqrt(rowSums(far^2)) * 60
  ready <- ready_from(x)
  expect_setequal(rows_far_off(ready), seq(5, 355, 50))
  expect_length(rows_far_off(ready_from(groups_of(function(n) stats::rnorm(n)))), 0)
  expect_length(rows_far_off(ready_from(random_table(60, 2, 1))), 0)  # ten rows of few can be a group
  # what to do about them is said most of all where they leave no count
  for (verdict in c("clear", "no clear count")) {
    said <- vote_next(list(verdict = verdict, far = 1:3))
    expect_match(paste(said, collapse = " "), "fl_set_apart[(]data, +vote[$]far", info = verdict)
    expect_equal(any(grepl("fl_take", said)), verdict == "clear")
  }
  expect_no_match(vote_next(list(verdict = "clear", far = integer())), "fl_set_apart")
})

test_that("both levels of groups within groups are named", {
  at <- rbind(c(0, 0), c(0, 8), c(70, 0), c(70, 8), c(35, 70), c(43, 70))
  x <- withr::with_seed(1, at[rep(1:6, each = 40), ] + matrix(stats::rnorm(480), ncol = 2))
  vote <- fl_vote(swept(x))
  expect_true(vote$k %in% c(3L, 6L))
  expect_equal(vote$levels, c(3L, 6L))
  expect_match(fl_facts(vote), "^Groups within groups: the 6 lie in 3 clumps", all = FALSE)
})

test_that("the vote does not depend on the order of rows or columns, on units or origin", {
  x <- groups_of(function(n) stats::rgamma(n, 2), n = 60)
  vote <- fl_vote(swept(x))
  order <- withr::with_seed(3, sample(nrow(x)))
  for (other in list(x[order, ], x[, 2:1], x * 1000 - 5)) {
    again <- fl_vote(swept(other))
    expect_equal(again$k, vote$k)
    expect_equal(again$evidence$k, vote$evidence$k)
  }
})

test_that("where columns outnumber the rows there is a count, along axes, and it is said", {
  x <- withr::with_seed(6, matrix(stats::rnorm(60 * 90), 60) + outer(rep(c(-1, 1), each = 30), rep(1, 90)))
  sweep <- fl_sweep(ready_from(x), k = 1:5, indices = "fast")
  vote <- fl_vote(sweep)
  expect_equal(vote$k, 2L)
  mixture <- fl_take(sweep, "mixture", 2)
  expect_match(mixture$notes, "^Fitted along [0-9]+ principal axes of the 90 columns", all = FALSE)
  expect_equal(as.integer(predict(mixture, as.data.frame(mixture$ready$data))), fl_labels(mixture))
})

test_that("a number of groups that the sweep has no fit with is not offered", {
  sweep <- fl_sweep(ready_from(groups_of(function(n) stats::rexp(n))), k = c(2, 4, 6, 8), indices = "fast")
  vote <- fl_vote(sweep)
  expect_equal(c(vote$by, vote$k), c("dips", 3))
  expect_equal(vote$verdict, "no clear count")
  expect_match(fl_facts(vote), "No count is clear, since the sweep has no fit with 3 groups", all = FALSE)
  expect_error(fl_take(vote), class = "fjordline_error_undecided")
})

test_that("only models that group the rows otherwise are told", {
  fit <- list(group = rep(1:2, 20), rivals = list(rep(2:1, 20), rep(1:2, each = 20)))
  told <- rivals_of(fit)
  expect_equal(told$models, 1L)
  expect_lt(told$least, other_groups)
  expect_null(rivals_of(list(group = rep(1:2, 20), rivals = list(rep(1:2, 20)))))
  vote <- list(verdict = "weak", found = list(components = 4L, rivals = told))
  expect_match(rivals_fact(vote), "one other has a BIC within 10 of the smallest but groups the rows otherwise")
})

test_that("a rate of few kinds does not claim to know skewed, flat and bent groups", {
  rate <- list(right = 9L, tables = 10L, kinds = 3L, worst = "recipe", worst_tables = 10L, worst_right = 9L)
  expect_no_match(rate_said(rate), "skewed")
  rate$kinds <- 30L
  expect_match(rate_said(rate), "30 kinds, skewed, flat and bent groups included")
})

test_that("it is told where most models do not count, and only there", {
  tried <- data.frame(reason = c(rep("a component collapsed", 3), "a component vanished", "", ""))
  vote <- list(verdict = "weak", found = list(components = 4L, left_out = left_out_models(tried)))
  expect_equal(left_out_fact(vote), paste("4 of 6 mixture models with 4 components do not count, since a component",
                                          "collapsed or vanished."))
  vote$found$left_out <- left_out_models(tried[3:6, , drop = FALSE])
  expect_null(left_out_fact(vote))
})

test_that("clear indices give way to more groups only where the rows dip far beyond what is needed", {
  said <- function(...) decided_count_by(found(3, 7, 5, clear = TRUE, fits = FALSE, ...))$k
  expect_equal(said(beyond = 1.2), 3)
  expect_equal(said(beyond = 1.9), 5)
  # fewer groups than the indices count are no better for deep dips
  expect_equal(decided_count_by(found(6, 7, 5, clear = TRUE, fits = FALSE, beyond = 3))$k, 6)
})

test_that("merged counts with shallow dips are a situation of their own", {
  vote <- function(beyond) {
    list(by = "dips", found = list(components = 7L, groups = 5L, beyond = beyond, apart_by = "dips"),
         evidence = evidence_table(3L, FALSE, NULL), shape = list(rows = 300))
  }
  expect_equal(situation_of(vote(1.2)), "dips, shallow")
  expect_equal(situation_of(vote(2.5)), "dips")
  expect_equal(situation_of(vote(NA)), "dips, shallow")
  # where k-means groups the rows otherwise, far rows are a reason, or there is none to be seen
  expect_equal(situation_of(c(vote(2.5), list(alike = 0.3, far = integer()))), "dips, other groups")
  expect_equal(situation_of(c(vote(2.5), list(alike = 0.3, far = 1:4))), "dips, far rows")
  expect_equal(situation_of(c(vote(2.5), list(alike = 0.95, far = 1:4))), "dips")
  expect_equal(situation_of(utils::modifyList(vote(2), list(by = "levels", with_levels = TRUE))), "levels")
})
