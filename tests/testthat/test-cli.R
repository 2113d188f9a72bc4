# The shell command, run as a shell runs it.

water_file <- demo_file("water_samples")
water_roles <- c("--truth", "water_mass", "--id", "sample", "--aside", "station,date,longitude,latitude,depth",
                 "--transform", "turbidity=log")

test_that("help, version and wrong usage", {
  help <- shell("--help", fresh = TRUE)
  expect_equal(help$status, 0)
  for (verb in names(cli_verbs())) {
    expect_match(help$out, paste0("^  ", verb), all = FALSE)
    page <- cli_help(c(cli_verbs()[[verb]], name = verb))
    expect_match(page, paste0("fjordline ", verb), all = FALSE)
    expect_match(page, "example:", all = FALSE)
  }
  expect_equal(shell("count", "--help")$status, 0)
  expect_equal(in_session(c("count", "-h"))$out, cli_pages()$count)
  # shown from files, without loading the package: written by `make docs`
  for (page in names(cli_pages())) {
    kept <- system.file("cli", "help", paste0(page, ".txt"), package = "fjordline")
    expect_identical(readLines(kept, encoding = "UTF-8"), cli_pages()[[page]], info = page)
  }
  expect_identical(shell("count", "--help", fresh = TRUE)$out, cli_pages()$count)
  expect_match(shell("--version")$out, as.character(utils::packageVersion("fjordline")))
  for (wrong in list("chek", c("count", "--trut", "x", "f.csv"), "count", c("count", water_file, "--k", "ten"),
                     c("count", water_file, "--k"),
                     c("group", water_file, "--k", "0"), c("group", water_file, "--k", "2-4"), c("group", water_file, "--reason", "so"),
                     c("count", water_file, "--seed", "x"), c("count", water_file, "--weights", "2"), c("count", water_file, "--methods", "kmean"))) {
    run <- in_session(wrong)
    expect_equal(run$status, 2, info = paste(wrong, collapse = " "))
    expect_length(run$out, 0)
    expect_match(run$err[1], "^fjordline: ")
  }
  expect_equal(shell("chek", fresh = TRUE)[c("status", "out", "err")], in_session("chek"))
})

test_that("check, count and group say what the R functions say", {
  expect_match(shell("check", water_file, water_roles[1:6])$out, "3 findings", all = FALSE)
  count <- shell("count", water_file, water_roles, "--indices", "fast")
  expect_equal(count$status, 0)
  first <- fl_facts(fl_vote(fl_sweep(water_ready(), k = 1:10, indices = "fast")))[1]
  expect_true(startsWith(first, count$out[1]))
  expect_match(count$out[1], "^Five groups: ")
  group <- shell("group", water_file, water_roles, "--k", "5")
  expect_equal(group$out[1], fl_facts(fl_partition(water_ready(), k = 5))[1])
  expect_match(group$out, "adjusted Rand 0.88", all = FALSE)
})

test_that("group writes the table, the model and the figures; place and agree read them back", {
  folder <- withr::local_tempdir()
  run <- shell(fresh = TRUE, "group", water_file, water_roles, "--k", "5", "--out", "grouped.csv", "--model", "water.json",
               "--figures", "figures", folder = folder)
  expect_equal(run$status, 0)
  expect_setequal(list.files(folder), c("grouped.csv", "water.json", "figures"))
  expect_setequal(list.files(file.path(folder, "figures")), c("groups.png", "silhouettes.png", "agreement.png"))
  groups <- fl_partition(water_ready(), k = 5)
  expect_identical(read_table(file.path(folder, "grouped.csv"))$table$group, fl_labels(groups))
  placed <- shell(fresh = TRUE, "place", "water.json", water_file, "--out", "placed.csv", folder = folder)
  expect_equal(placed$status, 0)
  expect_identical(read_table(file.path(folder, "placed.csv"))$table$group, fl_labels(groups))
  agree <- shell("agree", "placed.csv", "--truth", "water_mass", folder = folder)
  expect_match(agree$out[1], "agree well: adjusted Rand 0.88")
})

