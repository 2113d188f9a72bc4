run <- function(x, k, ..., seed = 1) fit_method(fl_method("kmeans", ...), x, k, seed)

test_that("the best of 50 restarts is the exact optimum of small tables, found by trying every partition", {
  for (seed in 1:40) {
    n <- 5 + seed %% 4
    k <- 2 + seed %% 2
    x <- random_table(n, 1 + seed %% 3, seed)
    if (seed %% 5 == 0) x[2, ] <- x[1, ]
    best <- min(vapply(all_partitions(n, k), function(g) naive_scatter(x, g), 0))
    expect_equal(run(x, k, restarts = 50, seed = seed)$objective, best, tolerance = 1e-9)
  }
})

test_that("W, the centres and the sizes are those of the labels", {
  x <- random_table(80, 3, 2)
  fit <- run(x, 4)
  expect_equal(fit$objective, naive_scatter(x, fit$group), tolerance = 1e-12)
  for (g in 1:4) expect_equal(unname(fit$centres[g, ]), unname(colMeans(x[fit$group == g, ])), tolerance = 1e-12)
  expect_false(is.unsorted(-tabulate(fit$group)))
})

test_that("a fit is a fixed point: no row nearer to another mean, no transfer of one row lowers W", {
  for (seed in 1:15) {
    x <- random_table(40, 2, 100 + seed)
    fit <- run(x, 3 + seed %% 4, restarts = 2, seed = seed)
    expect_true(fit$converged)
    gaps <- apply(fit$centres, 1, function(m) apply(x, 1, naive_distance, b = m))
    expect_true(all(gaps[cbind(1:40, fit$group)] <= apply(gaps, 1, min) + 1e-9))
    movable <- which(tabulate(fit$group)[fit$group] > 1)
    after <- vapply(movable,
                    function(i) min(vapply(seq_len(fit$k), function(g) naive_scatter(x, replace(fit$group, i, g)), 0)),
                    0)
    expect_gte(min(after), fit$objective * (1 - 1e-9))
  }
})

test_that("the same seed gives the same groups, whatever the session drew, and the session's state is untouched", {
  x <- random_table(100, 3, 9)
  set.seed(42)
  before <- .Random.seed
  first <- run(x, 5, seed = 7319)
  expect_identical(.Random.seed, before)
  runif(10)
  expect_identical(run(x, 5, seed = 7319)$group, first$group)
  rm(.Random.seed, envir = globalenv())
  run(x, 5, seed = 7319)
  expect_false(exists(".Random.seed", globalenv()))
})

test_that("seeds matter where there is more than one optimum", {
  x <- random_table(200, 5, 10)
  w <- vapply(1:10, function(s) run(x, 8, restarts = 1, seed = s)$objective, 0)
  expect_gt(length(unique(round(w, 6))), 1)
})

test_that("permuting rows renames nothing, shifting and scaling change only the units", {
  x <- as.matrix(heaps()[2:3])
  fit <- run(x, 3)
  shuffled <- withr::with_seed(3, sample(nrow(x)))
  expect_identical(run(x[shuffled, ], 3)$group, fit$group[shuffled])
  expect_identical(run(x + 1e8, 3)$group, fit$group)
  expect_equal(run(x * 7, 3)$objective, 49 * fit$objective, tolerance = 1e-10)
})

test_that("both seedings reach the same optimum on separated groups", {
  x <- as.matrix(heaps()[2:3])
  expect_identical(run(x, 3, seeding = "rows")$group, run(x, 3, seeding = "spread")$group)
})

