test_that("groups are numbered by size, ties by the centre's first differing coordinate", {
  centres <- rbind(c(5, 0), c(1, 9), c(1, 2))
  expect_equal(group_order(c(1, 1, 1, 2, 2, 3, 3), centres), c(1L, 3L, 2L))
  expect_equal(renumber(c(1, 1, 2, 3, 0, NA), c(3L, 1L, 2L)), c(2L, 2L, 3L, 1L, 0L, NA))
})

test_that("within-group scatter equals its definition, with noise left out and under huge offsets", {
  x <- random_table(40, 3, 11)
  group <- rep(1:4, 10)
  expect_equal(sum(group_scatter(x, group)), naive_scatter(x, group), tolerance = 1e-12)
  noisy <- replace(group, 1:5, 0)
  expect_equal(sum(group_scatter(x, noisy)), naive_scatter(x[-(1:5), ], group[-(1:5)]), tolerance = 1e-12)
  expect_equal(sum(group_scatter(x + 1e8, group)), naive_scatter(x, group), tolerance = 1e-6)
})

test_that("duplicates are rows equal in all values, negative zero included", {
  expect_equal(distinct_rows(rbind(c(0, 1), c(-0, 1), c(0, 2))), 2)
})

test_that("silhouettes equal Rousseeuw's definition, for several labelings in one pass", {
  x <- random_table(30, 3, 5)
  x[30, ] <- x[29, ]
  a <- rep(1:3, 10)
  b <- c(rep(1:2, 14), 1, 3)
  widths <- pair_sums(x, list(a, b))$width
  expect_equal(widths[, 1], naive_silhouette(x, a), tolerance = 1e-12)
  expect_equal(widths[, 2], naive_silhouette(x, b), tolerance = 1e-12)
  expect_equal(widths[30, 2], 0)  # alone in its group
})

test_that("silhouettes leave noise out, and one group has none", {
  x <- random_table(20, 2, 6)
  group <- rep(1:2, 10)
  noisy <- replace(group, c(3, 8), 0L)
  widths <- pair_sums(x, list(noisy, rep(1L, 20)))$width
  expect_equal(widths[-c(3, 8), 1], naive_silhouette(x[-c(3, 8), ], group[-c(3, 8)]), tolerance = 1e-12)
  expect_true(all(is.na(widths[c(3, 8), 1])))
  expect_true(all(is.na(widths[, 2])))
})

test_that("identical rows in two groups have silhouette 0, not NaN", {
  expect_equal(pair_sums(matrix(1, 4, 2), list(c(1, 1, 2, 2)))$width[, 1], rep(0, 4))
})

test_that("a silhouette's neighbour is the nearest other group", {
  x <- cbind(c(0, 0.1, 5, 5.1, 20, 20.1))
  expect_equal(pair_sums(x, list(c(1, 1, 2, 2, 3, 3)))$neighbour[, 1], c(2, 2, 1, 1, 2, 2))
})

test_that("a sample is even, seeded, and all rows below the limit", {
  expect_equal(sampled_rows(10, most = 20), 1:10)
  rows <- sampled_rows(1000, most = 100)
  expect_equal(rows, sampled_rows(1000, most = 100))
  expect_equal(ceiling(rows / 10), 1:100)
  uneven <- sampled_rows(1003, most = 100)
  expect_equal(findInterval(uneven - 1, floor(1003 * (0:100) / 100)), 1:100)
  # a table in cycles as long as the stretches is seen at all its phases
  phases <- table(factor(sampled_rows(24000, most = 1000) %% 24, 0:23))
  expect_gt(stats::chisq.test(phases)$p.value, 0.001)
})

test_that("derived seeds depend on every coordinate and on nothing else", {
  seeds <- c(derived_seed(1, 1), derived_seed(1, 2), derived_seed(2, 1), derived_seed(1, 1, 2), derived_seed(1, 2, 1))
  expect_equal(anyDuplicated(seeds), 0)
  expect_equal(derived_seed(7319, 3), derived_seed(7319, 3))
  expect_equal(repeat_seed(5, 1L), 5)
})

test_that("numbers read as people write them", {
  expect_equal(digits3(c(0.123456, 12.345, 1234.5, 1e6, 0, NA, -0.0818, 3e-7)),
               c("0.123", "12.3", "1,234", "1,000,000", "0", "-", "-0.0818", "3e-07"))
  expect_equal(percent(c(0.27, 0.999, 1, 0, 0.004)), c("27%", "over 99%", "100%", "0%", "0.4%"))
  expect_equal(column3(c(0.5, 12, NA)), c("0.5", "12.0", "-"))
  expect_equal(listed(c("a", "b", "c")), "a, b and c")
  expect_equal(listed("a"), "a")
  expect_equal(listed(letters, most = 2), "a, b and 24 more")
  expect_equal(counted(1, "row"), "1 row")
  expect_equal(counted(2000, "index", "indices"), "2,000 indices")
  expect_equal(c(spelt(3), spelt(20)), c("three", "20"))
})