test_that("--json is JSON on standard output, with everything else on standard error", {
  folder <- withr::local_tempdir()
  vote <- fl_vote(fl_sweep(water_ready(), fl_method("kmeans", restarts = 2), k = 1:10))
  count <- shell("count", water_file, water_roles, "--methods", "kmeans", "--restarts", "2", "--json", "--figures", "why",
                 folder = folder)
  count <- jsonlite::fromJSON(paste(count$out, collapse = "\n"))
  expect_setequal(list.files(file.path(folder, "why")), paste0(c("curves", "vote", "gap", "structure"), ".png"))
  expect_equal(count$k, vote$k)
  expect_equal(count$verdict, vote$verdict)
  expect_equal(count$points$points, vote$points$points)
  group <- shell(fresh = TRUE, "group", water_file, water_roles, "--k", "5", "--out", "g.csv", "--json", folder = folder)
  parsed <- jsonlite::fromJSON(paste(group$out, collapse = "\n"))
  expect_identical(parsed$labels, fl_labels(fl_partition(water_ready(), k = 5)))
  expect_match(group$err, "g.csv", all = FALSE)
  check <- jsonlite::fromJSON(paste(shell("check", water_file, "--json")$out, collapse = "\n"))
  expect_true(all(c("severity", "column", "finding", "advice") %in% names(check$findings)))
})

test_that("a vote without a clear winner stops, and --k with --reason settles it", {
  still <- demo_file("still_water")
  folder <- withr::local_tempdir()
  run <- shell("group", still, "--id", "reading", "--method", "kmeans", "--restarts", "2", "--out", "s.csv", folder = folder)
  expect_equal(run$status, 1)
  expect_match(run$err, "--reason", all = FALSE)
  expect_equal(list.files(folder), character())
  run <- shell("group", still, "--id", "reading", "--method", "kmeans", "--restarts", "2", "--k", "3", "--reason",
               "three crews", "--out", "s.csv", folder = folder)
  expect_equal(run$status, 0)
  expect_match(run$out, "three crews", all = FALSE)
})

test_that("names with commas and a C locale are no obstacle", {
  folder <- withr::local_tempdir()
  table <- heaps()
  names(table)[2] <- "east, metres"
  utils::write.csv(table, file.path(folder, "odd names.csv"), row.names = FALSE)
  run <- shell("group", "odd names.csv", "--features", "[\"east, metres\",\"north\"]", "--k", "3", "--units",
               "north=\u00b0", folder = folder, env = c("LC_ALL=C"))
  expect_equal(run$status, 0)
  expect_match(run$out, "Three groups", all = FALSE)
})

test_that("the demo makes its folder: a study over all tables, its report, and the groups of one table", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  folder <- withr::local_tempdir()
  run <- shell("demo", "--out", "demo", folder = folder, fresh = TRUE)
  expect_equal(run$status, 0)
  expect_setequal(list.files(file.path(folder, "demo")),
                  c("figures", "water_grouped.csv", "water_model.json", "study.yml", "study.sqlite", "study-report.html",
                    paste0(fl_demos()$name, ".csv")))
  expect_length(list.files(file.path(folder, "demo", "figures")), 9)
  expect_match(run$out, "^Five groups: clear", all = FALSE)
  expect_match(run$out, "^Groups and water_mass agree well: adjusted Rand 0.95", all = FALSE)
  # who wins where is as the tables were made: stretched groups for the mixture, curves among noise for density
  said <- paste(run$out, collapse = " ")
  expect_match(said, "None scores highest everywhere: mixture on water_samples, icequakes and mooring_casts; hdbscan on *seal_haulouts")
  expect_match(run$out, "^ *Still water, a table without groups: No evidence of groups", all = FALSE)
  # the store is that of the study file beside it: run again, nothing is left to do
  again <- fl_run(fl_study_file(file.path(folder, "demo", "study.yml")), file.path(folder, "demo", "study.sqlite"), only_open = TRUE)
  expect_true(all(again$cells$status == "done"))
  report <- readLines(file.path(folder, "demo", "study-report.html"), encoding = "UTF-8", warn = FALSE)
  expect_true(any(grepl("What does the answer depend on?", report, fixed = TRUE)))
})

