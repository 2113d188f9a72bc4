# The groups as a few plain rules.

# Follows a rule as it is written, to hold the sentence to what it claims.
rows_of_rule <- function(condition, table) {
  if (condition == "any row") return(rep(TRUE, nrow(table)))
  number <- function(text) as.numeric(gsub(",", "", sub("^([-0-9.,e+]+).*$", "\\1", text)))
  parts <- strsplit(condition, " and (?=[a-z_]+ (from|of|below|is) )", perl = TRUE)[[1]]
  inside <- rep(TRUE, nrow(table))
  for (part in parts) {
    column <- sub(" .*$", "", part)
    value <- table[[column]]
    rest <- sub("^[^ ]+ ", "", part)
    inside <- inside & if (startsWith(rest, "from")) {
      ends <- strsplit(sub("^from ", "", rest), " to below ")[[1]]
      value >= number(ends[1]) & value < number(ends[2])
    } else if (startsWith(rest, "of")) value >= number(sub("^of ", "", rest))
    else if (startsWith(rest, "below")) value < number(sub("^below ", "", rest))
    else {
      levels <- regmatches(rest, gregexpr("\"[^\"]*\"", rest))[[1]]
      if (startsWith(rest, "is not")) !value %in% gsub("\"", "", levels) else value %in% gsub("\"", "", levels)
    }
  }
  inside
}

test_that("the rules as written pick just the rows they say they do", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  visits <- fl_partition(fl_prepare(fl_demo("vessel_visits")), fl_method("mixed", restarts = 2), k = 4)
  for (partition in list(groups, visits)) {
    paths <- fl_paths(partition)
    rules <- as.data.frame(paths)
    table <- partition$ready$data$table
    placed <- which(partition$group > 0)
    for (i in seq_len(nrow(rules))) {
      mine <- intersect(which(rows_of_rule(rules$condition[i], table)), placed)
      expect_equal(length(mine), rules$rows[i])
      expect_equal(sum(partition$group[mine] == rules$group[i]), rules$right[i])
      expect_equal(rules$found[i], rules$right[i] / sum(partition$group %in% rules$group[i]))
    }
    expect_equal(sum(rules$rows), length(placed))
    expect_equal(paths$fidelity$within, sum(rules$right) / length(placed))
    expect_equal(paths$fidelity$largest, max(table(partition$group)) / length(placed))
    expect_lte(nrow(rules), 10)
  }
})

test_that("separated heaps need as many rules as there are groups and get every row right", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  paths <- fl_paths(groups)
  expect_equal(nrow(paths$rules), 3)
  expect_equal(paths$fidelity$within, 1)
  expect_equal(paths$missed, integer())
  expect_match(fl_facts(paths)[1], "^Three rules give the right group to 100% of the rows")
})

test_that("fidelity on unseen rows is honest: rules from a column of noise do no better than the largest group", {
  table <- as.data.frame(random_table(300, 2, 4))
  table$row <- paste0("r", 1:300)
  table$dice <- withr::with_seed(9, runif(nrow(table)))
  groups <- fl_partition(fl_prepare(fl_data(table, id = "row", aside = "dice")), k = 3)
  paths <- fl_paths(groups, columns = "dice")
  expect_lt(paths$fidelity$unseen, paths$fidelity$largest + 0.08)
  expect_match(fl_facts(paths), "read them as a rough map|No question about these columns", all = FALSE)
  expect_match(fl_facts(paths), "The rules use dice", all = FALSE)
})

test_that("a limit is as short as can be without a row changing sides", {
  expect_equal(short_cut(1020.7234, c(1020.71, 1020.73)), 1020.72)
  expect_equal(short_cut(12.5, c(10, 15)), 12)
  expect_equal(short_cut(12.5, c(12.4, 12.6)), 12.5)
  expect_equal(short_cut(0.5, c(0, 1)), 0.5)
})

test_that("the same seed gives the same rules whatever the session drew; hostile names and one group are met", {
  table <- heaps()
  names(table)[names(table) == "east"] <- "c2 < \"x\", (1)"
  names(table)[names(table) == "north"] <- ".group"
  groups <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row")), k = 3)
  set.seed(1)
  first <- fl_paths(groups)
  set.seed(2)
  before <- .Random.seed
  expect_equal(fl_paths(groups)$rules, first$rules)
  expect_identical(.Random.seed, before)
  expect_match(first$rules$condition, "c2 < \"x\", \\(1\\)|\\.group", all = TRUE)
  expect_error(fl_paths(fl_partition(fl_prepare(heap_data()), k = 1)), class = "fjordline_error_argument", regexp = "One group")
  expect_error(fl_paths(groups, "rwo"), class = "fjordline_error_column")
  expect_s3_class(ggplot2::ggplot_build(autoplot(first))$plot, "ggplot")
})