test_that("code that is printed runs and gives the value back", {
  for (value in list(1:10, c(a = "log"), c("x", "y"), 0.1, 1e5, TRUE, c(2, 5), "it's \"quoted\"")) {
    expect_equal(eval(parse(text = code(value))), value, ignore_attr = FALSE)
  }
  expect_equal(code_call("f", verbatim("x"), k = 3, left_out = NULL), "f(x, k = 3)")
})

test_that("the nearest valid word is named, and none when all are far", {
  expect_equal(nearest_word("watermass", c("water_mass", "station")), "water_mass")
  expect_equal(nearest_word("zzzzzzzz", c("water_mass", "station")), character())
})

test_that("errors carry their class and the call a user can have written", {
  caught <- tryCatch(fl_demo("watr_samples"), error = identity)
  expect_s3_class(caught, c("fjordline_error_argument", "fjordline_error", "rlang_error"), exact = FALSE)
  expect_equal(as.character(caught$call[[1]]), "fl_demo")
  expect_snapshot(cat(message_of(fl_demo("watr_samples"))))
  expect_snapshot(cat(message_of(fl_data(heaps(), truth = "knd"))))
  expect_snapshot(cat(message_of(fl_partition(ready_from(random_table(5, 2, 1)), k = 9))))
  expect_snapshot(cat(message_of(fl_method("kmeans", restart = 4))))
})

test_that("shares near the ends are never told as more than they are", {
  expect_equal(percent(c(0.0002, 0.0012, 1 - 1e-12, 0.9961)), c("under 0.1%", "0.1%", "100%", "over 99%"))
  expect_equal(fixed2(c(-0.001, -0.01, NA)), c("0.00", "-0.01", "-"))
})

test_that("numbers and flags are checked in words", {
  expect_equal(check_number(0.2, "share", 0, 1), 0.2)
  for (wrong in list(2, -1, NA, "a", 1:2, NULL)) {
    expect_error(check_number(wrong, "share", 0, 1), class = "fjordline_error_argument", regexp = "from 0 to 1")
  }
  expect_error(check_number(-1, "threshold", 0), class = "fjordline_error_argument", regexp = "at least 0")
  for (wrong in list(NA, 1, "yes", c(TRUE, FALSE))) {
    expect_error(check_flag(wrong, "flip"), class = "fjordline_error_argument", regexp = "TRUE or FALSE")
  }
})

test_that("the nearest complete rows are found by the columns that are there, ties to the first", {
  donors <- cbind(c(0, 0, 5, 9), c(1, 1, 2, 3))
  rows <- rbind(c(NA, 1), c(8, NA), c(NA, NA))
  found <- donors_kernel(rows, donors, c(1, 1), c(0L, 0L), 2L)
  expect_equal(found[, 1], c(0, 1))
  expect_equal(found[, 2], c(3, 2))
  expect_equal(found[, 3], c(-1, -1))
  coded <- donors_kernel(cbind(NA, 3), cbind(c(1, 2, 3), c(1, 3, 2)), c(1, 1), c(0L, 1L), 1L)
  expect_equal(coded[1, 1], 1)
})

test_that("rows are counted across two labelings as table() counts them, without those that have no group", {
  a <- c(1L, 2L, 2L, 0L, 3L, 3L, 3L)
  b <- c(2L, 1L, 0L, 1L, 2L, 2L, 1L)
  inside <- a > 0 & b > 0
  expect_equal(cross_counts(a, b), unclass(table(factor(a[inside], 1:3), factor(b[inside], 1:2))), ignore_attr = TRUE)
  expect_equal(dim(cross_counts(a, b, 4L, 5L)), c(4, 5))
  expect_equal(sum(cross_counts(a, b, 4L, 5L)), 5)
})

test_that("kernels refuse words they do not know instead of taking them for a default", {
  x <- matrix(as.double(1:12), 6)
  how <- list(metric = "euclidean", seeding = "spread", search = "restarts", rounds = "automatic", restarts = 1L,
              finished = 0L, max_rounds = 10L, threads = 1L, seed = 1)
  expect_length(kmeans_kernel(x, 2L, how)$group, 6)
  for (field in c("metric", "seeding", "search", "rounds")) {
    expect_error(kmeans_kernel(x, 2L, replace(how, field, "spraed")), "unknown .*: spraed", info = field)
  }
  expect_error(nearest_kernel(x, x[1:2, ], "manhatten", 1L), "unknown metric: manhatten")
  expect_error(linkage_kernel(x, FALSE, "euclidean", "wards", FALSE, 1L), "unknown join: wards")
  expect_error(pair_sums_kernel(x, matrix(rep(1:2, 3)), 2L, "cosinus", 1L), "unknown metric: cosinus")
})
