# Every index against its definition, on random tables with duplicates and groups of one.

naive_bic <- function(x, group) {
  n <- nrow(x)
  d <- ncol(x)
  k <- length(unique(group))
  variance <- naive_scatter(x, group) / (d * (n - k))
  sizes <- table(group)
  log_l <- sum(sizes * log(sizes / n)) - n * d / 2 * log(2 * pi * variance) - d * (n - k) / 2
  -2 * log_l + (k - 1 + k * d + 1) * log(n)
}

test_that("indices of a sweep equal their definitions", {
  for (seed in 1:6) {
    x <- random_table(40, 1 + seed %% 3, seed)
    x[2:4, ] <- x[rep(1, 3), ]
    sweep <- quick_sweep(ready_from(x), fl_method("kmeans", restarts = 3), k = 1:6)
    value <- function(index, k) sweep$values$value[sweep$values$index == index & sweep$values$k == k]
    w <- vapply(1:7, function(k) sweep$fits[[which(sweep$cells$k == k)]]$objective, 0)
    for (k in 2:6) {
      group <- fl_labels(fl_take(sweep, "kmeans", k))
      expect_equal(value("silhouette", k), mean(naive_silhouette(x, group)), tolerance = 1e-10)
      between <- naive_scatter(x, rep(1, 40)) - naive_scatter(x, group)
      expect_equal(value("calinski_harabasz", k), (between / (k - 1)) / (naive_scatter(x, group) / (40 - k)),
                   tolerance = 1e-10)
      bend <- (log(w[k + 1]) - log(w[k])) / log((k + 1) / k) - (log(w[k]) - log(w[k - 1])) / log(k / (k - 1))
      expect_equal(value("elbow", k), bend, tolerance = 1e-9)
    }
    for (k in 1:6) expect_equal(value("bic", k), naive_bic(x, fl_labels(fl_take(sweep, "kmeans", k))),
                                tolerance = 1e-10)
  }
})

test_that("indices abstain with a reason where they have no value, never with NaN", {
  x <- random_table(8, 2, 3)
  sweep <- quick_sweep(ready_from(x), "kmeans", k = 1:8)
  values <- as.data.frame(sweep)
  expect_false(any(is.nan(values$value)))
  expect_true(all(nzchar(values$reason[is.na(values$value)])))
  expect_true(all(!nzchar(values$reason[!is.na(values$value)])))
  at <- function(index, k) values[values$index == index & values$k == k, ]
  expect_true(is.na(at("silhouette", 1)$value))
  expect_true(is.na(at("bic", 8)$value))
  expect_true(is.na(at("calinski_harabasz", 8)$value))
  expect_match(at("elbow", 8)$reason, "directly below and above|W is zero")
})

test_that("one partition has no elbow, and says why", {
  score <- fl_score(fl_partition(fl_prepare(heap_data()), k = 3))
  expect_match(score$reason[score$index == "elbow"], "directly below and above")
  expect_setequal(score$index[is.na(score$value)], c("elbow", "hartigan", "jump", "krzanowski_lai"))
  facts <- fl_facts(fl_score(fl_partition(fl_prepare(heap_data()), k = 3), c("elbow", "jump", "icl")))
  expect_match(facts, "^elbow abstains: it needs the counts directly below and above", all = FALSE)
  expect_match(facts, "^icl abstains: ", all = FALSE)
})

test_that("values lie in the range their index declares, for good, bad and odd partitions", {
  x <- random_heaps(40, 2, 4, sd = 5, seed = 6)
  labels <- list(rep(1:4, each = 10), rep(1:4, 10), c(rep(1, 37), 2:4), rep(1, 40), 1:40, c(rep(0, 20), rep(1:2, 10)))
  declared <- fl_indices()
  expect_true(all(declared$lowest < declared$highest))
  expect_equal(declared$lowest[declared$key == "silhouette"], -1)
  for (group in labels) {
    fit <- list(k = max(group), group = as.integer(group), scatter = group_scatter(x, group))
    scored <- score_set(index_set(x, list(fit)), all_indices())
    at <- match(scored$index, declared$key)
    there <- !is.na(scored$value)
    expect_true(all(scored$value[there] >= declared$lowest[at][there] - 1e-12))
    expect_true(all(scored$value[there] <= declared$highest[at][there] + 1e-12))
  }
  expect_error(fl_new_index("wide", direction = "higher", range = 1, value = identity), class = "fjordline_error_index")
})

