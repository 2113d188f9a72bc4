# Linkage against a naive implementation that looks at all pairs of groups before every merge.

# Of equal merges the pair with the lowest rows first: a group is known by its lowest row; under single linkage the two
# rows that meet.
naive_linkage <- function(distance, join) {
  n <- nrow(distance)
  squared <- join %in% c("ward", "centroid", "median")
  between <- if (squared) distance^2 else distance
  members <- as.list(seq_len(n))
  out <- NULL
  alive <- seq_len(n)
  for (step in seq_len(n - 1)) {
    best <- list(key = c(Inf, Inf, Inf))
    for (a in alive) {
      for (b in alive[alive > a]) {
        key <- c(between[a, b], a, b)
        if (join == "single") {
          pairs <- expand.grid(i = members[[a]], l = members[[b]])
          pairs <- data.frame(d = distance[cbind(pairs$i, pairs$l)], low = pmin(pairs$i, pairs$l), high = pmax(pairs$i, pairs$l))
          key <- unlist(pairs[order(pairs$d, pairs$low, pairs$high)[1], ])
        }
        first <- which(key != best$key)[1]
        if (!is.na(first) && key[first] < best$key[first]) best <- list(key = key, a = a, b = b)
      }
    }
    a <- best$a
    b <- best$b
    out <- rbind(out, c(if (squared) sqrt(max(0, best$key[1])) else best$key[1], a, b))
    for (j in setdiff(alive, c(a, b))) {
      size <- lengths(members[c(a, b, j)])
      from <- c(between[a, j], between[b, j])
      new <- switch(join,
        single = min(from), complete = max(from), weighted = mean(from), average = sum(size[1:2] * from) / sum(size[1:2]),
        ward = (sum((size[1:2] + size[3]) * from) - size[3] * between[a, b]) / sum(size),
        centroid = sum(size[1:2] * from) / sum(size[1:2]) - prod(size[1:2]) * between[a, b] / sum(size[1:2])^2,
        median = mean(from) - between[a, b] / 4
      )
      between[a, j] <- between[j, a] <- new
    }
    members[[a]] <- c(members[[a]], members[[b]])
    alive <- setdiff(alive, b)
  }
  data.frame(height = unname(out[, 1]), low = out[, 2], high = out[, 3])
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
      expect_equal(tree_of(x, join)$height, naive$height, tolerance = 1e-10)
    }
    for (join in c("ward", "complete", "single")) {
      expect_equal(tree_of(x, join)[c("low", "high")], naive_linkage(distance, join)[c("low", "high")])
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
  height <- mean(tree$height[116:117])
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
