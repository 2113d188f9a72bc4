# The YAML form of a study, and the shell command that runs it.

yaml_study <- function(..., env = parent.frame()) withr::local_tempfile(lines = c(...), fileext = ".yml", .local_envir = env)

test_that("a file says what the call would say", {
  folder <- withr::local_tempdir()
  utils::write.csv(as.data.frame(known_heaps(1)), file.path(folder, "heaps.csv"), row.names = FALSE)
  writeLines(c(
    "study: two-heaps", "seed: 12", "datasets:", "  - {name: heaps, file: heaps.csv, truth: kind}",
    "  - {name: seals, demo: seal_haulouts}", "preparations:", "  - {name: plain}",
    "  - {name: logs, transform: {a: log1p}, scale: median_iqr, datasets: [heaps]}", "methods:", "  - kmeans",
    "  - linkage: {join: [ward, average]}", "  - {name: quick, kmeans: {restarts: 2}}", "counts: 2-4,6", "repeats: 3",
    "indices: [silhouette, gap]", "agreements: [adjusted_rand]", "limits: {seconds: 10}"
  ), file.path(folder, "study.yml"))
  study <- fl_study_file(file.path(folder, "study.yml"))
  by_hand <- fl_study(list(heaps = fl_data(file.path(folder, "heaps.csv"), truth = "kind"), seals = "seal_haulouts"),
                      list("kmeans", linkage = list(join = c("ward", "average")), quick = fl_method("kmeans", restarts = 2)),
                      k = c(2:4, 6), preparations = list(plain = list(),
                                                         logs = list(transform = c(a = "log1p"), scale = "median_iqr",
                                                                     datasets = "heaps")),
                      indices = c("silhouette", "gap"), agreements = "adjusted_rand", repeats = 3, seed = 12, seconds = 10,
                      name = "two-heaps")
  expect_equal(as.data.frame(study), as.data.frame(by_hand))
  expect_equal(study$ready$heaps$logs$x, by_hand$ready$heaps$logs$x)
  same <- c("name", "k", "noise", "agreements", "repeats", "seed", "seconds", "megabytes")
  expect_equal(study[same], by_hand[same])
  expect_equal(names(study$indices), names(by_hand$indices))
})

test_that("a wrong word names its place and the nearest right one", {
  refused <- function(said, ..., class = "fjordline_error_file") {
    expect_error(fl_study_file(yaml_study(..., env = parent.frame())), said, class = class)
  }
  refused("Did you mean \"counts\"", "datasets: [icequakes]", "count: 2-4")
  refused("Dataset \"seals\" has a word that is not known: \"thruth\"", "datasets:",
          "  - {name: seals, file: x.csv, thruth: shore}")
  refused("Preparation \"plain\" has a word that is not known: \"scaling\"", "datasets: [icequakes]", "preparations:",
          "  - {name: plain, scaling: none}")
  refused("limits\" has a word that is not known: \"second\"", "datasets: [icequakes]", "limits: {second: 3}")
  refused("names no datasets", "study: empty")
  refused("demo dataset \"seals\" has a word|Demo dataset \"seals\" has a word", "datasets:",
          "  - {demo: seal_haulouts, name: seals, truth: shore}")
  refused("\"counts\" cannot be read: two", "datasets: [icequakes]", "counts: two")
  refused("line 2", "datasets: [icequakes", "counts: : 3")
  refused("Did you mean \"kmeans\"", "datasets: [icequakes]", "methods: [kmean]", class = "fjordline_error_method")
  refused("\"joint\"", "datasets: [icequakes]", "methods:", "  - linkage: {joint: ward}", class = "fjordline_error_method")
  refused("Did you mean \"silhouette\"", "datasets: [icequakes]", "indices: [silhouete]", class = "fjordline_error_index")
  refused("\"icequake\" is neither a demo table.*Did you mean \"icequakes\"", "datasets: [icequake]")
  refused("demo tables are \"water_samples\"", "datasets: [elsewhere.csv]")
  refused("\"counts\" cannot be read: 0, 2", "datasets: [icequakes]", "counts: [0, 2]")
  refused("\"study\" must be one name", "study: [a, b]", "datasets: [icequakes]")
  refused("\"methods\" names none", "datasets: [icequakes]", "methods: []")
})

