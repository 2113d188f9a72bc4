test_that("exports keep the rows, their order and their columns; rows without a group stay, empty", {
  groups <- fl_partition(water_ready(), k = 5)
  file <- withr::local_tempfile(fileext = ".csv")
  expect_equal(fl_export(groups, file), file)
  back <- read_table(file)$table
  expect_equal(back[names(back) != "group"], groups$ready$data$table, ignore_attr = TRUE)
  expect_equal(back$group, fl_labels(groups))
  expect_match(readLines(file)[20], ",$")
  tab <- withr::local_tempfile(fileext = ".tsv")
  fl_export(groups, tab)
  expect_equal(read_table(tab)$table$group, fl_labels(groups))
})

test_that("a table with a column called group keeps it", {
  groups <- fl_partition(fl_prepare(fl_data(transform(heaps(), group = kind), truth = "kind", id = "row")), k = 3)
  out <- generics::augment(groups)
  expect_equal(out$group, heaps()$kind)
  expect_equal(out$fjordline_group, fl_labels(groups))
})

test_that("sweeps, votes, agreements and checks are exported as their tidy tables", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:4)
  for (x in list(sweep, fl_vote(sweep), fl_agree(fl_take(sweep, k = 3)), fl_check(fl_demo("water_samples")),
                 fl_score(fl_take(sweep, k = 3)))) {
    file <- withr::local_tempfile(fileext = ".csv")
    fl_export(x, file)
    expect_equal(nrow(read_table(file)$table), nrow(as.data.frame(x)))
  }
})

test_that("a saved model gives the same labels, centres and sentences, to the last bit", {
  ready <- fl_prepare(fl_demo("water_samples"), scale = "median_iqr", transform = c(turbidity = "log"))
  vote <- fl_settle(fl_vote(quick_sweep(ready, fl_method("kmeans", restarts = 5), k = 2:6)), 5, "five waters")
  groups <- fl_take(vote)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  again <- fl_load(file)
  expect_identical(again$centres, groups$centres)
  expect_identical(predict(again, ready$data), fl_labels(groups))
  expect_identical(predict(again, ready$data, type = "distance"), predict(groups, ready$data, type = "distance"))
  expect_identical(fl_labels(again), fl_labels(groups))
  expect_equal(again$groups, groups$groups)
  expect_equal(method_label(again$method), "kmeans(restarts = 5)")
  expect_equal(as.data.frame(again)$id, ready$data$table$sample)
  expect_output(print(again), "five waters")
  second <- withr::local_tempfile(fileext = ".json")
  fl_save(again, second)
  expect_identical(readLines(second), readLines(file))
})

test_that("a model with one feature, one group or a dropped column survives its file", {
  for (table in list(heaps()[c("row", "east")], transform(heaps()[1:3], flat = 1))) {
    for (k in c(1, 3)) {
      groups <- fl_partition(fl_prepare(fl_data(table, id = "row")), k = k)
      file <- withr::local_tempfile(fileext = ".json")
      fl_save(groups, file)
      expect_identical(predict(fl_load(file), table), fl_labels(groups))
    }
  }
})

test_that("a loaded model says what it cannot do", {
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(fl_partition(fl_prepare(heap_data()), k = 3), file)
  model <- fl_load(file)
  for (try in list(autoplot, fl_score, function(m) fl_export(m, tempfile(fileext = ".csv")), fl_steps,
                   function(m) fl_report(m, tempfile(fileext = ".html")))) {
    expect_error(try(model), class = "fjordline_error_model", regexp = "loaded from a file")
  }
})

test_that("files that are no models of ours, or are damaged, are refused and say why", {
  good <- withr::local_tempfile(fileext = ".json")
  fl_save(fl_partition(fl_prepare(heap_data()), k = 3), good)
  text <- readLines(good)
  changed <- function(lines) {
    file <- tempfile(fileext = ".json")
    writeLines(lines, file)
    file
  }
  cut_at <- round(length(text) * c(0, 0.2, 0.5, 0.9))
  for (n in cut_at) expect_error(fl_load(changed(text[seq_len(n)])), class = "fjordline_error_model")
  expect_error(fl_load(changed("{}")), class = "fjordline_error_model", regexp = "form")
  expect_error(fl_load(changed("[1, 2]")), class = "fjordline_error_model")
  expect_error(fl_load(changed(sub("\"version\": 2", "\"version\": 99", text))), class = "fjordline_error_model",
               regexp = "reads version 2")
  expect_error(fl_load(changed(sub("\"k\": 3", "\"k\": 4", text))), class = "fjordline_error_model",
               regexp = "fit together")
  expect_error(fl_load(changed(sub("\"kind\": \"scale\"", "\"kind\": \"melt\"", text))),
               class = "fjordline_error_model")
  expect_error(fl_load(changed(sub("\"key\": \"kmeans\"", "\"key\": \"gone\"", text))),
               class = "fjordline_error_method")
  expect_error(fl_load("nowhere.json"), class = "fjordline_error_file")
})

