# Every index against its definition, written out naively, on tables with duplicates, groups of one and noise.


centre_of <- function(x, group, g) colMeans(x[group == g, , drop = FALSE])

naive <- list(
  davies_bouldin = function(x, group) {
    k <- max(group)
    s <- vapply(seq_len(k), function(g) mean(sqrt(rowSums(sweep(x[group == g, , drop = FALSE], 2, centre_of(x, group, g))^2))), 0)
    mean(vapply(seq_len(k), function(j) max(vapply(setdiff(seq_len(k), j), function(l) {
      (s[j] + s[l]) / sqrt(sum((centre_of(x, group, j) - centre_of(x, group, l))^2))
    }, 0)), 0))
  },
  xie_beni = function(x, group) {
    means <- t(vapply(seq_len(max(group)), function(g) centre_of(x, group, g), numeric(ncol(x))))
    naive_scatter(x, group) / (nrow(x) * min(dist(matrix(means, max(group))))^2)
  },
  pbm = function(x, group) {
    means <- matrix(t(vapply(seq_len(max(group)), function(g) centre_of(x, group, g), numeric(ncol(x)))), max(group))
    e <- sum(sqrt(rowSums((x - means[group, , drop = FALSE])^2)))
    one <- sum(sqrt(rowSums(sweep(x, 2, colMeans(x))^2)))
    (one / e * max(dist(means)) / max(group))^2
  },
  ratkowsky_lance = function(x, group) {
    share <- vapply(seq_len(ncol(x)), function(j) {
      total <- sum((x[, j] - mean(x[, j]))^2)
      1 - sum((x[, j] - ave(x[, j], group))^2) / total
    }, 0)
    mean(sqrt(share)) / sqrt(max(group))
  },
  generalized_dunn = function(x, group) {
    d <- distances_of(x)
    k <- max(group)
    apart <- min(vapply(seq_len(k - 1), function(a) min(vapply((a + 1):k, function(b) mean(d[group == a, group == b]), 0)), 0))
    wide <- max(vapply(seq_len(k), function(g) {
      2 * mean(sqrt(rowSums(sweep(x[group == g, , drop = FALSE], 2, centre_of(x, group, g))^2)))
    }, 0))
    apart / wide
  },
  silhouette = function(x, group) mean(naive_silhouette(x, group)),
  dunn = function(x, group) {
    d <- distances_of(x)
    same <- outer(group, group, `==`)
    min(d[!same]) / max(d[same])
  },
  c_index = function(x, group) {
    pairs <- pairs_in(x, group)
    within <- sum(pairs$same)
    (sum(pairs$d[pairs$same]) - sum(sort(pairs$d)[seq_len(within)])) /
      (sum(rev(sort(pairs$d))[seq_len(within)]) - sum(sort(pairs$d)[seq_len(within)]))
  },
  gamma = function(x, group) {
    pairs <- pairs_in(x, group)
    sign <- sign(outer(pairs$d[!pairs$same], pairs$d[pairs$same], `-`))
    (sum(sign > 0) - sum(sign < 0)) / sum(sign != 0)
  },
  point_biserial = function(x, group) {
    pairs <- pairs_in(x, group)
    cor(pairs$d, as.numeric(!pairs$same))
  },
  mcclain_rao = function(x, group) {
    pairs <- pairs_in(x, group)
    mean(pairs$d[pairs$same]) / mean(pairs$d[!pairs$same])
  },
  ball_hall = function(x, group) {
    mean(vapply(seq_len(max(group)), function(g) naive_scatter(x[group == g, , drop = FALSE], rep(1, sum(group == g))) / sum(group == g), 0))
  },
  aic = function(x, group) {
    n <- nrow(x)
    d <- ncol(x)
    k <- max(group)
    variance <- naive_scatter(x, group) / (d * (n - k))
    sizes <- tabulate(group)
    -2 * (sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2) + 2 * (k - 1 + k * d + 1)
  },
  dbcv = function(x, group) naive_dbcv(x, group, nrow(x))
)

pairs_in <- function(x, group) {
  d <- distances_of(x)
  above <- upper.tri(d)
  list(d = d[above], same = outer(group, group, `==`)[above])
}

