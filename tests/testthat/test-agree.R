cross <- function(a, b) unclass(table(a, b))

test_that("adjusted Rand equals its definition over pairs of rows", {
  for (seed in 1:10) {
    labels <- withr::with_seed(seed, list(sample(3, 40, TRUE), sample(4, 40, TRUE)))
    expect_equal(adjusted_rand(cross(labels[[1]], labels[[2]])), naive_adjusted_rand(labels[[1]], labels[[2]]),
                 tolerance = 1e-12)
  }
})

test_that("a hand-worked adjusted Rand", {
  # groups 3 + 2, classes 2 + 3: together 1 + 1 + 1 = ... table rbind(c(2, 1), c(0, 2))
  # pairs together 1 + 0 + 0 + 1 = 2, in groups 3 + 1 = 4, in classes 1 + 3 = 4, of 10: expected 1.6
  expect_equal(adjusted_rand(rbind(c(2, 1), c(0, 2))), (2 - 1.6) / (4 - 1.6))
})

test_that("edges: identical labelings 1, one group against several 0", {
  expect_equal(adjusted_rand(cross(c(1, 1, 1), c("a", "a", "a"))), 1)
  expect_equal(adjusted_rand(cross(1:4, letters[1:4])), 1)
  expect_equal(adjusted_rand(cross(c(1, 1, 1, 1), c("a", "b", "a", "b"))), 0)
  expect_equal(adjusted_rand(cross(1:4, rep("a", 4))), 0)
})

test_that("the matching is the best of all, by enumeration up to 7 groups", {
  for (seed in 1:25) {
    k <- 2 + seed %% 6
    table <- withr::with_seed(seed, matrix(sample(0:9, k * k, TRUE), k))
    best <- max(vapply(all_orders(k), function(o) sum(table[cbind(seq_len(k), o)]), 0))
    match <- match_one_to_one(table)
    known <- !is.na(match)
    expect_equal(sum(table[cbind(which(known), match[known])]), best)
    expect_equal(anyDuplicated(match[known]), 0)
  }
})

test_that("equal matchings go to the larger overlap in the lower-numbered group; empty pairs are no match", {
  expect_equal(match_one_to_one(rbind(c(3, 5), c(3, 5))), c(2, 1))
  expect_equal(match_one_to_one(rbind(c(4, 4), c(4, 4))), c(1, 2))
  expect_equal(match_one_to_one(rbind(c(5, 0), c(5, 0))), c(1, NA))
  expect_equal(match_one_to_one(rbind(c(1, 9), c(2, 8), c(3, 0))), c(2, NA, 1))
  expect_equal(match_one_to_one(matrix(c(2, 7), 1)), 2)
})

test_that("accuracy, disagreeing rows and left-out rows add up on a worked example", {
  a <- c(1, 1, 1, 2, 2, 2, 3, NA)
  b <- c("x", "x", "y", "y", "y", NA, "x", "x")
  agreement <- fl_agree(a, b)
  expect_equal(agreement$rows, 6)
  expect_equal(agreement$left_out, 2)
  expect_equal(agreement$measures$value[agreement$measures$measure == "accuracy"], 4 / 6)
  expect_equal(agreement$disagree, c(3, 7))
  expect_equal(agreement$matched$class, c("x", "y", NA))
  expect_equal(agreement$measures$value[agreement$measures$measure == "purity"], 5 / 6)
})

test_that("majority matching lets groups share a class", {
  a <- c(1, 1, 2, 2, 3)
  b <- c("x", "x", "x", "x", "y")
  expect_equal(fl_agree(a, b, match = "majority")$matched$class, c("x", "x", "y"))
  expect_equal(fl_agree(a, b, match = "majority")$disagree, integer())
})

test_that("renaming groups and shuffling rows change nothing", {
  a <- rep(1:3, 10)
  b <- withr::with_seed(1, sample(letters[1:3], 30, TRUE))
  order <- withr::with_seed(2, sample(30))
  expect_equal(fl_agree(c("r", "p", "q")[a], b)$measures, fl_agree(a, b)$measures)
  expect_equal(fl_agree(a[order], b[order])$measures, fl_agree(a, b)$measures)
  expect_equal(fl_agree(b, a)$measures$value[1], fl_agree(a, b)$measures$value[1])
})

