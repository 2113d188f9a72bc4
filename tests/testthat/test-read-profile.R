# Groups column by column, honest tests, deciding columns.

profile_data <- function() {
  table <- heaps()
  n <- nrow(table)
  table$place <- withr::with_seed(3, ifelse(stats::runif(n) < 0.7, as.character(table$kind), "anywhere"))
  table$lamp <- withr::with_seed(4, stats::runif(n) < 0.3)
  table$noise <- withr::with_seed(5, stats::rnorm(n))
  table$noise[c(2, 9)] <- NA
  fl_data(table, truth = "kind", id = "row", aside = c("place", "lamp", "noise"))
}

test_that("means, spreads, shares and differences are those of the group's rows, in original units", {
  groups <- fl_partition(fl_prepare(profile_data()), k = 3)
  columns <- as.data.frame(fl_profile(groups, sets = 0, audit = FALSE))
  table <- groups$ready$data$table
  feature <- groups$ready$features[1]
  for (g in 1:3) {
    mine <- which(groups$group == g)
    of <- function(column, level = NA) columns[columns$group == g & columns$column == column & columns$level %in% level, ]
    v <- table[[feature]][mine]
    got <- of(feature)
    expect_equal(unlist(got[c("mean", "median", "low", "high", "sd")], use.names = FALSE),
                 c(mean(v), median(v), quantile(v, c(0.25, 0.75), names = FALSE), sd(v)))
    expect_equal(got$rows, length(mine))
    expect_equal(got$overall, mean(table[[feature]]))
    expect_equal(got$difference, (mean(v) - mean(table[[feature]])) / sd(table[[feature]]))
    expect_equal(of("place", "anywhere")$mean, mean(table$place[mine] == "anywhere"))
    expect_equal(of("lamp", "TRUE")$mean, mean(table$lamp[mine]))
    expect_equal(nrow(of("lamp", "FALSE")), 0)
    expect_equal(of("noise")$rows, sum(!is.na(table$noise[mine])))
    expect_equal(of("noise")$mean, mean(table$noise[mine], na.rm = TRUE))
  }
})

test_that("what stands out follows the stated limits", {
  expect_equal(standout_way(c(-1.2, -0.5, 0.49, 0.99, 1, NA), TRUE),
               c("much lower", "lower", "", "higher", "much higher", ""))
  expect_equal(standout_way(c(-1, 0.6), FALSE), c("much less often", "more often"))
})

test_that("transformed features are compared as transformed", {
  ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
  groups <- fl_partition(ready, k = 5)
  columns <- as.data.frame(fl_profile(groups, sets = 0, audit = FALSE))
  logged <- log(ready$data$table$turbidity[ready$rows])
  mine <- groups$group[ready$rows] == 5
  got <- columns[columns$column == "turbidity" & columns$group == 5, ]
  expect_equal(got$difference, (mean(logged[mine]) - mean(logged)) / sd(logged))
  expect_equal(got$mean, mean(ready$data$table$turbidity[ready$rows][mine]))
})

test_that("cutting one heap in pieces is no finding: plain tests claim it always, tests against one heap hardly ever", {
  claims <- vapply(1:40, function(seed) {
    x <- as.data.frame(random_table(120, 3, seed) %*% matrix(c(2, 1, 0, 0, 1, 0.5, 0, 0, 1), 3))
    groups <- fl_partition(fl_prepare(fl_data(x), scale = "none"), fl_method("kmeans", restarts = 3), k = 3)
    tested <- fl_profile(groups, sets = 39, audit = FALSE)$separation
    c(plain = min(tested$p_plain) <= 0.05, beyond = mean(tested$p_beyond <= 0.05))
  }, c(plain = 0, beyond = 0))
  expect_equal(mean(claims["plain", ]), 1)
  expect_lte(mean(claims["beyond", ]), 0.06)
})

test_that("tests against one heap see groups that are there, and not in a column that has none", {
  x <- data.frame(apart = withr::with_seed(1, stats::rnorm(200, rep(c(0, 8), each = 100))),
                  same = withr::with_seed(2, stats::rnorm(200)))
  groups <- fl_partition(fl_prepare(fl_data(x), scale = "none"), k = 2)
  tested <- fl_profile(groups)$separation
  expect_equal(tested$p_beyond[tested$column == "apart"], 0.01)
  expect_gt(tested$p_beyond[tested$column == "same"], 0.05)
  expect_equal(tested$column[tested$decides], "apart")
  expect_match(fl_facts(fl_profile(groups)), "Apart \\(.* decides the groups", all = FALSE)
  expect_identical(fl_profile(groups)$separation, tested)
})

