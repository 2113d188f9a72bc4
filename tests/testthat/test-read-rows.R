# Kinds of rows.

test_that("typical rows are those nearest to the centre of their group", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  typical <- fl_rows(groups, kind = "typical", most = 3)
  distance <- as.data.frame(groups)$distance
  for (g in 1:5) {
    mine <- which(groups$group == g)
    expect_equal(typical$row[typical$group == g], mine[order(distance[mine])][1:3])
  }
  expect_equal(fl_rows(groups, group = 3, kind = "typical", most = 2)$group, c(3, 3))
})

test_that("boundary rows are nearest to the plane halfway to another centre", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  x <- groups$ready$x
  own <- groups$group[groups$ready$rows]
  border <- vapply(seq_along(own), function(i) {
    min(vapply(setdiff(1:5, own[i]), function(h) {
      a <- groups$centres[own[i], ]; b <- groups$centres[h, ]
      sum(((a + b) / 2 - x[i, ]) * (b - a)) / sqrt(sum((b - a)^2))
    }, 0))
  }, 0)
  least <- fl_rows(groups, kind = "boundary", most = 6)
  expect_equal(least$row, groups$ready$rows[order(border)][1:6])
  expect_equal(least$border, sort(border)[1:6])
  fuzzy <- fl_partition(fl_prepare(heap_data()), "fuzzy", k = 3)
  shares <- predict(fuzzy, heaps(), type = "membership")
  expect_equal(fl_rows(fuzzy, kind = "boundary", most = 2)$membership, sort(apply(shares, 1, max))[1:2])
})

test_that("mismatches are the rows off the matching, and kinds go with the other conditions", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  agreement <- fl_agree(groups)
  wrong <- fl_rows(groups, kind = "mismatch")
  expect_equal(wrong$row, agreement$disagree)
  expect_equal(wrong$class, groups$ready$data$table$water_mass[wrong$row])
  expect_equal(wrong$expected, fl_mismatches(agreement)$rows$expected[match(wrong$row, fl_mismatches(agreement)$rows$row)])
  some <- fl_rows(groups, where = depth > 20, kind = "mismatch")
  expect_true(all(some$depth > 20) && nrow(some) < nrow(wrong))
  expect_error(fl_rows(groups, kind = "typicl"), class = "fjordline_error_argument", regexp = "typical")
  expect_error(fl_rows(fl_demo("still_water"), kind = "typical"), class = "fjordline_error_argument", regexp = "no groups yet")
})

test_that("groups are found by name, and conditions can use it", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), c("top", "mid", "basin", "shelf", "melt"))
  expect_equal(fl_rows(groups, group = "basin")$row, which(groups$group == 3))
  expect_equal(fl_rows(groups, where = group_name == "melt")$row, which(groups$group == 5))
  expect_error(fl_rows(groups, group = "basn"), class = "fjordline_error_argument", regexp = "basin")
})