test_that("partitions compare with the truth, a column, another partition and a vector", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  got <- fl_agree(groups)$measures
  expect_equal(got$value[got$measure %in% c("adjusted_rand", "accuracy", "purity")], c(1, 1, 1))
  expect_equal(fl_agree(groups, "kind")$measures, fl_agree(groups)$measures)
  expect_equal(fl_agree(groups, fl_partition(fl_prepare(heap_data()), k = 3, seed = 9))$measures$value[1], 1)
  expect_equal(fl_agree(groups, heaps()$kind)$measures, fl_agree(groups)$measures)
  expect_equal(colnames(fl_agree(groups)$table), fl_agree(groups)$matched$class)
})

test_that("noise counts as one group of its own", {
  expect_equal(rownames(fl_agree(c(0, 0, 1, 1), c("a", "b", "c", "c"))$table), c("0", "1"))
})

test_that("a truth with one class works by the stated rule, and the check says so", {
  table <- transform(heaps(), kind = "a")
  data <- fl_data(table, truth = "kind", id = "row")
  expect_match(as.data.frame(fl_check(data))$finding, "one class only", all = FALSE)
  expect_equal(fl_agree(fl_partition(fl_prepare(data), k = 3))$measures$value[1], 0)
})

test_that("labels that cannot be compared are refused", {
  groups <- fl_partition(fl_prepare(fl_demo("still_water")), k = 2)
  expect_error(fl_agree(groups), class = "fjordline_error_argument", regexp = "no known classes")
  expect_error(fl_agree(groups, "dya"), class = "fjordline_error_column", regexp = "day")
  expect_error(fl_agree(1:3, 1:4), class = "fjordline_error_argument", regexp = "a has 3 rows, b has 4")
  expect_error(fl_agree(c(1, NA), c(NA, 1)), class = "fjordline_error_argument", regexp = "no row")
  expect_error(fl_agree(list(1), 1), class = "fjordline_error_argument")
})

# Measures over pairs of rows and over shares, written out.
naive_pairs <- function(a, b) {
  pairs <- utils::combn(length(a), 2)
  same_a <- a[pairs[1, ]] == a[pairs[2, ]]
  same_b <- b[pairs[1, ]] == b[pairs[2, ]]
  list(rand = mean(same_a == same_b), jaccard = sum(same_a & same_b) / sum(same_a | same_b),
       fowlkes_mallows = sum(same_a & same_b) / sqrt(sum(same_a) * sum(same_b)))
}

naive_information <- function(a, b) {
  entropy <- function(x) -sum(vapply(unique(x), function(v) mean(x == v) * log(mean(x == v)), 0))
  given <- function(x, y) sum(vapply(unique(y), function(v) mean(y == v) * entropy(x[y == v]), 0))
  mutual <- entropy(a) - given(a, b)
  homogeneity <- 1 - given(b, a) / entropy(b)
  completeness <- 1 - given(a, b) / entropy(a)
  list(mutual_information = mutual, homogeneity = homogeneity, completeness = completeness,
       v_measure = mutual / mean(c(entropy(a), entropy(b))),
       variation_of_information = given(a, b) + given(b, a))
}

test_that("every measure equals its definition over pairs of rows and shares", {
  for (seed in 1:8) {
    labels <- withr::with_seed(seed, list(sample(4, 40, TRUE), sample(3, 40, TRUE)))
    a <- labels[[1]]
    b <- ifelse(labels[[2]] == 1, a, labels[[2]] + 3)
    got <- fl_agree(a, b)$measures
    naive <- c(naive_pairs(a, b), naive_information(a, b), adjusted_rand = naive_adjusted_rand(a, b))
    for (measure in names(naive)) {
      expect_equal(got$value[got$measure == measure], naive[[measure]], tolerance = 1e-10, info = measure)
    }
    expect_equal(naive$v_measure, 2 / (1 / naive$homogeneity + 1 / naive$completeness), tolerance = 1e-10)
  }
})