test_that("indices do not mind the order of rows or the names of groups", {
  x <- random_table(30, 2, 12)
  group <- rep(1:3, 10)
  order <- withr::with_seed(2, sample(30))
  scored <- function(x, g) score_set(index_set(x, list(list(k = 3, group = g, scatter = group_scatter(x, g)))),
                                     all_indices())$value
  expect_equal(scored(x[order, ], group[order]), scored(x, group), tolerance = 1e-12)
  expect_equal(scored(x, c(3, 1, 2)[group]), scored(x, group), tolerance = 1e-12)
})

test_that("an index of the user's enters scores, sweeps, votes and the catalogue; its failure silences only itself", {
  fl_new_index("evenness", direction = "higher", value = function(x, groups) min(table(groups)) / length(groups))
  fl_new_index("faulty", direction = "lower", value = function(x, groups) stop("no luck"))
  withr::defer(rm(list = c("evenness", "faulty"), envir = own_indices))
  # not in any built-in set: they vote where they are named
  expect_false("evenness" %in% fl_vote(quick_sweep(fl_prepare(heap_data()), k = 2:4))$ballots$index)
  vote <- fl_vote(fl_sweep(fl_prepare(heap_data()), "kmeans", k = 2:4, indices = c("fast", "evenness", "faulty")))
  expect_true("evenness" %in% vote$ballots$index)
  expect_match(vote$abstained$reason[vote$abstained$index == "faulty"], "no luck")
  expect_equal(fl_score(fl_partition(fl_prepare(heap_data()), k = 3), "evenness")$value, 1 / 3)
  expect_true(all(c("evenness", "faulty") %in% fl_indices()$key[fl_indices()$yours]))
})

test_that("bad indices are refused", {
  expect_error(fl_new_index("elbow", direction = "higher", value = function(x, groups) 1),
               class = "fjordline_error_index", regexp = "built-in")
  expect_error(fl_new_index("both", direction = "higher", value = identity, across = identity),
               class = "fjordline_error_index")
  expect_error(fl_new_index("up", direction = "upwards", value = identity), class = "fjordline_error_index")
  expect_error(fl_sweep(fl_prepare(heap_data()), indices = "silhuette"), class = "fjordline_error_index",
               regexp = "silhouette")
})

test_that("the catalogue states family, direction and source of every index", {
  catalogue <- fl_indices()
  expect_setequal(catalogue$key[!catalogue$yours], names(built_in("index")))
  seldom_right <- c("aic", "ball_hall", "mcclain_rao", "point_biserial", "ratkowsky_lance")
  expect_true(all(catalogue$tier[match(seldom_right, catalogue$key)] == "all"))
  said <- vapply(built_in("index"), function(index) length(index$family_about), 0L)
  expect_true(all(tapply(said, vapply(built_in("index"), `[[`, "", "family"), sum) == 1L))
  expect_true(all(nzchar(catalogue$source)) && all(catalogue$direction %in% c("higher", "lower")))
  expect_equal(catalogue$weight[catalogue$key == "bic"], 0)
})

test_that("groups made on some columns are judged on others", {
  water <- fl_demo("water_samples")
  groups <- fl_partition(fl_prepare(water, use = c("temperature", "salinity")), fl_method("kmeans", restarts = 3), k = 4)
  space <- fl_prepare(water, use = "oxygen")
  score <- fl_score(groups, "calinski_harabasz", space)
  rows <- intersect(space$rows, which(!is.na(fl_labels(groups))))
  x <- space$x[match(rows, space$rows), 1]
  group <- fl_labels(groups)[rows]
  within <- sum(vapply(split(x, group), function(v) sum((v - mean(v))^2), 0))
  between <- sum((x - mean(x))^2) - within
  expect_equal(score$value, (between / 3) / (within / (length(x) - 4)))
  expect_error(fl_score(groups, "silhouette", fl_prepare(heap_data())), class = "fjordline_error_argument", regexp = "same table")
})