test_that("the audit's shares are those of the definition, and each fit without a column is the real one", {
  groups <- fl_partition(fl_prepare(profile_data()), k = 3)
  x <- groups$ready$x
  audit <- column_audit(groups, TRUE)
  between <- vapply(colnames(x), function(v) {
    sum((ave(x[, v], groups$group) - mean(x[, v]))^2)
  }, 0)
  total <- colSums(sweep(x, 2, colMeans(x))^2)
  expect_equal(audit$explained, unname(between / total), tolerance = 1e-10)
  expect_equal(audit$between, unname(between / sum(between)), tolerance = 1e-10)
  rest <- fl_partition(fl_prepare(profile_data(), use = colnames(x)[-1]), k = 3)
  expect_equal(audit$without[1], naive_adjusted_rand(groups$group, rest$group), tolerance = 1e-10)
  expect_true(all(is.na(column_audit(groups, FALSE)$without)))
})

test_that("levels of one category are left out together; components are not audited by refitting", {
  visits <- fl_prepare(fl_keep(fl_demo("vessel_visits"), length > 60))
  audit <- column_audit(fl_partition(visits, fl_method("kmeans", restarts = 2), k = 3), TRUE)
  expect_setequal(audit$column, intersect(visits$features, source_columns(colnames(visits$x), visits$features)))
  expect_equal(sum(audit$between), 1)
  reduced <- fl_partition(fl_prepare(fl_demo("water_samples"), reduce = 2), k = 3)
  expect_true(all(is.na(column_audit(reduced, TRUE)$without)))
  expect_s3_class(fl_profile(reduced), "fl_profile")
})

test_that("tightness and isolation are distances to centres", {
  groups <- fl_partition(fl_prepare(profile_data()), k = 3)
  got <- summary(fl_profile(groups, sets = 0, audit = FALSE))
  x <- groups$ready$x
  mine <- x[groups$group == 2, , drop = FALSE]
  expect_equal(got$tightness[2], mean(apply(mine, 1, naive_distance, b = groups$centres[2, ])))
  to <- vapply(c(1, 3), function(g) naive_distance(groups$centres[2, ], groups$centres[g, ]), 0)
  expect_equal(got$isolation[2], min(to))
  expect_equal(got$nearest[2], c(1, 3)[which.min(to)])
})

test_that("permuting rows changes no profile; one group, noise and many columns are described", {
  groups <- fl_partition(fl_prepare(profile_data()), k = 3)
  order <- withr::with_seed(8, sample(nrow(heaps())))
  shuffled <- fl_data(profile_data()$table[order, ], truth = "kind", id = "row", aside = c("place", "lamp", "noise"))
  moved <- fl_partition(fl_prepare(shuffled), k = 3)
  plain <- function(g) as.data.frame(fl_profile(g, sets = 0, audit = FALSE))
  expect_equal(plain(moved), plain(groups))
  one <- fl_profile(fl_partition(fl_prepare(profile_data()), k = 1))
  expect_true(all(is.na(one$separation$effect)))
  expect_match(fl_facts(one)[1], "^One group\\.")
  expect_error(autoplot(one, "groups"), "single group", class = "fjordline_error_argument")
  expect_error(autoplot(one, "separation"), "one group", class = "fjordline_error_argument")
  noisy <- groups
  noisy$group[1:4] <- 0L
  expect_equal(sum(plain(noisy)$rows[plain(noisy)$column == groups$ready$features[1]]), nrow(heaps()) - 4)
  wide <- fl_profile(fl_partition(fl_prepare(fl_demo("mooring_casts")), k = 5), sets = 3)
  expect_match(format(wide), "more columns and levels", all = FALSE)
  expect_s3_class(ggplot2::ggplot_build(autoplot(wide))$plot, "ggplot")
})

