# A vote over several methods, over several seeds, and over partitions that leave rows out as noise.

# A method that puts rows of a column `part` into groups, and those under `least` into noise.
by_column <- function(key, group) {
  fl_new_method(key, label = key, fit = function(x, k, settings, seed) list(group = group(x, k)))
}

without_own_methods <- function(...) rm(list = c(...), envir = own_methods)

test_that("between methods the partitions are compared by the indices that judge partitions, one vote per family", {
  kmeans <- fl_method("kmeans", restarts = 2)
  by_column("blurred", function(x, k) {  # k-means with three rows in a wrong group
    group <- kmeans$fit(x, k, kmeans$settings, 1)$group
    replace(group, 1:3, group[1:3] %% k + 1L)
  })
  withr::defer(without_own_methods("blurred"))
  ready <- fl_prepare(heap_data())
  sweep <- quick_sweep(ready, c("blurred", "kmeans"), k = 2:5)
  vote <- fl_vote(sweep)
  expect_equal(vote$method, "kmeans")
  # every value is that of the partition the method is voted to have, and ranks follow the values
  values <- as.data.frame(sweep)
  expect_gt(nrow(vote$contest), 8)
  for (index in unique(vote$contest$index)) {
    mine <- vote$contest[vote$contest$index == index, ]
    known <- mapply(function(method, k) values$value[values$index == index & values$method == method & values$k == k],
                    mine$method, mine$k)
    expect_equal(mine$value, unname(known))
    better <- if (all_indices()[[index]]$direction == "lower") mine$value else -mine$value
    expect_equal(mine$rank, rank(better))
  }
  # the curve over the counts judges no method, and no likelihood is compared with another
  expect_false(any(c("elbow", "jump", "bic") %in% vote$contest$index))
  families <- unique(vote$contest$family[vote$contest$weight > 0])
  expect_equal(sum(vote$method_points), 5 * length(families))  # 3 + 2 points a family
  # the method asked for carries the headline, and who would have won is said
  asked <- fl_vote(sweep, by = list(method = "blurred"))
  expect_equal(asked$method, "blurred")
  expect_match(fl_facts(asked), "The points would go to another: k-means", all = FALSE)
  expect_equal(asked$others$alike, naive_adjusted_rand(fl_labels(fl_take(sweep, "blurred", asked$k)),
                                                       fl_labels(fl_take(sweep, "kmeans", asked$others$k))))
})

test_that("methods without a count of their own do not stand against those that have one", {
  fl_new_method("finder", fit = function(x, k, settings, seed) list(group = 1L + (x[, 1] > 0)), free_count = TRUE)
  withr::defer(without_own_methods("finder"))
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), c("finder", "kmeans"), k = 1:8))
  expect_equal(vote$method, "kmeans")
  expect_null(vote$method_points)
  expect_true(is.na(vote$others$points))
  groups <- lapply(c("finder", "kmeans"), function(m) fl_labels(fl_take(vote$sweep, m, if (m == "kmeans") 3)))
  expect_equal(vote$others$alike, naive_adjusted_rand(groups[[1]], groups[[2]]))
  expect_match(fl_facts(vote), "^Taken alone, finder finds 2; its groups and these: adjusted Rand 0", all = FALSE)
})

test_that("a clear vote is not overruled by weak ones, however compact their groups", {
  sweep <- quick_sweep(fl_prepare(heap_data()), c("kmeans", "linkage"), k = 2:5)
  votes <- lapply(names(sweep$methods), function(m) vote_of(sweep, names(sweep$ready), m, counting_by()))
  first <- function(...) {
    said <- Map(function(vote, verdict) replace(vote, c("verdict", "pointed"), verdict), votes, c(...))
    method_contest(sweep, said, counting_by())
  }
  expect_equal(first("weak", "clear")$first, "linkage")
  expect_null(first("weak", "clear")$points)
  expect_equal(first("clear", "no clear count")$first, "kmeans")
  for (both in c("clear", "weak", "no clear count")) expect_named(first(both, both)$points, c("kmeans", "linkage"))
})

