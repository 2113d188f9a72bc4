# Scores against the definitions written out, and what is done with the flags.

naive_scores <- function(x, k, method) {
  d <- as.matrix(dist(x))
  diag(d) <- Inf
  n <- nrow(x)
  near <- lapply(seq_len(n), function(i) order(d[i, ])[1:k])
  edge <- vapply(seq_len(n), function(i) d[i, near[[i]][k]], 0)
  if (method == "neighbour_distance") return(edge)
  density <- vapply(seq_len(n), function(i) 1 / mean(pmax(d[i, near[[i]]], edge[near[[i]]])), 0)
  vapply(seq_len(n), function(i) mean(density[near[[i]]]) / density[i], 0)
}

test_that("scores are those of the definitions, in low and in high dimension", {
  for (d in c(1, 2, 5, 15, 16, 30)) {
    x <- rbind(random_table(80, d, d), random_table(5, d, 99) + 6)
    ready <- ready_from(x)
    for (method in c("neighbour_distance", "density_ratio")) {
      expect_equal(fl_outliers(ready, method, neighbours = 7)$rows$score, naive_scores(x, 7, method), info = paste(d, method))
    }
  }
})

near_third <- function(x) unname(apply(as.matrix(dist(x)), 1, max))  # the farther of two others

test_that("the nearest rows are exact with many rows, ties and duplicates", {
  x <- withr::with_seed(3, cbind(a = sample(0:12, 700, TRUE), b = sample(0:9, 700, TRUE), c = 0)) + 0
  near <- neighbours_kernel(x, 6L, 2L)
  d <- as.matrix(dist(x))
  diag(d) <- Inf
  expected <- vapply(seq_len(700), function(i) order(d[i, ], seq_len(700))[1:6], integer(6))
  expect_equal(near$row, expected)
  expect_equal(near$distance, unname(vapply(seq_len(700), function(i) d[i, expected[, i]], numeric(6))), ignore_attr = TRUE)
  expect_equal(dim(neighbours_kernel(x[1:3, ], 10L, 1L)$row), c(2, 3))
  # the distance alone, for any number of threads
  for (threads in 1:2) expect_identical(neighbour_distance_kernel(x, 6L, threads), near$distance[6, ])
  expect_equal(neighbour_distance_kernel(x[1:3, ], 10L, 1L), near_third(x[1:3, ]))
})

test_that("duplicates do not make endless or missing scores", {
  x <- rbind(matrix(1, 30, 2), random_table(30, 2, 1))
  scores <- fl_outliers(ready_from(x), "density_ratio")$rows$score
  expect_false(anyNA(scores))
  expect_equal(scores[1:30], rep(1, 30), tolerance = 0.1)
})

test_that("planted rows are flagged, a plain table hardly at all; shifting, scaling and order change nothing", {
  x <- random_table(300, 3, 5)
  x[c(7, 100, 211), ] <- x[c(7, 100, 211), ] + 12
  for (method in names(outlier_scores)) {
    flags <- fl_outliers(ready_from(x), method)
    expect_equal(sort(order(-flags$rows$score)[1:3]), c(7, 100, 211), info = method)
    expect_true(all(flags$rows$flagged[c(7, 100, 211)]), info = method)
    expect_lte(sum(flags$rows$flagged), 8)
    expect_equal(fl_outliers(ready_from(x * 7 - 1e4), method)$rows$flagged, flags$rows$flagged, info = method)
    expect_equal(fl_outliers(ready_from(x[300:1, ]), method)$rows$score, rev(flags$rows$score), info = method)
    expect_lte(sum(fl_outliers(fl_prepare(fl_demo("still_water")), method)$rows$flagged), 5)
  }
})

test_that("a density ratio sees a row beside a tight group that the distance does not", {
  tight <- random_table(60, 2, 1) * 0.05
  loose <- random_table(60, 2, 2) * 3 + 30
  x <- rbind(tight, loose, c(0.7, 0.7))
  expect_true(fl_outliers(ready_from(x), "density_ratio")$rows$flagged[121])
  expect_false(fl_outliers(ready_from(x), "neighbour_distance")$rows$flagged[121])
})

test_that("a share flags that share, ties included; scores stand in the rows' own order", {
  data <- fl_keep(fl_demo("icequakes"), distance > 0)
  ready <- fl_prepare(data, transform = "log")
  flags <- fl_outliers(ready, share = 0.05)
  expect_equal(sum(flags$rows$flagged, na.rm = TRUE), round(0.05 * nrow(ready$x)))
  expect_equal(which(!is.na(flags$rows$score)), ready$rows)
  expect_equal(flags$rows$id, data$table$event)
  expect_equal(min(flags$rows$score[flags$rows$flagged %in% TRUE]), flags$threshold)
  expect_equal(sum(fl_outliers(ready, share = 0)$rows$flagged, na.rm = TRUE), 0)
  expect_equal(sum(fl_outliers(ready_from(rep(c(1, 2), 30)), share = 0.1)$rows$flagged), 60)
})

test_that("flags can be set apart, and bad arguments are refused", {
  x <- random_table(100, 2, 1)
  x[50, ] <- 40
  data <- fl_data(as.data.frame(x))
  flags <- fl_outliers(fl_prepare(data))
  expect_equal(which(!is.na(fl_set_apart(data, flags, "far")$apart)), 50)
  expect_match(format(flags), "1 row lies apart", all = FALSE)
  expect_error(fl_outliers(data, share = 2), class = "fjordline_error_argument")
  expect_error(fl_outliers(data, share = 0.1, threshold = 1), class = "fjordline_error_argument", regexp = "not both")
  expect_error(fl_outliers(data, neighbours = 99), class = "fjordline_error_argument", regexp = "101 rows")
  expect_error(fl_outliers(data, method = "density"), class = "fjordline_error_argument", regexp = "density_ratio")
  expect_error(fl_outliers(heaps()), class = "fjordline_error_argument", regexp = "fl_prepare")
})

test_that("shared values are no outliers, and a clump of rows is told", {
  five <- withr::with_seed(3, matrix(sample(5, 1500, TRUE, c(6, 3, 1, 1, 1)), 500))
  for (method in c("neighbour_distance", "density_ratio")) {
    expect_lte(mean(fl_outliers(ready_from(five), method)$rows$flagged), 0.01)
  }
  clump <- withr::with_seed(4, rbind(matrix(stats::rnorm(600), 300), matrix(stats::rnorm(40, 15, 0.2), 20)))
  found <- fl_outliers(ready_from(clump))
  expect_equal(found$together, 301:320)
  expect_false(any(found$rows$flagged[found$together]))
  expect_match(fl_facts(found), "20 rows lie apart together", all = FALSE)
  expect_match(fl_facts(fl_outliers(ready_from(clump[1:300, ]))), "A clump of more than 10 rows", all = FALSE)
  # enough neighbours, and each is flagged
  expect_true(all(fl_outliers(ready_from(clump), neighbours = 25)$rows$flagged[301:320]))
})