test_that("a profile prints its finding, its warning and what comes next; a loaded partition has none", {
  groups <- fl_partition(fl_prepare(profile_data()), k = 3)
  profile <- fl_profile(groups)
  lines <- format(profile)
  expect_match(lines[1], "^Three groups, told apart most by")
  expect_match(paste(lines, collapse = " "), "proves nothing by itself")
  expect_match(utils::tail(lines, 1), "Next: summary\\(profile\\)")
  for (view in c("columns", "separation", "groups")) {
    expect_s3_class(ggplot2::ggplot_build(autoplot(profile, view))$plot, "ggplot")
  }
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_error(fl_profile(fl_load(file)), class = "fjordline_error_model")
})

test_that("methods whose settings speak of rows or columns are neither refitted nor compared with heaps, and are described", {
  ready <- fl_prepare(profile_data())
  for (settings in list(list(row_weights = rep(1, length(ready$rows))), list(starts = ready$x[c(1, 25, 50), ]))) {
    method <- do.call(fl_method, c("kmeans", settings))
    separation <- fl_profile(fl_partition(ready, method, k = 3))$separation
    expect_true(all(is.na(separation$p_beyond)) && all(is.na(separation$without)))
    expect_false(anyNA(separation$between[separation$role == "feature"]))
  }
})

test_that("of long tables a sample is refitted, with and without a feature", {
  x <- data.frame(a = withr::with_seed(1, stats::rnorm(2600, rep(c(0, 9), 1300))), b = withr::with_seed(2, stats::rnorm(2600)))
  groups <- fl_partition(fl_prepare(fl_data(x)), k = 2)
  audit <- column_audit(groups, TRUE)
  expect_lt(audit$without[audit$column == "a"], 0.1)
  expect_equal(audit$without[audit$column == "b"], 1, tolerance = 0.02)
})

test_that("columns without a value are left out, infinite values are missing, ordered levels keep their order", {
  table <- heaps()
  n <- nrow(table)
  table$empty <- NA_real_
  table$blank <- NA_character_
  table$far <- c(Inf, -Inf, seq_len(n - 2))
  table$size <- factor(rep(c("small", "middle", "large"), length.out = n), c("small", "middle", "large"), ordered = TRUE)
  table$still <- 4
  data <- fl_data(table, truth = "kind", id = "row", aside = c("empty", "blank", "far", "size", "still"))
  columns <- as.data.frame(fl_profile(fl_partition(fl_prepare(data), k = 3), sets = 0))
  expect_false(any(c("empty", "blank") %in% columns$column))
  expect_equal(sum(columns$rows[columns$column == "far"]), n - 2)
  expect_true(all(is.finite(columns$mean)))
  expect_equal(unique(columns$level[columns$column == "size"]), c("small", "middle", "large"))
  expect_equal(columns$difference[columns$column == "still"], c(0, 0, 0))
})

test_that("a method that finds the count cuts no heaps in as many pieces: no such p-value", {
  found <- fl_profile(fl_partition(fl_prepare(profile_data()), "splitting"))
  expect_true(all(is.na(found$separation$p_beyond)))
  expect_false(any(grepl("Beyond", fl_facts(found))))
})

test_that("tests of one, two and more features are told as such", {
  told <- function(p) beyond_fact(tibble::tibble(column = letters[seq_along(p)], p_beyond = p), 99)
  expect_match(told(0.01), "the tested feature differs")
  expect_match(told(c(0.01, 0.02)), "both tested features differ")
  expect_match(told(rep(0.01, 4)), "all 4 tested features differ")
  expect_match(told(c(0.01, 0.5, 0.01)), "2 of 3 features differ; not beyond that: b")
  expect_match(told(c(0.4, 0.5)), "no feature is shown to differ")
  expect_match(beyond_fact(tibble::tibble(column = "a", p_beyond = NA_real_), 99, mixture = TRUE), "Under a mixture they are not tested")
})

