# Hand-worked votes over hand-made curves.

judge <- function(direction = "higher", from = 2L, key = "one", family = "curve", weight = 1) {
  declare_index(key, value = function(x, groups) 1, direction = direction, from = from, family = family,
                weight = weight)
}

test_that("an index ranks by its direction; ties go to the smaller count and are noted", {
  expect_equal(preferred_counts(judge(), c(2, 3, 4, 5), c(1, 3, 2, NA))$k, c(3, 4, 2))
  expect_equal(preferred_counts(judge("lower"), c(2, 3, 4), c(1, 3, 2))$k, c(2, 4, 3))
  tied <- preferred_counts(judge(), c(2, 3, 4), c(1, 2, 2 + 1e-12))
  expect_equal(tied$k, c(3, 4, 2))
  expect_true(tied$tied)
  expect_equal(preferred_counts(judge(), c(2, 3), c(NA_real_, NA_real_))$k, integer())
})

hand_values <- function(...) {
  curves <- list(...)
  do.call(rbind, lapply(names(curves), function(name) data.frame(index = name, k = as.integer(seq_along(curves[[name]])), value = curves[[name]], reason = "")))
}

test_that("a worked example: points, shares of a family, margin", {
  # family a: indices p and q; family b: index r. Counts 1 to 4; count 1 is not voted on.
  indices <- list(p = judge(key = "p", family = "a"), q = judge(key = "q", family = "a"),
                  r = judge("lower", key = "r", family = "b"))
  values <- hand_values(p = c(9, 5, 4, 3), q = c(0, 1, 3, 2), r = c(9, 3, 1, 2))
  ballots <- cast_ballots(values, indices, vote_weights(NULL, indices))
  shares <- family_points(ballots, vote_weights(NULL, indices), "ranked", 3)
  points <- total_points(shares, 1:4)
  # p: 2 3 4; q: 3 4 2; so a gives 2: (3+1)/2, 3: (2+3)/2, 4: (1+2)/2; r: 3 4 2 gives 3, 2, 1
  expect_equal(points$k, c(3, 4, 2))
  expect_equal(points$points, c(2.5 + 3, 1.5 + 2, 2 + 1))

  weighted <- vote_weights(c(p = 3, b = 0.5), indices)
  shares <- family_points(cast_ballots(values, indices, weighted), weighted, "ranked", 3)
  expect_equal(sum(shares$points[shares$family == "a" & shares$k == 2]), (3 * 3 + 1 * 1) / 4)
  expect_equal(sum(shares$points[shares$family == "b" & shares$k == 3]), 1.5)

  first_only <- family_points(ballots, vote_weights(NULL, indices), "plurality", 3)
  expect_equal(total_points(first_only, 1:4)$points, c(1.5, 0.5, 0))
})

test_that("an index without weight is shown and does not vote; one that prefers one group is said to", {
  indices <- list(p = judge(key = "p"), s = judge("lower", from = 1L, key = "s", family = "b", weight = 0))
  values <- hand_values(p = c(NA, 1, 2, 1), s = c(1, 4, 3, 2))
  ballots <- cast_ballots(values, indices, vote_weights(NULL, indices))
  expect_true(all(ballots$prefers_one[ballots$index == "s"]))
  shares <- family_points(ballots, vote_weights(NULL, indices), "ranked", 3)
  expect_equal(unique(shares$family), "curve")
})

test_that("indices without a vote say what they pick, or that they pick nothing, until they are given one", {
  sweep <- fl_sweep(fl_prepare(heap_data()), "kmeans", k = 1:2, indices = c("calinski_harabasz", "hartigan", "bic"))
  shown <- grep("^Shown without a vote", format(summary(fl_vote(sweep))), value = TRUE)
  expect_equal(shown, "Shown without a vote: hartigan picks none and bic picks 2.")
  expect_false(any(grepl("Hartigan.* abstain", fl_facts(fl_vote(sweep)))))
  given <- fl_vote(sweep, weights = c(hartigan = 1))
  expect_match(format(summary(given)), "^Shown without a vote: bic picks 2\\.$", all = FALSE)
  expect_match(fl_facts(given), "^Hartigan abstains: its rule picks none", all = FALSE)
})