# Moulavi et al. (2014), by all edges in order.
naive_dbcv <- function(x, group, rows) {
  d <- distances_of(x)
  k <- max(group)
  core <- vapply(seq_len(nrow(x)), function(i) {
    others <- setdiff(which(group == group[i]), i)
    if (length(others) == 0 || any(d[i, others] == 0)) 0 else mean(d[i, others]^-ncol(x))^(-1 / ncol(x))
  }, 0)
  reach <- pmax(outer(core, core, pmax), d)
  trees <- lapply(seq_len(k), function(g) {
    inside <- which(group == g)
    edges <- if (length(inside) > 1) t(combn(inside, 2)) else matrix(0, 0, 2)
    edges <- edges[order(reach[edges], d[edges], edges[, 1], edges[, 2]), , drop = FALSE]
    part <- seq_along(group)
    kept <- matrix(0, 0, 2)
    for (e in seq_len(nrow(edges))) {
      ends <- part[edges[e, ]]
      if (ends[1] == ends[2]) next
      part[part == ends[2]] <- ends[1]
      kept <- rbind(kept, edges[e, ])
    }
    inner <- inside[tabulate(kept, nrow(x))[inside] > 1]
    between <- kept[, 1] %in% inner & kept[, 2] %in% inner
    list(inner = if (length(inner) > 0) inner else inside,
         sparse = if (any(between)) max(reach[kept[between, , drop = FALSE]]) else max(0, reach[kept]))
  })
  validity <- vapply(seq_len(k), function(g) {
    if (sum(group == g) < 2) return(0)
    apart <- min(vapply(setdiff(seq_len(k), g), function(h) min(reach[trees[[g]]$inner, trees[[h]]$inner]), 0))
    (apart - trees[[g]]$sparse) / max(apart, trees[[g]]$sparse)
  }, 0)
  sum(tabulate(group) * validity) / rows
}

set_of <- function(x, ...) {
  groups <- list(...)
  fits <- lapply(groups, function(g) list(k = max(g), group = g, scatter = group_scatter(x, g)))
  index_set(x, fits[order(vapply(fits, `[[`, 0, "k"))])
}

value_of <- function(key, set) {
  scored <- score_set(set, all_indices()[key])
  scored$value
}

test_that("indices of one partition equal their definitions, with duplicates and a group of one", {
  for (seed in 1:8) {
    n <- 24 + seed
    x <- random_table(n, 1 + seed %% 4, seed)
    x[2:4, ] <- x[rep(1, 3), ]
    group <- withr::with_seed(seed, sample(rep_len(1:(2 + seed %% 3), n)))
    group[n] <- max(group) + 1L  # alone
    for (key in names(naive)) {
      expect_equal(value_of(key, set_of(x, as.integer(group))), naive[[key]](x, group), tolerance = 1e-10, info = paste(key, seed))
    }
  }
})

test_that("noise rows are left out of every index", {
  x <- random_table(30, 3, 4)
  group <- rep(1:3, 10)
  noisy <- replace(group, c(2, 9, 17), 0L)
  inside <- noisy > 0
  for (key in setdiff(names(naive), "dbcv")) {
    expect_equal(value_of(key, set_of(x, noisy)), naive[[key]](x[inside, ], group[inside]), tolerance = 1e-10, info = key)
  }
  expect_equal(value_of("dbcv", set_of(x, noisy)), naive_dbcv(x[inside, ], group[inside], 30), tolerance = 1e-10)
})

test_that("indices over a curve equal their definitions", {
  for (seed in 1:4) {
    x <- random_table(40, 2 + seed %% 2, seed)
    d <- ncol(x)
    sweep <- fl_sweep(ready_from(x), fl_method("kmeans", restarts = 3), k = 1:6,
                      indices = c("hartigan", "krzanowski_lai", "jump"))
    w <- vapply(1:7, function(k) sweep$fits[[which(sweep$cells$k == k)]]$objective, 0)
    value <- function(index) as.data.frame(sweep)$value[as.data.frame(sweep)$index == index]
    expect_equal(value("hartigan"), (w[1:6] / w[2:7] - 1) * (40 - 1:6 - 1), tolerance = 1e-10)
    fall <- c(NA, (1:6)^(2 / d) * w[1:6] - (2:7)^(2 / d) * w[2:7])
    expect_equal(value("krzanowski_lai"), ifelse(fall[1:6] > 0, abs(fall[1:6] / fall[2:7]), NA), tolerance = 1e-9)
    power <- (w / (40 * d))^(-d / 2)
    expect_equal(value("jump"), power[1:6] - c(0, power[1:5]), tolerance = 1e-10)
  }
})

test_that("the jump does not overflow in many columns, and abstains at the end of the sweep", {
  x <- random_heaps(60, 400, 3, sd = 3, seed = 2) * 1e-3
  sweep <- fl_sweep(ready_from(x), fl_method("kmeans", restarts = 3), k = 1:5, indices = "jump")
  expect_true(all(is.finite(as.data.frame(sweep)$value)))
  expect_equal(index_jump()$order(1:4, c(1, 2, 5, 3)), c(3, 4, 2, 1))
  expect_length(index_jump()$order(1:4, c(1, 2, 3, 5)), 0)
})

