test_that("bisecting cuts the group of largest scatter, so counts nest", {
  x <- random_heaps(200, 3, 5, sd = 5, seed = 2)
  run <- function(k) fit_method(fl_method("bisecting"), x, k, 1)
  fits <- lapply(1:6, run)
  for (k in 2:6) {
    expect_equal(fits[[k]]$k, k)
    shared <- table(fits[[k]]$group, fits[[k - 1]]$group) > 0
    expect_true(all(rowSums(shared) == 1))
    parent <- which(colSums(shared) == 2)
    expect_equal(unname(parent), which.max(fits[[k - 1]]$scatter))
    expect_lt(fits[[k]]$objective, fits[[k - 1]]$objective)
  }
  expect_equal(fits[[5]]$objective, naive_scatter(x, fits[[5]]$group), tolerance = 1e-10)
  expect_error(fit_method(fl_method("bisecting"), x[c(1, 1, 2), ], 3, 1), class = "fjordline_error_count")
  expect_equal(fit_method(fl_method("bisecting"), x[1:9, ], 9, 1)$objective, 0)
})

test_that("each cut is the best two-group k-means of its rows", {
  x <- random_heaps(60, 2, 4, sd = 6, seed = 4)
  three <- fit_method(fl_method("bisecting", restarts = 50), x, 3, 1)
  two <- fit_method(fl_method("bisecting", restarts = 50), x, 2, 1)
  cut <- x[two$group == which.max(two$scatter), ]
  expect_equal(three$objective, min(two$scatter) + fit_method(fl_method("kmeans", restarts = 50), cut, 2, 1)$objective,
               tolerance = 1e-9)
})

test_that("splitting finds the count of round groups, by BIC over the counts it passed", {
  for (k in c(1, 3, 6)) {
    x <- random_heaps(300, 4, k, sd = 8, seed = k)
    fit <- fit_method(fl_method("splitting"), x, NULL, 1)
    expect_equal(fit$k, k)
    expect_match(fit$notes, "between 1 and 20", all = FALSE)
  }
  x <- random_heaps(300, 4, 6, sd = 8, seed = 6)
  expect_equal(fit_method(fl_method("splitting", most = 4), x, NULL, 1)$k, 4)
  expect_match(fit_method(fl_method("splitting", most = 4), x, NULL, 1)$notes, "largest count allowed", all = FALSE)
  expect_gte(fit_method(fl_method("splitting", fewest = 8), x, NULL, 1)$k, 8)
  expect_error(fl_method("splitting", fewest = 5, most = 3), class = "fjordline_error_argument")
})

test_that("BIC is the one of the index", {
  x <- random_heaps(100, 3, 3, sd = 5, seed = 1)
  fit <- fit_method(fl_method("kmeans"), x, 3, 1)
  set <- index_set(x, list(fit))
  expect_equal(round_bic(tabulate(fit$group), fit$objective, 3), index_bic()$across(set))
  n <- 100
  variance <- fit$objective / (3 * (n - 3))
  sizes <- tabulate(fit$group)
  log_likelihood <- sum(sizes * log(sizes / n)) - n * 3 / 2 * log(2 * pi * variance) - 3 * (n - 3) / 2
  expect_equal(index_bic()$across(set), -2 * log_likelihood + (2 + 9 + 1) * log(n))
  expect_true(is.na(round_bic(c(1, 1), 0, 2)))
})

test_that("a count given to a method that finds its own is ignored, and this is said", {
  ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  own <- fl_partition(ready, "splitting")
  asked <- fl_partition(ready, "splitting", k = 2)
  expect_identical(asked$group, own$group)
  expect_match(fl_facts(asked), "ignored", all = FALSE)
  expect_false(any(grepl("ignored", fl_facts(own))))
  sweep <- quick_sweep(ready, c("kmeans", "splitting"), k = 2:4)
  expect_identical(fl_take(sweep, "splitting")$group, own$group)
  values <- as.data.frame(sweep)
  expect_equal(unique(values$k[values$method == "splitting"]), own$k)
})

test_that("every method of the catalogue keeps the contract on the demo data", {
  ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  for (key in fl_methods()$key[!fl_methods()$yours]) {
    groups <- fl_partition(ready, key, k = 4)
    labels <- fl_labels(groups)
    expect_length(labels, ready$total)
    expect_identical(which(!is.na(labels)), ready$rows)
    expect_identical(fl_labels(fl_partition(ready, key, k = 4)), labels)
    expect_false(is.unsorted(-groups$groups$rows))
    expect_equal(sum(groups$groups$rows), sum(labels > 0, na.rm = TRUE))
    expect_true(is.finite(groups$objective))
    expect_true(all(is.finite(as.matrix(groups$groups[-1]))))
    expect_equal(groups$scatter, with(list(own = labels[ready$rows]), naive_scatter(ready$x[own > 0, ], own[own > 0])),
                 tolerance = 1e-8)
    placed <- predict(groups, fl_demo("water_samples"))
    if (key != "bisecting") expect_identical(placed[labels %in% c(1:99, NA)], labels[labels %in% c(1:99, NA)])
    file <- withr::local_tempfile(fileext = ".json")
    fl_save(groups, file)
    expect_identical(predict(fl_load(file), fl_demo("water_samples")), placed)
    expect_s3_class(fl_score(groups), "fl_score")
    expect_gt(nchar(paste(format(groups), collapse = "")), 100)
    expect_s3_class(ggplot2::autoplot(groups), "ggplot")
  }
  catalogue <- fl_methods()
  for (field in c("label", "shape", "needs", "cost", "minimises", "source", "when")) {
    expect_true(all(nzchar(catalogue[[field]]) & catalogue[[field]] != "not stated"))
  }
  expect_output(print(summary(catalogue)), "assumes")
})

test_that("heaps in a triangle are found, which one cut in two does not show", {
  ready <- ready_from(as.matrix(heaps(gap = 30)[c("east", "north")]))
  whole <- round_bic(60L, sum(group_scatter(ready$x, rep(1L, 60))), 2)
  two <- least_scatter(ready$x, 2L, 10L, 200L, 1)
  expect_gt(round_bic(tabulate(two$group), two$objective, 2), whole)
  found <- fl_partition(ready, "splitting")
  expect_true(same_grouping(fl_labels(found), rep(1:3, each = 20)))
  expect_equal(fl_partition(ready, fl_method("splitting", most = 2))$k, 1)
})