test_that("expected mutual information is the mean over all ways to put the labelings together", {
  a <- c(1, 1, 1, 2, 2, 3)
  b <- c("x", "x", "y", "y", "y", "y")
  by_order <- vapply(all_orders(6), function(o) naive_information(a, b[o])$mutual_information, 0)
  expect_equal(expected_information(c(3, 2, 1), c(2, 4)), mean(by_order), tolerance = 1e-10)
  mutual <- naive_information(a, b)$mutual_information
  most <- mutual / naive_information(a, b)$v_measure
  got <- fl_agree(a, b)$measures
  expect_equal(got$value[got$measure == "adjusted_mutual_information"],
               (mutual - mean(by_order)) / (most - mean(by_order)), tolerance = 1e-10)
})

test_that("expected information leaves nothing out on large tables, and unrelated labelings score about 0", {
  plain <- function(a, b, n) {
    cell <- max(1, a + b - n):min(a, b)
    sum(cell / n * log(n * cell / (a * b)) * dhyper(cell, a, n - a, b))
  }
  expect_equal(expected_information(c(30000, 10000), c(25000, 15000)),
               plain(30000, 25000, 4e4) + plain(30000, 15000, 4e4) + plain(10000, 25000, 4e4) + plain(10000, 15000, 4e4),
               tolerance = 1e-10)
  labels <- withr::with_seed(1, list(sample(20, 3000, TRUE), sample(20, 3000, TRUE)))
  got <- fl_agree(labels[[1]], labels[[2]])$measures
  expect_lt(abs(got$value[got$measure == "adjusted_mutual_information"]), 0.01)
  expect_gt(got$value[got$measure == "v_measure"], 0.015)
})

test_that("edges of every measure: identical labelings score 1 or distance 0, also with one group or one row each", {
  for (label in list(rep(1, 5), 1:5, c(1, 1, 2, 2, 3), 7)) {
    got <- fl_agree(label, letters[label])$measures
    distance <- got$measure %in% lower_is_better
    expect_equal(got$value[distance], 0)
    expect_equal(got$value[!distance & got$measure != "mutual_information"], rep(1, 10))
  }
  one_against_several <- fl_agree(rep(1, 6), c(1, 1, 2, 2, 3, 3))$measures
  adjusted <- startsWith(one_against_several$measure, "adjusted")
  expect_equal(one_against_several$value[adjusted], c(0, 0))
  expect_false(anyNA(one_against_several$value))
  expect_false(anyNA(fl_agree(1:6, rep("a", 6))$measures$value))
})

test_that("precision, recall and F1 by class, by hand; a class without a group has none, 0 and 0", {
  a <- c(1, 1, 1, 2, 2, 2, 2)
  b <- c("x", "x", "y", "y", "y", "z", "y")
  classes <- fl_agree(a, b)$classes
  expect_equal(classes$class, c("x", "y", "z"))
  expect_equal(classes$rows, c(2, 4, 1))
  expect_equal(classes$precision, c(2 / 3, 3 / 4, NA))
  expect_equal(classes$recall, c(1, 3 / 4, 0))
  expect_equal(classes$f1, c(0.8, 0.75, 0))
  shared <- fl_agree(c(1, 1, 2, 2, 3), c("x", "x", "x", "y", "y"), match = "majority")$classes
  expect_equal(shared$precision, c(3 / 4, 1))
  expect_equal(shared$recall, c(1, 1 / 2))
})