test_that("dates are asked for days, and said as days", {
  table <- as.data.frame(random_heaps(90, 2, 3, sd = 12, seed = 3))
  x <- fl_partition(fl_prepare(fl_data(table)), k = 3)
  table$day <- as.Date("2031-03-01") + 40 * fl_labels(x) + seq_len(90) %% 9
  table$at <- as.POSIXct("2031-03-01 06:00:00", tz = "UTC") + 86400 * 40 * fl_labels(x) + 60 * (seq_len(90) %% 9)
  groups <- fl_adopt(fl_prepare(fl_data(table, aside = c("day", "at"))), fl_labels(x))
  days <- fl_paths(groups, "day")$rules
  first <- function(g) format(min(table$day[fl_labels(x) == g]))
  expect_equal(days$condition, c(paste("day before", first(2)), paste("day from", first(2), "to before", first(3)),
                                 paste("day from", first(3), "on")))
  expect_equal(days$right, as.integer(table(fl_labels(x))))
  times <- fl_paths(groups, "at")$rules
  expect_equal(times$condition[3], paste("at from", format(min(table$at[fl_labels(x) == 3])), "on"))
})

test_that("categories of many values are ordered by their shares of the groups, and divided along that order", {
  # the first axis of three levels, written out: two pure ones at the ends, the mixed one between them
  levels <- factor(rep(c("mixed", "pure one", "pure two"), each = 20))
  group <- factor(c(rep(1:2, 10), rep(1, 20), rep(2, 20)))
  expect_equal(levels(levels)[level_order(levels, group)][2], "mixed")
  table <- as.data.frame(random_heaps(400, 2, 4, sd = 12, seed = 6))
  x <- fl_partition(fl_prepare(fl_data(table)), k = 4)
  # thirty values, each of one group: to try all their divisions would take hours
  table$code <- paste0("v", 10 + (fl_labels(x) - 1) * 7 + seq_len(400) %% 7)
  groups <- fl_adopt(fl_prepare(fl_data(table, aside = "code")), fl_labels(x))
  paths <- fl_paths(groups, "code")
  expect_equal(paths$fidelity$within, 1)
  for (i in seq_len(nrow(paths$rules))) {
    mine <- which(rows_of_rule(paths$rules$condition[i], groups$ready$data$table))
    expect_equal(length(mine), paths$rules$rows[i])
    expect_true(all(groups$group[mine] == paths$rules$group[i]))
  }
  expect_s3_class(ggplot2::ggplot_build(autoplot(paths))$plot, "ggplot")
})

test_that("two rows have no rules worth cross-validating, and no crash", {
  groups <- fl_partition(fl_prepare(fl_data(data.frame(a = c(1, 5), b = c(2, 9)))), k = 2)
  paths <- fl_paths(groups)
  expect_equal(paths$rules$condition, "any row")
  expect_equal(paths$fidelity$unseen, 0.5)
  expect_equal(paths$missed, 2)
})

test_that("long tables are sampled, and this is said", {
  table <- as.data.frame(random_heaps(21000, 2, 3, sd = 6, seed = 2))
  groups <- fl_partition(fl_prepare(fl_data(table)), fl_method("kmeans", restarts = 2), k = 3)
  paths <- fl_paths(groups)
  expect_equal(sum(paths$rules$rows), 20000)
  expect_match(fl_facts(paths), "even sample of 20,000 rows", all = FALSE)
  expect_no_match(fl_facts(fl_paths(fl_partition(fl_prepare(heap_data()), k = 3))), "even sample", all = FALSE)
  expect_s3_class(ggplot2::ggplot_build(autoplot(paths))$plot, "ggplot")
})

test_that("columns that tell nothing, and rows without values, are met and said", {
  table <- heaps()
  table$flat <- 5
  table$gap <- NA_real_
  table$gap[c(1:20, 41:50)] <- table$east[c(1:20, 41:50)]
  groups <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row", aside = c("flat", "gap"))), k = 3)
  flat <- fl_paths(groups, "flat")
  expect_equal(flat$rules$condition, "any row")
  expect_equal(flat$fidelity$unseen, flat$fidelity$largest)
  expect_match(fl_facts(flat), "No question about these columns", all = FALSE)
  gap <- fl_paths(groups, "gap")
  expect_equal(sum(gap$rules$rows), 30)
  expect_match(fl_facts(gap), "30 rows of noise or without any of these values left out", all = FALSE)
  table$gap <- NA_real_
  none <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row", aside = c("flat", "gap"))), k = 3)
  expect_error(fl_paths(none, "gap"), class = "fjordline_error_values")
})

test_that("rows left out do not help to put levels in order: noise in many levels tells nothing of new rows", {
  said <- vapply(1:6, function(seed) {
    table <- withr::with_seed(seed, {
      group <- sample(2, 200, TRUE)
      data.frame(x = 8 * group + stats::rnorm(200), port = sample(sprintf("port%02d", 1:30), 200, TRUE))
    })
    groups <- fl_partition(fl_prepare(fl_data(table, features = "x", aside = "port")), k = 2)
    fl_paths(groups, columns = "port")$fidelity$unseen
  }, 0)
  expect_lt(mean(said), 0.56)  # with all rows in the order it was .63
})
