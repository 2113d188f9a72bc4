# Which components with categories are groups.

test_that("overlap is the larger share of memberships that lies in rows of the other, worked by hand", {
  membership <- rbind(c(0.9, 0.1, 0), c(0.6, 0.4, 0), c(0.2, 0.8, 0), c(0.1, 0.9, 0), c(0, 0, 1))
  # rows 1 and 2 go to the first, 3 and 4 to the second: of 1.8 of the first .3 lies there, of 2.2 of the second .5 here
  expect_equal(overlap_between(membership, 1:3, 1, 2), max(0.3 / 1.8, 0.5 / 2.2))
  expect_equal(overlap_between(membership, 1:3, 2, 1), overlap_between(membership, 1:3, 1, 2))
  expect_equal(overlap_between(membership, 1:3, 1, 3), 0)
  # the first two as one part share nothing with the third
  expect_equal(overlap_between(membership, c(1, 1, 3), 1, 3), 0)
})

# Levels of `items` alike categories of two levels; the rows of a group have the first with its chance.
drawn_levels <- function(group, chance, items = 6, seed = 1) {
  codes <- withr::with_seed(seed, matrix(as.integer(runif(length(group) * items) > chance[group]), length(group)))
  each <- cbind(chance, 1 - chance)
  list(codes = codes, many = rep(2L, items), share = tabulate(group) / length(group),
       chance = do.call(cbind, rep(list(each), items)))
}

test_that("of categories alone, components stay apart that are hardly taken for each other", {
  group <- rep(1:3, each = 80)
  none <- matrix(0, 240, 0)
  expect_equal(level_evidence(none, drawn_levels(group, c(0.02, 0.5, 0.98), 14), group)$groups, 3L)
  # the first two are much alike
  found <- level_evidence(none, drawn_levels(group, c(0.55, 0.45, 0.99), 12), group)
  expect_equal(found[c("components", "groups")], list(components = 3L, groups = 2L))
  expect_equal(found$of, c(1L, 1L, 2L))
  expect_equal(found$apart_by, "levels")
})

test_that("memberships by levels alone are shares times chances", {
  levels <- list(codes = rbind(c(0L, 1L), c(1L, -1L)), many = c(2, 2), share = c(0.25, 0.75),
                 chance = rbind(c(0.5, 0.5, 0.1, 0.9), c(0.2, 0.8, 0.6, 0.4)))
  by_hand <- rbind(c(0.25 * 0.5 * 0.9, 0.75 * 0.2 * 0.4), c(0.25 * 0.5, 0.75 * 0.8))
  expect_equal(level_memberships(levels), by_hand / rowSums(by_hand))
})

test_that("odds of levels are those of the parts, merged by their shares", {
  levels <- list(codes = rbind(0L, 1L, -1L), many = 2L, share = c(0.2, 0.3, 0.5),
                 chance = rbind(c(0.9, 0.1), c(0.4, 0.6), c(0.1, 0.9)))
  # parts 1 and 2 together: (.2 * .9 + .3 * .4) / .5 = .6 of the first level; one row more, half on each level
  first <- (c(0.6, 0.4) * 10 + 0.5) / 11
  second <- (c(0.1, 0.9) * 20 + 0.5) / 21
  expect_equal(level_odds(levels, c(1, 1, 3), 1, 3, c(10, 0, 20)), c(log(first / second), 0))
})

test_that("beside numbers rows dip in the numbers, in the levels, or in both together", {
  group <- rep(1:2, each = 150)
  alike <- drawn_levels(group, c(0.5, 0.5))
  told <- drawn_levels(group, c(0.03, 0.97), 8)
  one <- withr::with_seed(2, matrix(rnorm(600), 300))
  far <- one + 8 * (group == 2)
  expect_equal(level_evidence(far, alike, group)$groups, 2L)
  expect_equal(level_evidence(one, told, group)$groups, 2L)
  expect_equal(level_evidence(one, told, group)$apart_by, "dips")
  # one group cut in two, its levels as they come
  cut <- 1L + (one[, 1] > 0)
  expect_equal(level_evidence(one, alike, cut)$groups, 1L)
})

test_that("rows that share a value are spread over their step, and not across a gap", {
  x <- cbind(rep(c(1, 2, 3, 20, 21), each = 100))
  spread <- spread_ties(x)[, 1]
  for (value in c(1, 2, 3, 20, 21)) {
    own <- spread[x == value]
    reach <- range(own - value)
    expect_gt(diff(range(own)), 0.9)  # a step is filled
    expect_true(all(abs(reach) <= 1))
    expect_equal(mean(own), value, tolerance = 0.5)
  }
  expect_gt(min(spread[x == 20]) - max(spread[x == 3]), 15)
  expect_identical(spread_ties(cbind(seq(0, 1, 0.01))), cbind(seq(0, 1, 0.01)))
  # a heap rounded to seven values does not dip between its steps
  rounded <- withr::with_seed(5, matrix(round(rnorm(600)), 300))
  expect_equal(component_evidence(rounded, 1L + (rounded[, 1] > 0))$groups, 1L)
})

test_that("columns of few values are told by their values, in part of the rows as well", {
  x <- cbind(a = rep(c(0, 1), 30), b = rep(c(1, 2, 3), 20), c = seq_len(60) / 7, d = rep(5, 60))
  valued <- few_valued(x)
  expect_equal(unique(valued$column), c(1, 2, 4))
  expect_equal(valued$value[valued$column == 2], c(1, 2, 3))
  expect_equal(value_codes(x[1:4, ], valued), cbind(c(0, 1, 0, 1), c(0, 1, 2, 0), 0))
  expect_equal(value_codes(rbind(c(0.5, 2, 0, 6)), valued), rbind(c(-1, 1, -1)))
  # five rows a value, or the column is one of numbers
  expect_equal(nrow(few_valued(x[1:9, 1, drop = FALSE])), 0L)
  expect_equal(few_valued(x, 3)$column, integer())
})

test_that("chances add up over categories, and an unknown level adds nothing", {
  chance <- rbind(c(0.5, 0.5, 0.1, 0.9), c(0.2, 0.8, 0.6, 0.4))
  codes <- rbind(c(0L, 1L), c(1L, -1L), c(-1L, -1L))
  expect_equal(log_chances(codes, chance, c(2, 2)),
               rbind(log(c(0.5 * 0.9, 0.2 * 0.4)), log(c(0.5, 0.8)), c(0, 0)))
  expect_equal(log_chances(codes, chance[1, , drop = FALSE], c(2, 2)), cbind(c(log(0.45), log(0.5), 0)))
})