test_that("rules pick as their papers say", {
  expect_equal(index_hartigan()$order(1:4, c(300, 12, 8, 2)), c(3, 2, 4, 1))
  expect_length(index_hartigan()$order(1:3, c(300, 40, 12)), 0)
  # gap: the smallest count no worse than the next less its standard error
  expect_equal(gap_order(1:4, c(0.1, 0.5, 0.52, 0.4), c(0.05, 0.05, 0.05, 0.05)), c(2, 3, 4, 1))
  expect_equal(gap_order(1:2, c(0.5, 0.4), c(0, 0))[1], 1)
  expect_length(gap_order(1:3, c(0.1, 0.3, 0.6), c(0.01, 0.01, 0.01)), 0)
  strength <- index_prediction_strength()$order
  expect_equal(strength(1:4, c(1, 0.9, 0.79, 0.3), c(0, 0.02, 0.02, 0.02))[1], 3)
  expect_equal(strength(1:3, c(1, 0.4, 0.3), rep(0.01, 3))[1], 1)
  expect_equal(index_ball_hall()$order(1:5, c(10, 5, 4.5, 4.2, 4))[1], 2)
})

test_that("indices that have no meaning for one group abstain there, and say so", {
  x <- random_table(20, 2, 1)
  scored <- score_set(set_of(x, rep(1L, 20), rep(1:2, 10)), all_indices())
  one <- scored[scored$k == 1, ]
  expect_true(all(nzchar(one$reason[is.na(one$value)])))
  expect_setequal(one$index[!is.na(one$value)], c("aic", "ball_hall", "bic", "hartigan", "jump"))
  same <- score_set(set_of(matrix(1, 6, 2), rep(1:2, 3)), all_indices())
  expect_false(any(is.nan(same$value)))
  expect_true(all(nzchar(same$reason[is.na(same$value)])))
})

test_that("pairwise indices follow the metric; given distances are taken as they are", {
  x <- random_table(40, 3, 9) + 2
  group <- rep(1:4, 10)
  y <- x / sqrt(rowSums(x^2))
  gaps <- list(manhattan = as.matrix(dist(x, "manhattan")), chebyshev = as.matrix(dist(x, "maximum")),
               cosine = 1 - tcrossprod(y))
  for (metric in names(gaps)) {
    d <- gaps[[metric]]
    diag(d) <- 0
    here <- pair_sums(x, list(group), metric)
    given <- pair_sums(d, list(group), "given")
    expect_equal(here$width, given$width, tolerance = 1e-9)
    expect_equal(here$between, given$between, tolerance = 1e-9)
    same <- outer(group, group, `==`)
    expect_equal(pair_ends(x, list(group), metric)[1, ], c(min(d[!same]), max(d[same])), tolerance = 1e-9)
  }
  expect_equal(pair_sums(x, list(group))$between[[1]][1, 2], sum(distances_of(x)[group == 1, group == 2]), tolerance = 1e-12)
})

test_that("sums over pairs are the same bits for any number of threads, at awkward sizes", {
  for (n in c(2, 15, 16, 17, 255, 256, 257, 300, 800)) {
    x <- random_table(n, 3, n)
    group <- as.integer(rep_len(1:3, n))
    one <- pair_sums_kernel(x, cbind(group), 3L, "euclidean", 1L)
    two <- pair_sums_kernel(x, cbind(group), 3L, "euclidean", 2L)
    expect_identical(one, two)
    if (n < 301 && n > 3) expect_equal(one$width[, 1], naive_silhouette(x, group), tolerance = 1e-10)
  }
})

test_that("above their limits indices are sampled, approximate or silent, and this is said", {
  x <- random_heaps(31000, 2, 3, sd = 8, seed = 3)
  fit <- fl_partition(ready_from(x), fl_method("kmeans", restarts = 1), k = 3)
  score <- fl_score(fit, c("silhouette", "dunn", "c_index", "generalized_dunn"))
  expect_match(score$reason[score$index == "dunn"], "above 10,000 rows")
  expect_match(fl_facts(score), "Silhouette: from distances to the centres", all = FALSE)
  expect_match(fl_facts(score), "C_index and generalized_dunn: on an even sample of 3,000 rows", all = FALSE)
  group <- fl_labels(fit)
  means <- fit$centres
  a <- sqrt(rowSums((x - means[group, ])^2))
  b <- apply(vapply(1:3, function(g) ifelse(group == g, Inf, sqrt(rowSums(sweep(x, 2, means[g, ])^2))), numeric(nrow(x))), 1, min)
  expect_equal(score$value[score$index == "silhouette"], mean((b - a) / pmax(a, b)), tolerance = 1e-10)
})
