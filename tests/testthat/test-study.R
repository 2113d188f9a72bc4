# Studies: what is planned, what is found, and that both are the same as without a study.

test_that("the plan has a fit for every table, preparation, method, count and repeat, with seeds of their own", {
  methods <- list(fl_method("kmeans", restarts = 2), linkage = list(join = c("ward", "average")))
  plan <- as.data.frame(quick_study(methods = methods))
  expect_equal(nrow(plan), 2 * 2 * 3 * 3 * 2)
  expect_setequal(plan$method, c("kmeans(restarts = 2)", "linkage(join = ward)", "linkage(join = average)"))
  expect_equal(anyDuplicated(plan$seed), 0)
  # a seed depends on its own coordinates alone
  smaller <- as.data.frame(quick_study(methods = methods, datasets = list(two = known_heaps(2, k = 4)), k = 3L, repeats = 1))
  both <- merge(plan, smaller, by = setdiff(names(plan), "seed"))
  expect_equal(nrow(both), nrow(smaller))
  expect_equal(both$seed.x, both$seed.y)
  expect_false(any(as.data.frame(quick_study(seed = 6))$seed %in% plan$seed))
})

test_that("grids are all combinations, and methods and preparations may have names and tables of their own", {
  study <- fl_study(list(one = known_heaps(1), two = known_heaps(2)), k = 2,
                    methods = list(kmeans = list(restarts = c(1, 5), seeding = c("rows", "spread")),
                                   quick = fl_method("kmeans", restarts = 2)),
                    preparations = list(plain = list(), only = list(scale = "none", datasets = "two")))
  expect_equal(names(study$methods), c("kmeans(restarts = 1, seeding = rows)", "kmeans(restarts = 1, seeding = spread)",
                                       "kmeans(restarts = 5, seeding = rows)", "kmeans(restarts = 5, seeding = spread)",
                                       "quick"))
  expect_equal(lapply(study$ready, names), list(one = "plain", two = c("plain", "only")))
  expect_error(quick_study(preparations = list(only = list(datasets = "one"))), "no preparation for \"two\"",
               class = "fjordline_error_argument")
})

test_that("what a study finds is what the same calls find by hand", {
  study <- quick_study()
  result <- fl_run(study)
  cells <- as.data.frame(result)
  expect_equal(unique(cells$status), "done")
  for (row in c(1, 17, nrow(cells))) {
    cell <- cells[row, ]
    seed <- result$cells$seed[result$cells$asked][row]
    by_hand <- fl_partition(study$ready[[cell$dataset]][[cell$preparation]], study$methods[[cell$method]], cell$k, seed)
    expect_equal(cell$objective, by_hand$objective)
    measures <- fl_agree(by_hand)$measures
    expect_equal(cell$adjusted_rand, measures$value[measures$measure == "adjusted_rand"])
    expect_equal(cell$adjusted_mutual_information, measures$value[measures$measure == "adjusted_mutual_information"])
    sweep <- fl_open(result, cell$dataset)
    taken <- fl_take(sweep, cell$method, cell$k, cell$preparation, cell$`repeat`)
    expect_identical(fl_labels(taken), fl_labels(by_hand))
    score <- fl_score(by_hand, "silhouette")
    stored <- as.data.frame(sweep)
    expect_equal(stored$value[stored$index == "silhouette" & stored$k == cell$k & stored$method == cell$method &
                                stored$preparation == cell$preparation & stored$`repeat` == cell$`repeat`], score$value)
  }
})

test_that("a sweep out of the store votes as the picks that were kept say, together and alone", {
  study <- fl_study(list(one = known_heaps(1), two = known_heaps(2, k = 4)),
                    list(fl_method("kmeans"), fl_method("mixture"), "hdbscan"), k = 2:6, indices = "fast")
  result <- fl_run(study)
  for (dataset in c("one", "two")) {
    sweep <- fl_open(result, dataset)
    kept <- result$picks[result$picks$dataset == dataset, ]
    expect_equal(fl_vote(sweep)$k, kept$pick[kept$method == "kmeans and mixture"])
    alone <- fl_vote(sweep, by = list(method = "kmeans"))
    mine <- kept[kept$method == "kmeans", ]
    expect_equal(c(alone$k, alone$margin), c(mine$pick[mine$voter == "vote"], mine$margin[mine$voter == "vote"]))
    firsts <- alone$ballots[alone$ballots$rank == 1, ]
    expect_equal(mine$pick[match(firsts$index, mine$voter)], ifelse(firsts$prefers_one, 1L, firsts$k))
    # hdbscan finds the count: one value of its parameter stands for it
    free <- as.data.frame(result)[as.data.frame(result)$dataset == dataset & as.data.frame(result)$method == "hdbscan", ]
    expect_equal(anyDuplicated(free$k), 0)
    expect_true(all(!is.na(free$parameter) & free$found == free$k))
  }
})

