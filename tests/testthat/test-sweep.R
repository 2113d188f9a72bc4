test_that("labels line up with the original table, whatever was set aside", {
  water <- water_ready()
  groups <- fl_partition(water, k = 5)
  expect_length(fl_labels(groups), 612)
  expect_equal(which(is.na(fl_labels(groups))), setdiff(1:612, water$rows))
  table <- as.data.frame(groups)
  expect_equal(names(table), c("row", "id", "group", "name", "distance"))
  expect_equal(table$id, water$data$table$sample)
  i <- water$rows[100]
  expect_equal(table$distance[i], naive_distance(water$x[100, ], groups$centres[table$group[i], ]), tolerance = 1e-12)
})

test_that("centres are shown in original units", {
  ready <- fl_prepare(heap_data())
  groups <- fl_partition(ready, k = 3)
  table <- heaps()
  for (g in 1:3) expect_equal(groups$groups$east[g], mean(table$east[fl_labels(groups) == g]), tolerance = 1e-12)
  expect_equal(groups$groups$share, rep(1 / 3, 3))
})

test_that("water masses are recovered by the documented preparation", {
  expect_gte(fl_agree(fl_partition(water_ready(), k = 5))$measures$value[1], 0.8)
})

test_that("predict gives the fitted rows their own groups, and NA where a value is missing", {
  ready <- water_ready()
  groups <- fl_partition(ready, k = 5)
  again <- predict(groups, ready$data)
  expect_identical(again, fl_labels(groups))
  expect_equal(predict(groups, ready$data, type = "distance")[ready$rows], as.data.frame(groups)$distance[ready$rows],
               tolerance = 1e-12)
  expect_length(predict(groups, ready$data$table[0, ]), 0)
  expect_equal(predict(groups, ready$data$table[5:4, ]), fl_labels(groups)[5:4])
})

test_that("predict refuses tables that lack or mistype a column, and memberships k-means has not", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_error(predict(groups, data.frame(east = 1)), class = "fjordline_error_column", regexp = "north")
  expect_error(predict(groups, data.frame(east = c("1", "deep"), north = 1:2)), class = "fjordline_error_column",
               regexp = "Row 2 holds \"deep\"")
  expect_error(predict(groups, data.frame(east = Inf, north = 1)), class = "fjordline_error_values", regexp = "Row 1")
  expect_error(predict(groups, heaps(), type = "membership"), class = "fjordline_error_argument", regexp = "one group")
})

test_that("a sweep holds what single fits give, for the asked counts only", {
  ready <- fl_prepare(heap_data())
  sweep <- quick_sweep(ready, "kmeans", k = c(2, 3, 5), seed = 7319)
  expect_equal(sort(unique(as.data.frame(sweep)$k)), c(2, 3, 5))
  for (k in c(2, 3, 5)) expect_identical(fl_labels(fl_take(sweep, "kmeans", k)),
                                         fl_labels(fl_partition(ready, k = k, seed = 7319)))
  expect_equal(names(as.data.frame(sweep)), c("preparation", "method", "k", "repeat", "index", "value", "error", "covered",
                                             "reason"))
})

test_that("counts beside the asked ones are fitted for the rules that need neighbours", {
  values <- as.data.frame(quick_sweep(fl_prepare(heap_data()), k = 3))
  expect_false(is.na(values$value[values$index == "elbow"]))
})

test_that("a failing cell is kept with its reason, the others go on", {
  ready <- ready_from(rbind(diag(3), diag(3)))
  sweep <- quick_sweep(ready, k = 1:5)
  values <- as.data.frame(sweep)
  expect_true(all(grepl("only 3 distinct rows", values$reason[values$k >= 4])))
  expect_match(fl_facts(sweep), "2 fits failed", all = FALSE)
  expect_error(fl_take(sweep, "kmeans", 5), class = "fjordline_error_count", regexp = "had failed")
  expect_error(quick_sweep(ready, k = 7:9), class = "fjordline_error_count", regexp = "Not a single fit")
})

test_that("repeats use seeds of their own, and the first is the sweep's", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 2:4, repeats = 3)
  expect_equal(length(unique(sweep$cells$seed)), 3)
  expect_equal(sweep$cells$seed[sweep$cells$`repeat` == 1][1], 1)
  expect_equal(nrow(as.data.frame(sweep)), 3 * 3 * length(sweep$indices))
  expect_s3_class(fl_take(sweep, k = 3, turn = 3), "fl_partition")
})

test_that("several preparations and methods stay apart and are found by name", {
  data <- fl_demo("water_samples")
  sweep <- quick_sweep(list(plain = fl_prepare(data), robust = fl_prepare(data, scale = "median_iqr")),
                    list("kmeans", fl_method("kmeans", seeding = "rows")), k = 2:4)
  expect_equal(nrow(unique(as.data.frame(sweep)[, c("preparation", "method")])), 4)
  taken <- fl_take(sweep, "kmeans(seeding = rows)", 3, preparation = "robust")
  expect_equal(taken$ready$scale, "median_iqr")
  expect_error(fl_take(sweep, k = 3, preparation = "robst"), class = "fjordline_error_argument", regexp = "robust")
  vote <- fl_vote(sweep, by = list(preparation = "robust"))
  expect_equal(vote$preparation, "robust")
  expect_equal(nrow(vote$others), 3)
  expect_match(fl_facts(vote), "on plain votes for", all = FALSE)
})

test_that("nothing on the way touches the session's random state", {
  set.seed(3)
  before <- .Random.seed
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:4))
  groups <- fl_take(fl_settle(vote, 3, "test"))
  fl_agree(groups)
  predict(groups, heaps())
  save_figure(autoplot(groups), withr::local_tempfile(fileext = ".png"))
  expect_identical(.Random.seed, before)
})

test_that("a method that finds the count itself is fitted once and keeps its own count", {
  fl_new_method("signs", function(x, k, settings, seed) list(group = 1L + (x[, 1] > 5)), free_count = TRUE)
  withr::defer(rm(list = "signs", envir = own_methods))
  sweep <- quick_sweep(fl_prepare(heap_data(), scale = "none"), "signs", k = 2:6)
  expect_equal(nrow(sweep$cells), 1)
  expect_equal(unique(as.data.frame(sweep)$k), 2L)
  expect_equal(fl_take(sweep, "signs")$k, 2L)
})

test_that("the catalogue of methods has the settings and sources of every one", {
  catalogue <- fl_methods()
  expect_silent(utils::capture.output(print(catalogue[, c("key", "when")])))  # some columns are a plain table
  expect_true(all(nzchar(catalogue$source)) && all(nzchar(catalogue$shape)))
  expect_match(catalogue$settings[catalogue$key == "kmeans"], "restarts = 25, seeding = spread, metric = euclidean")
})

test_that("rows repeated a hundred times give the groups of the rows", {
  x <- as.matrix(heaps()[2:3])
  many <- fl_partition(ready_from(x[rep(1:60, 100), ]), k = 3)
  once <- fl_partition(ready_from(x), k = 3)
  expect_true(same_grouping(fl_labels(many), rep(fl_labels(once), 100)))
  expect_equal(many$objective, 100 * once$objective, tolerance = 1e-10)
})