test_that("values of options are read as documented", {
  expect_equal(split_counts("1-4,7"), c(1, 2, 3, 4, 7))
  expect_error(split_counts("1-"), class = "fjordline_usage")
  expect_equal(split_list("a, b"), c("a", "b"))
  expect_equal(split_list("[\"a, b\"]"), "a, b")
  expect_error(split_list("[a"), class = "fjordline_usage")
  expect_equal(split_pairs("x=log,y=log1p"), c(x = "log", y = "log1p"))
  expect_equal(split_pairs("log"), "log")
  expect_null(split_pairs(NULL))
  expect_equal(method_label(cli_methods(list(method = "kmeans", restarts = "25", seeding = "spread"))[[1]]), "kmeans")
  expect_equal(method_label(cli_methods(list(method = "kmeans", restarts = "9", seeding = "spread"))[[1]]), "kmeans(restarts = 9)")
})

test_that("the options of verbs carry the names of the R arguments", {
  arguments <- unlist(lapply(c("fl_data", "fl_prepare", "fl_sweep", "fl_vote", "fl_settle", "fl_partition", "fl_agree", "fl_profile",
                               "fl_report", "fl_place", "fl_export", "fl_name", "fl_outcome", "fl_paths",
                               "fl_rows", "fl_contrast", "fl_run", "fl_standings", "fl_explore",
                               "autoplot.fl_partition"),
                             function(f) names(formals(f))))
  # weights of columns, beside weights of indices; fl_keep() and fl_prepare_file() as options
  own <- c("figures", "out", "plan", "retry", "workers", "export", "centres", "rule_columns", "ids", "named_k", "other", "other_use", "saved", "model", "report", "groups", "restarts", "seeding", "metric", "settings", "column_weights", "keep", "prepare", "sample_rows", "no_browser")
  for (verb in cli_verbs()) {
    names <- vapply(verb$options, `[[`, "", "name")
    expect_equal(setdiff(names, c(arguments, own)), character())
  }
})

test_that("the report verb writes one file that stands alone", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  folder <- withr::local_tempdir()
  run <- shell("report", water_file, water_roles, "--restarts", "2", "--k", "4", "--reason", "four crews", "--out",
               "r.html", folder = folder)
  expect_equal(run$status, 0)
  expect_equal(list.files(folder), "r.html")
  page <- paste(readLines(file.path(folder, "r.html"), warn = FALSE, encoding = "UTF-8"), collapse = " ")
  expect_true(grepl("Four groups, settled by you: four crews", page))
  expect_equal(shell("report", water_file, "--out", "r.txt", folder = folder)$status, 1)
})

test_that("options are written with hyphens or underscores, and the help groups them", {
  verb <- c(cli_verbs()$group, name = "group")
  expect_equal(parse_options(verb, c("a_b.csv", "--sample-rows", "300", "--settings=max_rounds=5"))$options[c("sample_rows", "settings")],
               list(sample_rows = "300", settings = "max_rounds=5"))
  expect_equal(parse_options(verb, c("a_b.csv", "--sample_rows=300"))$files, "a_b.csv")
  expect_error(parse_options(verb, "--sample-row"), "--sample-rows")
  help <- cli_help(verb)
  headings <- c("this verb:", "the table:", "preparation:", "method:", "output:")
  expect_equal(match(headings, help), sort(match(headings, help)))
  options <- vapply(c(verb$options, options_output), `[[`, "", "name")
  expect_equal(sum(grepl("^  --", help)), length(options))
  expect_match(help, "--sample-rows NUMBER", all = FALSE)
  expect_false(any(grepl("--[a-z-]+_", help)))
})

test_that("help pages list every option with its default", {
  count <- c(cli_verbs()$count, name = "count")
  expect_snapshot(cat(sub(methods_known(), "METHODS", cli_help(count), fixed = TRUE), sep = "\n"))
  expect_snapshot(cat(cli_overview(cli_verbs()), sep = "\n"))
})