test_that("levels, ranks and columns of few values are not compared with heaps, which they never resemble", {
  table <- heaps()
  n <- nrow(table)
  table$coin <- withr::with_seed(6, sample(0:1, n, TRUE))
  table$answer <- withr::with_seed(9, sample(7, n, TRUE))
  table$flag <- withr::with_seed(7, stats::runif(n) < 0.5)
  table$grade <- factor(withr::with_seed(8, sample(c("low", "mid", "high"), n, TRUE)), c("low", "mid", "high"), ordered = TRUE)
  data <- fl_data(table, features = c("east", "north", "coin", "answer", "flag", "grade"), id = "row")
  separation <- fl_profile(fl_partition(fl_prepare(data), k = 3), sets = 19)$separation
  expect_setequal(separation$column[!is.na(separation$p_beyond)], c("east", "north"))
  expect_false(anyNA(separation$effect[separation$role == "feature"]))
})

test_that("features that a preparation does not use are described as kept aside, and tested plainly", {
  ready <- fl_prepare(fl_demo("water_samples"), use = c("temperature", "salinity"))
  profile <- fl_profile(fl_partition(ready, fl_method("kmeans", restarts = 3), k = 3), sets = 9)
  told <- profile$separation
  expect_equal(told$role[match(c("temperature", "oxygen", "depth", "station"), told$column)],
               c("feature", "aside", "aside", "aside"))
  expect_true(is.na(told$p_beyond[told$column == "oxygen"]))
  expect_false("water_mass" %in% told$column)
})

test_that("flat and discrete columns of one cluster do not differ beyond cutting it; a mixture is not tested", {
  claims <- vapply(1:30, function(seed) {
    x <- withr::with_seed(seed, data.frame(flat = stats::runif(150), steps = sample(9, 150, TRUE), skew = stats::rexp(150)))
    groups <- fl_partition(fl_prepare(fl_data(x)), fl_method("kmeans", restarts = 3), k = 3)
    mean(fl_profile(groups, sets = 39, audit = FALSE)$separation$p_beyond <= 0.05)
  }, 0)
  expect_lte(mean(claims), 0.1)  # against Gaussians and boxes it was .3
  mixed <- fl_partition(fl_prepare(profile_data()), "mixture", k = 3)
  expect_true(all(is.na(fl_profile(mixed, audit = FALSE)$separation$p_beyond)))
})

test_that("a sample that figures rest on is printed with them", {
  x <- random_heaps(2100, 2, 3, sd = 6, seed = 1)
  groups <- fl_partition(ready_from(x), fl_method("kmeans", restarts = 2), k = 3)
  expect_match(fl_facts(fl_profile(groups, sets = 0)), "refits of an even sample of 2,000 rows", all = FALSE)
  few <- fl_partition(ready_from(x[1:300, ]), fl_method("kmeans", restarts = 2), k = 3)
  expect_false(any(grepl("even sample", fl_facts(fl_profile(few, sets = 0)))))
  returns <- data.frame(group = 1:2, returns = c(0.9, 0.95))
  expect_match(returns_fact(returns, 2100), "^Under resampling of an even sample of 2,000 rows, both groups reach a mean Jaccard overlap of 0.75")
  expect_match(returns_fact(returns, 300), "^Under resampling both groups reach a mean Jaccard overlap of 0.75")
  clump <- rbind(random_table(2100, 2, 2), 40 + 0.1 * random_table(60, 2, 3))
  expect_match(fl_facts(fl_outliers(ready_from(clump))), "^Of an even sample of 2,000 rows, [0-9]+ rows lie apart together",
               all = FALSE)
})

test_that("no column of one cluster, and none of noise beside groups, is said to decide", {
  deciding <- function(x) {
    x <- as.data.frame(x)
    separation <- fl_profile(fl_partition(fl_prepare(fl_data(x, features = names(x))), k = 2), sets = 39)$separation
    separation$column[separation$decides %in% TRUE]
  }
  # before, two of three columns of one cluster were
  alone <- vapply(1:10, function(seed) length(deciding(withr::with_seed(seed, matrix(rnorm(400), 100)))), 0L)
  expect_lte(sum(alone > 0), 1)
  beside <- vapply(1:6, function(seed) {
    x <- withr::with_seed(seed, {
      group <- sample(2, 120, TRUE)
      cbind(a = 5 * group + rnorm(120), b = rnorm(120), noise = runif(120, -2, 2))
    })
    found <- deciding(x)
    c("a" %in% found, any(c("b", "noise") %in% found))
  }, logical(2))
  expect_gte(sum(beside[1, ]), 2)
  expect_equal(sum(beside[2, ]), 0)
})