test_that("edges: one group, as many groups as rows, one column, duplicates, one row", {
  x <- random_table(6, 2, 4)
  expect_equal(run(x, 1)$group, rep(1L, 6))
  expect_equal(run(x, 1)$objective, total_scatter(x), tolerance = 1e-12)
  expect_equal(sort(run(x, 6)$group), 1:6)
  expect_equal(run(x, 6)$objective, 0, tolerance = 1e-20)
  expect_equal(sort(tabulate(run(cbind(a = c(1, 1, 1, 8, 8)), 2)$group)), c(2, 3))
  expect_equal(run(cbind(a = 5), 1)$group, 1L)
  many <- x[rep(1:3, each = 30), ]
  expect_equal(run(many, 3)$objective, 0, tolerance = 1e-20)
})

test_that("groups that empty are refilled: k near the number of distinct rows always gives k groups", {
  for (seed in 1:20) {
    x <- random_table(12, 2, seed)[rep(1:12, times = c(rep(9, 6), rep(1, 6))), ]
    for (seeding in c("rows", "spread")) {
      fit <- run(x, 11, seeding = seeding, restarts = 1, seed = seed)
      expect_equal(fit$k, 11L)
      expect_true(all(tabulate(fit$group, 11) > 0))
    }
  }
})

test_that("more groups than distinct rows is an error that says how many there are", {
  x <- rbind(c(1, 1), c(1, 1), c(2, 2))
  expect_error(run(x, 3), class = "fjordline_error_count", regexp = "only 2 rows differ")
})

test_that("a restart that does not settle says so", {
  x <- random_table(400, 2, 8)
  fit <- run(x, 12, restarts = 1, max_rounds = 1)
  expect_false(fit$converged)
  expect_match(fit$notes, "max_rounds", all = FALSE)
})

test_that("restarts that reached the best W are counted", {
  fit <- run(as.matrix(heaps()[2:3]), 3, restarts = 10)
  expect_equal(fit$restarts$tried, 10)
  expect_true(fit$restarts$reached >= 1 && fit$restarts$reached <= 10)
  expect_gte(fit$restarts$worst, fit$objective)
})

test_that("new rows go to the nearest centre, ties to the lower number", {
  centres <- rbind(c(0, 0), c(10, 0))
  placed <- nearest_kernel(rbind(c(1, 0), c(9, 0), c(5, 0)), centres)
  expect_equal(placed$group, c(1, 2, 1))
  expect_equal(placed$distance, c(1, 1, 5))
})

test_that("bad settings are refused by name", {
  expect_error(fl_method("kmeans", restarts = 0), class = "fjordline_error_argument")
  expect_error(fl_method("kmeans", seeding = "spraed"), class = "fjordline_error_method", regexp = "spread")
  expect_error(fl_method("kmean"), class = "fjordline_error_method", regexp = "kmeans")
})

test_that("a user can stop a long fit: it returns within a second or two", {
  skip_on_os("windows")
  said <- withr::local_tempfile()
  script <- withr::local_tempfile(fileext = ".R")
  writeLines(c(
    paste0(".libPaths(", paste(deparse(.libPaths()), collapse = ""), ")"),
    "x <- matrix(sin(seq_len(3e6)), ncol = 10)",
    paste0("say <- function(...) cat(..., '\\n', file = '", said, "', append = TRUE)"),
    "say(Sys.getpid())",
    "tryCatch(fjordline:::kmeans_kernel(x, 40L, 'spread', 100000L, 1000L, 1), interrupt = function(e) say('stopped'))"
  ), script)
  system2(file.path(R.home("bin"), "Rscript"), shQuote(script), wait = FALSE, stdout = FALSE, stderr = FALSE)
  lines <- function() if (file.exists(said)) readLines(said) else character()
  wait_for <- function(n, seconds) {
    end <- Sys.time() + seconds
    while (length(lines()) < n && Sys.time() < end) Sys.sleep(0.05)
    length(lines()) >= n
  }
  expect_true(wait_for(1, 20))
  Sys.sleep(1)
  tools::pskill(as.integer(lines()[1]), tools::SIGINT)
  stopped <- wait_for(2, 3)
  tools::pskill(as.integer(lines()[1]), tools::SIGKILL)
  expect_true(stopped)
  expect_match(lines()[2], "stopped")
})
