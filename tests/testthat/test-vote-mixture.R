# Votes with mixtures: the shape of the groups, the ballots of BIC, and what components are evidence of.

# Two long groups side by side, each turned its own way: k-means cuts them across.
long_groups <- function(n = 75) {
  withr::with_seed(4, {
    draw <- function(turn, at) {
      x <- cbind(stats::rnorm(n, sd = 6), stats::rnorm(n, sd = 0.5))
      x %*% matrix(c(cos(turn), sin(turn), -sin(turn), cos(turn)), 2) + rep(at, each = n)
    }
    ready_from(rbind(draw(0.6, c(0, 0)), draw(0.9, c(2, 8))))
  })
}

both <- function(ready, k = 1:5, ...) {
  fl_sweep(ready, list(fl_method("kmeans", restarts = 3), fl_method("mixture")), k = k, indices = "fast", ...)
}

models_of <- function(sweep) {
  tried <- lapply(Filter(function(fit) !is.null(fit$model$tried), sweep$fits), function(fit) fit$model$tried)
  models <- do.call(rbind, tried)
  models[models$reason == "" & models$k %in% sweep$k, ]
}

test_that("the shape is that of the model with the smallest BIC, and the ballots are the smallest BIC of every count", {
  sweep <- both(long_groups())
  vote <- fl_vote(sweep)
  models <- models_of(sweep)
  best <- models[which.min(models$bic), ]
  expect_equal(vote$shape[c("structure", "tails", "k")], as.list(best[c("structure", "tails", "k")]))
  form <- ifelse(models$tails == "heavy", "heavy-tailed", sub("/.*", "", models$structure))
  expect_equal(vote$shape$form, form[which.min(models$bic)])
  expect_equal(vote$shape$lead, min(models$bic[form != vote$shape$form]) - min(models$bic))
  free <- models$structure %in% c("spherical/volume", "diagonal/volume+shape", "general/volume+shape+orientation") |
    models$tails == "heavy" | models$k == 1
  for (set in list(list("bic_all", models), list("bic_free", models[free, ]))) {
    heard <- vote$values[vote$values$index == set[[1]], ]
    expect_equal(heard$value, vapply(heard$k, function(k) min(set[[2]]$bic[set[[2]]$k == k]), 0))
    ballot <- vote$ballots[vote$ballots$index == set[[1]], ]
    later <- heard[heard$k >= 2, ]
    expect_equal(ballot$k, later$k[order(later$value)])
  }
  leads <- vapply(c("bic_all", "bic_free"), function(index) {
    mine <- vote$values[vote$values$index == index & vote$values$k >= 2, ]
    min(mine$value[mine$k != vote$k]) - mine$value[mine$k == vote$k]
  }, 0)
  expect_equal(vote$lead, min(leads))
})

test_that("long groups that k-means cuts are found by components with dips between them, and are the mixture's", {
  sweep <- both(long_groups())
  vote <- fl_vote(sweep)
  expect_equal(vote$shape$form, "general")
  expect_equal(c(vote$k, vote$voters), c("2", "kmeans(restarts = 3)", "mixture"))
  expect_equal(vote$method, "mixture")
  expect_equal(vote$by, "components")
  expect_equal(vote$evidence$k, c(4L, 2L, 2L))
  expect_false("mixture" %in% vote$shares$family)
  expect_match(fl_facts(vote)[1], "^Two groups: .*has 2 components, with dips between each two.*k-means prefer 4")
  expect_match(fl_facts(vote), "^Shape of the components: stretched in any direction. The smallest BIC of 28 mixture", all = FALSE)
  expect_match(fl_facts(vote), "^With 2 groups the two methods group the rows differently", all = FALSE)
  expect_identical(fl_labels(fl_take(vote)), fl_labels(fl_take(sweep, "mixture", 2)))
  # where the reader weighs, points decide
  given <- fl_vote(sweep, weights = c(mixture = 9))
  expect_equal(given$by, "weights")
  expect_setequal(unique(given$shares$family), c("mixture", "curve", "separation", "pairs"))
  expect_equal(given$k, given$points$k[1])
  expect_false(given$verdict == "clear")
  # each of the two by itself
  alone <- fl_vote(sweep, by = list(method = "kmeans"))
  expect_null(alone$shape)
  expect_equal(alone$k, 4L)
  alone <- fl_vote(sweep, by = list(method = "mixture"))
  expect_equal(alone$voters, "mixture")
  expect_equal(alone$evidence$evidence, c("components", "dips"))
  expect_match(fl_facts(alone), "^Taken alone, kmeans", all = FALSE)
})

test_that("in small tables BIC has four votes beside the indices, and of round groups the partition is k-means'", {
  sweep <- both(fl_prepare(heap_data()), k = 1:6)
  vote <- fl_vote(sweep)
  expect_lt(nrow(sweep$ready[[1]]$x), 100)
  expect_equal(vote$shape$votes, 4)
  expect_equal(sum(vote$shares$points[vote$shares$family == "mixture"]), 4 * 6)
  expect_equal(vote$k, 3)
  expect_setequal(vote$shares$family, c("curve", "separation", "pairs", "mixture"))
  expect_equal(vote$method, if (vote$shape$form == "spherical") "kmeans(restarts = 3)" else "mixture")
  expect_match(fl_facts(vote)[1], "^Three groups: .*agree\\.$")
  points <- total_points(family_points(vote$ballots, vote$used, "ranked", 3), 1:6)
  expect_equal(vote$points, points)
})

