# Linkage against a naive implementation that looks at all pairs of groups before every merge.

# Of equal merges the pair with the lowest rows first: a group is known by its lowest row; under single linkage the two
# rows that meet.
naive_linkage <- function(distance, join) {
  n <- nrow(distance)
  if (join == "single") {
    return(naive_single(distance))
  }
  squared <- join %in% c("ward", "centroid", "median")
  between <- if (squared) distance^2 else distance
  size <- rep(1, n)
  alive <- seq_len(n)
  out <- NULL
  for (step in seq_len(n - 1)) {
    pairs <- between[alive, alive, drop = FALSE]
    pairs[lower.tri(pairs, TRUE)] <- Inf
    nearest <- which(pairs == min(pairs), arr.ind = TRUE)
    best <- nearest[order(nearest[, 1], nearest[, 2])[1], ]
    a <- alive[best[1]]
    b <- alive[best[2]]
    out <- rbind(out, c(if (squared) sqrt(max(0, min(pairs))) else min(pairs), a, b))
    for (j in setdiff(alive, c(a, b))) {
      sizes <- size[c(a, b, j)]
      from <- c(between[a, j], between[b, j])
      new <- switch(join,
        complete = max(from), weighted = mean(from), average = sum(sizes[1:2] * from) / sum(sizes[1:2]),
        ward = (sum((sizes[1:2] + sizes[3]) * from) - sizes[3] * between[a, b]) / sum(sizes),
        centroid = sum(sizes[1:2] * from) / sum(sizes[1:2]) - prod(sizes[1:2]) * between[a, b] / sum(sizes[1:2])^2,
        median = mean(from) - between[a, b] / 4
      )
      between[a, j] <- between[j, a] <- new
    }
    size[a] <- size[a] + size[b]
    alive <- setdiff(alive, b)
  }
  data.frame(height = out[, 1], low = out[, 2], high = out[, 3])
}

# All pairs of rows in order; each joins the groups of its rows, if they are two.
naive_single <- function(distance) {
  n <- nrow(distance)
  pairs <- which(upper.tri(distance), arr.ind = TRUE)
  pairs <- pairs[order(distance[pairs], pairs[, 1], pairs[, 2]), , drop = FALSE]
  lowest <- seq_len(n)
  out <- NULL
  for (p in seq_len(nrow(pairs))) {
    ends <- sort(lowest[pairs[p, ]])
    if (ends[1] == ends[2]) next
    out <- rbind(out, c(distance[pairs[p, , drop = FALSE]], ends))
    lowest[lowest == ends[2]] <- ends[1]
  }
  data.frame(height = out[, 1], low = out[, 2], high = out[, 3])
}

tree_of <- function(x, join, given = FALSE, brief = FALSE, metric = "euclidean") {
  as.data.frame(linkage_kernel(x, given, metric, join, brief, 2L))
}

test_that("heights and merges are those of the naive implementation, for every join", {
  for (seed in 1:3) {
    x <- random_table(c(2, 13, 40)[seed], 3, seed)
    distance <- distances_of(x)
    for (join in linkage_joins) {
      naive <- naive_linkage(distance, join)
      for (tree in list(tree_of(x, join), tree_of(distance, join, given = TRUE))) {
        expect_equal(tree$height, naive$height, tolerance = 1e-10)
        expect_equal(tree$low, naive$low)
        expect_equal(tree$high, naive$high)
      }
    }
  }
})

test_that("equal merges follow the rule, for every join", {
  for (seed in 1:3) {
    x <- withr::with_seed(seed, matrix(sample(0:3, 60, TRUE), 30))
    distance <- distances_of(x)
    for (join in linkage_joins) {
      naive <- naive_linkage(distance, join)
      tree <- tree_of(distance, join, given = TRUE)
      expect_equal(tree$height, naive$height, tolerance = 1e-10)
      expect_equal(tree[c("low", "high")], naive[c("low", "high")])
    }
    # from the rows themselves: where no rounding decides
    for (join in c("ward", "complete", "single")) {
      expect_equal(tree_of(x, join)$height, naive_linkage(distance, join)$height, tolerance = 1e-10)
      expect_equal(tree_of(x, join)[c("low", "high")], naive_linkage(distance, join)[c("low", "high")])
    }
  }
})

test_that("longer rows than one stretch of the search, ties among them, give the same tree in any number of threads", {
  x <- withr::with_seed(7, matrix(sample(0:20, 560, TRUE), 280))
  distance <- as.matrix(stats::dist(x, "manhattan"))
  for (join in setdiff(linkage_joins, "single")) {
    naive <- naive_linkage(distance, join)
    expect_equal(tree_of(distance, join, given = TRUE)$height, naive$height, tolerance = 1e-9)
    if (join %in% c("complete", "weighted")) {  # nothing is rounded
      expect_equal(tree_of(distance, join, given = TRUE)[c("low", "high")], naive[c("low", "high")])
    }
    for (brief in c(TRUE, FALSE)) {
      expect_identical(linkage_kernel(distance, TRUE, "euclidean", join, brief, 1L),
                       linkage_kernel(distance, TRUE, "euclidean", join, brief, 3L))
    }
  }
})

