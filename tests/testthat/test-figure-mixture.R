# Figures of a mixture: what is drawn is the mixture, and the verdict on it can go either way.

mahalanobis_naive <- function(x, mean, covariance) {
  gap <- sweep(x, 2, mean)
  sqrt(rowSums((gap %*% solve(covariance)) * gap))
}

test_that("a mixture seen along two directions is the mixture of the turned rows", {
  x <- random_heaps(200, 4, 3, sd = 6, seed = 1)
  fit <- fl_partition(ready_from(x), fl_method("mixture", covariance = "general/volume", tails = "normal"), k = 3)
  from <- two_directions(fit, NULL)
  seen <- seen_mixture(fit, from$turn, from$middle)
  full <- matrix(fit$model$covariance[2, ], 4)
  expect_equal(seen$covariance[[2]], t(from$turn) %*% full %*% from$turn)
  expect_equal(seen$mean[2, ], c((fit$centres[2, ] - from$middle) %*% from$turn), ignore_attr = TRUE)
  two <- two_directions(fit, c("v3", "v1"))
  expect_equal(seen_mixture(fit, two$turn, two$middle)$covariance[[1]], matrix(fit$model$covariance[1, ], 4)[c(3, 1), c(3, 1)],
               ignore_attr = TRUE)
  # and its density on a grid adds up to one
  grid <- lapply(1:2, function(j) seq(-60, 60, length.out = 400))
  step <- diff(grid[[1]][1:2])^2
  expect_equal(sum(density_on_grid(seen, grid[[1]], grid[[2]])) * step, 1, tolerance = 1e-3)
})

test_that("ellipses hold the shares they say, for both tails", {
  for (freedom in c(0, 4)) {
    seen <- list(share = 1, mean = matrix(c(1, 2), 1), covariance = list(matrix(c(2, 0.8, 0.8, 1), 2)), freedom = freedom)
    rows <- drawn_from(seen, 40000, 5)
    away <- mahalanobis_naive(rows, seen$mean[1, ], seen$covariance[[1]])
    for (share in c(0.5, 0.9)) {
      edge <- component_ellipses(seen)
      edge <- as.matrix(edge[edge$share == share, c("x", "y")])
      reach <- mahalanobis_naive(edge, seen$mean[1, ], seen$covariance[[1]])
      expect_lt(diff(range(reach)), 1e-8)
      expect_equal(mean(away <= reach[1]), share, tolerance = 0.01)
    }
  }
})

test_that("the verdict tells a mixture that fits from one that does not", {
  heaps <- ready_from(random_heaps(400, 2, 3, sd = 6, seed = 2))
  ring <- withr::with_seed(1, {
    angle <- runif(400, 0, 2 * pi)
    ready_from(cbind(cos(angle), sin(angle)) * 5 + rnorm(800, sd = 0.2))
  })
  title <- function(ready, k) {
    fit <- fl_partition(ready, fl_method("mixture", covariance = "general/volume+shape+orientation", tails = "normal"), k = k)
    ggplot2::autoplot(fit, "density")$labels$title
  }
  expect_match(title(heaps, 3), "a fair description")
  expect_match(title(ring, 1), "a poor description")
})

test_that("every model is drawn and the smallest criterion is ringed", {
  ready <- ready_from(random_heaps(150, 2, 3, sd = 6, seed = 3))
  fit <- fl_partition(ready, "mixture", k = 3)
  figure <- ggplot2::autoplot(fit, "models")
  drawn <- ggplot2::ggplot_build(figure)$plot$data
  expect_equal(nrow(drawn), nrow(fit$model$tried))
  ring <- figure$layers[[3]]$data
  expect_equal(ring$value, min(fit$model$tried$bic))
  sweep <- quick_sweep(ready, "mixture", k = 1:4)
  over <- ggplot2::autoplot(sweep, "models")
  expect_setequal(unique(ggplot2::ggplot_build(over)$plot$data$k), 1:4)
  expect_match(over$labels$title, "smallest over structures")
  expect_error(ggplot2::autoplot(quick_sweep(ready, "kmeans", k = 2:3), "models"), class = "fjordline_error_argument")
})

test_that("doubtful rows are drawn large, one column as curves, and other methods are refused", {
  ready <- ready_from(random_heaps(150, 2, 3, sd = 2, seed = 3))
  fit <- fl_partition(ready, "mixture", k = 3)
  figure <- ggplot2::autoplot(fit, "uncertain")
  drawn <- ggplot2::ggplot_build(figure)$plot$data
  member <- apply(predict(fit, as.data.frame(ready$data$table), type = "membership"), 1, max)
  expect_equal(sort(drawn$doubt), sort(1 - member), tolerance = 1e-8)
  line <- fl_partition(ready_from(cbind(v = withr::with_seed(1, c(rnorm(60), rnorm(60, 6))))), "mixture", k = 2)
  expect_match(ggplot2::autoplot(line, "density")$labels$title, "Two components beside the rows of v")
  kmeans <- fl_partition(ready, k = 3)
  for (view in c("density", "models", "uncertain", "dendrogram", "tree", "radius")) {
    expect_error(ggplot2::autoplot(kmeans, view), class = "fjordline_error_argument")
  }
  expect_error(ggplot2::autoplot(fit, "density", columns = c("v1", "nothing")), class = "fjordline_error_column")
})

test_that("ticks of a column are told in its original units, through scale and logarithm", {
  water <- water_ready()
  fit <- fl_partition(water, fl_method("mixture", covariance = "diagonal/common", tails = "normal"), k = 3)
  seen <- two_directions(fit, c("temperature", "turbidity"))
  at <- c(-1, 0, 1.5)
  degrees <- water$data$table$temperature[water$rows]
  expect_equal(axis_labels(fit, seen, 1)(at), digits3(mean(degrees) + at * stats::sd(degrees)))
  logs <- log(water$data$table$turbidity[water$rows])
  expect_equal(axis_labels(fit, seen, 2)(at), digits3(exp(mean(logs) + at * stats::sd(logs))))
  expect_s3_class(axis_labels(fit, two_directions(fit, NULL), 1), "waiver")
  one <- fl_partition(fl_prepare(fl_demo("icequakes"), use = "duration", transform = "log"), "mixture", k = 2)
  expect_no_error(ggplot2::ggplot_build(ggplot2::autoplot(one, "density")))
})

test_that("the frame holds the ellipses and the rows", {
  fit <- fl_partition(ready_from(random_heaps(150, 2, 2, sd = 1, seed = 3)), fl_method("mixture", tails = "heavy"), k = 1)
  figure <- ggplot2::autoplot(fit, "density")
  frame <- ggplot2::ggplot_build(figure)$plot$data
  ellipses <- component_ellipses(seen_mixture(fit, diag(2), colMeans(fit$ready$x)))
  expect_true(min(frame$x) <= min(ellipses$x) && max(frame$x) >= max(ellipses$x))
  expect_true(min(frame$y) <= min(ellipses$y) && max(frame$y) >= max(ellipses$y))
})
