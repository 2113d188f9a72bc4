# What is learnt from a study: weights that indices earned, and advice for a new table.

# Four tables with two to four groups, run once for all tests.
evidence <- local({
  held <- NULL
  function() {
    if (is.null(held)) {
      tables <- lapply(stats::setNames(1:4, paste0("t", 1:4)), function(i) known_heaps(i, k = 2 + i %% 3))
      held <<- fl_run(quick_study(datasets = tables, preparations = list(plain = list()), repeats = 1, k = 2:5))
    }
    held
  }
})

test_that("an index weighs by how often it found the count, drawn to the mean, and never less than nothing", {
  weight <- function(found, tables, counts) {
    p <- (found * tables + mean(found) * 10) / (tables + 10)
    log(p * (counts - 1) / (1 - p))
  }
  found <- c(a = 0.9, b = 0.5, c = 0)
  expected <- weight(found, 200, 9)
  expect_lt(expected[["c"]], 0)
  expect_equal(earned_weight(found, 200, 9), pmax(expected, 0))
  # few tables leave the weights nearly equal, more tell them apart
  apart <- vapply(c(1, 10, 100), function(n) diff(range(earned_weight(found[1:2], n, 9))), 0)
  expect_equal(apart, sort(apart))
  # none better than guessing: all alike
  expect_equal(earned_weight(c(a = 0.05, b = 0), 50, 5), c(a = 1, b = 1))
  expect_true(all(is.finite(earned_weight(c(a = 1, b = 1), 50, 5))))
})

test_that("weights come from the record's cases, by family too, and the vote uses them", {
  result <- evidence()
  record <- fl_track_record(result)
  weights <- fl_weights(record)
  kmeans <- names(result$study$methods)[1]
  expect_equal(weights$method, kmeans)
  table <- as.data.frame(weights)
  for (index in table$index[nzchar(table$index)]) {
    mine <- record$cases[record$cases$voter == index & record$cases$method == kmeans, ]
    expect_equal(table$found[table$index == index], mean(!is.na(mine$pick) & mine$pick == mine$known))
  }
  families <- table[!nzchar(table$index), ]
  expect_equal(mean(families$weight), 1)
  sweep <- fl_open(result, "t2")
  vote <- fl_vote(sweep, weights = weights)
  without <- fl_weights(record, without = "t2")
  expect_equal(attr(vote$weights, "earned"), 3)
  expect_equal(as.vector(vote$weights), unname(without$weights))
  expect_equal(vote$points, fl_vote(sweep, weights = without$weights)$points)
  expect_match(fl_facts(vote), "weigh by what they earned on 3 tables", all = FALSE)
  other <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 2:5), weights = record)
  expect_equal(attr(other$weights, "earned"), 4)
})

test_that("earned weights are tried on each table left out, with the vote itself", {
  result <- evidence()
  record <- fl_track_record(result)
  tried <- fl_weights(record)$validation
  by_hand <- function(weighted) {
    mean(vapply(names(record$known), function(table) {
      weights <- if (weighted) fl_weights(record, without = table)$weights
      vote_of(fl_open(result, table), "plain", names(result$study$methods)[1],
              counting_by(weights = weights))$points$k[1] == record$known[[table]]
    }, NA))
  }
  expect_equal(tried$found[tried$rule == "equal"], by_hand(FALSE))
  expect_equal(tried$found[tried$rule == "earned"], by_hand(TRUE))
  expect_error(fl_weights(record, without = names(record$known)), "No table", class = "fjordline_error_argument")
  expect_error(fl_weights(record, without = "t9"), class = "fjordline_error_argument")
  expect_error(fl_vote(fl_open(result, "t1"), weights = "learnt"), "earned", class = "fjordline_error_argument")
})

test_that("whether earned weights help is asked of the tables on which the two rules differ", {
  gain <- c(rep(1, 15), rep(-1, 3), rep(0, 182))  # 6 of 100 tables more
  expect_equal(sign_test(gain), stats::binom.test(15, 18)$p.value)
  expect_equal(sign_test(rep(0, 9)), 1)
  found <- c(equal = 0.8, earned = 0.86)
  expect_match(paired_words(sign_test(gain), found), "they help \\(sign test, p = 0.0075\\)")
  expect_match(paired_words(0.3, found), "no difference beyond chance")
  expect_match(paired_words(0.01, rev(found) |> stats::setNames(names(found))), "do harm")
  expect_equal(paired_words(NULL, found), "")
})

test_that("the weights that come with the package are there, name known indices, and weigh those of k-means alone", {
  weights <- fl_weights()
  table <- as.data.frame(weights)
  expect_true(all(table$index[nzchar(table$index)] %in% names(all_indices())))
  expect_true(all(table$weight >= 0))
  expect_gte(weights$tables, 80)
  sweep <- fl_sweep(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")),
                    list("kmeans", fl_method("mixture", covariance = c("general/common", "general/volume+shape+orientation"),
                                             tails = "normal")), k = 3:6, indices = "fast")
  vote <- fl_vote(sweep, weights = "earned")
  expect_setequal(vote$shares$family, c("separation", "curve", "pairs"))
  expect_equal(vote$evidence$k[-1], fl_vote(sweep)$evidence$k[-1])
  expect_equal(vote$by, "components")  # points do not decide
  expect_match(vote$call, "weights = \"earned\"", fixed = TRUE)
})

