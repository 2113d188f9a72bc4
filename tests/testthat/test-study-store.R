# The store: nothing finished is lost, nothing foreign is mixed in.

skip_if_not(rlang::is_installed(c("DBI", "RSQLite")), "RSQLite is missing")

store_file <- function(env = parent.frame()) withr::local_tempfile(fileext = ".sqlite", .local_envir = env)

test_that("what is finished is not fitted again, and a study may grow", {
  file <- store_file()
  result <- fl_run(quick_study(), file)
  again <- fl_run(quick_study(), file)
  expect_identical(again$cells, result$cells)  # times too: nothing was fitted
  expect_match(fl_facts(result)[1], "^[0-9]+ of [0-9]+ fits of .* done in ")
  expect_match(fl_facts(again)[1], "^[0-9]+ of [0-9]+ fits of .* are in its store\\.$")  # and no time is claimed
  alone <- fl_run(file)
  expect_identical(alone$cells, result$cells)
  expect_identical(found_by(alone), found_by(result))
  more <- quick_study(k = 2:5, datasets = list(one = known_heaps(1), two = known_heaps(2, k = 4),
                                                            three = known_heaps(3)))
  grown <- fl_run(more, file)
  added <- sum(grown$cells$asked & !grown$cells$cell %in% result$cells$cell)
  expect_match(fl_facts(grown)[1], paste0(" done, ", added, " of them now, in "))
  # what fails now is not told as done now
  failing <- grown
  failing$cells$status[grown$cells$cell %in% grown$now] <- "failed"
  expect_match(fl_facts(failing)[1], " done, 0 of them now, in ")
  expect_match(fl_facts(fl_run(more, only_open = TRUE))[1], "^0 of [0-9]+ fits of .* are in its store; [0-9]+ open\\.$")
  # what was judged over fewer counts is judged anew
  expect_identical(found_by(grown), found_by(fl_run(more)))
  old <- merge(result$cells, grown$cells, by = "cell")
  expect_equal(old$seconds.x, old$seconds.y)
})

test_that("what was too slow is tried again when asked for, and then all is as if it had never been", {
  store <- withr::local_tempfile(fileext = ".sqlite")
  sleeper <- fl_method("kmeans", restarts = 2)
  fit <- sleeper$fit
  sleeper$key <- "sleeper"
  sleeper$scatter <- NULL
  sleeper$fit <- function(x, k, settings, seed) {
    if (k == 3) Sys.sleep(as.numeric(Sys.getenv("FJORDLINE_TEST_SLEEP")))
    fit(x, k, settings, seed)
  }
  study <- function(seconds = Inf) {
    quick_study(datasets = list(one = known_heaps(1)), preparations = list(plain = list()), methods = list(
      fl_method("kmeans", restarts = 2), sleeper = sleeper, fl_method("mixture", covariance = "spherical/common")
    ), seconds = seconds)
  }
  withr::local_envvar(FJORDLINE_TEST_SLEEP = "2.5")  # the limit is far beyond what the others take
  first <- fl_run(study(2), store)
  slow <- first$cells$status == "slow"
  expect_equal(unique(first$cells$method[slow]), "sleeper")
  expect_match(format(first), "retry = TRUE", all = FALSE)
  withr::local_envvar(FJORDLINE_TEST_SLEEP = "0")
  expect_equal(fl_run(study(), store)$cells$status, first$cells$status)  # not by itself
  again <- fl_run(study(), store, retry = TRUE)
  expect_true(all(again$cells$status == "done"))
  expect_equal(found_by(again), found_by(fl_run(study())))
  # nothing is left of what was judged without them, and nothing is done twice
  con <- DBI::dbConnect(RSQLite::SQLite(), store)
  on.exit(DBI::dbDisconnect(con))
  rows <- function(table) DBI::dbGetQuery(con, paste("SELECT * FROM", table))
  values <- rows("fl_values")
  expect_equal(nrow(unique(values[c("judgement", "k", "measure")])), nrow(values))
  before <- rows("fl_judgements")
  fl_run(study(), store, retry = TRUE)
  expect_equal(rows("fl_judgements"), before)
  expect_error(fl_run(study(), store, retry = NA), class = "fjordline_error_argument")
})

test_that("stopped at any moment, the next run ends as one that was never stopped", {
  whole <- quick_result()
  for (moment in c(3, 60)) {
    file <- store_file()
    calls <- 0
    replaced("do_piece", function(piece, table) {
      calls <<- calls + 1
      if (calls > moment) stop("the power went")
      switch(piece$kind, fit = do_fit(piece, table), judge = do_judge(piece, table), gate = do_gate(piece, table))
    })
    expect_error(fl_run(quick_study(), file), "the power went")
    open <- fl_run(quick_study(), file, only_open = TRUE)
    expect_gt(sum(open$cells$status == "done"), 0)
    calls <- -1e6
    expect_identical(found_by(fl_run(quick_study(), file)), found_by(whole))
  }
})

