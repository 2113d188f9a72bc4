run <- function(x, k, ..., seed = 1) fit_method(fl_method("fuzzy", ...), x, k, seed)

# Memberships and objective from the formulas, one cell at a time.
naive_memberships <- function(x, centres, m) {
  t(apply(x, 1, function(row) {
    d <- apply(centres, 1, function(c) sum((row - c)^2))
    if (any(d == 0)) return((d == 0) / sum(d == 0))
    vapply(seq_along(d), function(g) 1 / sum((d[g] / d)^(1 / (m - 1))), 0)
  }))
}

test_that("a fit is a fixed point of the two formulas, and the objective is theirs", {
  x <- random_heaps(150, 3, 3, sd = 2, seed = 1)
  for (m in c(1.5, 2, 3)) {
    fit <- run(x, 3, fuzziness = m, tolerance = 1e-10, max_rounds = 5000)
    u <- naive_memberships(x, fit$centres, m)
    expect_equal(fuzzy_memberships(fit, x), u, tolerance = 1e-9)
    means <- t(u^m) %*% x / colSums(u^m)
    expect_equal(unname(fit$centres), unname(means), tolerance = 1e-6)
    squares <- vapply(1:3, function(g) rowSums(sweep(x, 2, fit$centres[g, ])^2), numeric(150))
    expect_equal(fit$objective, sum(u^m * squares), tolerance = 1e-9)
    expect_equal(fit$group, max.col(u, ties.method = "first"))
    expect_true(fit$converged)
  }
})

test_that("near 1 the memberships are crisp and the centres those of k-means", {
  x <- as.matrix(heaps()[2:3])
  fit <- run(x, 3, fuzziness = 1.05)
  crisp <- fit_method(fl_method("kmeans"), x, 3, 1)
  expect_identical(fit$group, crisp$group)
  expect_equal(fit$centres, crisp$centres, tolerance = 1e-3)
})

test_that("memberships add up to one, and a row on a centre belongs to it alone", {
  centres <- rbind(c(0, 0), c(10, 0), c(10, 0))
  u <- memberships_kernel(rbind(c(0, 0), c(10, 0), c(5, 0)), centres, 2, 1L)
  expect_equal(u, rbind(c(1, 0, 0), c(0, 0.5, 0.5), c(1, 1, 1) / 3))
})

test_that("shifting, scaling and permuting rows change nothing but the units; threads change nothing", {
  x <- random_heaps(300, 2, 3, sd = 4, seed = 4)
  fit <- run(x, 3)
  shuffled <- withr::with_seed(1, sample(300))
  expect_identical(run(x[shuffled, ], 3)$group, fit$group[shuffled])
  expect_identical(run(x + 1e8, 3)$group, fit$group)
  expect_equal(run(x * 7, 3)$objective, 49 * fit$objective, tolerance = 1e-6)
  one <- withr::with_options(list(fjordline.threads = 1), run(x, 3))
  two <- withr::with_options(list(fjordline.threads = 2), run(x, 3))
  expect_identical(one$centres, two$centres)
})

test_that("partitions carry memberships: of the table, of new rows, after saving; crisp methods have none", {
  quakes <- fl_demo("icequakes")
  groups <- fl_partition(fl_prepare(quakes, transform = "log"), "fuzzy", k = 3)
  shares <- predict(groups, quakes, type = "membership")
  expect_equal(dim(shares), c(nrow(quakes$table), 3))
  whole <- !is.na(fl_labels(groups))
  expect_equal(unname(rowSums(shares[whole, ])), rep(1, sum(whole)))
  expect_true(all(is.na(shares[!whole, ])))
  tidy <- as.data.frame(groups)
  expect_equal(tidy$membership[whole], unname(apply(shares[whole, ], 1, max)))
  expect_equal(max.col(shares[whole, ]), fl_labels(groups)[whole])
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_identical(predict(fl_load(file), quakes, type = "membership"), shares)
  crisp <- fl_partition(fl_prepare(quakes, transform = "log"), k = 3)
  expect_error(predict(crisp, quakes, type = "membership"), class = "fjordline_error_argument", regexp = "memberships")
  expect_false("membership" %in% names(as.data.frame(crisp)))
  expect_match(fl_facts(groups), "Partition coefficient", all = FALSE)
})

test_that("a group that is nobody's first is left out and said; too many groups are refused", {
  x <- cbind(a = c(0, 0, 0, 0, 10, 10, 10, 10.5))
  fit <- run(x, 3, fuzziness = 8)
  expect_lte(fit$k, 3)
  if (fit$k < 3) expect_match(fit$notes, "left out", all = FALSE)
  expect_error(run(x, 4), class = "fjordline_error_count")
  expect_equal(run(x, 1)$k, 1)
  expect_error(fl_method("fuzzy", fuzziness = 1), class = "fjordline_error_argument")
})
