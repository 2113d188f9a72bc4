# Methods that go by density, against their definitions done by brute force.

naive_dbscan <- function(x, radius, min_rows) {
  near <- distances_of(x) <= radius
  core <- rowSums(near) >= min_rows
  group <- integer(nrow(x))
  for (i in which(core)) {
    if (group[i] > 0) next
    group[i] <- max(group) + 1L
    open <- i
    while (length(open) > 0) {
      new <- which(core & near[open[1], ] & group == 0)
      group[new] <- group[i]
      open <- c(open[-1], new)
    }
  }
  for (i in which(!core)) {
    able <- which(core & near[i, ])
    if (length(able) > 0) group[i] <- group[able[order(distances_of(x)[i, able], able)[1]]]
  }
  list(group = group, core = unname(core))
}

test_that("dbscan is its definition", {
  for (seed in 1:60) {
    x <- withr::with_seed(seed, matrix(rnorm(sample(1:150, 1) * 2), ncol = 2))
    if (seed %% 3 == 0) x <- round(x * 2)  # distances that lie on the radius
    radius <- if (seed %% 3 == 0) c(1, 2, sqrt(2))[seed %% 9 / 3 + 1] else 0.1 + seed / 60
    min_rows <- seed %% 7 + 1
    fit <- dbscan_kernel(x, radius, min_rows, 2L)
    naive <- naive_dbscan(x, radius, min_rows)
    expect_identical(fit$core, naive$core)
    expect_identical(fit$group, naive$group)
  }
  wide <- random_table(120, 9, 1)
  expect_identical(dbscan_kernel(wide, 3, 4L, 1L)$group, naive_dbscan(wide, 3, 4)$group)
})

test_that("rows within the radius are within it to the last digit", {
  x <- random_table(80, 3, 5)
  for (radius in sort(distances_of(x)[1, ])[c(3, 20, 60)]) {
    expect_identical(dbscan_kernel(x, radius, 5L, 1L)[1:2], naive_dbscan(x, radius, 5)[1:2])
  }
})

# The definition: cut all edges longer than a distance, from the longest distance downwards.
naive_hdbscan <- function(x, min_rows, min_size) {
  n <- nrow(x)
  d <- distances_of(x)
  core <- apply(d, 1, function(row) sort(row)[min(min_rows, n)])
  reach <- pmax(outer(core, core, pmax), d)
  diag(reach) <- 0
  least <- min(reach[reach > 0])
  reach[row(reach) != col(reach)] <- pmax(reach[row(reach) != col(reach)], least)
  parts_below <- function(rows, distance) {
    left <- rows
    parts <- list()
    while (length(left) > 0) {
      part <- left[1]
      repeat {
        more <- left[apply(reach[left, part, drop = FALSE] < distance, 1, any) | left %in% part]
        if (length(more) == length(part)) break
        part <- more
      }
      parts <- c(parts, list(part))
      left <- setdiff(left, part)
    }
    parts
  }
  # stability and chosen groups of a branch born at `birth`
  branch <- function(rows, birth, root) {
    now <- rows
    stability <- 0
    for (distance in sort(unique(reach[rows, rows][reach[rows, rows] > 0]), decreasing = TRUE)) {
      if (!any(reach[now, now] == distance) || length(now) < 2) next
      parts <- parts_below(now, distance)
      if (length(parts) == 1) next
      large <- Filter(function(part) length(part) >= min_size, parts)
      gone <- if (length(large) == 1) setdiff(now, large[[1]]) else now
      stability <- stability + length(gone) * (1 / distance - if (root) 0 else 1 / birth)
      if (length(large) == 1) {
        now <- large[[1]]
        next
      }
      if (length(large) == 0) break
      below <- lapply(large, branch, birth = distance, root = FALSE)
      total <- sum(vapply(below, `[[`, 0, "best"))
      if (root || stability < total) {
        return(list(best = total, groups = do.call(c, lapply(below, `[[`, "groups"))))
      }
      break
    }
    list(best = stability, groups = list(rows))
  }
  group <- integer(n)
  chosen <- branch(seq_len(n), Inf, TRUE)$groups
  for (g in seq_along(chosen)) group[chosen[[g]]] <- g
  group
}

test_that("hdbscan is its definition, ties included", {
  for (seed in 1:12) {
    x <- withr::with_seed(seed, rbind(matrix(rnorm(50, sd = 0.4), ncol = 2), matrix(rnorm(40), ncol = 2) + 3,
                                      matrix(runif(20, -3, 6), ncol = 2)))
    if (seed %% 3 == 0) x <- round(x * 2) / 2
    min_rows <- c(1, 3, 5)[seed %% 3 + 1]
    min_size <- c(4, 6)[seed %% 2 + 1]
    fit <- hdbscan_kernel(x, core_distance(x, min_rows), min_size, 2L)
    naive <- naive_hdbscan(x, min_rows, min_size)
    expect_identical(fit$group > 0, naive > 0)
    expect_true(same_grouping(fit$group, naive))
  }
})