test_that("profile prints the groups column by column, writes figures, and gives JSON", {
  folder <- withr::local_tempdir()
  asked <- c("profile", water_file, water_roles, "--k", "5", "--sets", "9")
  got <- shell(asked, "--figures", "figures", folder = folder)
  expect_equal(got$status, 0)
  expect_match(got$out[1], "^Five groups, told apart most by density")
  expect_match(got$out, "proves nothing by itself", all = FALSE)
  expect_false(any(startsWith(got$out, "Next: ")))
  expect_setequal(list.files(file.path(folder, "figures")), c("profile.png", "separation.png", "groups.png"))
  json <- jsonlite::fromJSON(paste(shell(asked, "--json", folder = folder)$out, collapse = "\n"))
  expect_equal(sum(json$groups$rows), 599)
  expect_equal(json$separation$column[1], "density")
  expect_equal(shell("profile", "nowhere.csv", folder = folder)$status, 1)
})

test_that("agree takes majority matching, and columns that are not there are named", {
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(data.frame(group = c(1, 1, 2, 2, 3), mass = c("a", "a", "a", "a", "b")), file, row.names = FALSE)
  majority <- jsonlite::fromJSON(paste(shell("agree", file, "--truth", "mass", "--match", "majority", "--json")$out, collapse = "\n"))
  expect_equal(majority$matched$class, c("a", "a", "b"))
  expect_length(majority$disagree, 0)
  expect_true(all(majority$classes$recall == 1))
  sampled <- shell("agree", file, "--truth", "mass", "--samples", "50", "--noise", "brine")
  expect_equal(sampled$status, 2)
  expect_match(sampled$err, "`noise` must be one of the classes", all = FALSE)
  expect_match(shell("agree", file, "--truth", "mass", "--samples", "50")$out[1], "adjusted Rand [0-9.]+ \\(-?[0-9.]+ to [0-9.]+\\)")
  wrong <- shell("agree", file, "--truth", "mas")
  expect_equal(wrong$status, 1)
  expect_match(wrong$err, "Did you mean \"mass\"", all = FALSE)
  expect_equal(shell("agree", file)$status, 2)
})

test_that("the next command repeats the roles and the preparation, so that pasting it clusters the same columns", {
  folder <- withr::local_tempdir()
  file.copy(demo_file("icequakes"), file.path(folder, "ice quakes.csv"))
  roles <- c("--truth", "source", "--id", "event", "--aside", "time,distance")
  check <- shell("check", "ice quakes.csv", roles, folder = folder)
  expect_equal(utils::tail(check$out, 1), "Next: fjordline count 'ice quakes.csv' --truth source --id event --aside time,distance")
  count <- shell("count", "ice quakes.csv", roles, "--transform", "log", "--seed", "7", "--indices", "fast", folder = folder)
  following <- utils::tail(count$out, 1)
  expect_match(following, "group 'ice quakes.csv' .*--aside time,distance --transform log --seed 7 --method mixture --k 4 --reason .* --out grouped.csv$")
  again <- shell(scan(text = sub("^Next: fjordline ", "", following), what = "", quiet = TRUE), folder = folder, fresh = TRUE)
  expect_equal(again$status, 0)
  ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
  expect_identical(read_table(file.path(folder, "grouped.csv"))$table$group, fl_labels(fl_partition(ready, "mixture", k = 4, seed = 7)))
})

test_that("check reads every form, and says the same of each", {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("readxl")
  skip_if_not_installed("nanoparquet")
  skip_if_not_installed("RSQLite")
  folder <- withr::local_tempdir()
  table <- as.data.frame(fl_demo("water_samples"))
  text <- transform(table, date = format(date))
  within <- function(ending) file.path(folder, paste0("water.", ending))
  data.table::fwrite(table, within("csv"), sep = ";", dec = ",")
  data.table::fwrite(table, within("tsv"), sep = "\t")
  data.table::fwrite(table, within("csv.gz"))
  openxlsx::write.xlsx(list(notes = data.frame(a = 1), water = table), within("xlsx"))
  nanoparquet::write_parquet(table, within("parquet"))
  writeLines(jsonlite::toJSON(text, digits = NA, na = "null"), within("json"))
  connection <- DBI::dbConnect(RSQLite::SQLite(), within("sqlite"))
  DBI::dbWriteTable(connection, "water", text)
  DBI::dbWriteTable(connection, "other", head(text))
  DBI::dbDisconnect(connection)
  said <- function(ending, ...) {
    run <- shell("check", paste0("water.", ending), "--truth", "water_mass", "--id", "sample", ..., folder = folder)
    expect_equal(run$status, 0, info = ending)
    grep("^  (read|Next)|^Next|assumed", run$out, value = TRUE, invert = TRUE)
  }
  plain <- said("tsv")
  expect_match(plain, "nearly one column", all = FALSE)
  for (ending in c("csv", "csv.gz", "parquet", "json")) expect_equal(said(ending), plain, info = ending)
  expect_equal(said("xlsx", "--sheet", "water"), plain)
  expect_equal(said("sqlite", "--query", "water"), plain)
  expect_equal(shell("check", "water.sqlite", "--query", "watr", folder = folder)$status, 1)
})

