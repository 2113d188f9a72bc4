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

# Members of k components by their levels: `sure` in their own.
member_table <- function(group, sure) {
  k <- max(group)
  out <- matrix((1 - sure) / (k - 1), length(group), k)
  out[cbind(seq_along(group), group)] <- sure
  out
}

test_that("components whose levels tell them apart stay, others are one group", {
  group <- rep(1:3, each = 50)
  none <- matrix(0, 150, 0)
  expect_equal(level_evidence(none, member_table(group, 0.97), group)$groups, 3L)
  mixed <- member_table(group, 0.97)
  mixed[group < 3, 1:2] <- 0.48  # the first two are much alike
  found <- level_evidence(none, mixed, group)
  expect_equal(found[c("components", "groups")], list(components = 3L, groups = 2L))
  expect_equal(found$of, c(1L, 1L, 2L))
  expect_equal(found$apart_by, "levels")
  expect_false(found$numbers)
})

test_that("a dip in the numbers keeps components apart whose levels are alike, and one group in pieces is one", {
  group <- rep(1:2, each = 100)
  alike <- matrix(0.5, 200, 2)
  far <- withr::with_seed(1, cbind(rnorm(200, 8 * group), rnorm(200)))
  expect_equal(level_evidence(far, alike, group)$groups, 2L)
  cut <- withr::with_seed(2, matrix(rnorm(400), 200))
  expect_equal(level_evidence(cut, alike, 1L + (cut[, 1] > 0))$groups, 1L)
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
