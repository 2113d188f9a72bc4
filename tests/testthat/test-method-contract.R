# What holds for every method alike: labels do not depend on order, place or unit, edges have a rule, and the objects made
# from a partition work whatever made it.

keys <- names(built_in("method"))
free <- names(Filter(function(method) method$free_count, built_in("method")))

quick <- function(key, ...) {
  few <- list(kmeans = list(restarts = 10), medoids = list(restarts = 3), fuzzy = list(restarts = 3),
              mixed = list(restarts = 10), bisecting = list(restarts = 5), splitting = list(most = 6),
              mixture = list(restarts = 4, tails = "normal"), spectral = list(most = 8))
  do.call(fl_method, c(list(key), few[[key]], list(...)))
}

fitted <- function(key, x, k = 3, ...) fit_method(quick(key, ...), x, k, 1)

test_that("permuting rows permutes the labels and nothing else", {
  x <- as.matrix(heaps()[2:3])
  order <- withr::with_seed(2, sample(nrow(x)))
  for (key in keys) {
    fit <- fitted(key, x)
    again <- fitted(key, x[order, ])
    expect_identical(again$group, fit$group[order])
    expect_equal(again$objective, fit$objective, tolerance = 1e-8)
  }
})

test_that("permuting columns changes no label", {
  x <- random_heaps(150, 4, 3, sd = 6, seed = 3)
  for (key in keys) expect_true(same_grouping(fitted(key, x)$group, fitted(key, x[, c(3, 1, 4, 2)])$group))
})

test_that("shifting and scaling all columns change the units only", {
  x <- random_heaps(150, 3, 3, sd = 6, seed = 4)
  for (key in keys) {
    wanted <- fitted(key, x)$group
    expect_identical(fitted(key, x + 1000)$group, wanted)
    expect_identical(fitted(key, x * 64)$group, wanted)
    expect_identical(fitted(key, x + 1e7)$group, wanted)
  }
})

test_that("doubling every row keeps the groups, where groups are not told by how dense rows lie", {
  x <- random_heaps(80, 2, 3, sd = 8, seed = 6)
  for (key in setdiff(keys, c("dbscan", "hdbscan", "mean_shift", "spectral"))) {
    twice <- fitted(key, rbind(x, x))$group
    expect_identical(twice[1:80], twice[81:160])
    expect_true(same_grouping(twice[1:80], fitted(key, x)$group))
  }
})

test_that("one column, one group, two rows, and as many groups as rows have a rule", {
  for (key in setdiff(keys, free)) {
    line <- cbind(a = c(1, 2, 3, 50, 51, 52))
    expect_identical(fitted(key, line, 2)$group, c(1L, 1L, 1L, 2L, 2L, 2L))
    expect_identical(fitted(key, line, 1)$group, rep(1L, 6))
    if (key == "mixture") next  # which needs more rows than parameters
    pair <- rbind(c(0, 0), c(3, 4))
    expect_equal(sort(fitted(key, pair, 2)$group), 1:2)
    expect_equal(fitted(key, pair, 2)$objective, 0)
    expect_error(fitted(key, line, 7), class = "fjordline_error_count")
    expect_error(fitted(key, cbind(rep(1, 5)), 2), class = "fjordline_error_count", regexp = "only 1 distinct row")
  }
  expect_equal(fitted("splitting", cbind(rep(1, 5)))$k, 1)
  expect_equal(fitted("splitting", rbind(c(0, 0), c(3, 4)))$k, 1)
})

test_that("duplicates take a group together, and every group has rows", {
  x <- random_heaps(20, 2, 4, sd = 5, seed = 7)[rep(1:20, times = 1:20), ]
  id <- rep(1:20, times = 1:20)
  for (key in keys) {
    fit <- fitted(key, x, 6)
    expect_true(all(tabulate(fit$group, fit$k) > 0))
    # cuts and full groups put equal rows together; a tie between medoids may not arise at distance 0
    expect_true(all(tapply(fit$group, id, function(g) length(unique(g))) == 1))
  }
})

test_that("every method goes through sweeps, scores, votes, reports and exports", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  quakes <- fl_demo("icequakes")
  ready <- fl_prepare(quakes, transform = "log")
  folder <- withr::local_tempdir()
  for (key in keys) {
    sweep <- quick_sweep(ready, quick(key), k = 3:4)
    vote <- fl_vote(sweep)
    expect_true(vote$verdict %in% c("clear", "weak", "no clear count", "no groups"))
    if (!key %in% free) expect_false(anyNA(sweep$values$value[sweep$values$index == "silhouette"]))
    groups <- fl_take(sweep, k = if (key != "splitting") counts_held(vote)[1])
    expect_s3_class(fl_agree(groups), "fl_agree")
    table <- read.csv(fl_export(groups, file.path(folder, "t.csv")))
    expect_equal(table$group, fl_labels(groups))
    expect_identical(eval_steps(groups), fl_labels(groups))
  }
  page <- fl_report(fl_partition(ready, quick("fuzzy"), k = 4), file.path(folder, "r.html"))
  expect_true(any(grepl("Partition coefficient", readLines(page, warn = FALSE), fixed = TRUE)))
})

test_that("figures call medoids medoids, and centres centres", {
  ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
  said <- function(key) ggplot2::autoplot(fl_partition(ready, quick(key), k = 3))$labels$subtitle
  expect_match(said("medoids"), "Discs: medoids")
  expect_match(said("kmeans"), "Discs: centres")
  expect_match(said("fuzzy"), "Discs: weighted means")
})