test_that("noise goes with the class that is noise and with nothing else, and can be left out", {
  noisy <- fl_partition(fl_prepare(heap_data()), k = 3)
  truth <- as.character(heaps()$kind)
  stray <- c(1, 2, 3)
  noisy$group[stray] <- 0L
  undeclared <- fl_agree(noisy, truth)
  expect_true(is.na(undeclared$matched$class[undeclared$matched$group == "0"]))
  truth[stray] <- "stray"
  declared <- fl_agree(noisy, truth, noise = "stray")
  expect_equal(declared$matched$class[declared$matched$group == "0"], "stray")
  expect_equal(declared$measures$value[declared$measures$measure == "accuracy"], 1)
  # a group full of noise rows is not right
  swapped <- noisy
  swapped$group <- c(`0` = 1L, `1` = 0L, `2` = 2L, `3` = 3L)[as.character(noisy$group)]
  of_swapped <- fl_agree(swapped, truth, noise = "stray")
  expect_true(all(is.na(of_swapped$matched$class[of_swapped$matched$group %in% c("0", "1")])))
  left_out <- fl_agree(noisy, truth, noise = "stray", without_noise = TRUE)
  expect_equal(left_out$left_out, 3)
  expect_false("0" %in% rownames(left_out$table))
  expect_error(fl_agree(noisy, truth, noise = "foam"), "must be one of the classes", class = "fjordline_error_argument")
  # labels that are no partition may be called 0
  expect_equal(fl_agree(c(0, 0, 1, 1), c("a", "a", "b", "b"))$matched$class, c("a", "b"))
})

test_that("intervals come from drawn cross-tables, hold the value, and shrink with the rows", {
  drawn <- drawn_tables(rbind(c(6, 1), c(0, 3)), 10, 4000, 5)
  expect_equal(rowSums(drawn), rep(10, 4000))
  expect_equal(colMeans(drawn), c(6, 0, 1, 3), tolerance = 0.03)
  expect_equal(var(drawn[, 1]), 10 * 0.6 * 0.4, tolerance = 0.08)
  expect_equal(cov(drawn[, 1], drawn[, 4]), -10 * 0.6 * 0.3, tolerance = 0.1)
  a <- rep(1:3, 20)
  b <- ifelse(seq_along(a) %% 7 == 0, 1, a)
  few <- fl_agree(a, b, samples = 300)$measures
  many <- fl_agree(rep(a, 20), rep(b, 20), samples = 300)$measures
  given <- !is.na(few$low)
  expect_setequal(few$measure[given], with_intervals)
  expect_true(all(few$low <= few$value + 1e-12 & few$value <= few$high + 1e-12, na.rm = TRUE))
  expect_true(all(many$high - many$low < few$high - few$low, na.rm = TRUE))
  expect_identical(fl_agree(a, b, samples = 300), fl_agree(a, b, samples = 300))
  expect_false(identical(fl_agree(a, b, samples = 300, seed = 2)$measures$low, few$low))
  # accuracy is a share of rows: its interval is the binomial one
  right <- few$value[few$measure == "accuracy"]
  expect_equal(few$low[few$measure == "accuracy"], qbinom(0.025, 60, right) / 60, tolerance = 0.03)
  expect_match(fl_facts(fl_agree(a, b, samples = 50))[1], "adjusted Rand 0\\.[0-9]{2} \\(0\\.[0-9]{2} to [01]\\.[0-9]{2}\\)")
})

test_that("groups finer or coarser than the classes are called so", {
  classes <- rep(c("a", "b"), each = 40)
  finer <- fl_agree(rep(1:8, each = 10), classes)
  expect_match(fl_facts(finer), "divide the classes further", all = FALSE)
  expect_match(fl_facts(fl_agree(classes, rep(1:8, each = 10))), "join what", all = FALSE)
  expect_no_match(fl_facts(fl_agree(classes, classes)), "further|join")
})

test_that("rows left out as noise are compared with nothing", {
  noisy <- fl_partition(fl_prepare(heap_data()), k = 3)
  noisy$group[1:5] <- 0L
  agreement <- fl_agree(noisy, without_noise = TRUE)
  expect_equal(agreement$compared, 6:60)
  expect_equal(agreement$rows, 55)
  expect_equal(fl_agree(noisy)$compared, 1:60)
})