test_that("the branch tree adds up", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  fit <- fl_partition(seals, "hdbscan")
  branches <- fit$model$branches
  rows <- fit$model$rows
  for (b in which(branches$parent > 0)) {
    own <- rows$branch %in% c(b, which(branches$parent == b))
    expect_lte(branches$end[b], branches$birth[b])
    expect_equal(branches$birth[b], branches$end[branches$parent[b]])
  }
  # a leaf's stability is the sum over its rows
  for (b in setdiff(which(branches$selected), branches$parent)) {
    leaves <- rows$leaves[rows$branch == b]
    expect_equal(branches$rows[b], length(leaves))
    expect_equal(branches$stability[b], sum(1 / leaves - 1 / branches$birth[b]), tolerance = 1e-10)
    expect_equal(max(rows$hold[rows$branch == b]), 1)
  }
  expect_equal(sum(branches$rows[branches$selected]), sum(fl_labels(fit) > 0))
  expect_equal(tabulate(fl_labels(fit)), branches$rows[match(seq_len(fit$k), branches$group)])
})

test_that("on curved groups with noise density finds what k-means does not", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  rand <- function(...) {
    measures <- as.data.frame(fl_agree(fl_partition(seals, ...)))
    measures$value[measures$measure == "adjusted_rand"]
  }
  expect_gt(rand("dbscan"), 0.9)
  expect_gt(rand("hdbscan"), 0.9)
  expect_lt(rand("kmeans", k = 6), 0.7)
})

test_that("the radius is suggested where the sorted distances turn up", {
  line <- c(rep(1, 50), seq(1, 1.2, length.out = 45), 3:7)
  expect_equal(turning_point(line), 95)
  expect_equal(turning_point(rep(2, 9)), 9)
  x <- random_heaps(300, 2, 3, sd = 8, seed = 2)
  fit <- fit_method(fl_method("dbscan"), x, NULL, 1)
  distance <- sort(core_distance(x, fit$model$min_rows))
  chord <- distance[1] + (distance[300] - distance[1]) * (0:299) / 299
  expect_equal(fit$model$radius, distance[which.max(chord - distance)])
  expect_equal(core_distance(x, 1), rep(0, 300))
  naive <- apply(distances_of(x), 1, function(row) sort(row)[6])
  expect_equal(core_distance(x, 6), unname(naive))
})

test_that("fitted rows are placed where they are, and far ones nowhere", {
  seals <- fl_demo("seal_haulouts")
  for (key in c("dbscan", "hdbscan")) {
    fit <- fl_partition(fl_prepare(seals), key)
    own <- fl_labels(fit)
    placed <- predict(fit, seals, reach = Inf)
    expect_identical(placed[own > 0], own[own > 0])
    away <- data.frame(east = 100, north = 100)
    expect_identical(suppressWarnings(predict(fit, away, reach = Inf)), 0L)
    file <- withr::local_tempfile(fileext = ".json")
    expect_identical(predict(fl_load(fl_save(fit, file)), seals, reach = Inf), placed)
  }
  strength <- predict(fit, seals, type = "membership")
  expect_true(all(rowSums(strength) <= 1 + 1e-12))
  expect_equal(rowSums(strength)[own > 0], fit$model$rows$hold[own > 0], tolerance = 1e-6)
})

test_that("mean shift climbs the density as written out", {
  x <- random_heaps(60, 2, 3, sd = 6, seed = 3)
  bandwidth <- 1.1
  ends <- t(apply(x, 1, function(at) {
    for (round in 1:2000) {
      weight <- exp(-colSums((t(x) - at)^2) / (2 * bandwidth^2))
      new <- colSums(weight * x) / sum(weight)
      if (sqrt(sum((new - at)^2)) < 1e-10) break
      at <- new
    }
    at
  }))
  fit <- mean_shift_kernel(x, bandwidth, 2000L, 2L)
  expect_equal(fit$modes[fit$group, ], unname(ends), tolerance = 1e-3)
  expect_true(same_grouping(fit$group, as.integer(factor(paste(round(ends[, 1], 2), round(ends[, 2], 2))))))
  # the reference bandwidth, written out
  d <- 2
  sd <- sqrt(mean(apply(x, 2, function(v) mean((v - mean(v))^2))))
  expect_equal(reference_bandwidth(x), sd * (4 / ((d + 4) * 60))^(1 / (d + 6)))
  few <- fit_method(fl_method("mean_shift", min_size = 70), x, NULL, 1)
  expect_true(few$k <= 1)
})