test_that("votes become words by the stated rule", {
  expect_equal(verdict_of(1 / 6, firsts = 3, families = 3), "clear")
  expect_equal(verdict_of(0.3, firsts = 2, families = 3), "clear")
  expect_equal(verdict_of(0.19, firsts = 2, families = 3), "weak")
  expect_equal(verdict_of(0.1, firsts = 2, families = 3), "weak")
  expect_equal(verdict_of(0.09, firsts = 2, families = 3), "no clear count")
  expect_equal(verdict_of(0.5, firsts = 1, families = 1), "weak")
  expect_equal(verdict_of(NA, firsts = 0, families = 0), "no clear count")
})

test_that("three far heaps are three groups, but k-means alone is never clear, and the vote says what it cannot see", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:8))
  expect_equal(vote$k, 3)
  expect_equal(vote$pointed, "clear")
  expect_equal(vote$verdict, vote$rate$word)
  expect_false(vote$verdict == "clear")
  expect_equal(vote$margin, (vote$points$points[1] - vote$points$points[2]) / sum(vote$points$points))
  expect_match(fl_facts(vote)[1], "by k-means: .*(margin 0.33, runner-up 4)", fixed = FALSE)
  expect_match(fl_facts(vote), "^Votes like this one named the known number in [0-9]+ of [0-9]+", all = FALSE)
  expect_match(fl_facts(vote), "^There are groups: p <= 0.025, the smallest possible with 39 reference tables", all = FALSE)
  expect_match(fl_facts(vote), "Without a mixture beside k-means nothing was looked at but round groups", all = FALSE)
  settled <- fl_settle(vote, 3, "three heaps")
  expect_identical(fl_labels(fl_take(settled)), fl_labels(fl_partition(fl_prepare(heap_data()), k = settled)))
})

test_that("neighbours: which groups join and which split", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:6))
  expect_match(vote$neighbours$fewer$changes, "joins groups [123] and [123]")
  expect_match(vote$neighbours$more$changes, "splits group [123] into [0-9]+ \\+ [0-9]+")
  story <- split_story(c(1, 1, 1, 2, 2, 2), c(1, 1, 1, 1, 2, 3))
  expect_equal(story$changes, "splits group 2 into 1 + 1")
  expect_equal(story$moved, 1)
})

test_that("a vote without a clear count stops where a count is needed, until it is settled with a reason", {
  ready <- water_ready()
  vote <- fl_vote(quick_sweep(ready, k = 1:10))
  expect_equal(vote$verdict, "no clear count")
  expect_error(fl_take(vote), class = "fjordline_error_undecided", regexp = "fl_settle")
  expect_error(fl_partition(ready, k = vote), class = "fjordline_error_undecided")
  settled <- fl_settle(vote, 3, "three crews", purpose = "rota")
  expect_equal(settled$settled$voted, vote$k)
  groups <- fl_take(settled)
  expect_equal(groups$k, 3)
  expect_match(fl_facts(groups), "^Three groups, settled by you for rota: three crews", all = FALSE)
  # the reader's decision comes first, what was voted after it
  expect_match(fl_facts(settled)[1], "^Three groups, settled by you")
  expect_match(fl_facts(settled)[2], "^The vote, before that: no clear count")
  expect_match(format(settled)[1], "^Three groups, settled by you")
})

test_that("settling needs a count that was tried and a reason", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 2:5))
  expect_error(fl_settle(vote, 9, "because"), class = "fjordline_error_argument", regexp = "2, 3, 4 and 5")
  expect_error(fl_settle(vote, 3, "  "), class = "fjordline_error_argument", regexp = "reason")
  expect_error(fl_settle(vote, 3), class = "fjordline_error_argument", regexp = "reason")
})

test_that("weights, rules and depth are checked", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 2:4)
  expect_error(fl_vote(sweep, weights = c(silhuette = 2)), class = "fjordline_error_index", regexp = "silhouette")
  expect_error(fl_vote(sweep, weights = c(silhouette = -1)), class = "fjordline_error_argument")
  expect_error(fl_vote(sweep, weights = 2), class = "fjordline_error_argument")
  expect_error(fl_vote(sweep, rule = "ranks"), class = "fjordline_error_argument", regexp = "ranked")
  expect_error(fl_vote(sweep, depth = 0), class = "fjordline_error_argument")
})