test_that("long chains, where few groups are each other's nearest, give the same tree", {
  x <- cbind(cumsum(1.2^(0:89)), 0)
  for (join in setdiff(linkage_joins, "single")) {
    naive <- naive_linkage(distances_of(x), join)
    expect_equal(tree_of(x, join)$height, naive$height, tolerance = 1e-9)
    expect_equal(tree_of(x, join)$low, naive$low)
  }
})

test_that("single precision keeps six digits", {
  x <- random_heaps(200, 4, 4, sd = 3, seed = 2)
  for (join in c("average", "complete", "weighted")) {
    expect_equal(tree_of(x, join, brief = TRUE)$height, tree_of(x, join)$height, tolerance = 1e-5)
  }
})

test_that("other metrics are those of given distances", {
  x <- random_table(40, 5, 6)
  distances <- list(
    manhattan = as.matrix(stats::dist(x, "manhattan")), chebyshev = as.matrix(stats::dist(x, "maximum")),
    correlation = 1 - stats::cor(t(x)),
    cosine = 1 - tcrossprod(x / sqrt(rowSums(x^2)))
  )
  for (metric in names(distances)) {
    for (join in c("average", "complete", "single", "weighted")) {
      expect_equal(tree_of(x, join, metric = metric)$height, naive_linkage(distances[[metric]], join)$height,
                   tolerance = 1e-9)
    }
  }
})

test_that("a ward merge raises W by half its height squared", {
  x <- random_heaps(80, 3, 3, sd = 4, seed = 3)
  fits <- lapply(1:80, function(k) fit_method(fl_method("linkage"), x, k, 1))
  w <- vapply(fits, function(fit) sum(fit$scatter), 0)
  tree <- fits[[1]]$model$tree
  expect_equal(rev(-diff(w)), tree$height^2 / 2, tolerance = 1e-8)
  expect_equal(tree$rows[79], 80)
})

test_that("every count is a cut of one tree, and a height is a count", {
  ready <- ready_from(random_heaps(120, 3, 4, sd = 6, seed = 4))
  tree <- fl_partition(ready, fl_method("linkage", join = "average"), k = 4)$model$tree
  for (k in c(1, 3, 10, 120)) {
    cut <- fl_partition(ready, fl_method("linkage", join = "average"), k = k)
    expect_equal(cut$k, k)
    expect_identical(cut$model$tree, tree)
    naive <- seq_len(120)
    for (m in seq_len(120 - k)) naive[naive == naive[tree$high[m]]] <- naive[tree$low[m]]
    expect_true(same_grouping(fl_labels(cut), naive))
  }
  height <- mean(tree$height[117:118])
  at <- fl_partition(ready, fl_method("linkage", join = "average", height = height))
  expect_equal(at$k, 3)
  expect_identical(fl_labels(at), fl_labels(fl_partition(ready, fl_method("linkage", join = "average"), k = 3)))
  expect_match(fl_facts(at), paste0("Cut at height"), all = FALSE)
})

test_that("a sweep grows the tree once", {
  ready <- ready_from(random_heaps(100, 3, 4, sd = 6, seed = 4))
  grown <- 0
  method <- fl_method("linkage")
  method$shared <- function(x, settings) {
    grown <<- grown + 1
    linkage_tree(x, settings)
  }
  sweep <- fl_sweep(ready, method, k = 2:6, indices = c("silhouette", "bic"))
  expect_equal(grown, 1)
  expect_identical(sweep$fits[[3]]$group, fit_method(fl_method("linkage"), ready$x, sweep$cells$k[3], 1)$group)
})

test_that("more distances than there is room for are refused, naming what would do", {
  ready <- ready_from(random_table(2000, 2, 1))
  expect_error(fl_partition(ready, fl_method("linkage", join = "average", gigabytes = 0.01), k = 2),
               class = "fjordline_error_memory", regexp = "0.016 GB")
  expect_match(message_of(fl_partition(ready, fl_method("linkage", join = "average", gigabytes = 0.01), k = 2)),
               "ward and single")
  brief <- fl_partition(ready, fl_method("linkage", join = "average", gigabytes = 0.02), k = 3)
  expect_match(fl_facts(brief), "single precision", all = FALSE)
  expect_equal(fl_partition(ready, fl_method("linkage", gigabytes = 0.01), k = 2)$k, 2)
})

test_that("bad joins, metrics and rows without a direction are refused", {
  expect_error(fl_method("linkage", join = "wards"), class = "fjordline_error_method", regexp = "ward")
  expect_error(fl_method("linkage", metric = "cosine"), class = "fjordline_error_method", regexp = "average")
  x <- rbind(random_table(10, 2, 1), 0)
  expect_error(fit_method(fl_method("linkage", join = "average", metric = "cosine"), x, 2, 1),
               class = "fjordline_error_values", regexp = "row 11")
  expect_error(fit_method(fl_method("linkage"), matrix(1, 5, 2), 2, 1), class = "fjordline_error_count")
})