test_that("spectral axes are those of the similarities written out, in full and by Krylov spaces", {
  for (n in c(60, 350)) {
    x <- random_heaps(n, 2, 3, sd = 6, seed = 4)
    d <- distances_of(x)
    scale <- apply(d, 1, function(row) sort(row)[8])
    similarity <- exp(-d^2 / outer(scale, scale))
    diag(similarity) <- 0
    degree <- rowSums(similarity)
    wanted <- eigen(diag(1 / sqrt(degree)) %*% similarity %*% diag(1 / sqrt(degree)), symmetric = TRUE)
    axes <- spectral_axes(x, fl_method("spectral")$settings)
    expect_equal(axes$values, wanted$values[1:21], tolerance = 1e-6)
    # the same space is spanned
    expect_equal(abs(det(crossprod(axes$vectors[, 1:3], wanted$vectors[, 1:3]))), 1, tolerance = 1e-5)
  }
})

test_that("leading axes of large matrices are those of all axes, also where many eigenvalues are equal", {
  heaps <- withr::with_seed(5, matrix(rnorm(1200), 600))
  apart <- normalised_similarity(heaps + rep((1:12) * 100, each = 50), 7)
  one <- normalised_similarity(heaps, 7)
  for (matrix in list(apart, one)) {
    all <- eigen(matrix, symmetric = TRUE)
    axes <- leading_axes(matrix, 21L)
    expect_equal(axes$values, all$values[1:21], tolerance = 1e-7)
    expect_equal(crossprod(axes$vectors), diag(21), tolerance = 1e-10)
    expect_lt(max(abs(matrix %*% axes$vectors - axes$vectors * rep(axes$values, each = 600))), 1e-5)
  }
  expect_equal(leading_axes(apart, 21L)$values[1:12], rep(1, 12))  # a heap a time
  # a space that is used up: the identity has but one eigenvalue
  expect_equal(leading_axes(diag(400), 5L)$values, rep(1, 5))
})

test_that("a Krylov space is orthonormal, spans the powers of the matrix, and knows the matrix as seen in it", {
  matrix <- withr::with_seed(6, crossprod(matrix(rnorm(40^2), 40))) / 40
  block <- withr::with_seed(7, matrix(rnorm(40 * 3), 40))
  space <- krylov_space(function(block) matrix %*% block, block, 4L)
  expect_equal(crossprod(space$basis), diag(12), tolerance = 1e-12)
  expect_equal(space$images, matrix %*% space$basis, tolerance = 1e-12)
  expect_equal(space$inner, crossprod(space$basis, matrix %*% space$basis), tolerance = 1e-10)
  powers <- cbind(block, matrix %*% block, matrix %*% matrix %*% block, matrix %*% matrix %*% matrix %*% block)
  expect_lt(max(abs(powers - space$basis %*% crossprod(space$basis, powers))), 1e-8 * max(abs(powers)))
})

test_that("products with a symmetric matrix are those of the definition, for any number of threads", {
  for (n in c(1, 17, 100)) {
    matrix <- withr::with_seed(n, crossprod(matrix(rnorm(n^2), n)))
    block <- withr::with_seed(n + 1, matrix(rnorm(n * 5), n))
    one <- symmetric_product_kernel(matrix, block, 1L)
    expect_equal(one, matrix %*% block, tolerance = 1e-12)
    expect_identical(symmetric_product_kernel(matrix, block, 2L), one)
  }
})

test_that("spectral groups of more rows than are decomposed in full stay as they are moved, scaled or in another order", {
  x <- random_heaps(420, 2, 4, sd = 9, seed = 8)
  groups_of <- function(x) fit_method(fl_method("spectral"), x, 4, 1)$group
  group <- groups_of(x)
  expect_true(same_grouping(group, groups_of(x * 1000)))
  expect_true(same_grouping(group, groups_of(x + 1e6)))
  turn <- withr::with_seed(9, qr.Q(qr(matrix(rnorm(4), 2))))
  expect_true(same_grouping(group, groups_of(x %*% turn)))
  order <- withr::with_seed(10, sample(nrow(x)))
  expect_true(same_grouping(group[order], groups_of(x[order, ])))
  withr::local_options(fjordline.threads = 1L)
  expect_identical(groups_of(x), group)
})

