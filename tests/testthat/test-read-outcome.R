# A column kept aside, by group.

outcome_partition <- function() {
  table <- heaps()
  n <- nrow(table)
  table$catch <- withr::with_seed(1, stats::rnorm(n, 10 + 3 * (table$kind == table$kind[1])))
  table$gear <- withr::with_seed(2, ifelse(table$kind == table$kind[1] & stats::runif(n) < 0.8, "net", "line"))
  table$wind <- withr::with_seed(3, stats::rnorm(n))
  table$night <- withr::with_seed(4, stats::runif(n) < 0.4)
  table$catch[c(3, 5)] <- NA
  table$name <- paste0("trip", seq_len(n))
  data <- fl_data(table, truth = "kind", id = "row", aside = c("catch", "gear", "wind", "night", "name"))
  fl_partition(fl_prepare(data), k = 3)
}

test_that("means have an interval near Student's where values are normal, and are compared by Welch's test", {
  groups <- outcome_partition()
  outcome <- fl_outcome(groups, "catch")
  values <- groups$ready$data$table$catch
  for (g in 1:3) {
    test <- t.test(values[groups$group == g], conf.level = 0.95)
    got <- outcome$groups[g, ]
    expect_equal(got$value, unname(test$estimate))
    expect_equal(c(got$low, got$high), test$conf.int[1:2], tolerance = 0.05)
    expect_equal(got$rows, sum(groups$group == g & !is.na(values)))
    expect_equal(got$median, median(values[groups$group == g], na.rm = TRUE))
  }
  # Welch (1951), written out
  kept <- !is.na(values)
  by <- split(values[kept], groups$group[kept])
  n <- lengths(by); m <- vapply(by, mean, 0); w <- n / vapply(by, var, 0)
  middle <- sum(w * m) / sum(w)
  lambda <- sum((1 - w / sum(w))^2 / (n - 1))
  f <- sum(w * (m - middle)^2) / 2 / (1 + 2 * 1 / 8 * lambda)
  expect_equal(outcome$test$statistic, f, tolerance = 1e-10)
  # no dealing out of 1,999 differs as much; of many rows the p-value is that of the F distribution
  expect_equal(outcome$test$p, 1 / 2000)
  many <- welch_test(rep(values[kept], 100), rep(groups$group[kept], 100))
  expect_equal(many$p, stats::oneway.test(v ~ g, data.frame(v = rep(values[kept], 100), g = rep(groups$group[kept], 100)))$p.value,
               tolerance = 1e-6)
  expect_equal(outcome$without, 2)
  expect_match(fl_facts(outcome)[1], "^Catch differs between the groups \\(Welch's analysis of variance, by permutation, p < 0.001; eta squared")
  expect_match(fl_facts(outcome), "2 rows without a value or a group are left out", all = FALSE)
  expect_match(fl_facts(fl_outcome(groups, "wind"))[1], "does not differ between the groups beyond chance")
})

test_that("shares have Wilson's interval, by its equation, and yes and no are one value", {
  groups <- outcome_partition()
  gear <- as.data.frame(fl_outcome(groups, "gear", level = 0.9))
  z <- qnorm(0.95)
  for (i in which(gear$value > 0 & gear$value < 1)) {
    for (end in c(gear$low[i], gear$high[i])) {
      expect_equal((gear$value[i] - end)^2, z^2 * end * (1 - end) / gear$rows[i], tolerance = 1e-10)
    }
  }
  expect_equal(as.vector(tapply(gear$value, gear$group, sum)), c(1, 1, 1))
  expect_equal(wilson_interval(0, 10, 0.95)$low, 0)
  expect_equal(wilson_interval(1, 10, 0.95)$high, 1)
  night <- fl_outcome(groups, "night")
  expect_equal(unique(night$groups$level), "TRUE")
  expect_equal(night$groups$value[2], mean(groups$ready$data$table$night[groups$group == 2]))
})