test_that("options and a YAML file prepare alike; options come before the file", {
  folder <- withr::local_tempdir()
  utils::write.csv(transform(heaps(), ice = rep(c("none", "thin", "thick"), 20)), file.path(folder, "heaps.csv"), row.names = FALSE)
  writeLines(c("table: {truth: kind, id: row, features: [east, north, ice], types: {ice: [none, thin, thick]}}",
               "prepare: {scale: median_iqr, transform: {north: rank}, weights: {ice: 0.3}}"), file.path(folder, "setup.yml"))
  by_file <- shell("group", "heaps.csv", "--prepare", "setup.yml", "--k", "3", folder = folder)
  by_hand <- shell("group", "heaps.csv", "--truth", "kind", "--id", "row", "--features", "east,north,ice", "--types", "ice=none<thin<thick",
                   "--scale", "median_iqr", "--transform", "north=rank", "--column_weights", "ice=0.3", "--k", "3", folder = folder)
  expect_equal(by_file$status, 0)
  expect_equal(by_file$out, by_hand$out)
  over <- shell("check", "heaps.csv", "--prepare", "setup.yml", "--scale", "unit_range", "--keep", "east < 8", "--json", folder = folder)
  said <- jsonlite::fromJSON(over$out)
  expect_match(said$preparation, "range 0 to 1", all = FALSE)
  expect_match(said$facts, "rows left: kept east < 8", all = FALSE)
  expect_named(said$findings, c("severity", "column", "finding", "advice", "kind"))
  expect_setequal(said$sift$column, c("east", "north", "ice"))
  for (wrong in list(c("--keep", "east <"), c("--column_weights", "ice"), c("--reduce", "few"))) {
    expect_equal(shell("group", "heaps.csv", wrong, "--k", "2", folder = folder)$status, 2, info = wrong[1])
  }
  expect_equal(shell("check", "heaps.csv", "--prepare", "none.yml", folder = folder)$status, 1)
})

test_that("a saved model becomes a query, on standard output or in a file, that gives the same labels", {
  con <- local_sqlite()
  folder <- withr::local_tempdir()
  utils::write.csv(heaps(), file.path(folder, "heaps.csv"), row.names = FALSE)
  shell("group", "heaps.csv", "--features", "east,north", "--k", "3", "--model", "m.json", folder = folder)
  DBI::dbWriteTable(con, "rows", heaps())
  wanted <- c("sql", "m.json", "--dialect", "sqlite", "--table", "rows", "--beside", "row")
  printed <- shell(wanted, folder = folder)
  expect_equal(printed$status, 0)
  found <- DBI::dbGetQuery(con, paste(printed$out, collapse = "\n"))
  expect_identical(found$row, heaps()$row)
  expect_identical(as.integer(found$group_number), fl_labels(fl_load(file.path(folder, "m.json"))))
  expect_equal(shell(wanted, "--out", "place.sql", folder = folder)$out, "query: place.sql")
  expect_identical(readLines(file.path(folder, "place.sql")), printed$out)
  expect_equal(shell("sql", "m.json", "--dialect", "latin", folder = folder)$status, 2)
  expect_equal(shell(wanted, "--out", "place.txt", folder = folder)$status, 1)
})