test_that("a method that tried one count has won no vote", {
  ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  alone <- fl_vote(quick_sweep(ready, quick("splitting"), k = 2:6))
  expect_equal(alone$verdict, "no clear count")
  expect_true(is.na(alone$margin))
  expect_match(fl_facts(alone)[1], "no other count of two or more to compare")
  expect_error(fl_take(alone), class = "fjordline_error_undecided")
  expect_equal(fl_take(fl_settle(alone, alone$k, "it was asked for"))$k, alone$k)
  beside <- fl_vote(quick_sweep(ready, list("kmeans", quick("splitting")), k = 2:6))
  expect_match(fl_facts(beside), paste0("Taken alone, splitting.* finds ", alone$k, ";"), all = FALSE)
  expect_output(print(alone), "No clear count")
  expect_s3_class(ggplot2::autoplot(alone), "ggplot")
})

test_that("streamed groups say why they cannot draw, score or export", {
  sample <- fl_sample(as.data.frame(fl_demo("water_samples")), rows = 200, name = "water",
                      features = c("temperature", "salinity", "oxygen"))
  groups <- fl_stream(fl_prepare(sample), k = 3)
  for (call in list(fl_score, ggplot2::autoplot, function(g) fl_export(g, withr::local_tempfile(fileext = ".csv")))) {
    expect_error(call(groups), class = "fjordline_error_model", regexp = "read in chunks")
  }
  expect_equal(nrow(as.data.frame(groups)), 612)
  expect_equal(generics::glance(groups)$k, 3)
})

test_that("threads are counted from the option, and R CMD check gets two at most", {
  withr::local_options(fjordline.threads = NULL)
  expect_gte(thread_count(), 1L)
  withr::with_envvar(c(`_R_CHECK_LIMIT_CORES_` = "TRUE"), expect_lte(thread_count(), 2L))
  withr::local_options(fjordline.threads = 3)
  expect_identical(thread_count(), 3L)
})

test_that("drawn rows are different, in order, and each as likely", {
  for (many in c(1, 7, 20)) {
    rows <- draw_kernel(20, many, 3)
    expect_length(unique(rows), many)
    expect_false(is.unsorted(rows))
  }
  hits <- tabulate(unlist(lapply(1:300, function(s) draw_kernel(25, 5, s))), 25)
  expect_gt(stats::chisq.test(hits)$p.value, 1e-4)
  expect_identical(draw_kernel(1000, 10, 4), draw_kernel(1000, 10, 4))
})

test_that("keys of rows depend on the seed and the row alone", {
  whole <- row_keys_kernel(0, 100, 9)
  expect_identical(c(row_keys_kernel(0, 37, 9), row_keys_kernel(37, 63, 9)), whole)
  expect_false(any(row_keys_kernel(0, 100, 8) == whole))
  expect_true(all(whole >= 0 & whole < 1))
})

test_that("different rows are counted up to enough, with directions under cosine", {
  x <- rbind(c(1, 2), c(2, 4), c(1, 2), c(-1, -2), c(3, 1))
  expect_equal(distinct_kernel(x, 10L, "euclidean"), 4)
  expect_equal(distinct_kernel(x, 2L, "euclidean"), 2)
  expect_equal(distinct_kernel(x, 10L, "cosine"), 3)
  expect_equal(distinct_kernel(rbind(c(0, 1), c(-0, 1)), 10L, "euclidean"), 1)
})

test_that("the nearest of some centres is that of the definition, under every metric and thread count", {
  x <- random_table(50, 3, 1) + 1
  centres <- random_table(6, 3, 2) + 1
  naive <- list(
    euclidean = naive_distance, manhattan = function(a, b) sum(abs(a - b)), chebyshev = function(a, b) max(abs(a - b)),
    cosine = function(a, b) 1 - sum(a * b) / sqrt(sum(a^2) * sum(b^2)), correlation = function(a, b) 1 - stats::cor(a, b)
  )
  for (metric in names(naive)) {
    all <- outer(1:50, 1:6, Vectorize(function(i, g) naive[[metric]](x[i, ], centres[g, ])))
    for (threads in 1:2) {
      near <- nearest_kernel(x, centres, metric, threads)
      expect_equal(near$group, max.col(-all))
      expect_equal(near$distance, apply(all, 1, min), tolerance = 1e-10)
    }
  }
})

test_that("weights, starts and dissimilarities of rows left out are left out with them", {
  quakes <- fl_demo("icequakes")
  whole <- fl_prepare(quakes, transform = "log")
  weights <- seq_len(whole$total)
  bound <- bind_method(fl_method("kmeans", row_weights = weights), whole)
  expect_equal(bound$settings$row_weights, whole$rows / max(whole$rows))
  starts <- as.data.frame(quakes)[whole$rows[1:3], ]
  expect_equal(bind_method(fl_method("kmeans", starts = starts), whole)$settings$starts,
               whole$x[1:3, ], ignore_attr = TRUE, tolerance = 1e-12)
  expect_error(bind_method(fl_method("kmeans", starts = as.data.frame(quakes)[-whole$rows, ]), whole),
               class = "fjordline_error_values", regexp = "missing")
  expect_error(bind_method(fl_method("kmeans", starts = 5), whole), class = "fjordline_error_argument")
})
