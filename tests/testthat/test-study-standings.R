# Standings and track records, counted by hand from the cells.

labelled <- local({
  held <- NULL
  function() {
    tables <- list(one = known_heaps(1), two = known_heaps(2, k = 4), none = heap_data_unlabelled())
    held <<- if (is.null(held)) fl_run(quick_study(datasets = tables)) else held
  }
})

heap_data_unlabelled <- function() fl_data(as.data.frame(random_table(40, 2, 9)), name = "none")

test_that("standings are means over preparations and repeats at the count asked for, ranked table by table", {
  result <- labelled()
  cells <- as.data.frame(result)
  known <- c(one = 3, two = 4)
  standings <- fl_standings(result)
  for (dataset in names(known)) for (method in unique(cells$method)) {
    mine <- cells[cells$dataset == dataset & cells$method == method & cells$k == known[[dataset]], ]
    score <- standings$scores[standings$scores$dataset == dataset & standings$scores$contestant == method, ]
    expect_equal(score$value, mean(mine$adjusted_rand))
    by_turn <- tapply(mine$adjusted_rand, mine$`repeat`, mean)
    expect_equal(c(score$low, score$high), range(by_turn))
  }
  expect_equal(standings$unscored, "none")
  expect_equal(sum(standings$ranks$rank), 2 * 3 / 2)
  best <- fl_standings(result, at = "best")$scores
  expect_true(all(best$value >= standings$scores$value - 1e-12))
  votes <- fl_standings(result, at = "vote")$scores
  picks <- result$picks[result$picks$voter == "vote" & result$picks$dataset == "two" & result$picks$method == cells$method[1], ]
  chosen <- merge(picks, cells, by = c("dataset", "preparation", "method", "repeat"))
  expect_equal(votes$value[votes$dataset == "two" & votes$contestant == cells$method[1]],
               mean(chosen$adjusted_rand[chosen$pick == chosen$k]))
})

test_that("what competes may be the preparations, and an index ranks tables without classes", {
  result <- labelled()
  expect_setequal(fl_standings(result, of = "preparation")$ranks$contestant, c("plain", "ranks"))
  expect_equal(nrow(fl_standings(result, of = "both")$ranks), 4)
  by_index <- fl_standings(result, by = "davies_bouldin", at = "vote")
  expect_true(by_index$lower)
  expect_true("none" %in% by_index$tables)
  scores <- by_index$scores[by_index$scores$dataset == "one", ]
  mean_rank <- vapply(by_index$tables, function(dataset) {
    mine <- by_index$scores[by_index$scores$dataset == dataset, ]
    rank(mine$value)[mine$contestant == by_index$ranks$contestant[1]]
  }, 0)
  expect_equal(by_index$ranks$rank[1], mean(mean_rank))
  expect_error(fl_standings(result, by = "adjusted"), "adjusted_rand", class = "fjordline_error_argument")
  unlabelled <- fl_run(quick_study(datasets = list(none = heap_data_unlabelled())))
  expect_error(fl_standings(unlabelled), "No table of the study has known classes", class = "fjordline_error_argument")
  expect_error(fl_track_record(unlabelled), class = "fjordline_error_argument")
})

test_that("repeats that come out alike have stability 1, and others the mean of their adjusted Rand indices", {
  noisy <- fl_method("kmeans", restarts = 1, seeding = "rows")
  noisy$scatter <- NULL
  noisy$fit <- function(x, k, settings, seed) list(group = c(seq_len(k), 1L + (seed * seq_len(nrow(x) - k)) %% k))
  result <- fl_run(quick_study(methods = list(noisy = noisy, "linkage"), indices = "none", repeats = 3,
                               preparations = list(plain = list())))
  scores <- fl_standings(result)$scores
  expect_equal(unique(scores$stability[scores$contestant == "linkage"]), 1)
  sweep_labels <- lapply(1:3, function(turn) {
    cell <- result$cells[result$cells$dataset == "one" & result$cells$method == "noisy" & result$cells$k == 3 &
                           result$cells$`repeat` == turn, ]
    fl_labels(fl_partition(result$study$ready$one$plain, noisy, 3, cell$seed))
  })
  pairs <- c(naive_adjusted_rand(sweep_labels[[1]], sweep_labels[[2]]), naive_adjusted_rand(sweep_labels[[1]], sweep_labels[[3]]),
             naive_adjusted_rand(sweep_labels[[2]], sweep_labels[[3]]))
  expect_equal(scores$stability[scores$contestant == "noisy" & scores$dataset == "one"], mean(pairs))
})