test_that("new rows with values never seen are placed as far as they can be, with a warning on standard error", {
  folder <- withr::local_tempdir()
  table <- transform(heaps(), ice = rep(c("none", "thin", "thick"), 20))
  utils::write.csv(table, file.path(folder, "heaps.csv"), row.names = FALSE)
  expect_equal(shell("group", "heaps.csv", "--features", "east,north,ice", "--k", "3", "--model", "m.json", folder = folder)$status, 0)
  table$ice[4] <- "pack"
  data.table::fwrite(table, file.path(folder, "new.csv"), sep = ";")
  run <- shell("place", "m.json", "new.csv", "--json", folder = folder)
  expect_equal(run$status, 0)
  expect_match(run$err, "warning.*", all = FALSE)
  expect_match(paste(run$err, collapse = " "), "row 4: pack")
  expect_equal(which(is.na(jsonlite::fromJSON(run$out)$labels)), 4)
})

test_that("first looks are drawn on request", {
  folder <- withr::local_tempdir()
  expect_equal(shell("check", water_file, water_roles, "--figures", "looks", folder = folder)$status, 0)
  expect_setequal(list.files(file.path(folder, "looks")),
                  paste0(c("columns", "pairs", "correlations", "profiles", "pull", "missing"), ".png"))
})

test_that("marks and letters beyond ASCII are read in the C locale too, without a complaint", {
  folder <- withr::local_tempdir()
  mark <- as.raw(c(0xef, 0xbb, 0xbf))
  text <- enc2utf8("station;dybde\nF\u00f8rde;1,5\nS\u00f8rvik;2,5\n\u00c5sen;9\n")
  writeBin(c(mark, charToRaw(text)), file.path(folder, "marked.csv"))
  writeBin(c(mark, charToRaw(enc2utf8("[{\"dybde\": 1, \"sted\": \"F\u00f8rde\"}, {\"dybde\": 4}]"))), file.path(folder, "marked.json"))
  wide <- iconv(text, "UTF-8", "UTF-16LE", toRaw = TRUE)[[1]]
  writeBin(c(as.raw(c(0xff, 0xfe)), wide), file.path(folder, "wide.csv"))
  for (file in c("marked.csv", "marked.json", "wide.csv", water_file)) {
    run <- shell("check", file, folder = folder, env = "LC_ALL=C")
    expect_equal(run$status, 0, info = file)
    expect_length(run$err, 0)
  }
  expect_match(shell("check", "wide.csv", folder = folder, env = "LC_ALL=C")$out, "station \\(text\\)", all = FALSE)
})

test_that("methods and their settings are given as in R; what no method has is refused", {
  run <- shell("group", water_file, water_roles, "--method", "medoids", "--metric", "manhattan", "--restarts", "2", "--k", "5",
               "--json")
  expect_equal(run$status, 0)
  said <- jsonlite::fromJSON(paste(run$out, collapse = "\n"))
  expect_equal(said$method, "medoids(restarts = 2, metric = manhattan)")
  options <- list(method = "kmeans", settings = "search=evolution,max_rounds=50")
  expect_equal(method_label(cli_methods(options)[[1]]), "kmeans(search = evolution, max_rounds = 50)")
  expect_error(cli_methods(list(method = "kmeans", settings = "serch=evolution")), class = "fjordline_error_method",
               regexp = "search")
  expect_error(cli_methods(list(method = "kmeans", settings = "evolution")), regexp = "name=value")
  expect_error(cli_methods(list(method = "fuzzy", metric = "cosine")), class = "fjordline_error_method")
})

test_that("a method that finds the count needs none, and no vote", {
  run <- shell("group", water_file, water_roles, "--method", "splitting", "--settings", "most=8", "--json")
  expect_equal(run$status, 0)
  said <- jsonlite::fromJSON(paste(run$out, collapse = "\n"))
  ready <- fl_prepare(fl_data(water_file, truth = "water_mass", id = "sample",
                              aside = c("station", "date", "longitude", "latitude", "depth")))
  expect_gte(said$k, 2)
  expect_lte(said$k, 8)
  expect_null(said$decision)
})

