# Figures of the count: the gap's rule, several methods, repeats.

# Heaps so far apart that the gap sees them.
gap_sweep <- function() {
  fl_sweep(fl_prepare(heap_data(gap = 40)), fl_method("kmeans", restarts = 2), k = 1:5, indices = "gap")
}

rows_of <- function(figure, layer) ggplot2::layer_data(figure, layer)

test_that("the gap's marks are the next gap less its error, and the pick is the first count that reaches its own", {
  sweep <- gap_sweep()
  vote <- fl_vote(sweep)
  curves <- gap_middle(sweep, vote)
  expect_equal(curves$k, 1:6)
  expect_equal(curves$gap, curves$expected - curves$observed)
  expect_equal(curves$error, curves$sd * sqrt(1.01))
  expect_equal(curves$mark[1:5], curves$gap[2:6] - curves$error[2:6])
  expect_true(is.na(curves$mark[6]))
  reached <- which(curves$gap >= curves$mark)[1]
  expect_equal(gap_pick(vote), reached)
  expect_equal(vote$k, 3)
  expect_match(fl_facts(vote), paste0("^Gap: 3 is the smallest count whose gap \\(.*[.] The highest gap is not the rule"), all = FALSE)
  expect_match(gap_title(curves, reached), "^The gap picks 3 groups: the smallest count")
  expect_match(gap_title(curves, NA), "abstains")
  drawn <- gap_rule(curves, reached)
  marks <- Filter(function(layer) inherits(layer$geom, "GeomSegment"), drawn$layers)
  expect_equal(marks[[2]]$data$mark, curves$mark[1:5])
  file <- withr::local_tempfile(fileext = ".png")
  expect_silent(save_figure(autoplot(sweep, "gap"), file))
  expect_gt(file.size(file), 20000)
})

test_that("the observed course is the fits' own log W", {
  sweep <- gap_sweep()
  w <- vapply(1:5, function(k) fl_take(sweep, k = k)$scatter, 0)
  expect_equal(sweep$gaps$observed[1:5], log(w), tolerance = 1e-12)
})

test_that("figures that have nothing to show say why", {
  quick <- quick_sweep(fl_prepare(heap_data()), k = 1:4)
  expect_error(autoplot(quick, "gap"), class = "fjordline_error_argument", regexp = "not among its indices")
  expect_error(autoplot(quick, "methods"), class = "fjordline_error_argument", regexp = "1 method")
  expect_error(autoplot(quick, "lines"), class = "fjordline_error_argument", regexp = "curves")
  weighted <- fl_sweep(fl_prepare(heap_data()), fl_method("kmeans", row_weights = rep(1, 60)), k = 2:3, indices = c("gap", "silhouette"))
  expect_error(autoplot(weighted, "gap"), class = "fjordline_error_argument", regexp = "single rows")
})

test_that("several methods stand in one panel per index, each with its voted count", {
  sweep <- quick_sweep(fl_prepare(heap_data()), c("kmeans", "medoids"), k = 1:6)
  vote <- fl_vote(sweep)
  figure <- autoplot(sweep, "methods", vote)
  expect_equal(figure$labels$title, "All methods come to 3 groups")
  expect_setequal(unique(figure$data$index), names(judging_indices(sweep)))
  chosen <- figure$layers[[3]]$data
  expect_equal(unique(chosen$k), 3L)
  values <- as.data.frame(sweep)
  mine <- figure$data[figure$data$index == "silhouette" & figure$data$method == "k-medoids", ]
  expect_equal(mine$value, values$value[values$index == "silhouette" & values$method == "medoids"])
  expect_named(vote_figures(vote), c("curves", "vote", "methods", "structure"))
})

test_that("repeats are drawn from lowest to highest, with the picks of each", {
  sweep <- quick_sweep(fl_prepare(heap_data()), fl_method("kmeans", restarts = 1), k = 2:6, repeats = 4)
  vote <- fl_vote(sweep)
  curves <- curve_values(vote)
  values <- as.data.frame(sweep)
  at <- function(k) values$value[values$index == "silhouette" & values$k == k]
  mine <- curves[curves$index == "silhouette", ]
  expect_equal(mine$value, vapply(2:6, function(k) median(at(k)), 0))
  expect_equal(mine$highest, vapply(2:6, function(k) max(at(k)), 0))
  picks <- repeat_picks(vote, "silhouette")
  expect_equal(sum(picks$times), 4)
  wild <- held_in(data.frame(index = "a", k = 2:4, value = c(1, 2, 3), lowest = c(1, -50, 3), highest = c(90, 2, 3)))
  expect_equal(wild$lowest, c(1, -1, 3))
  expect_equal(wild$highest, c(5, 2, 3))
  file <- withr::local_tempfile(fileext = ".png")
  expect_silent(save_figure(autoplot(sweep), file))
})

test_that("a figure that cannot be drawn is an error that says why, and leaves the file that was there", {
  folder <- withr::local_tempdir()
  files <- file.path(folder, c("a.png", "b.png"))
  fine <- autoplot(fl_demo("icequakes"), "map", columns = c("distance", "energy"))
  writeLines("before", files[2])
  broken <- fine + ggplot2::geom_point(ggplot2::aes(x = .data$no_such_column))
  expect_error(save_figures(list(fine, broken), files), "no_such_column")
  expect_true(file.exists(files[1]))
  expect_equal(readLines(files[2]), "before")
  save_figures(list(fine, fine), files)
  expect_equal(readBin(files[2], "raw", 8), readBin(files[1], "raw", 8))
  expect_gt(file.size(files[2]), 1000)
})

test_that("the silhouettes tell which share of the rows is nearer to another group, and near a border", {
  groups <- fl_partition(ready_from(random_table(150, 2, 3)), k = 3)
  width <- row_silhouettes(groups)$silhouette
  expect_equal(width, naive_silhouette(random_table(150, 2, 3), fl_labels(groups)), tolerance = 1e-10)
  expect_match(gsub("\n", " ", paste(autoplot(groups, view = "silhouette")$labels[c("title", "subtitle")], collapse = ": ")),
               paste0(percent(mean(width < 0)), " of the rows are nearer to another group, ",
                      percent(mean(width >= 0 & width < 0.1)), " near a border"), fixed = TRUE)
  expect_equal(silhouette_said(c(-0.2, 0.05, 0.1, 0.4)), "mean 0.09, 25% below 0, 25% near")
  expect_equal(silhouette_said(c(0.3, 0.5)), "mean 0.40")
})

test_that("names of families do not lie on each other, also where one has members with and without a vote", {
  rows <- data.frame(family = c("resampling", "likelihood", "resampling", "curve"), weight = c(0, 0, 1, 1), y = 1:4)
  places <- family_places(rows)
  expect_equal(places$family, rows$family)
  expect_equal(places$y, 1:4 + 0)
})