test_that("a vote with weights of its own does not quote rates measured without them", {
  table <- withr::with_seed(3, matrix(stats::rnorm(240), 80) + rep(c(0, 9, 18, 27), each = 20))
  sweep <- fl_sweep(ready_from(table), k = 1:8, indices = "fast")
  own <- fl_vote(sweep)
  expect_false(is.null(own$rate))
  expect_match(fl_facts(own), "^Votes like this one named the known number in", all = FALSE)
  weighted <- fl_vote(sweep, weights = c(pairs = 2))
  expect_null(weighted$rate)
  expect_false(weighted$verdict == "clear")
  expect_match(fl_facts(weighted), "were not measured on such tables", all = FALSE)
  expect_true(is.na(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:5))$measured))
  expect_true(is.na(fl_vote(quick_sweep(fl_prepare(heap_data()), "medoids", k = 1:8))$measured))
})

test_that("one count or one group only: no vote, no crash", {
  only_one <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1))
  expect_equal(only_one$verdict, "no clear count")
  expect_true(is.na(only_one$k))
  expect_gt(nrow(only_one$abstained), 0)
  expect_error(fl_take(only_one), class = "fjordline_error_undecided")
  expect_output(print(only_one), "No clear count")
  expect_s3_class(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 3)), "fl_vote")
})

test_that("a pick at the end of the sweep is said", {
  expect_match(fl_facts(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 2:3))), "largest count tried", all = FALSE)
})

test_that("an elbow ranks only counts where the curve bends, and abstains where it bends nowhere", {
  elbow <- index_elbow()
  expect_equal(preferred_counts(elbow, 2:5, c(-1, 0.2, 0.5, -0.1))$k, c(4, 3))
  expect_equal(preferred_counts(elbow, 2:4, c(-1, -0.2, 0))$k, integer())
  straight <- elbow_bend(1:6, (1:6)^-2)  # log W falls evenly in log k
  expect_equal(straight[2:5], rep(0, 4), tolerance = 1e-12)
  values <- hand_values(elbow = c(NA, -1, -2, -3))
  expect_equal(abstentions(values, no_ballots())$reason, "its rule picks none of the counts")
})

test_that("the summary of a vote tells each index's pick, runner-up, rule and how clearly", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:6))
  told <- summary(vote)
  expect_setequal(told$index, unique(vote$ballots$index))
  ch <- told[told$index == "calinski_harabasz", ]
  values <- as.data.frame(vote$sweep)
  curve <- values$value[values$index == "calinski_harabasz" & values$k >= 2]
  best <- sort(curve, decreasing = TRUE)
  expect_equal(ch$pick, 3)
  expect_equal(ch$lead, (best[1] - best[2]) / diff(range(curve)))
  expect_false(ch$at_the_end)
})

test_that("with repeats the middle value votes", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 2:5, repeats = 3)
  silhouette <- sweep$values$index == "silhouette" & sweep$values$k == 4
  sweep$values$value[silhouette] <- c(0, 9, 0.5)
  sweep$values$reason[silhouette] <- ""
  vote <- fl_vote(sweep)
  expect_equal(vote$ballots$value[vote$ballots$index == "silhouette" & vote$ballots$k == 4], 0.5)
})

test_that("families agreeing or not is told in one sentence", {
  vote <- fl_vote(fl_sweep(water_ready(), "kmeans", k = 1:10, indices = c("elbow", "calinski_harabasz", "silhouette")))
  expect_match(fl_facts(vote), "^Two of the three families of indices prefer 5 groups; pairs prefers 3\\.$", all = FALSE)
  expect_equal(family_firsts(vote$shares)[["pairs"]], 3)
})

test_that("an index that would rather have one group is not said to pick the largest count", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:3))
  first <- vote$ballots$index[1]
  vote$ballots$k[vote$ballots$index == first & vote$ballots$rank == 1] <- 3L
  expect_match(end_fact(vote, 2), "the largest count tried")
  vote$ballots$prefers_one <- TRUE
  expect_null(end_fact(vote, 2))
  expect_false(any(summary(vote)$at_the_end))
})

test_that("a count whose rivals could not be fitted has won against nothing", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = c(2, 500)))
  expect_equal(vote$verdict, "no clear count")
  expect_true(is.na(vote$margin))
  expect_match(fl_facts(vote)[1], "it gives 2, and there is no other count")
})

test_that("steps of a vote name what it was told to stand by, and nothing else", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 2:5)
  expect_false(any(grepl("by =", fl_steps(fl_vote(sweep)))))
  expect_match(fl_steps(fl_vote(sweep, by = list(method = "kmeans"))), "by = list\\(method = \"kmeans\"\\)", all = FALSE)
})