test_that("features, long texts and misspelt columns are refused with what to do", {
  groups <- outcome_partition()
  expect_error(fl_outcome(groups, groups$ready$features[1]), "made the groups", class = "fjordline_error_column")
  expect_error(fl_outcome(groups, "name"), "60 different values", class = "fjordline_error_column")
  expect_error(fl_outcome(groups, "cach"), "catch", class = "fjordline_error_column")
  expect_error(fl_outcome(groups, "catch", level = 2), class = "fjordline_error_argument")
})

test_that("groups of one row, without values or without spread are told and not tested", {
  groups <- outcome_partition()
  groups$ready$data$table$catch <- 4
  still <- fl_outcome(groups, "catch")
  expect_true(is.na(still$test$p))
  expect_match(fl_facts(still)[1], "cannot be compared")
  groups$ready$data$table$catch <- ifelse(groups$group == 1, NA, seq_along(groups$group))
  part <- fl_outcome(groups, "catch")
  expect_true(is.na(part$groups$value[1]))
  expect_false(is.na(part$test$p))
  one <- groups
  one$group[one$group == 3][-1] <- 0L
  alone <- fl_outcome(one, "wind")
  expect_equal(alone$groups$rows[3], 1)
  expect_true(is.na(alone$groups$low[3]))
})

test_that("it prints the finding first and is drawn", {
  groups <- outcome_partition()
  expect_match(format(fl_outcome(groups, "catch"))[1], "^Catch differs")
  expect_match(format(fl_outcome(groups, "gear")), "^  net +[0-9]+% +[0-9]+% +[0-9]+%$", all = FALSE)
  for (column in c("catch", "gear", "night")) {
    expect_s3_class(ggplot2::ggplot_build(autoplot(fl_outcome(groups, column)))$plot, "ggplot")
  }
})

test_that("infinite values are missing, columns without values are refused, rare values are told", {
  groups <- outcome_partition()
  groups$ready$data$table$wind[1:2] <- c(Inf, -Inf)
  wind <- fl_outcome(groups, "wind")
  expect_equal(wind$without, 2)
  expect_true(all(is.finite(wind$groups$high)))
  groups$ready$data$table$wind <- NA_real_
  expect_error(fl_outcome(groups, "wind"), "no value in any row", class = "fjordline_error_values")
  groups$ready$data$table$gear[] <- "net"
  groups$ready$data$table$gear[4] <- "trap"
  rare <- fl_outcome(groups, "gear")
  expect_false(rare$test$rough)
  expect_equal(rare$test$name, "chi-squared, by permutation")
  expect_equal(rare$test$p, 1)  # one row of another value is in some group in any case
  expect_false(fl_outcome(outcome_partition(), "night")$test$rough)
})

test_that("levels of a factor keep their order, and equal means have no extremes", {
  groups <- outcome_partition()
  groups$ready$data$table$gear <- factor(groups$ready$data$table$gear, c("net", "line"))
  expect_equal(unique(fl_outcome(groups, "gear")$groups$level), c("net", "line"))
  groups$ready$data$table$catch <- 4
  expect_false(any(grepl("Highest", fl_facts(fl_outcome(groups, "catch")))))
})