test_that("other metrics are not compared, and this is said", {
  cosine <- fl_method("kmeans", metric = "cosine")
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), list("kmeans", cosine), k = 2:5))
  expect_equal(nrow(vote$contest), 0)
  expect_equal(vote$method, "kmeans")
  weak <- fl_sweep(vote$sweep$ready, list("kmeans", cosine), k = 2:5, indices = "fast")
  votes <- lapply(names(weak$methods), function(m) vote_of(weak, names(weak$ready), m, counting_by()))
  votes <- lapply(votes, replace, "verdict", "weak")
  expect_match(method_contest(weak, votes, counting_by())$uncompared, "another metric: kmeans\\(metric = cosine\\)")
  by_column("sparing", function(x, k) {  # k-means that leaves every sixth row out
    replace(fl_method("kmeans")$fit(x, k, fl_method("kmeans")$settings, 1)$group, seq(1, nrow(x), 6), 0L)
  })
  withr::defer(without_own_methods("sparing"))
  apart <- fl_vote(quick_sweep(fl_prepare(heap_data()), c("kmeans", "sparing"), k = 2:5))
  expect_equal(apart$method, "kmeans")
  expect_match(apart$uncompared, "no index can judge the partitions of kmeans and sparing alike")
  expect_match(fl_facts(apart), "^Not every method could be compared", all = FALSE)
})

test_that("where no index has a vote, this is said, and nothing is said to tie", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:5, repeats = 2)
  vote <- fl_vote(sweep, weights = c(curve = 0, separation = 0, pairs = 0))
  expect_true(is.na(vote$k))
  expect_match(fl_facts(vote)[1], "no index that could rank the counts has a vote")
  expect_false(any(grepl("same points|always says NA", fl_facts(vote))))
})

test_that("partitions that cover other shares of the rows are compared by density alone", {
  # with every count a tenth of the rows more is noise
  by_column("shrinking", function(x, k) {
    group <- 1L + (rank(x[, 1], ties.method = "first") - 1L) %/% ceiling(nrow(x) / k)
    ifelse(seq_len(nrow(x)) <= 6 * (k - 2), 0L, as.integer(group))
  })
  withr::defer(without_own_methods("shrinking"))
  indices <- c("silhouette", "calinski_harabasz", "dbcv")
  sweep <- fl_sweep(fl_prepare(heap_data()), "shrinking", k = 2:4, indices = indices)
  values <- as.data.frame(sweep)
  expect_equal(values$covered[values$index == "dbcv"], c(1, 0.9, 0.8))
  vote <- fl_vote(sweep)
  expect_equal(unique(vote$ballots$index), "dbcv")
  expect_match(vote$abstained$reason, "cover from 80% to 100% of the rows", all = TRUE)
  # a difference of five points is let pass
  steady <- data.frame(index = "silhouette", k = 2:3, value = 1, covered = c(1, 0.95), reason = "")
  expect_equal(compared_coverage(steady, all_indices())$reason, c("", ""))
  steady$covered[2] <- 0.94
  expect_match(compared_coverage(steady, all_indices())$reason, "94% to 100%", all = TRUE)
})