test_that("spectral takes large tables of every kind, or says what is wrong with them", {
  rows <- withr::with_seed(11, matrix(rnorm(1400), 700))
  few <- rows[rep(1:3, length.out = 700), ]
  expect_true(same_grouping(fit_method(fl_method("spectral"), few, 3, 1)$group, rep(1:3, length.out = 700)))
  expect_error(fit_method(fl_method("spectral"), few, 5, 1), "only 3 distinct rows", class = "fjordline_error_count")
  apart <- rows
  apart[, 1] <- apart[, 1] + rep(c(0, 1e6), 350)
  expect_true(same_grouping(fit_method(fl_method("spectral"), apart, 2, 1)$group, rep(1:2, 350)))
  flat <- cbind(rows, 1)
  expect_true(same_grouping(fit_method(fl_method("spectral"), flat, 2, 1)$group,
                            fit_method(fl_method("spectral"), rows, 2, 1)$group))
  # so many axes that all are computed at once
  many <- fit_method(fl_method("spectral", most = 200), rows, 150, 1)
  expect_equal(max(many$group), 150)
})

test_that("spectral finds groups that are not round, tells the gap, and has a limit", {
  ring <- withr::with_seed(1, {
    angle <- runif(200, 0, 2 * pi)
    rbind(cbind(cos(angle), sin(angle)) * 5 + rnorm(400, sd = 0.2), matrix(rnorm(200, sd = 0.5), 100))
  })
  truth <- rep(1:2, c(200, 100))
  fit <- fit_method(fl_method("spectral"), ring, 2, 1)
  expect_true(same_grouping(fit$group, truth))
  expect_match(fit$notes, "speak for this count", all = FALSE)
  expect_lt(adjusted_rand(table(fit_method(fl_method("kmeans"), ring, 2, 1)$group, truth)), 0.5)
  expect_error(fit_method(fl_method("spectral", most = 3), ring, 4, 1), class = "fjordline_error_count", regexp = "most")
  sampled <- fit_method(fl_method("spectral", sample_rows = 100), ring, 2, 1)
  expect_gt(adjusted_rand(table(sampled$group, truth)), 0.95)
  expect_match(sampled$notes, "even sample of 100 rows", all = FALSE)
})

test_that("a sweep tries values of the parameter, and one stands for each count", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  sweep <- quick_sweep(seals, list("kmeans", "hdbscan", fl_method("dbscan", radius = 0.15)), k = 2:8)
  tried <- sweep$values_tried
  expect_equal(unique(tried$method), "hdbscan")
  for (row in seq_len(nrow(tried))) {
    own <- fit_method(fl_method("hdbscan", min_size = tried$value[row]), seals$x, NULL, 1)
    expect_equal(own$k, tried$k[row])
    expect_equal(mean(own$group > 0), tried$covered[row])
  }
  standing <- tried[tried$stands, ]
  expect_false(anyDuplicated(standing$k) > 0)
  expect_true(all(standing$k %in% 2:8))
  taken <- fl_take(sweep, "hdbscan", standing$k[1])
  expect_equal(taken$method$settings$min_size, standing$value[1])
  expect_identical(fl_labels(taken), fl_labels(fl_partition(seals, fl_method("hdbscan", min_size = standing$value[1]))))
  expect_match(fl_facts(sweep), "hdbscan by min_size: .* gives 6 groups", all = FALSE)
  expect_equal(longest_stretch(c(3, 5, 5, 5, 3, 3), 5), 3)
  expect_equal(longest_stretch(c(3, 5, 5, 5, 3, 3), 3), 5)
  expect_error(fl_take(sweep, "hdbscan", 99), class = "fjordline_error_argument")
})

test_that("degenerate tables have a rule", {
  same <- matrix(1, 12, 2)
  expect_equal(fit_method(fl_method("dbscan", radius = 0.5, min_rows = 3), same, NULL, 1)$k, 1)
  expect_equal(fit_method(fl_method("hdbscan"), same, NULL, 1)$k, 1)
  expect_equal(fit_method(fl_method("mean_shift"), same, NULL, 1)$k, 1)
  one <- matrix(c(1, 2), 1)
  for (key in c("hdbscan", "mean_shift")) expect_equal(fit_method(fl_method(key), one, NULL, 1)$group %in% 0:1, TRUE)
  noise <- fit_method(fl_method("dbscan", radius = 1e-6, min_rows = 3), random_table(30, 2, 1), NULL, 1)
  expect_equal(noise$k, 0)
  expect_match(noise$notes, "No place is that dense", all = FALSE)
  expect_error(fl_method("dbscan", radius = -1), class = "fjordline_error")
  expect_error(fl_method("mean_shift", bandwidth = "silver"), class = "fjordline_error_method")
})