test_that("a table too long to hold is learned from a sample and grouped to its last row", {
  folder <- withr::local_tempdir()
  run <- shell("group", water_file, water_roles, "--sample_rows", "300", "--k", "5", "--out", "all.csv", "--model", "m.json",
               folder = folder)
  expect_equal(run$status, 0)
  expect_match(run$out, "Approximate", all = FALSE)
  labels <- read.csv(file.path(folder, "all.csv"))
  sample <- fl_sample(water_file, rows = 300, truth = "water_mass", id = "sample",
                      aside = c("station", "date", "longitude", "latitude", "depth"))
  groups <- fl_stream(fl_prepare(sample, transform = c(turbidity = "log")), k = 5)
  expect_equal(labels$group, fl_labels(groups))
  expect_equal(fl_load(file.path(folder, "m.json"))$centres, groups$centres)
  refused <- shell("group", water_file, water_roles, "--sample_rows", "300", "--k", "5", "--report", "r.html",
                   folder = folder)
  expect_equal(refused$status, 2)
  expect_match(refused$err, "--report needs the whole table", all = FALSE)
})

test_that("names go with the groups through every verb", {
  folder <- withr::local_tempdir()
  model <- file.path(folder, "m.json")
  centres <- file.path(folder, "centres.csv")
  run <- shell("group", water_file, water_roles, "--k", "5", "--names", "classes", "--model", model, "--centres", centres,
               "--out", file.path(folder, "g.csv"))
  expect_equal(run$status, 0)
  expect_match(run$out, "3 basin", all = FALSE)
  expect_equal(read.csv(centres)$name, c("surface brackish", "intermediate", "basin", "shelf inflow", "glacial melt"))
  expect_true("group_name" %in% names(read.csv(file.path(folder, "g.csv"))))
  placed <- shell("place", model, water_file, "--json")
  expect_equal(placed$status, 0)
  json <- jsonlite::fromJSON(paste(placed$out, collapse = "\n"))
  expect_true("basin" %in% json$names)
  expect_false(any(json$drift$drifted))
  again <- shell("profile", water_file, water_roles, "--k", "6", "--sets", "0", "--names", model)
  expect_match(paste(again$out, collapse = " "), "surface brackish [12]")
  expect_equal(shell("group", water_file, water_roles, "--k", "5", "--names", "a,b")$status, 2)
})

test_that("contrast, lineage, outcome, paths, rows and mismatches say what the R functions say", {
  joined <- function(run) paste(trimws(run$out), collapse = " ")
  water <- c(water_file, water_roles, "--k", "5", "--restarts", "5")
  five <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  six <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 6)
  contrast <- shell("contrast", water, "--other", "k=6")
  expect_equal(contrast$status, 0)
  for (fact in fl_facts(fl_contrast(five, six))[2:3]) expect_true(grepl(fact, joined(contrast), fixed = TRUE), info = fact)
  expect_true(grepl("the column station", joined(shell("contrast", water, "--with", "station")), fixed = TRUE))
  expect_equal(shell("contrast", water)$status, 2)
  expect_equal(shell("contrast", water, "--other", "q=3")$status, 2)
  lineage <- shell("lineage", water_file, water_roles, "--k", "2-5", "--restarts", "5")
  expect_match(joined(lineage), "4 to 5: splits")
  expect_equal(shell("outcome", water)$status, 2)
  expect_match(joined(shell("outcome", water, "--column", "date", "--by", "month")), "The mix of groups over date, by month")
  paths <- jsonlite::fromJSON(paste(shell("paths", water, "--json")$out, collapse = "\n"))
  expect_equal(paths$rules$rows, fl_paths(five)$rules$rows)
  rows <- jsonlite::fromJSON(paste(shell("rows", water, "--kind", "typical", "--most", "2", "--json")$out, collapse = "\n"))$rows
  expect_equal(rows$row, fl_rows(five, kind = "typical", most = 2)$row)
  out <- withr::local_tempfile(fileext = ".csv")
  expect_equal(shell("rows", water, "--group", "3", "--where", "depth > 100", "--out", out)$status, 0)
  expect_equal(nrow(read.csv(out)), nrow(fl_rows(five, group = 3, where = depth > 100)))
  expect_match(joined(shell("mismatches", water)), "disagree with water_mass")
  expect_no_match(joined(shell("mismatches", water)), "as.data.frame", fixed = TRUE)
})