test_that("what every repeat by itself would say is kept, told, and lowers the verdict", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:8, repeats = 3)
  vote <- fl_vote(sweep)
  expect_equal(vote$repeats$k[vote$repeats$index == "vote"], rep(3L, 3))
  expect_match(fl_facts(vote), "^Over 3 repeats with other seeds the vote always says 3\\.$", all = FALSE)
  one <- sweep
  one$values <- sweep$values[sweep$values$`repeat` == 2, ]
  one$beside <- sweep$beside[sweep$beside$`repeat` == 2, ]
  alone <- fl_vote(one)
  expect_equal(vote$repeats$margin[vote$repeats$index == "vote" & vote$repeats$`repeat` == 2], alone$margin)
  # two of five repeats that say otherwise take the certainty away
  vote <- vote[c("k", "verdict", "structure", "by", "evidence", "voters")]
  vote$measured <- "fast"
  vote$measured_as <- "both"
  vote$shape <- list(rows = 300)
  vote$voters <- c("kmeans", "mixture")
  vote$by <- "agreed"
  vote$found <- list(components = 3L, groups = 3L, apart_by = "dips")
  vote$evidence <- evidence_table(3L, TRUE, NULL)
  vote$repeats <- tibble::tibble(`repeat` = 1:5, index = "vote", k = c(3, 3, 3, 4, 4))
  lowered <- set_verdict(vote, list(k = 1:8))
  expect_equal(lowered$verdict, "weak")
  expect_match(lowered$lowered, "only 3 of 5 repeats say so")
  vote$repeats$k <- c(3, 3, 4, 4, 5)
  expect_equal(set_verdict(vote, list(k = 1:8))$verdict, "no clear count")
  vote$repeats$k <- c(3, 3, 3, 3, NA)
  expect_equal(set_verdict(vote, list(k = 1:8))$verdict, "clear")
})

test_that("rules that look at the next count see it beside the asked ones, and pick asked ones only", {
  gap <- index_gap()
  k <- 2:6
  value <- c(0.1, 0.5, 0.6, 0.7, 0.65)
  asked <- k %in% c(3, 5)
  # 5 holds only because 6 was fitted; 6 itself was not asked for
  expect_equal(preferred_counts(gap, k, value, rep(0.01, 5), asked)$k, c(5, 3))
  expect_equal(preferred_counts(gap, k[asked], value[asked], rep(0.01, 2))$k, integer())
  # an index that looks at each count alone does not see the others
  expect_equal(preferred_counts(index_silhouette(), k, value, asked = asked)$k, c(5, 3))
  sweep <- fl_sweep(fl_prepare(heap_data()), fl_method("kmeans", restarts = 2), k = c(3, 5), indices = "gap")
  expect_setequal(sweep$gaps$k, 2:6)
  expect_equal(fl_vote(sweep)$ballots$k[1], 3)
})

test_that("one group preferred by an index is said even where one was not asked for", {
  sweep <- fl_sweep(fl_prepare(fl_demo("still_water")), fl_method("kmeans", restarts = 2), k = 2:5, indices = "gap")
  ballots <- fl_vote(sweep)$ballots
  expect_equal(sweep$gaps$k, 1:6)
  holds <- gap_holds(sweep$gaps$k, sweep$gaps$gap, sweep$gaps$error)
  expect_equal(all(ballots$prefers_one), isTRUE(holds[1]))
})

test_that("where directions are compared, all indices see directions", {
  ready <- fl_prepare(fl_demo("mooring_casts"), scale = "none")
  method <- fl_method("kmeans", metric = "correlation", restarts = 3)
  fit <- fl_partition(ready, method, k = 3)
  seen <- ready$x - rowMeans(ready$x)
  seen <- seen / sqrt(rowSums(seen^2))
  group <- fl_labels(fit)[ready$rows]
  w <- naive_scatter(seen, group)
  total <- naive_scatter(seen, rep(1, nrow(seen)))
  score <- fl_score(fit, "calinski_harabasz")
  expect_equal(score$value, ((total - w) / 2) / (w / (nrow(seen) - 3)), tolerance = 1e-10)
  # the level of a cast says nothing to correlation, nor to its indices
  shifted <- ready
  shifted$x <- ready$x + seq_len(nrow(ready$x))
  again <- fl_score(fl_partition(shifted, method, k = 3))
  here <- fl_score(fit)
  expect_equal(again$value, here$value, tolerance = 1e-6)
})
