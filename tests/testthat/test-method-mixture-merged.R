# More components than groups, models that fool themselves, and mixtures of wide tables.

skewed <- function(n = 120, seed = 1) {
  withr::with_seed(seed, rbind(c(0, 0), c(9, 0), c(0, 9))[rep(1:3, each = n), ] + matrix(stats::rexp(6 * n), ncol = 2))
}

test_that("components without a dip between them are one group, which is as dense as they are together", {
  ready <- ready_from(skewed())
  groups <- fl_partition(ready, fl_method("mixture", components = 6), k = 3)
  expect_equal(groups$k, 3L)
  expect_equal(adjusted_rand(table(fl_labels(groups), rep(1:3, each = 120))), 1)
  expect_match(groups$notes, "^Six components make 3 groups", all = FALSE)
  six <- fl_partition(ready, "mixture", k = 6)
  rows <- as.data.frame(ready$data)
  expect_equal(predict(groups, rows, type = "density"), predict(six, rows, type = "density"))
  expect_equal(as.integer(predict(groups, rows)), fl_labels(groups))
  # memberships of a group are the sums of those of its components
  own <- predict(groups, rows, type = "membership")
  of <- groups$model$parts$group
  expect_equal(rowSums(own), rep(1, nrow(own)))
  expect_equal(sort(table(of), decreasing = TRUE)[[1]] >= 2L, TRUE)
  expect_equal(sum(groups$model$share), 1)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_identical(predict(fl_load(file), rows), predict(groups, rows))
  expect_error(fl_partition(ready, fl_method("mixture", components = 2), k = 3), class = "fjordline_error_count",
               regexp = "cannot make 3 groups")
})

test_that("the mean and covariance of a merged group are those of its components together", {
  model <- list(share = cbind(c(0.2, 0.3, 0.5)), covariance = rbind(c(1, 0, 0, 1), c(2, 0, 0, 1), c(1, 0, 0, 3)))
  fit <- list(group = c(1L, 2L, 3L), centres = rbind(c(0, 0), c(4, 0), c(9, 9)), model = model)
  merged <- merged_mixture(fit, c(1L, 1L, 2L))
  mean <- (0.2 * c(0, 0) + 0.3 * c(4, 0)) / 0.5
  expect_equal(merged$centres[1, ], mean)
  within <- (0.2 * diag(2) + 0.3 * diag(c(2, 1))) / 0.5
  between <- (0.2 * tcrossprod(c(0, 0) - mean) + 0.3 * tcrossprod(c(4, 0) - mean)) / 0.5
  expect_equal(matrix(merged$model$covariance[1, ], 2), within + between)
  expect_equal(merged$group, c(1L, 1L, 2L))
  expect_equal(mixture_parts(merged)$mean, unname(fit$centres))
})

test_that("of models that come about as near, the labels most of them share are taken, when the best stands apart", {
  same <- rep(1:2, 20)
  other <- rep(1:2, each = 20)
  labels <- list(`3` = other, `5` = same, `7` = same, `9` = 3L - same)
  expect_equal(shared_by_most(labels, 3L), 5L)
  expect_equal(shared_by_most(labels[c("5", "3", "7")], 5L), 5L)  # the best is one of the many
  expect_equal(shared_by_most(labels[1:2], 3L), 3L)  # two cannot outvote one another
})

test_that("a model in which a component vanishes is not eligible, and says so", {
  x <- withr::with_seed(2, rbind(matrix(stats::rnorm(200), 100), c(40, 40), c(40.1, 40)))
  fit <- fl_partition(ready_from(x), fl_method("mixture", covariance = c("general/volume+shape+orientation", "spherical/volume"),
                                               tails = "normal"), k = 3)
  tried <- fit$model$tried
  expect_true(all(tried$reason[!is.na(tried$smallest) & tried$smallest < 4] != ""))
  two <- fl_partition(ready_from(x), fl_method("mixture", tails = "normal"), k = 2)
  small <- two$model$tried$reason == "a component vanished"
  expect_true(any(small))
})

test_that("the least spread of a component is that beside all of them, along any direction", {
  fit <- list(mean = matrix(0, 2, 2), share = c(0.5, 0.5), covariance = rbind(c(1, 0, 0, 1), c(1, 0, 0, 0.01)))
  ends <- least_component(fit, 100)
  expect_equal(ends[1], 50)
  expect_equal(ends[2], 0.01 / 0.505)
})

test_that("a wide table is fitted along its telling axes; all of them on request", {
  x <- withr::with_seed(3, matrix(stats::rnorm(80 * 30), 80) + outer(rep(c(-1.5, 1.5), each = 40), rep(1, 30)))
  ready <- ready_from(x)
  along <- fl_partition(ready, "mixture", k = 2)
  expect_match(along$notes, "^Fitted along 2 principal axes of the 30 columns", all = FALSE)
  expect_equal(adjusted_rand(table(fl_labels(along), rep(1:2, each = 40))), 1)
  expect_equal(ncol(along$centres), 30)
  expect_equal(unique(fl_components(along)$column), colnames(ready$x))
  whole <- fl_partition(ready, fl_method("mixture", axes = "all", covariance = "spherical/common", tails = "normal"), k = 2)
  expect_null(whole$model$axes)
  expect_error(fl_method("mixture", axes = "some"), class = "fjordline_error_method")
})