test_that("place answers none of these, and refuses a table of another kind with status 1", {
  folder <- withr::local_tempdir()
  model <- file.path(folder, "m.json")
  shell("group", water_file, water_roles, "--k", "5", "--model", model)
  table <- read.csv(water_file)
  table$salinity[2:4] <- 70
  odd <- file.path(folder, "odd.csv")
  write.csv(table, odd, row.names = FALSE)
  run <- shell("place", model, odd)
  expect_match(paste(run$out, collapse = " "), "3 rows belong to none of these")
  expect_match(paste(shell("place", model, odd, "--reach", "Inf")$out, collapse = " "), "reach = Inf")
  table$salinity <- table$salinity * 1000
  write.csv(table, odd, row.names = FALSE)
  refused <- shell("place", model, odd)
  expect_equal(refused$status, 1)
  expect_match(refused$err, "not of the kind", all = FALSE)
  expect_equal(shell("place", model, odd, "--strict", "no")$status, 0)
  expect_equal(shell("place", model, odd, "--strict", "maybe")$status, 2)
})

test_that("a model of today labels, profiles and reports next month's rows in a fresh process, without the old table", {
  folder <- withr::local_tempdir()
  at <- function(name) file.path(folder, name)
  table <- read.csv(water_file)
  today <- seq_len(nrow(table)) %% 2 == 0
  write.csv(table[today, ], at("today.csv"), row.names = FALSE)
  write.csv(table[!today & table$water_mass != "glacial melt", ], at("next.csv"), row.names = FALSE)
  made <- shell("group", at("today.csv"), water_roles, "--k", "5", "--names", "classes", "--model", at("m.json"))
  expect_equal(made$status, 0)
  unlink(at("today.csv"))
  roles <- c("--truth", "water_mass", "--id", "sample", "--aside", "station,date,longitude,latitude,depth", "--saved", at("m.json"))
  profile <- shell("profile", at("next.csv"), roles)
  expect_equal(profile$status, 0)
  said <- paste(trimws(profile$out), collapse = " ")
  expect_match(said, "glacial melt")
  expect_match(said, "The rows were placed into the groups by these features")
  json <- jsonlite::fromJSON(paste(shell("profile", at("next.csv"), roles, "--json")$out, collapse = "\n"))
  model <- fl_load(at("m.json"))
  next_month <- fl_data(at("next.csv"), id = "sample", truth = "water_mass", aside = c("station", "date", "longitude", "latitude", "depth"))
  expect_equal(json$groups$rows, tabulate(predict(model, next_month), 5))
  wrong <- shell("profile", at("next.csv"), roles, "--k", "4")
  expect_equal(wrong$status, 2)
  expect_match(wrong$err, "--k is for making groups", all = FALSE)
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  report <- shell("report", at("next.csv"), roles, "--out", at("next.html"))
  expect_equal(report$status, 0)
  page <- paste(readLines(at("next.html"), warn = FALSE), collapse = " ")
  for (part in c("Since the groups were made", "glacial melt", "fl_load(", "fl_place(model, newdata)", "Nothing was fitted anew")) {
    expect_true(grepl(part, page, fixed = TRUE), info = part)
  }
})

test_that("on a terminal a bar says how much is done and what time is left, elsewhere nothing does", {
  skip_if(Sys.which("script") == "" || !rlang::is_installed("progress"))
  code <- paste("fjordline:::with_bar(shown = isatty(stderr()), { p <- progressr::progressor(4);",
                "for (i in 1:4) { Sys.sleep(0.8); p() } })")
  call <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "-e", shQuote(code))
  shown <- system2("script", c("-qec", shQuote(call), "/dev/null"), stdout = TRUE, stdin = nullfile())
  expect_match(paste(shown, collapse = ""), "75 *%, +[0-9]+s left")
  expect_no_match(paste(suppressWarnings(system(paste(call, "2>&1"), intern = TRUE)), collapse = ""), "left")
})
