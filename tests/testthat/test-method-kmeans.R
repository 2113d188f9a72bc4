run <- function(x, k, ..., seed = 1) fit_method(fl_method("kmeans", ...), x, k, seed)

# W of every partition there is: squares less those of the groups' sums.
least_of_all <- local({
  known <- list()
  function(x, k) {
    key <- paste(nrow(x), k)
    if (is.null(known[[key]])) known[[key]] <<- do.call(rbind, all_partitions(nrow(x), k))
    explained <- 0
    for (g in seq_len(k)) {
      inside <- known[[key]] == g
      explained <- explained + rowSums((inside %*% x)^2) / rowSums(inside)
    }
    min(sum(x^2) - explained)
  }
})

test_that("the best of 50 restarts is the exact optimum of small tables, found by trying every partition", {
  for (seed in 1:300) {
    n <- if (seed %% 100 == 0) 10 else 5 + seed %% 3
    k <- if (seed == 100) 4 else 2 + seed %% 3
    x <- random_table(n, 1 + seed %% 3, seed)
    if (seed %% 5 == 0) x[2, ] <- x[1, ]
    expect_equal(run(x, k, restarts = 50, seed = seed)$objective, least_of_all(x, k), tolerance = 1e-9)
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
  expect_error(run(x, 3), class = "fjordline_error_count", regexp = "only 2 distinct rows")
})

test_that("a restart that does not settle says so", {
  x <- random_table(400, 2, 8)
  fit <- run(x, 12, restarts = 1, max_rounds = 1)
  expect_false(fit$converged)
  expect_match(fit$notes, "max_rounds", all = FALSE)
  for (most in 1:12) expect_lte(run(x, 12, restarts = 1, max_rounds = most)$rounds, most)
})

test_that("restarts that reached the best W are counted", {
  fit <- run(as.matrix(heaps()[2:3]), 3, restarts = 10)
  expect_equal(fit$restarts$tried, 10)
  expect_true(fit$restarts$reached >= 1 && fit$restarts$reached <= 10)
  expect_gte(fit$restarts$worst, fit$objective)
})

test_that("new rows go to the nearest centre, ties to the lower number", {
  centres <- rbind(c(0, 0), c(10, 0))
  placed <- nearest_kernel(rbind(c(1, 0), c(9, 0), c(5, 0)), centres, "euclidean", 1L)
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
    "how <- fjordline:::kmeans_how(fjordline::fl_method('kmeans', restarts = 1e5, max_rounds = 1000)$settings, 1)",
    "say(Sys.getpid())",
    "tryCatch(fjordline:::kmeans_kernel(x, 40L, how, NULL, NULL), interrupt = function(e) say('stopped'))"
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

# The kernel with the ways of computing a round and the threads chosen.
kernel <- function(x, k, rounds = "automatic", threads = 1L, ..., seed = 1, starts = NULL, weights = NULL) {
  how <- kmeans_how(fl_method("kmeans", ...)$settings, seed, rounds)
  how$threads <- threads
  kmeans_kernel(x, as.integer(k), how, starts, weights)
}

test_that("plain and bounded rounds give the same bits, and so do one and two threads", {
  shapes <- list(c(6000, 3, 5), c(5000, 12, 7), c(9000, 16, 30), c(4500, 33, 4), c(5000, 2, 40))
  for (shape in shapes) {
    x <- random_heaps(shape[1], shape[2], shape[3], sd = 2, seed = shape[3])
    fits <- list(
      kernel(x, shape[3], "plain", 1L, restarts = 2), kernel(x, shape[3], "bounded", 1L, restarts = 2),
      kernel(x, shape[3], "bounded", 2L, restarts = 2), kernel(x, shape[3], "automatic", 2L, restarts = 2)
    )
    for (fit in fits[-1]) {
      expect_identical(fit$group, fits[[1]]$group)
      expect_identical(fit$centres, fits[[1]]$centres)
      expect_identical(fit$reached, fits[[1]]$reached)
    }
  }
})

test_that("the same holds for directions, with weights, and far from the origin", {
  x <- random_heaps(5000, 12, 6, sd = 1, seed = 4)
  w <- withr::with_seed(1, sample(c(0, 0.5, 1, 3), 5000, TRUE)) / 3
  for (metric in c("euclidean", "cosine", "correlation")) {
    plain <- kernel(x, 6, "plain", 1L, restarts = 1, metric = metric, weights = w)
    quick <- kernel(x, 6, "bounded", 2L, restarts = 1, metric = metric, weights = w)
    expect_identical(quick$group, plain$group)
    expect_identical(quick$objective, plain$objective)
  }
  expect_identical(kernel(x + 1e8, 6, "bounded")$group, kernel(x + 1e8, 6, "plain")$group)
})

test_that("a bounded fit of thousands of rows is a fixed point by plain arithmetic", {
  x <- random_heaps(5000, 10, 12, sd = 1.5, seed = 2)
  fit <- kernel(x, 12, "bounded", restarts = 1)
  expect_true(fit$converged)
  squares <- vapply(1:12, function(g) rowSums(sweep(x, 2, fit$centres[g, ])^2), numeric(5000))
  own <- squares[cbind(1:5000, fit$group)]
  expect_true(all(own <= apply(squares, 1, min) * (1 + 1e-9)))
  sizes <- tabulate(fit$group, 12)
  saved <- sizes[fit$group] / (sizes[fit$group] - 1) * own
  cost <- sweep(squares, 2, sizes / (sizes + 1), "*")
  cost[cbind(1:5000, fit$group)] <- Inf
  expect_true(all(saved - apply(cost, 1, min) <= 1e-9 * fit$objective))
  expect_equal(fit$objective, sum(own), tolerance = 1e-12)
})

test_that("groups a billion times closer together than the table is wide are still told apart", {
  x <- cbind(a = c(rep(0, 40), rep(1e9, 40), rep(1e9 + 1, 40)) + rep(c(0, 0.01), 60), b = rep(c(0, 0.1, 0.2), 40))
  fit <- run(x, 3)
  expect_equal(sort(unname(fit$centres[, 1])), c(0, 1e9, 1e9 + 1) + 0.005, tolerance = 1e-12)
  expect_equal(min(fit$centres[, 1]), 0.005, tolerance = 1e-12)
  expect_equal(tabulate(fit$group), c(40, 40, 40))
})

test_that("tiny, huge and denormal numbers, one column and n = k work by the same rule", {
  x <- as.matrix(heaps()[2:3])
  wanted <- run(x, 3)$group
  expect_identical(run(x * 1e-150, 3)$group, wanted)
  expect_identical(run(x * 1e140, 3)$group, wanted)
  small <- cbind(a = c(1, 2, 50, 51, 52) * 5e-324)
  expect_equal(tabulate(run(small, 2)$group), c(3, 2))
  many <- random_table(40, 3, 1)
  expect_equal(run(many, 40, restarts = 1)$objective, 0)
  expect_equal(run(cbind(a = c(3, 1, 2)), 3)$k, 3)
})

test_that("every seeding is deterministic, reaches the optimum of separated groups, and gives k groups", {
  x <- random_heaps(400, 4, 4, sd = 6, seed = 5)
  best <- run(x, 4, restarts = 50)
  for (seeding in c("spread", "rows", "partition", "splits")) {
    fit <- run(x, 4, seeding = seeding, restarts = 25)
    expect_equal(fit$objective, best$objective, tolerance = 1e-9)
    expect_identical(run(x, 4, seeding = seeding, restarts = 25)$group, fit$group)
    expect_equal(run(x, 37, seeding = seeding, restarts = 1)$k, 37)
  }
  splits <- run(x, 6, seeding = "splits", seed = 1)
  expect_identical(run(x, 6, seeding = "splits", seed = 2)$group, splits$group)
  expect_equal(splits$restarts$tried, 1)
})

test_that("the splits of the deterministic seeding are those of its definition", {
  x <- random_heaps(60, 3, 3, sd = 3, seed = 8)
  group <- rep(1L, 60)
  for (made in 2:4) {
    worst <- which.max(vapply(seq_len(made - 1), function(g) naive_scatter(x[group == g, , drop = FALSE],
                                                                           rep(1, sum(group == g))), 0))
    mine <- which(group == worst)
    widest <- which.max(apply(x[mine, ], 2, var))
    group[mine[x[mine, widest] > mean(x[mine, widest])]] <- made
  }
  starts <- apply(x, 2, function(v) tapply(v, group, mean))
  from_splits <- kernel(x, 4, restarts = 1, seeding = "splits", max_rounds = 1)
  expect_identical(from_splits$group, kernel(x, 4, starts = starts, max_rounds = 1)$group)
})

test_that("spread seeding draws rows in proportion to their squared distance, and never a duplicate of a start", {
  x <- cbind(a = c(rep(0, 50), 10, 30))
  expect_equal(sort(tabulate(run(x, 3, restarts = 1)$group)), c(1, 1, 50))
  expect_equal(run(x, 3, restarts = 1)$objective, 0)
})

test_that("given starts are followed, in original units, and a partition can be one", {
  water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  first <- fl_partition(water, k = 4)
  again <- fl_partition(water, fl_method("kmeans", starts = first), k = 4)
  expect_identical(again$group, first$group)
  expect_equal(again$restarts$tried, 1)
  as_table <- first$groups[names(first$groups) %in% water$features]
  expect_identical(fl_partition(water, fl_method("kmeans", starts = as_table), k = 4)$group, first$group)
  expect_error(fl_partition(water, fl_method("kmeans", starts = first), k = 5), class = "fjordline_error_count",
               regexp = "needs 5 starts")
  expect_error(fl_partition(water, fl_method("kmeans", starts = as_table[-1]), k = 4),
               class = "fjordline_error_column")
  expect_match(fl_steps(again), "starts = starts", all = FALSE, fixed = TRUE)
})

test_that("cosine: rows of length one, mean directions, the sum of 1 - cosine, and its own fixed point", {
  x <- random_heaps(300, 4, 3, sd = 2, seed = 3)
  fit <- run(x, 3, metric = "cosine")
  unit <- x / sqrt(rowSums(x^2))
  sums <- rowsum(unit, fit$group)
  directions <- sums / sqrt(rowSums(sums^2))
  expect_equal(unname(fit$model$directions), unname(directions), tolerance = 1e-10)
  expect_equal(fit$objective, sum(1 - rowSums(unit * directions[fit$group, ])), tolerance = 1e-10)
  expect_equal(fit$group, unname(max.col(unit %*% t(directions))))
  loss <- function(g) nrow(x) - sum(sqrt(rowSums(rowsum(unit, g)^2)))
  expect_equal(loss(fit$group), fit$objective, tolerance = 1e-10)
  after <- vapply(1:300, function(i) min(vapply(1:3, function(g) loss(replace(fit$group, i, g)), 0)), 0)
  expect_gte(min(after), fit$objective * (1 - 1e-9))
  expect_identical(run(x * withr::with_seed(1, runif(300, 0.1, 9)), 3, metric = "cosine")$group, fit$group)
})

test_that("correlation: cosine of rows without their mean, blind to the level and scale of a profile", {
  x <- random_heaps(200, 6, 3, sd = 2, seed = 6)
  fit <- run(x, 3, metric = "correlation")
  centred <- x - rowMeans(x)
  expect_identical(fit$group, run(centred, 3, metric = "cosine")$group)
  moved <- x * withr::with_seed(1, runif(200, 0.5, 5)) + withr::with_seed(2, rnorm(200, sd = 50))
  expect_identical(run(moved, 3, metric = "correlation")$group, fit$group)
  placed <- assign_kmeans(list(model = fit$model), moved)
  expect_identical(placed$group, fit$group)
  expect_equal(placed$distance[1], 1 - cor(moved[1, ], fit$model$directions[fit$group[1], ]), tolerance = 1e-9)
})

test_that("rows without a direction are refused by their number", {
  x <- random_table(20, 3, 2)
  x[7, ] <- 0
  expect_error(run(x, 2, metric = "cosine"), class = "fjordline_error_values", regexp = "row 7")
  x[7, ] <- 0.1
  expect_error(run(x, 2, metric = "correlation"), class = "fjordline_error_values", regexp = "row 7")
  expect_equal(run(x, 2, metric = "cosine")$k, 2)
  same <- rbind(c(1, 2), c(2, 4), c(3, 1))
  expect_error(run(same, 3, metric = "cosine"), class = "fjordline_error_count", regexp = "only 2 distinct directions")
})

test_that("a weight of two is two rows, a weight of zero is none that counts", {
  x <- random_heaps(80, 3, 3, sd = 2, seed = 9)
  w <- rep(c(1, 2, 0, 3), 20)
  weighted <- kernel(x, 4, weights = w / 3, restarts = 50)
  copied <- kernel(x[rep(1:80, w), ], 4, restarts = 50)
  expect_equal(weighted$objective * 3, copied$objective, tolerance = 1e-10)
  expect_equal(weighted$centres[order(weighted$centres[, 1]), ], copied$centres[order(copied$centres[, 1]), ],
               tolerance = 1e-10)
  squares <- vapply(1:4, function(g) rowSums(sweep(x, 2, weighted$centres[g, ])^2), numeric(80))
  expect_equal(weighted$group[w == 0], max.col(-squares)[w == 0])
  for (metric in c("cosine", "correlation")) {
    expect_equal(kernel(x, 3, weights = w / 3, restarts = 30, metric = metric)$objective * 3,
                 kernel(x[rep(1:80, w), ], 3, restarts = 30, metric = metric)$objective, tolerance = 1e-9)
  }
  expect_error(run(x, 70, row_weights = as.double(w > 0)), class = "fjordline_error_count", regexp = "positive weight")
})

test_that("row weights come from a column or a vector, and wrong ones are refused", {
  water <- fl_prepare(fl_demo("water_samples"))
  depth <- fl_demo("water_samples")$table$depth
  by_name <- fl_partition(water, fl_method("kmeans", row_weights = "depth"), k = 3)
  expect_identical(fl_partition(water, fl_method("kmeans", row_weights = depth), k = 3)$group, by_name$group)
  expect_false(identical(fl_partition(water, k = 3)$group, by_name$group))
  try_weights <- function(w) fl_partition(water, fl_method("kmeans", row_weights = w), k = 3)
  expect_error(try_weights("dept"), class = "fjordline_error_column", regexp = "depth")
  expect_error(try_weights("station"), class = "fjordline_error_argument")
  expect_error(try_weights(1:3), class = "fjordline_error_argument")
  expect_error(try_weights(-depth), class = "fjordline_error_values", regexp = "Row 1")
  expect_error(try_weights(0 * depth), class = "fjordline_error_values", regexp = "all be 0")
})

test_that("evolution finds a W at least as small as plain restarts do with as many descents", {
  x <- random_heaps(1500, 2, 40, sd = 6, seed = 7)
  plain <- run(x, 40, restarts = 40)
  bred <- run(x, 40, restarts = 40, search = "evolution")
  expect_lt(bred$objective, plain$objective)
  expect_equal(bred$restarts$tried, 40)
  expect_equal(bred$objective, naive_scatter(x, bred$group), tolerance = 1e-10)
  expect_identical(run(x, 40, restarts = 40, search = "evolution")$group, bred$group)
  expect_identical(kernel(x, 40, threads = 2L, restarts = 40, search = "evolution")$reached,
                   kernel(x, 40, threads = 1L, restarts = 40, search = "evolution")$reached)
  expect_equal(run(x[1:50, ], 1, search = "evolution")$k, 1)
})

test_that("restarts shared among threads reach the same objectives, in the same order", {
  x <- random_table(300, 4, 3)
  expect_identical(kernel(x, 6, threads = 2L, restarts = 21)$reached, kernel(x, 6, threads = 1L, restarts = 21)$reached)
  withr::local_options(fjordline.threads = 1)
  expect_equal(thread_count(), 1L)
  withr::local_options(fjordline.threads = "many")
  expect_error(thread_count(), class = "fjordline_error_argument")
})

test_that("a fit works in a forked process after threads were used here", {
  skip_on_os("windows")
  x <- random_heaps(6000, 10, 5, sd = 2, seed = 1)
  here <- kernel(x, 5, threads = 2L, restarts = 1)$group
  job <- parallel::mcparallel(kernel(x, 5, threads = 2L, restarts = 1)$group)
  there <- parallel::mccollect(job, wait = TRUE, timeout = 30)[[1]]
  expect_identical(there, here)
})

test_that("directions that hardly differ still settle, and no transfer would make the sums of directions longer", {
  settled <- vapply(1:30, function(s) {
    run(random_table(50, 6, s) + 1e8, 7, restarts = 1, metric = "cosine", seed = s)$converged
  }, NA)
  expect_true(all(settled))
  x <- random_table(60, 4, 3) + 1
  fit <- run(x, 5, restarts = 1, metric = "cosine")
  y <- x / sqrt(rowSums(x^2))
  lengths <- function(group) sum(vapply(1:5, function(g) sqrt(sum(colSums(y[group == g, , drop = FALSE])^2)), 0))
  expect_equal(fit$objective, nrow(x) - lengths(fit$group))
  for (i in seq_len(nrow(x))) {
    for (g in 1:5) expect_lte(lengths(replace(fit$group, i, g)), lengths(fit$group) + 1e-9)
  }
})