test_that("a table like one of the record's is known as that, and the method that did best there is advised", {
  round <- lapply(stats::setNames(nm = paste0("r", 1:3)), function(name) known_heaps(match(name, paste0("r", 1:3))))
  long <- lapply(stats::setNames(nm = paste0("l", 1:3)), function(name) {
    i <- match(name, paste0("l", 1:3))
    along <- withr::with_seed(i, stats::runif(200, 0, 60))
    side <- rep(0:1, each = 100)
    fl_data(data.frame(x = along, y = 4 * side + withr::with_seed(i + 9, stats::rnorm(200, 0, 0.1)), kind = side), truth = "kind",
            name = name)
  })
  study <- fl_study(c(round, long), list("kmeans", linkage = list(join = "single")), k = 2:4, indices = "fast",
                    preparations = list(plain = list(scale = "none")))
  result <- fl_run(study)
  turned <- long[[1]]  # the same traits, in rows of their own
  turned$table <- turned$table[200:1, ]
  advice <- fl_advise(fl_prepare(turned, scale = "none"), result, at = "known")
  expect_equal(advice$likeness$dataset[1], "l1")
  expect_lt(advice$likeness$distance[1], 0.01)
  expect_true(all(utils::head(advice$likeness$dataset, 3) %in% names(long)))
  expect_equal(sum(advice$likeness$weight), 1)
  expect_equal(advice$method, "linkage(join = single)")
  # scores are means with the weights shown
  scores <- fl_standings(result)$scores
  mine <- scores[scores$contestant == advice$method, ]
  expect_equal(advice$scores$score[1], sum(advice$likeness$weight * mine$value[match(advice$likeness$dataset, mine$dataset)]))
  expect_true(all(advice$scores$low <= advice$scores$score & advice$scores$score <= advice$scores$high))
  # each table of the record advised on by the others: what is lost is what the best had more
  for (i in seq_len(nrow(advice$trial))) {
    one <- advice$trial[i, ]
    own <- scores[scores$dataset == one$dataset, ]
    expect_equal(one$lost, max(own$value) - own$value[own$contestant == one$advised])
  }
  # the best on every table like it, but eight tables of two kinds do not show that such advice beats one for all
  expect_match(fl_facts(advice)[1], "^(For l1 take linkage|No clear advice for l1: )")
  expect_match(fl_facts(advice), "linkage\\(join = single\\) scores highest on similar tables|^For l1 take linkage", all = FALSE)
  expect_length(advice$itself, 0)
  # a table of the study is advised on by the others, whatever its name
  own <- fl_data(long[[1]]$table[c("x", "y")], name = "mine")
  own <- fl_advise(fl_prepare(own, scale = "none"), result, at = "known")
  expect_equal(own$itself, "l1")
  expect_false("l1" %in% own$likeness$dataset)
  expect_equal(own$scores$plain[own$scores$method == "kmeans"],
               mean(scores$value[scores$contestant == "kmeans" & scores$dataset != "l1"]))
  expect_match(fl_facts(own), "The study holds this table as l1; its results there are left out", all = FALSE)
  heap <- fl_advise(fl_prepare(fl_data(data.frame(x = normal_numbers(200, 1), y = normal_numbers(200, 2)), name = "heap")), result)
  expect_match(format(heap)[1], "^No clear advice for heap: there is no evidence of groups")
  expect_error(fl_advise(fl_prepare(long[[1]]), quick_result()), "three tables", class = "fjordline_error_argument")
})

test_that("traits see what they are named for, whatever the order of rows and columns", {
  ready <- fl_prepare(known_heaps(1))
  traits <- table_traits(ready)
  expect_equal(traits[["rows"]], log10(60))
  turned <- fl_prepare(fl_data(known_heaps(1)$table[60:1, c(2, 1, 3)], truth = "kind"))
  same <- setdiff(names(traits), c("dip", "runt"))
  expect_equal(table_traits(turned)[same], traits[same])
  skewed <- known_heaps(1)$table
  skewed$a <- exp(skewed$a / 4)
  expect_gt(table_traits(fl_prepare(fl_data(skewed, truth = "kind")))[["skewness"]], traits[["skewness"]])
})

test_that("traits of tables at the edge are numbers: two rows, one column, two-valued columns only, equal rows", {
  tables <- list(two_rows = data.frame(x = 1:2, y = 2:3), one_column = data.frame(x = normal_numbers(20, 1)),
                 two_valued = data.frame(x = rep(0:1, 20), y = rep(0:1, each = 20)),
                 equal = data.frame(x = c(rep(1, 29), 2), y = c(rep(1, 29), 3)))
  for (name in names(tables)) {
    traits <- table_traits(fl_prepare(fl_data(tables[[name]], name = name), scale = "none"))
    expect_true(all(is.finite(traits)), info = name)
  }
})