test_that("killed without warning, it loses nothing that was finished", {
  skip_on_os("windows")
  file <- store_file()
  spec <- withr::local_tempfile(fileext = ".rds")
  study <- quick_study(repeats = 3)
  saveRDS(study, spec)
  code <- paste0("library(fjordline); fl_run(readRDS('", spec, "'), '", file, "')")
  for (wait in 0.4) {
    pid <- as.integer(system(paste0(shQuote(file.path(R.home("bin"), "Rscript")), " -e ", shQuote(code),
                                    " > /dev/null 2>&1 & echo $!"), intern = TRUE))
    Sys.sleep(0.5)
    until <- Sys.time() + 20
    while (Sys.time() < until && !isTRUE(file.size(file) > 30000)) Sys.sleep(0.05)
    Sys.sleep(wait)
    tools::pskill(pid, tools::SIGKILL)
  }
  result <- fl_run(study, file)
  expect_identical(found_by(result), found_by(fl_run(study)))
})

test_that("a store of another study, of other rows, of a newer form, or no store at all is refused", {
  file <- store_file()
  fl_run(quick_study(k = 2L), file)
  refused <- function(study, said) expect_error(fl_run(study, file), said, class = "fjordline_error_store")
  refused(quick_study(k = 2L, seed = 9), "Its seed is \"5\", this study's \"9\"")
  refused(quick_study(k = 2L, name = "other"), "belongs to another study")
  refused(quick_study(k = 2L, datasets = list(one = known_heaps(7), two = known_heaps(2, k = 4))),
          "rows of \"one\"/\"plain\" are others than they were")
  refused(quick_study(k = 2L, indices = "silhouette"), "judged by other indices")
  refused(quick_study(k = 2L, agreements = "purity"), "other measures of agreement")
  named <- function(restarts) quick_study(k = 2L, methods = list(mine = fl_method("kmeans", restarts = restarts)))
  other <- store_file()
  fl_run(named(2), other)
  expect_error(fl_run(named(3), other), "settings of \"mine\" are others", class = "fjordline_error_store")
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbExecute(con, "UPDATE fl_about SET value = '99' WHERE name = 'version'")
  DBI::dbDisconnect(con)
  refused(quick_study(k = 2L), "made by a newer fjordline")
  text <- withr::local_tempfile(lines = rep("no database at all", 100), fileext = ".sqlite")
  expect_error(fl_run(quick_study(k = 2L), text), "not a study store, or is damaged", class = "fjordline_error_store")
  other <- store_file()
  con <- DBI::dbConnect(RSQLite::SQLite(), other)
  DBI::dbWriteTable(con, "herrings", data.frame(x = 1))
  DBI::dbDisconnect(con)
  expect_error(fl_run(quick_study(k = 2L), other), "not a study store", class = "fjordline_error_store")
  expect_error(fl_run(quick_study(), file.path(tempdir(), "nowhere", "x.sqlite")), class = "fjordline_error_file")
})

test_that("a store another process holds is said to be held, and what was there stays", {
  file <- store_file()
  result <- fl_run(quick_study(k = 2:3), file)
  holder <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::defer(DBI::dbDisconnect(holder))
  DBI::dbExecute(holder, "BEGIN EXCLUSIVE")
  replaced("busy_milliseconds", 200L)
  expect_error(fl_run(quick_study(k = 2:4), file), "Another process holds it", class = "fjordline_error_store")
  DBI::dbExecute(holder, "ROLLBACK")
  expect_identical(fl_run(quick_study(k = 2:3), file)$cells, result$cells)
})

test_that("two runs of one study at once end as one", {
  skip_on_os("windows")
  file <- store_file()
  spec <- withr::local_tempfile(fileext = ".rds")
  saveRDS(quick_study(), spec)
  code <- paste0("library(fjordline); fl_run(readRDS('", spec, "'), '", file, "')")
  command <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "-e", shQuote(code), "> /dev/null 2>&1")
  status <- system(paste0("(", command, "; echo $?) & (", command, "; echo $?); wait"), intern = TRUE)
  expect_equal(status, c("0", "0"))
  result <- fl_run(quick_study(), file)
  expect_identical(found_by(result), found_by(quick_result()))
})

test_that("a connection serves as a store, and stays open", {
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con))
  result <- fl_run(quick_study(), con)
  expect_true(DBI::dbIsValid(con))
  expect_identical(found_by(result), found_by(quick_result()))
  expect_s3_class(fl_vote(fl_open(result, "one")), "fl_vote")
})

test_that("pieces finished close together are written at once, and none twice or never", {
  written <- list()
  replaced("write_pieces", function(opened, pieces) written[[length(written) + 1L]] <<- unlist(pieces))
  writer <- piece_writer(NULL, seconds = 100)
  for (i in 1:5) writer$take(list(i))
  writer$flush()
  writer$flush()
  expect_equal(written, list(1, 2:5))
  writer <- piece_writer(NULL, seconds = 0)
  for (i in 6:7) writer$take(list(i))
  expect_equal(written[3:4], list(6, 7))
})

test_that("a team's PostgreSQL keeps a study as a file does: resumed, opened, refused to another study", {
  withr::local_envvar(TZ = "UTC")  # else the driver asks the system for its time zone
  server <- local_postgres()
  skip_if(is.null(server), "PostgreSQL or RPostgres is missing")
  con <- server()
  part <- fl_run(quick_study(k = 2:3), con)
  expect_true(all(part$cells$status == "done"))
  other <- server()
  whole <- fl_run(quick_study(), other)
  expect_identical(found_by(whole), found_by(quick_result()))
  expect_equal(fl_vote(fl_open(whole, "two"))$k, 4L)
  expect_error(fl_run(quick_study(seed = 9), con), "belongs to another study", class = "fjordline_error_store")
  expect_true(DBI::dbIsValid(con))  # a connection that was given stays its owner's
})