test_that("the track record counts tables, and what following an index costs", {
  result <- labelled()
  record <- fl_track_record(result)
  cases <- record$cases
  expect_false("none" %in% cases$dataset)
  cells <- as.data.frame(result)
  for (row in c(1, 20, nrow(cases))) {
    case <- cases[row, ]
    mine <- cells[cells$dataset == case$dataset & cells$preparation == case$preparation & cells$method == case$method &
                    cells$`repeat` == case$`repeat`, ]
    expect_equal(case$known, c(one = 3, two = 4)[[case$dataset]])
    if (!is.na(case$pick)) expect_equal(case$lost, max(mine$adjusted_rand) - mine$adjusted_rand[mine$k == case$pick])
  }
  one <- record$record[record$record$voter == "silhouette" & record$record$method == "linkage(join = ward)", ]
  picks <- cases[cases$voter == "silhouette" & cases$method == "linkage(join = ward)", ]
  expect_equal(one$found, mean(tapply(picks$pick == picks$known, picks$dataset, mean)))
  expect_equal(one$tables, 2)
  expect_match(format(record)[1], "^The vote of .* found the true number in [0-9]+% \\(95% interval [0-9]+% to [0-9]+%\\), on 2 tables")
  # of how many cases a share is, and of what they are made
  few <- function(cases, preparation, turn) {
    tables_and_cases(list(known = c(a = 1, b = 2), record = list(cases = cases),
                          cases = list(preparation = preparation, `repeat` = turn)))
  }
  expect_equal(few(2, "plain", 1), "2 tables")
  expect_equal(few(4, c("plain", "logs"), 1), "2 tables (4 cases with their preparations; means over the tables)")
  expect_equal(few(8, c("plain", "logs"), 1:2), "2 tables (8 cases with their preparations and repeats; means over the tables)")
  # votes that were never right are not listed one by one
  votes <- record$record$voter == "vote"
  record$record$found[votes] <- seq(sum(votes) - 1, 0) / 10
  expect_match(record_said(record)[1], "in 10%; no other vote on any.", fixed = TRUE)
  record$record$found[votes] <- 0
  expect_match(record_said(record)[1], "on 2 tables .*, by no vote on any table")
  record$record$found[votes] <- 1
  expect_no_match(record_said(record)[1], "on any")
})

test_that("a method that finds the count stands as it finds it, noise is no class, and what failed everywhere is last", {
  seals <- fl_run(fl_study("seal_haulouts", list("kmeans", "dbscan", broken = local({
    method <- fl_method("kmeans")
    method$scatter <- NULL
    method$fit <- function(x, k, settings, seed) stop("never")
    method
  })), k = 5:7, indices = "fast"))
  expect_equal(known_counts(seals$study)[[1]], 6L)  # strays belong to no shore
  standings <- fl_standings(seals)
  expect_equal(standings$ranks$contestant, c("dbscan", "kmeans", "broken"))
  vote <- seals$picks$pick[seals$picks$method == "dbscan" & seals$picks$voter == "vote"]
  expect_equal(standings$scores$k[standings$scores$contestant == "dbscan"], vote)
  expect_gt(standings$scores$value[standings$scores$contestant == "dbscan"], 0.9)
  expect_match(fl_facts(standings), "3 fits failed: broken on seal_haulouts \\(k = 5 to 7\\): never", all = FALSE)
})

test_that("equal contestants share a table, and nobody is called the best where all are", {
  even <- fl_standings(quick_result())
  even$scores$value <- 1
  expect_match(fl_facts(even), "^All are equally good on every table\\.$", all = FALSE)
  even$scores$value[even$scores$dataset == "two" & even$scores$contestant == "linkage(join = ward)"] <- 0.5
  expect_match(fl_facts(even), "^kmeans\\(restarts = 2\\) scores highest on every table, on one together with others\\.$", all = FALSE)
  even$scores$value[even$scores$dataset == "one" & even$scores$contestant == "kmeans(restarts = 2)"] <- 0.4
  expect_match(fl_facts(even), "^None scores highest everywhere: linkage\\(join = ward\\) on one; kmeans\\(restarts = 2\\) on two\\.$",
               all = FALSE)
})

test_that("where no fit has the known count the standings are those of the vote, or of the best count, and say so", {
  study <- function(indices) quick_study(datasets = list(one = known_heaps(1)), k = 4:5, indices = indices)
  bare <- fl_run(study("none"))
  expect_equal(fl_standings(bare)$at, "best")
  expect_match(format(bare), "at the best count of each", all = FALSE)
  expect_equal(fl_standings(fl_run(study("fast")))$at, "vote")
  expect_error(fl_standings(bare, at = "known"), "no such fit on one \\(3 classes\\)", class = "fjordline_error_argument")
  expect_error(fl_standings(bare, at = "guess"), class = "fjordline_error_argument")
  # of tables without classes an index ranks by the vote
  unknown <- known_heaps(1)$table[c("a", "b")]
  result <- fl_run(quick_study(datasets = list(heap = fl_data(unknown, name = "heap")), k = 2:4, repeats = 1))
  expect_equal(fl_standings(result, "silhouette")$at, "vote")
  expect_error(fl_standings(result, "adjusted_rand"), "known classes", class = "fjordline_error_argument")
})

test_that("the range over the repeats holds the mean rank itself", {
  ranks <- rbind(c(a = 1, b = 2), c(a = 1, b = 2))
  turns <- list(rbind(c(2, 1), c(1, 2)), rbind(c(1, 2), c(2, 1)))
  scores <- tibble::tibble(contestant = c("a", "b"), value = 1, seconds = 1, failed = 0)
  table <- rank_table(ranks, turns, scores, 1)
  expect_equal(table$rank, c(1, 2))
  expect_true(all(table$low <= table$rank & table$rank <= table$high))
})