test_that("voters are scored with the weights of likeness; a study that was not judged cannot advise by votes", {
  result <- evidence()
  advice <- fl_advise(fl_prepare(known_heaps(7)), result)
  cases <- fl_track_record(result)$cases
  first <- advice$voters[1, ]
  mine <- cases[cases$voter == first$voter & cases$method == first$method, ]
  weight <- advice$likeness$weight[match(mine$dataset, advice$likeness$dataset)]
  expect_equal(first$score, sum(weight * (mine$pick %in% mine$known & mine$pick == mine$known)) / sum(weight))
  expect_equal(advice$voters$score, sort(advice$voters$score, decreasing = TRUE))
  tables <- lapply(stats::setNames(1:3, paste0("t", 1:3)), known_heaps)
  bare <- fl_run(quick_study(datasets = tables, preparations = list(plain = list()), repeats = 1, indices = "none"))
  expect_error(fl_advise(fl_prepare(known_heaps(7)), bare), "not judged", class = "fjordline_error_argument")
  expect_s3_class(fl_advise(fl_prepare(known_heaps(7)), bare, at = "known"), "fl_advice")
})

test_that("the weights that come with the package claim nothing of pairs, and say it without a warning", {
  expect_no_warning(said <- fl_facts(fl_weights()))
  expect_match(said, "with equal weights\\.$", all = FALSE)
})

test_that("that advice by similar tables helps is said only where the tables show it", {
  trial <- function(gain) data.frame(lost = 0.1, lost_plain = 0.1 + gain)
  expect_match(gain_said(trial(rep(0.02, 8))), "^The difference is beyond chance \\(sign test, p = 0.0078\\)")
  expect_match(gain_said(trial(c(0.3, rep(0, 9)))), "within chance")  # before: more than 0.005 in the mean was enough
  expect_match(gain_said(trial(rep(-0.02, 8))), "within chance")
  expect_match(gain_said(trial(rep(0, 5))), "^Five tables cannot tell these apart")
})

test_that("first lines claim nothing where nothing is beyond chance", {
  weak <- fl_standings(quick_result())
  weak$test$p <- 0.5
  expect_match(fl_facts(weak)[1], "^No method is shown to be best\\. ")
  expect_match(fl_facts(weak), "do not differ beyond chance \\(Friedman p = 0.5; a difference of", all = FALSE)
  strong <- weak
  strong$test$p <- 0.001
  strong$difference <- 0.01
  strong$ranks$rank <- seq_len(nrow(strong$ranks))
  expect_match(fl_facts(strong)[1], " ranks first of .*; beyond chance it is better than ")
  expect_no_match(fl_facts(strong)[1], "shown to be best")
  # the critical difference of pairs may be exceeded where the test of all does not reject: nothing is said against that
  odd <- strong
  odd$test$p <- 0.5
  expect_match(fl_facts(odd), "do not differ beyond chance \\(Friedman p = 0.5\\)\\.$", all = FALSE)
  expect_match(fl_facts(odd)[1], "^No method is shown to be best")
  expect_null(relation_fact(list(relation = weak$scores[0, ], by = "adjusted_rand")))
  # advice: an imperative only where rivals are outside chance, the tables similar and the advice beat its baseline
  state <- function(alike = character(), distance = 0.1, gain = rep(0.1, 12), groups = TRUE) {
    list(name = "mine", method = "kmeans", alike = alike, by = "adjusted_rand", itself = character(), voters = NULL,
         scores = data.frame(method = c("kmeans", "linkage"), score = c(0.9, 0.5), low = 0.8, high = 1),
         likeness = data.frame(dataset = "one", distance = distance, most_unlike = "skewness"),
         trial = data.frame(lost = 0.1, lost_plain = 0.1 + gain),
         structure = list(groups = groups, p = 0.4, sets = 199))
  }
  say <- function(...) fl_facts.fl_advice(state(...))[1]
  expect_match(say(), "^For mine take kmeans, which scores highest on similar tables: mean adjusted Rand 0.90")
  for (one in list(say(alike = "linkage"), say(distance = 0.9), say(gain = rep(0, 12)), say(groups = FALSE))) {
    expect_match(one, "^No clear advice for mine: ")
    expect_no_match(one, "take")
  }
  # a settled count comes before the vote's
  ready <- fl_prepare(heap_data())
  vote <- fl_vote(quick_sweep(ready, k = 1:5))
  expect_match(fl_facts(fl_settle(vote, 2, "two boats"))[1], "^Two groups, settled by you: two boats\\.$")
  # a p at its floor is the smallest possible
  test <- fl_structure(ready, sets = 39)
  if (test$p <= 1 / 40) expect_match(fl_facts(test)[1], "p <= 0.025, the smallest possible with 39")
  # doubts hold doubts
  short <- partition_short(fl_take(fl_settle(vote, 3, "three")), NULL, test, NULL, fl_profile(fl_take(fl_settle(vote, 3, "three")), sets = 0, audit = FALSE))
  expect_no_match(short[["What to doubt?"]], "named the known number|found the known")
})
