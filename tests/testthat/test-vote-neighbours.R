# One group fewer, one more: what is told must be what the labels do.

test_that("splits and joins are told by the group most rows come from, and rows that go elsewhere are counted", {
  coarse <- rep(1:3, c(6, 4, 2))
  fine <- c(1, 1, 1, 1, 4, 4, 2, 2, 2, 2, 3, 3)
  expect_equal(split_story(coarse, fine), list(changes = "splits group 1 into 4 + 2", moved = 0))
  expect_equal(split_story(fine, coarse), list(changes = "joins groups 1 and 4", moved = 0))
  fine[7] <- 1
  expect_equal(split_story(coarse, fine)$moved, 1)
  expect_equal(split_story(coarse, coarse), list(changes = character(), moved = 0))
})

test_that("noise belongs to no group, and sizes are written with thousands", {
  coarse <- rep(1:2, c(3000, 10))
  fine <- c(rep(1, 1800), rep(2, 1190), rep(0, 10), rep(3, 10))
  expect_equal(split_story(coarse, fine), list(changes = "splits group 1 into 1,800 + 1,190", moved = 0))
})

test_that("what the neighbours change is what the labels of the fits say, by counting rows", {
  sweep <- quick_sweep(water_ready(), k = 2:8)
  vote <- fl_settle(fl_vote(sweep), 5, "five are known")
  here <- fl_labels(fl_take(sweep, k = 5))
  there <- fl_labels(fl_take(sweep, k = 6))
  moved <- sum(vapply(1:6, function(g) {
    from <- here[which(there == g)]
    sum(from != as.integer(names(which.max(table(from)))))
  }, 0))
  expect_equal(vote$neighbours$more$moved, moved)
  expect_equal(vote$neighbours$more$k, 6)
  expect_equal(vote$neighbours$fewer$k, 4)
})

test_that("at the ends of the counts there is no neighbour to tell of", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:3)
  first <- fl_settle(fl_vote(sweep), 1, "one crew")
  expect_null(first$neighbours$fewer)
  expect_match(first$neighbours$more$changes, "splits group 1 into")
  expect_false(any(grepl("One fewer", fl_facts(first))))
})
