# Where methods leave rows in no group: partitions of noise alone, noise that stays noise, samples that keep density.

lonely <- function() fl_prepare(fl_data(data.frame(a = c(1, 5, 9), b = c(2, 3, 3)), name = "lonely"))

test_that("a partition without any group is said, kept, placed and exported", {
  none <- fl_partition(lonely(), "dbscan")
  expect_equal(none$k, 0)
  expect_equal(fl_labels(none), c(0L, 0L, 0L))
  expect_match(format(none)[1], "^No groups, by DBSCAN: all 3 rows are noise")
  expect_match(format(none), "No place is that dense", all = FALSE)
  file <- withr::local_tempfile(fileext = ".json")
  back <- fl_load(fl_save(none, file))
  expect_equal(back$k, 0)
  expect_match(format(back)[1], "^No groups")
  expect_identical(predict(back, data.frame(a = c(1, 7), b = c(2, 3))), c(0L, 0L))
  table <- withr::local_tempfile(fileext = ".csv")
  expect_equal(read.csv(fl_export(none, table))$group, rep(0, 3))
  expect_equal(nrow(glance(none)), 1)
  expect_equal(as.data.frame(none)$group, rep(0L, 3))
})

test_that("what needs a group stops and names the parameter that decides", {
  none <- fl_partition(lonely(), "dbscan")
  calls <- list(fl_profile, fl_reliability, fl_paths, ggplot2::autoplot, function(p) ggplot2::autoplot(p, "silhouette"),
                function(p) fl_outcome(p, "a"), function(p) fl_report(p, withr::local_tempfile(fileext = ".html")))
  for (call in calls) {
    error <- tryCatch(call(none), error = identity)
    expect_s3_class(error, "fjordline_error_argument")
    expect_match(paste(conditionMessage(error)), "took every row for noise.*radius")
  }
  # the view that helps to choose another radius is drawn
  expect_s3_class(ggplot2::ggplot_build(ggplot2::autoplot(none, "radius")), "ggplot_built")
})

test_that("a sweep that finds noise alone says so, and votes for nothing", {
  sweep <- quick_sweep(lonely(), fl_method("dbscan", min_rows = 4), k = 2:3)
  expect_true(all(sweep$values_tried$k %in% 0:1))
  expect_match(fl_facts(sweep), "gives only noise", all = FALSE)
  vote <- fl_vote(sweep)
  expect_true(vote$verdict %in% undecided)
  expect_true(is.na(vote$k))
})

test_that("fitted noise is placed as noise, and the guard turns no fitted row away", {
  seals <- fl_demo("seal_haulouts")
  for (key in c("dbscan", "hdbscan", "mean_shift", "spectral", "linkage")) {
    fit <- fl_partition(fl_prepare(seals), key, k = 4)
    expect_identical(predict(fit, seals), fl_labels(fit))
    placed <- fl_place(fit, seals)
    expect_equal(sum(placed$rows$group == 0), sum(fl_labels(fit) == 0))
  }
  far <- fl_place(fl_partition(fl_prepare(seals), "dbscan"), data.frame(east = c(4.5, 60), north = c(3, 60)), strict = FALSE)
  expect_equal(far$rows$group[2], 0L)
  expect_match(fl_facts(far), "too far from the rows of every group, by the method's own rule", all = FALSE)
})

test_that("rows beyond what a group's rows reach are turned away where the nearest row decides", {
  x <- random_heaps(120, 2, 3, sd = 8, seed = 2)
  ready <- ready_from(x)
  fit <- fl_partition(ready, "linkage", k = 3)
  group <- fl_labels(fit)
  limits <- partition_reach(fit)$all
  for (g in 1:3) {
    own <- x[group == g, ]
    nearest <- apply(distances_of(own), 1, function(row) sort(row)[2])
    expect_equal(limits[g, ncol(limits)], max(nearest))
  }
  away <- data.frame(v1 = 500, v2 = 500)
  expect_identical(suppressWarnings(predict(fit, away)), 0L)
  expect_true(suppressWarnings(predict(fit, away, reach = Inf)) %in% 1:3)
})

test_that("density methods are judged on samples without doubled rows", {
  own <- sample_of_rows(100, TRUE, 5)
  expect_length(own, 80)
  expect_false(anyDuplicated(own) > 0)
  again <- sample_of_rows(100, FALSE, 5)
  expect_length(again, 100)
  expect_true(anyDuplicated(again) > 0)
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  firm <- fl_reliability(fl_partition(seals, "hdbscan"), samples = 12, reseeds = 3)
  expect_true(all(firm$groups$returns > 0.85))
  expect_match(fl_facts(firm), "12 samples of eight in ten rows", all = FALSE)
  mean <- fl_reliability(fl_partition(ready_from(random_heaps(120, 2, 3, sd = 6, seed = 1)), k = 3), samples = 6, reseeds = 3)
  expect_match(fl_facts(mean), "6 bootstrap samples", all = FALSE)
})

test_that("indices that fit again say why they do not", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  score <- fl_score(fl_partition(seals, "hdbscan"), c("gap", "prediction_strength"))
  expect_match(score$reason, "finds the count itself, and other tables would get other counts")
  sweep <- fl_sweep(seals, fl_method("hdbscan"), k = 2:8, indices = c("gap", "dbcv"))
  expect_error(ggplot2::autoplot(sweep, "gap"), class = "fjordline_error_argument", regexp = "finds the count itself")
})

test_that("the shell groups by the new methods and sweeps their parameter", {
  skip_on_cran()
  command <- system.file("cli", "fjordline", package = "fjordline")
  file <- system.file("extdata", "seal_haulouts.csv", package = "fjordline")
  run <- function(...) {
    suppressWarnings(system2(file.path(R.home("bin"), "Rscript"),
                             c(command, ..., file, "--truth shore --id sighting --aside date,longitude,latitude,adults,pups"),
                             stdout = TRUE, stderr = TRUE))
  }
  by_density <- paste(run("group --method hdbscan --settings min_size=13"), collapse = "\n")
  expect_match(by_density, "^Six groups, by HDBSCAN \\(min_size = 13\\)")
  expect_match(by_density, "adjusted Rand 0.9")
  counted <- paste(run("count --methods hdbscan,kmeans --k 2-8 --indices fast"), collapse = " ")
  expect_match(counted, "hdbscan finds 6|by HDBSCAN")
  wrong <- paste(run("group --method mixture --k 3 --settings covariance=general/volum"), collapse = " ")
  expect_match(wrong, "general/volume")
})