test_that("dates are read as how the groups are mixed over time", {
  table <- heaps()
  n <- nrow(table)
  table$day <- as.Date("2031-01-15") + 30 * (seq_len(n) %% 6)
  table$drift <- as.Date("2031-01-15") + ifelse(table$kind == table$kind[1], 0, 200) + seq_len(n) %% 20
  table$hour <- as.POSIXct("2031-01-15 00:30:00", tz = "UTC") + 3600 * (seq_len(n) %% 5)
  table$drift[3] <- NA
  groups <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row", aside = c("day", "drift", "hour"))), k = 3)
  outcome <- fl_outcome(groups, "day")
  expect_equal(outcome$by, "day")
  months <- fl_outcome(groups, "day", by = "month")
  labels <- format(table$day, "%Y-%m")
  for (i in seq_len(nrow(months$groups))) {
    row <- months$groups[i, ]
    expect_equal(row$rows, sum(labels == row$level))
    expect_equal(row$value, mean(fl_labels(groups)[labels == row$level] == row$group))
    expect_equal(c(row$low, row$high), unlist(wilson_interval(row$value, row$rows, 0.95), use.names = FALSE))
  }
  test <- suppressWarnings(chisq.test(table(labels, fl_labels(groups)), correct = FALSE))
  expect_equal(months$test$p, test$p.value, tolerance = 0.1)
  expect_match(fl_facts(months)[1], "does not change beyond chance")
  moved <- fl_outcome(groups, "drift", by = "quarter")
  expect_equal(unique(moved$groups$level), c("2031-Q1", "2031-Q3"))
  expect_match(fl_facts(moved)[1], "The mix of groups over drift, by quarter, changes \\(chi-squared, p < 0.001")
  expect_match(fl_facts(moved)[2], "^Most changes group")
  expect_equal(moved$without, 1)
  expect_equal(fl_outcome(groups, "hour")$by, "hour")
  expect_output(print(moved), "quarter +rows")
  expect_s3_class(ggplot2::ggplot_build(autoplot(moved))$plot, "ggplot")
  expect_error(fl_outcome(groups, "day", by = "mnth"), class = "fjordline_error_argument", regexp = "month")
})

test_that("the permutation p-value is the share of all ways to deal out the values", {
  values <- c(1, 2, 4, 8, 16, 3, 9)
  group <- rep(1:2, c(3, 4))
  ways <- combn(7, 3)
  all <- apply(ways, 2, function(first) {
    mine <- replace(rep(2L, 7), first, 1L)
    welch_statistic((values - mean(values)) / sd(values), mine, tabulate(mine))
  })
  exact <- mean(all >= welch_test(values, group)$statistic - 1e-9)
  p <- vapply(1:40, function(seed) welch_test(values, group, seed)$p, 0)
  expect_equal(mean(p), exact, tolerance = 0.05)
})

test_that("skewed and mostly equal values get wider intervals, or are said to have none to rely on", {
  x <- withr::with_seed(1, exp(stats::rnorm(100)))
  got <- mean_interval(x, 0.95, 1)
  plain <- t.test(x)$conf.int
  expect_gt(got$high, plain[2])
  expect_gt(got$low, plain[1])
  expect_false(got$rough)
  # by its definition: t of drawn samples, turned round
  t <- drawn_t(x, 1)
  expect_equal(got$high, mean(x) - quantile(t, 0.025, type = 1, names = FALSE) * sd(x) / 10)
  expect_equal(mean_interval(rep(0, 30), 0.95, 1), list(low = NA_real_, high = NA_real_, rough = TRUE))
  expect_true(mean_interval(x[1:12], 0.95, 1)$rough)
  expect_true(mean_interval(c(rep(0, 60), 1, 2, 3), 0.95, 1)$rough)
  groups <- outcome_partition()
  groups$ready$data$table$catch[groups$group == 2] <- 0
  expect_match(fl_facts(fl_outcome(groups, "catch")), "The intervals of groups 1 and 2 cannot be relied on", all = FALSE)
})

test_that("large values, and values that differ little for their size, have the interval of small ones", {
  x <- withr::with_seed(2, stats::rexp(40))
  small <- mean_interval(x, 0.95, 1)
  far <- mean_interval(x + 1e9, 0.95, 1)
  expect_equal(c(far$low, far$high) - 1e9, c(small$low, small$high), tolerance = 1e-5)
  # a sample may hold nothing but the mean itself
  even <- mean_interval(c(-1, 1, rep(0, 30)), 0.95, 1)
  expect_true(even$rough)
  expect_false(is.nan(even$low))
  for (big in c(1, 1e300)) expect_gt(welch_test(big * c(1, -1, 3, -2, 5, 4, 2, 0), rep(1:2, 4))$p, 0.05)
})