test_that("the shell plans, runs, resumes and tells", {
  folder <- withr::local_tempdir()
  file <- file.path(folder, "study.yml")
  writeLines(c("study: shores", "datasets: [seal_haulouts, icequakes]", "methods: [kmeans, hdbscan]", "counts: 4-6",
               "indices: fast"), file)
  plan <- shell("study", "study.yml", "--plan", "--workers", "1", folder = folder)
  expect_equal(plan$status, 0)
  expect_match(plan$out, "The fits take about", all = FALSE)
  expect_equal(list.files(folder), "study.yml")
  ran <- shell("study", "study.yml", "--workers", "1", "--export", "cells.csv", folder = folder)
  expect_equal(ran$status, 0)
  expect_match(ran$out, "fits of \"shores\" done", all = FALSE)
  expect_match(ran$out, "mean rank|alone: mean", all = FALSE)
  expect_true(all(c("shores.sqlite", "cells.csv") %in% list.files(folder)))
  again <- shell("study", "study.yml", "--workers", "1", "--json", folder = folder)
  told <- jsonlite::fromJSON(paste(again$out, collapse = "\n"))
  cells <- utils::read.csv(file.path(folder, "cells.csv"))
  expect_equal(told$cells$adjusted_rand, cells$adjusted_rand, tolerance = 1e-8)
  expect_equal(told$cells$seconds, cells$seconds)  # nothing was fitted again
  expect_equal(shell("study", "none.yml", folder = folder)$status, 1)
})

test_that("a plan says of how many pilots nothing is known", {
  folder <- withr::local_tempdir()
  planned <- function(methods) {
    writeLines(c("study: shores", "datasets: [mooring_casts]", methods, "counts: 6-8", "indices: none"),
               file.path(folder, "study.yml"))
    shell("study", "study.yml", "--plan", "--workers", "1", folder = folder)$out
  }
  # more parameters than rows
  large <- "{name: %s, mixture: {covariance: general/volume+shape+orientation, tails: normal, axes: all}}"
  one <- planned(paste0("methods: [kmeans, ", sprintf(large, "full"), "]"))
  expect_match(one, "Of 1 combination the pilot fit failed .*: it is not reckoned in", all = FALSE)
  two <- planned(paste0("methods: [", sprintf(large, "full"), ", ", sprintf(large, "again"), "]"))
  expect_match(paste(two, collapse = " "), "Of 2 combinations the pilot fit failed .*: they are not +reckoned in")
})

test_that("what the shell found too slow it tries again under other limits when told to", {
  folder <- withr::local_tempdir()
  limited <- function(limits) {
    writeLines(c("study: shores", "datasets: [icequakes]", "methods: [mixture]", "counts: 3", "indices: none",
                 paste0("limits: {seconds: ", limits, "}")), file.path(folder, "study.yml"))
  }
  limited(0.01)
  slow <- shell("study", "study.yml", "--store", "kept.sqlite", "--workers", "1", folder = folder)
  expect_equal(slow$status, 0)
  expect_match(slow$out, "too slow", all = FALSE)
  expect_match(slow$out, "With more under `limits` in study.yml: fjordline study study.yml --store kept.sqlite --retry",
               fixed = TRUE, all = FALSE)
  limited(60)
  again <- function(...) {
    told <- shell("study", "study.yml", "--store", "kept.sqlite", "--workers", "1", "--json", ..., folder = folder)
    jsonlite::fromJSON(paste(told$out, collapse = "\n"))$cells$status
  }
  expect_equal(again(), "slow")
  expect_equal(again("--retry"), "done")
})

test_that("a file runs by its path, reads a table out of a database, and what is wrong there names the dataset", {
  folder <- withr::local_tempdir()
  con <- DBI::dbConnect(RSQLite::SQLite(), file.path(folder, "station.sqlite"))
  DBI::dbWriteTable(con, "casts", known_heaps(1)$table)
  DBI::dbDisconnect(con)
  setup <- function(query) {
    file <- file.path(folder, "study.yml")
    writeLines(c("datasets:", paste0("  - {name: station, file: station.sqlite, query: \"", query, "\", truth: kind}"),
                 "methods: [kmeans]", "counts: 2-3", "indices: none"), file)
    file
  }
  result <- fl_run(setup("SELECT a, b, kind FROM casts WHERE a > 0"))
  expect_equal(nrow(result$study$datasets$station$table), sum(known_heaps(1)$table$a > 0))
  expect_true(all(result$cells$status == "done"))
  expect_error(fl_study_file(setup("SELECT c FROM casts")), "dataset \"station\" cannot be used.*no such column: c",
               class = "fjordline_error")
  expect_error(fl_study_file(setup("SELECT a, b FROM casts")), "dataset \"station\" cannot be used.*kind",
               class = "fjordline_error_column")
})