test_that("steps reproduce the object they were taken from", {
  water <- fl_demo("water_samples")
  ready <- fl_prepare(water, transform = c(turbidity = "log"), use = c("temperature", "salinity", "turbidity"))
  groups <- fl_partition(ready, fl_method("kmeans", restarts = 5, seeding = "rows"), k = 4, seed = 11)
  space <- new.env(parent = asNamespace("fjordline"))
  eval(parse(text = fl_steps(groups)), space)
  expect_identical(fl_labels(space$groups), fl_labels(groups))

  settled <- fl_settle(fl_vote(quick_sweep(ready, k = 2:6, seed = 3), weights = c(pairs = 2)), 3, "three \"waters\"")
  space <- new.env(parent = asNamespace("fjordline"))
  eval(parse(text = fl_steps(fl_take(settled))), space)
  expect_identical(fl_labels(space$groups), fl_labels(fl_take(settled)))

  sweep <- quick_sweep(list(a = fl_prepare(water), b = ready), k = 2:3)
  space <- new.env(parent = asNamespace("fjordline"))
  eval(parse(text = fl_steps(fl_take(sweep, k = 3, preparation = "b"))), space)
  expect_identical(fl_labels(space$groups), fl_labels(fl_take(sweep, k = 3, preparation = "b")))
})

test_that("tidy, glance and augment have the documented columns", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_equal(names(as.data.frame(groups)), c("row", "id", "group", "name", "distance"))
  expect_equal(names(generics::tidy(groups)), c("group", "name", "rows", "share", "scatter", "east", "north"))
  expect_equal(generics::tidy(groups)$rows, groups$groups$rows)
  expect_equal(generics::glance(groups)$k, 3)
  expect_equal(generics::glance(groups)$explained, 1 - groups$scatter / groups$total)
  expect_equal(names(generics::augment(groups)), c(names(heaps()), "group"))
})

test_that("every object has facts and prints them first", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:4)
  groups <- fl_take(sweep, k = 3)
  for (x in list(heap_data(), fl_check(heap_data()), sweep$ready[[1]], groups, sweep, fl_vote(sweep), fl_agree(groups),
                 fl_score(groups))) {
    expect_type(fl_facts(x), "character")
    expect_false(any(grepl("NA|NaN|Inf|character\\(0\\)", gsub("\\(NA\\)", "", fl_facts(x)))), info = class(x)[1])
    expect_equal(substr(unname(format(x)[1]), 1, 20), substr(fl_facts(x)[1], 1, 20))
  }
  expect_error(fl_facts(1), class = "fjordline_error_argument")
})

test_that("the screens read as they should", {
  withr::local_options(cli.width = 90, cli.num_colors = 1)
  water <- fl_demo("water_samples")
  ready <- water_ready()
  expect_snapshot(print(water))
  expect_snapshot(print(fl_check(water)))
  expect_snapshot(print(ready))
  sweep <- quick_sweep(ready, k = 1:10)
  expect_snapshot(print(sweep))
  vote <- fl_vote(sweep)
  expect_snapshot(print(vote))
  groups <- fl_take(vote, k = 5)
  expect_snapshot(print(groups))
  expect_snapshot(print(fl_agree(groups)))
  expect_snapshot(print(fl_score(groups)))
  expect_snapshot(print(fl_settle(vote, 4, "four crews")))
  expect_snapshot(print(fl_method("kmeans")))
})

test_that("writing is whole or not at all", {
  folder <- withr::local_tempdir()
  file <- file.path(folder, "out.csv")
  writeLines("before", file)
  expect_error(write_whole(file, function(draft) {
    writeLines("half", draft)
    stop("disk full")
  }), class = "fjordline_error_file", regexp = "disk full|could not be written")
  expect_equal(readLines(file), "before")
  expect_equal(list.files(folder, all.files = TRUE, no.. = TRUE), "out.csv")
  expect_error(write_whole(file, function(draft) fl_abort("model", "of its own")), class = "fjordline_error_model")
  expect_error(write_whole(file.path(folder, "none", "x.csv"), identity), class = "fjordline_error_file",
               regexp = "does not exist")
  expect_error(write_whole(folder, identity), class = "fjordline_error_file", regexp = "folder")
})