test_that("where a count makes all rows of every group equal, BIC has no ballot to prefer the counts beside", {
  three <- ready_from(cbind(rep(c(1, 5, 9), each = 10), rep(c(2, 4, 9), each = 10)))
  vote <- fl_vote(both(three, k = 1:4))
  expect_null(vote$shape)
})

test_that("repeats vote by the smallest BIC of each, and their middle decides", {
  sweep <- both(long_groups(30), k = 1:3, repeats = 2)
  vote <- fl_vote(sweep)
  expect_setequal(vote$values$`repeat`[vote$values$index == "bic_all"], 1:2)
  expect_equal(vote$repeats$k[vote$repeats$index == "vote"], rep(vote$k, 2))
})

test_that("mixtures that cannot be fitted at all leave the vote to k-means", {
  sweep <- both(ready_from(matrix(rep(c(1, 5, 9), each = 4) + 0, 12, 1)), k = 2:3)
  expect_s3_class(fl_vote(sweep), "fl_vote")
})

test_that("the stretch of values that gives a count votes, as it was tried", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  sweep <- fl_sweep(seals, c("dbscan", "hdbscan"), k = 2:12, indices = "dbcv")
  vote <- fl_vote(sweep, by = list(method = "dbscan"))
  tried <- sweep$values_tried[sweep$values_tried$method == "dbscan", ]
  runs <- rle(tried$k)
  for (i in which(vote$values$index == "stretch")) {
    k <- vote$values$k[i]
    expect_equal(vote$values$value[i], max(runs$lengths[runs$values == k]) / nrow(tried))
  }
  expect_equal(vote$k, 6)
  # a single count has no margin, but holds over most values
  one <- fl_vote(sweep, by = list(method = "hdbscan"))
  expect_true(is.na(one$margin))
  expect_equal(one$verdict, "weak")
  expect_match(fl_facts(one)[1], "^Six groups, by HDBSCAN: weak \\(6 comes out over 8[0-9]% of the values of min_size, in a row")
  # finding the counts itself, it cannot end at the largest of them
  expect_false(any(grepl("largest count tried", fl_facts(fl_vote(sweep, by = list(method = "dbscan"))))))
})

test_that("of rows that repeat three places the count is three, whatever is silent there, and no larger one is wanting", {
  places <- data.frame(a = rep(c(0, 1, 5), 30), b = rep(c(0, 3, 1), 30))
  sweep <- fl_sweep(fl_prepare(fl_data(places, name = "three")), fl_method("kmeans", restarts = 3), k = 1:6,
                    indices = "fast")
  values <- as.data.frame(sweep)
  silent <- values$index[values$k == 3 & is.na(values$value)]
  expect_true(all(c("calinski_harabasz", "krzanowski_lai", "jump") %in% silent))
  expect_true(all(is.na(values$value[values$index %in% silent])))
  vote <- fl_vote(sweep)
  expect_equal(vote$k, 3L)
  expect_false(vote$at_end)
  expect_match(vote$abstained$reason[vote$abstained$index == "calinski_harabasz"], "^W is zero")
  # the same places a hair apart: larger counts are possible again
  apart <- places + rep(1e-6 * seq_len(90), 2)
  wider <- fl_sweep(fl_prepare(fl_data(apart, name = "apart")), fl_method("kmeans", restarts = 3), k = 1:4,
                    indices = "silhouette")
  expect_true(may_go_on(wider, names(wider$ready), "kmeans(restarts = 3)"))
})

test_that("by itself a sweep fits mixtures beside k-means, whatever the number of rows", {
  small <- ready_from(random_table(40, 2, 1))
  expect_equal(standard_methods(list(small)), c("kmeans", "mixture"))
  large <- ready_from(random_table(5001, 2, 1))
  expect_equal(standard_methods(list(small, large)), c("kmeans", "mixture"))
  expect_equal(names(fl_sweep(large, k = 2, indices = "calinski_harabasz")$methods), c("kmeans", "mixture"))
})

test_that("each preparation votes with its own shape, and one without groups is said to have none", {
  long <- long_groups()
  heap <- ready_from(random_table(150, 2, 7))
  sweep <- both(list(long = long, heap = heap))
  vote <- fl_vote(sweep, by = list(preparation = "long"))
  alone <- fl_vote(both(long))
  expect_equal(vote[c("k", "verdict", "shape", "lead")], alone[c("k", "verdict", "shape", "lead")])
  of_heap <- vote$others[vote$others$preparation == "heap", ]
  expect_setequal(of_heap$method, c("kmeans(restarts = 3)", "mixture"))
  expect_equal(unique(of_heap$verdict), "no groups")
  said <- grep(" on heap ", fl_facts(vote), value = TRUE)
  expect_length(said, 2)
  expect_match(said, "votes for [1-5], though there is no evidence of groups")
})