test_that("a fit that fails, takes too long or needs too much is recorded, and the others go on", {
  few <- fl_data(data.frame(a = c(1, 1, 2, 2, 9, 9), b = c(0, 0, 1, 1, 5, 5), kind = rep(c("x", "y", "z"), each = 2)),
                 truth = "kind", name = "few")
  sleeper <- local({
    method <- fl_method("kmeans")
    method$key <- "sleeper"
    method$scatter <- NULL
    method$fit <- function(x, k, settings, seed) {
      if (k == 3) while (TRUE) Sys.sleep(0.01)
      if (k == 2) stop("no such luck")
      list(group = rep_len(seq_len(k), nrow(x)))
    }
    method
  })
  result <- fl_run(fl_study(list(few = few), list("kmeans", sleeper = sleeper), k = 1:5, indices = "none", seconds = 0.3))
  cells <- as.data.frame(result)
  status <- function(method) cells$status[cells$method == method][order(cells$k[cells$method == method])]
  expect_equal(status("kmeans"), c("done", "done", "done", "failed", "failed"))
  expect_equal(status("sleeper"), c("done", "failed", "slow", "done", "done"))
  expect_match(cells$reason[cells$method == "sleeper" & cells$k == 3], "took more than 0.3 s")
  expect_match(cells$reason[cells$method == "sleeper" & cells$k == 2], "no such luck")
  expect_match(fl_facts(result), "2 fits failed: kmeans on few \\(k = 4 and 5\\)", all = FALSE)
  expect_equal(fl_standings(result)$scores$failed, c(2, 2))
})

test_that("a kernel is stopped by the time limit, and by the memory limit where there is one", {
  big <- fl_prepare(fl_data(as.data.frame(random_table(3000, 12, 1)), name = "big"))
  slow <- within_limits(fit_ready(fl_method("kmeans", restarts = 100000), big, 50L, 1), 0.5, Inf)
  expect_equal(attr(slow, "status"), "slow")
  expect_equal(within_limits(1 + 1, 5, Inf), 2)
  skip_if_not(Sys.info()[["sysname"]] == "Linux", "memory is limited on Linux only")
  large <- within_limits(sum(double(2^27)), Inf, 300)
  expect_equal(attr(large, "status"), "large")
  expect_match(conditionMessage(large), "more than 300 MB")
  expect_equal(sum(double(2^26)), 0)  # and afterwards memory is there again
})

test_that("tables without indices, without truth, with noise alone, with one column and with a gap are opened and told", {
  gap <- as.data.frame(random_table(30, 1, 3))
  gap[4, 1] <- NA
  study <- fl_study(list(one = known_heaps(1), gap = fl_data(gap, name = "gap")),
                    list("kmeans", strict = fl_method("dbscan", radius = 1e-9)), k = 2:3, indices = "none")
  result <- fl_run(study)
  expect_silent(sweep <- fl_open(result, "gap"))
  expect_equal(sum(is.na(fl_labels(fl_take(sweep, "kmeans", 2)))), 1)
  cells <- as.data.frame(result)
  noise <- cells[cells$method == "strict", ]
  expect_equal(c(noise$found, noise$covered), c(0, 0, 0, 0))
  expect_true(all(is.na(cells$adjusted_rand[cells$dataset == "gap"])))
  expect_match(format(result), "mean rank|alone: mean", all = FALSE)
  expect_equal(nrow(result$picks), 0)
  expect_error(fl_track_record(result), "were not judged", class = "fjordline_error_argument")
  flat <- fl_data(data.frame(a = rep(1, 9), kind = rep(letters[1:3], 3)), truth = "kind", name = "flat")
  expect_error(fl_study(list(flat = flat)), "\"plain\" cannot be made of flat", class = "fjordline_error_table")
})

test_that("noise goes with the class of noise alone", {
  truth <- rep(c("a", "b", "stray"), c(4, 3, 2))
  group <- c(1, 1, 1, 1, 0, 0, 0, 2, 2)
  expect_equal(agreements_with(truth, group, "accuracy", "stray")[["accuracy"]], 4 / 9)
  # where no class is noise, noise goes with none
  expect_equal(agreements_with(truth, group, "accuracy")[["accuracy"]], 6 / 9)
})

test_that("what a study would take is reckoned from a fit of each, and from its steps a sweep is made again", {
  study <- quick_study()
  plan <- summary(study)
  expect_equal(sum(plan$fits), nrow(study_cells(study)))
  expect_true(all(plan$pilot >= 0 & plan$seconds >= plan$pilot))
  file <- withr::local_tempfile(fileext = ".sqlite")
  sweep <- fl_open(fl_run(study, file), "one")
  expect_equal(utils::tail(fl_steps(sweep), 1), paste0("sweep <- fl_open(fl_run(\"", file, "\"), \"one\")"))
  again <- eval(parse(text = sub("^sweep <- ", "", utils::tail(fl_steps(sweep), 1))))
  expect_equal(as.data.frame(again), as.data.frame(sweep))
})

test_that("labels are kept to the letter, with noise and with many groups", {
  for (labels in list(c(0L, 1L, 2L, 0L), sample(300L, 1000, TRUE), integer(5))) {
    expect_identical(unpacked_labels(packed_labels(labels)), as.integer(labels))
  }
})

test_that("what is to be judged is read from the store when it comes to it, not held for the whole study", {
  study <- quick_study()
  plan <- plan_of(study)
  store <- withr::local_tempfile(fileext = ".sqlite")
  result <- fl_run(study, store)
  opened <- connect_store(store, must_exist = TRUE)
  withr::defer(disconnect_store(opened))
  pieces <- judge_pieces(study, plan, plan$judgements, opened)
  expect_length(pieces, nrow(plan$judgements))
  expect_true(all(vapply(pieces, function(piece) is.null(piece$fits), NA)))
  for (i in c(1, length(pieces))) {
    full <- with_its_fits(pieces[[i]])
    mine <- plan$cells[plan$cells$dataset == full$row$dataset & plan$cells$method == full$row$method &
                         plan$cells$preparation == full$row$preparation &
                         plan$cells$`repeat` == full$row$`repeat`, ]
    expect_equal(vapply(full$fits, `[[`, "", "cell"), mine$cell)
    expect_equal(full$cells$k, mine$k)
    expect_true(all(nzchar(vapply(full$fits, `[[`, "", "labels"))))
  }
})