test_that("the script of everything made of a partition makes it again", {
  ready <- water_ready()
  groups <- fl_name(fl_partition(ready, fl_method("kmeans", restarts = 3), k = 5), letters[1:5])
  sweep <- quick_sweep(ready, fl_method("kmeans", restarts = 3), k = 2:4)
  made <- list(
    agreement = fl_agree(groups, match = "majority", samples = 20, seed = 3), profile = fl_profile(groups, sets = 0, audit = FALSE),
    outcome = fl_outcome(groups, "station", level = 0.9), paths = fl_paths(groups, most_rules = 6),
    reliability = fl_reliability(groups, samples = 4, reseeds = 2),
    contrast = fl_contrast(groups, fl_partition(fl_prepare(fl_demo("water_samples")), k = 4), indices = "silhouette"),
    lineage = fl_lineage(sweep, k = 2:3, names = fl_name(fl_take(sweep, k = 2), c("up", "down")))
  )
  for (name in names(made)) {
    room <- new.env()
    for (step in fl_steps(made[[name]])) eval(parse(text = step), room)
    expect_equal(as.data.frame(room[[name]]), as.data.frame(made[[name]]), info = name)
    expect_equal(fl_facts(room[[name]]), fl_facts(made[[name]]), info = name)
  }
  expect_match(tail(fl_steps(fl_mismatches(fl_agree(groups))), 1), "mismatches <- fl_mismatches(agreement)", fixed = TRUE)
  expect_error(fl_steps(fl_agree(1:3, 1:3)), class = "fjordline_error_argument", regexp = "vectors")
})

test_that("tidy() and glance() know everything made of a partition", {
  ready <- water_ready()
  sweep <- quick_sweep(ready, fl_method("kmeans", restarts = 3), k = 2:4)
  groups <- fl_take(sweep, k = 4)
  made <- list(sweep, fl_vote(sweep), fl_score(groups), fl_agree(groups), fl_mismatches(fl_agree(groups)),
               fl_profile(groups, sets = 0, audit = FALSE), fl_outcome(groups, "depth"), fl_paths(groups),
               fl_contrast(groups, fl_take(sweep, k = 3)), fl_lineage(sweep), fl_place(groups, fl_demo("water_samples")))
  ready <- groups$ready
  more <- list(groups, ready, ready$data, fl_structure(ready, sets = 39), fl_outliers(ready), quick_result(),
               quick_result()$study, fl_standings(quick_result()), fl_track_record(quick_result()),
               fl_choices(sweep, k = 2:4), fl_reliability(groups, samples = 3, reseeds = 2))
  for (x in c(made, more)) {
    expect_s3_class(tidy(x), "tbl_df")
    expect_gt(nrow(tidy(x)), 0)
    expect_equal(nrow(glance(x)), 1, info = class(x)[1])
  }
  expect_equal(nrow(tidy(groups)), 4)
  expect_equal(tidy(made[[11]])$group, made[[11]]$mix$group)
  # a row for every row of the table, with what was found of it
  table <- fl_demo("water_samples")$table
  settled <- fl_settle(made[[2]], 3, "three are enough")
  expect_equal(augment(settled)$group, fl_labels(fl_take(sweep, k = 3)))
  swept <- augment(sweep)
  expect_equal(nrow(swept), nrow(table))
  expect_equal(setdiff(names(swept), names(table)), paste0("kmeans(restarts = 3)_", 2:4))
  expect_equal(swept[["kmeans(restarts = 3)_4"]], fl_labels(groups))
  expect_equal(augment(more[[5]])$flagged, more[[5]]$rows$flagged)
  expect_equal(augment(more[[11]])$stays, more[[11]]$rows$stays)
  expect_equal(glance(made[[2]])$verdict, made[[2]]$verdict)
  expect_equal(glance(made[[4]])$adjusted_rand, made[[4]]$measures$value[made[[4]]$measures$measure == "adjusted_rand"])
  expect_equal(glance(made[[9]])$moved, nrow(made[[9]]$moved))
  expect_equal(glance(made[[11]])$unplaced, 13)
})