test_that("drawn tables leave empty cells empty, however many there are", {
  table <- diag(c(3, 5, 40, 2))
  drawn <- drawn_tables(table, 50, 500, 2)
  expect_true(all(drawn[, table == 0] == 0))
  expect_equal(rowSums(drawn), rep(50, 500))
  many <- fl_agree(rep(1:60, 2), rep(1:40, 3), samples = 20)$measures
  expect_false(anyNA(many$low[many$measure %in% with_intervals]))
})

test_that("rows that all agree in a small sample are not certain to agree", {
  a <- rep(1:3, c(30, 15, 15))
  perfect <- fl_agree(a, a, samples = 500)$measures
  ari <- perfect[perfect$measure == "adjusted_rand", ]
  expect_equal(ari$high, 1)
  expect_lt(ari$low, 0.97)
  # as many groups as would push every drawn value below one
  many <- fl_agree(rep(1:20, 10), rep(1:20, 10), samples = 100)$measures
  expect_equal(many$high[many$measure == "adjusted_rand"], 1)
})

test_that("whether labelings agree better than chance is asked of permutations, not of a limit", {
  # a quarter shared of a thousand: little, but far beyond chance
  a <- withr::with_seed(1, sample(1:3, 1000, replace = TRUE))
  b <- withr::with_seed(2, ifelse(stats::runif(1000) < 0.3, a, sample(1:3, 1000, replace = TRUE)))
  shared <- fl_agree(a, b)
  expect_lt(shared$measures$value[shared$measures$measure == "adjusted_rand"], 0.15)
  expect_equal(shared$p_chance, 0.005)
  expect_match(fl_facts(shared)[1], "agree (hardly, but better than chance|poorly): adjusted Rand 0\\.[01]")
  apart <- fl_agree(a, withr::with_seed(3, sample(b)))
  expect_gt(apart$p_chance, 0.05)
  expect_match(fl_facts(apart)[1], "no better than chance \\(p = ")
  # written out: the share of all permutations of five labels that agree as well
  five <- c(1, 1, 2, 2, 2)
  other <- c(1, 1, 2, 2, 1)
  orders <- as.matrix(expand.grid(rep(list(1:5), 5)))
  orders <- orders[apply(orders, 1, function(o) !anyDuplicated(o)), ]
  all <- apply(orders, 1, function(o) adjusted_rand(table(five, other[o])))
  exact <- mean(all >= adjusted_rand(table(five, other)) - 1e-12)
  expect_equal(chance_of_agreement(five, other, 1), exact, tolerance = 0.1)
})

test_that("where one side has one group there is no chance to compare with, and no word about it", {
  expect_true(is.na(chance_of_agreement(rep(1, 9), rep("a", 9), 1)))
  expect_equal(chance_of_agreement(rep(1, 9), rep(1:3, 3), 1), 1)
  expect_match(fl_facts(fl_agree(rep(1, 9), rep("a", 9)))[1], "almost perfectly")
  expect_match(fl_facts(fl_agree(rep(1, 9), rep(1:3, 3)))[1], "no better than chance")
})

test_that("pairs put together by dealt labelings are those of the shuffles themselves, each deal by its own number", {
  a <- c(1L, 1L, 2L, 2L, 2L, 3L)
  b <- c(2L, 1L, 1L, 2L, 2L, 1L)
  drawn <- dealt_pairs_kernel(a, b, 3L, 2L, 4000L, 0L, 7)
  # every way to deal b out, once each
  ways <- unique(t(utils::combn(6, 3)))
  possible <- apply(ways, 1, function(ones) {
    dealt <- replace(rep(2L, 6), ones, 1L)
    sum(choose(table(a, dealt), 2))
  })
  expected <- table(factor(possible, 0:4)) / length(possible)
  expect_lt(max(abs(table(factor(drawn, 0:4)) / 4000 - expected)), 0.03)
  expect_identical(dealt_pairs_kernel(a, b, 3L, 2L, 10L, 5L, 7), drawn[6:15])
  expect_error(dealt_pairs_kernel(a, replace(b, 1, 3L), 3L, 2L, 1L, 0L, 7), "label beyond")
  expect_error(dealt_pairs_kernel(a, replace(b, 1, 0L), 3L, 2L, 1L, 0L, 7), "without a label")
})
