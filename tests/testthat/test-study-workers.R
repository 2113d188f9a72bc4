# Work handed to the workers of the reader's plan: all of it is done once, whatever ends on the way.

skip_if_not(rlang::is_installed(c("DBI", "RSQLite", "future", "future.apply")), "workers or a store are missing")

store_file <- function(env = parent.frame()) withr::local_tempfile(fileext = ".sqlite", .local_envir = env)

two_workers <- function(env = parent.frame()) {
  skip_on_os("windows")
  before <- future::plan("multisession", workers = 2)
  withr::defer(future::plan(before), env)
}

keys_of <- function(pieces) vapply(pieces, `[[`, "", "key")
piece_of <- function(key, ...) list(kind = "fit", table = "t", label = "m", key = as.character(key), ...)
gone <- function() structure(simpleError("gone"), class = c("FutureError", "error", "condition"))

# In place of workers: what each batch would come back with. Gives what was started and recorded, in turn.
pretended_workers <- function(comes_back, env = parent.frame()) {
  seen <- new.env()
  seen$started <- list()
  seen$recorded <- list()
  seen$wanted <- list()
  replaced("start_batch", function(pieces, sender, wanted = character()) {
    seen$started <- c(seen$started, list(keys_of(pieces)))
    seen$wanted <- c(seen$wanted, list(wanted))
    list(pieces = pieces, future = pieces)
  }, env)
  replaced("has_ended", function(batch) TRUE, env)
  replaced("renew_workers", function(error) NULL, env)
  replaced("outcome_of", function(batch) comes_back(keys_of(batch$pieces), seen), env)
  seen$record <- function(pieces, outcomes) {
    seen$recorded[keys_of(pieces)] <- vapply(outcomes, `[[`, "", "status")
    seen$times <- c(seen$times, keys_of(pieces))
  }
  seen
}

done_all <- function(keys) rep(list(list(seconds = 0.1, status = "done")), length(keys))

test_that("workers find what one process finds, and one that dies takes nothing along", {
  alone <- quick_result()
  two_workers()
  expect_identical(found_by(fl_run(quick_study())), found_by(alone))
  mark <- withr::local_tempfile()
  killer <- fl_method("kmeans", restarts = 2)
  killer$fit <- eval(bquote(function(x, k, settings, seed) {
    if (k == 4 && !file.exists(.(mark))) {
      file.create(.(mark))
      tools::pskill(Sys.getpid(), tools::SIGKILL)
    }
    list(group = rep_len(seq_len(k), nrow(x)))
  }), baseenv())
  killer$scatter <- NULL
  result <- fl_run(quick_study(methods = list(killer = killer), indices = "none"))
  expect_true(file.exists(mark))
  expect_equal(unique(result$cells$status), "done")
})

test_that("workers that were dead before anything was handed to them are replaced", {
  two_workers()
  ids <- lapply(1:2, function(i) future::future(c(Sys.getpid(), Sys.sleep(0.3))[[1L]]))
  for (id in ids) tools::pskill(future::value(id), tools::SIGKILL)
  Sys.sleep(0.2)
  result <- suppressWarnings(fl_run(quick_study()))
  expect_equal(unique(result$cells$status), "done")
  expect_identical(found_by(result), found_by(quick_result()))
})

test_that("a worker has its next batch before what it gave back is recorded, which no failing hand-over loses", {
  happened <- character()
  hands_over <- 3L
  replaced("start_batch", function(pieces, ...) {
    if (sum(startsWith(happened, "start")) == hands_over) stop("no more")
    happened <<- c(happened, paste("start", pieces[[1L]]$key))
    list(pieces = pieces, future = pieces)
  })
  replaced("has_ended", function(batch) TRUE)
  replaced("outcome_of", function(batch) lapply(batch$pieces, function(piece) list(seconds = 5)))
  record <- function(pieces, outcomes) happened <<- c(happened, paste("record", pieces[[1L]]$key))
  pieces <- lapply(letters[1:3], function(key) list(kind = "fit", table = "t", label = "m", key = key, part = key))
  share_pieces(pieces, NULL, record, 3)
  expect_equal(happened, c("start a", "start b", "record a", "start c", "record b", "record c"))
  happened <- character()
  hands_over <- 1L
  expect_error(share_pieces(pieces, NULL, record, 3), "no more")
  expect_equal(happened, c("start a", "record a"))
})

test_that("what came back beside a loss is kept, and all of what was lost is done again, but for what ends workers", {
  two_workers()
  seen <- pretended_workers(function(keys, seen) if ("3" %in% keys) gone() else done_all(keys))
  share_pieces(lapply(1:40, piece_of), NULL, seen$record, 3)
  expect_setequal(seen$times, as.character(1:40))
  expect_false(anyDuplicated(seen$times) > 0)
  expect_equal(names(seen$recorded)[seen$recorded == "failed"], "3")
  expect_equal(sum(vapply(seen$started, identical, NA, "3")), 2)   # alone with its worker, twice
  expect_equal(sum(vapply(seen$started, function(keys) "13" %in% keys, NA)), 1)  # beside the first loss: not done again
})

test_that("several pieces that end their workers are all found, and each of the others is done once", {
  two_workers()
  bad <- c("3", "4", "17", "200")
  seen <- pretended_workers(function(keys, seen) if (any(bad %in% keys)) gone() else done_all(keys))
  share_pieces(lapply(1:300, piece_of), NULL, seen$record, 3)
  expect_equal(sort(as.integer(seen$times)), 1:300)
  expect_setequal(names(seen$recorded)[seen$recorded == "failed"], bad)
  expect_lt(length(seen$started), 300 / 3)  # not one by one
})

test_that("a worker that dies by itself, without a piece to blame, costs nothing", {
  two_workers()
  turn <- 0
  seen <- pretended_workers(function(keys, seen) {
    turn <<- turn + 1
    if (turn %in% c(2, 5, 9)) gone() else done_all(keys)
  })
  share_pieces(lapply(1:120, piece_of), NULL, seen$record, 3)
  expect_equal(sort(as.integer(seen$times)), 1:120)
  expect_true(all(seen$recorded == "done"))
})

test_that("workers that always die end the run, with what came back before recorded", {
  two_workers()
  turn <- 0
  seen <- pretended_workers(function(keys, seen) {
    turn <<- turn + 1
    if (turn > 1) gone() else done_all(keys)
  })
  expect_error(share_pieces(lapply(1:40, piece_of), NULL, seen$record, 3), "end as soon as they are started",
               class = "fjordline_error_worker")
  expect_equal(seen$times, seen$started[[1]])
})

test_that("a worker that cannot work ends the run at once, and what the other gave back is recorded", {
  two_workers()
  seen <- pretended_workers(function(keys, seen) if ("1" %in% keys) simpleError("no such package") else done_all(keys))
  expect_error(share_pieces(lapply(1:40, piece_of), NULL, seen$record, 3), "cannot do its work",
               class = "fjordline_error_worker")
  expect_equal(seen$times, seen$started[[2]])
})

test_that("a table that a worker asks for goes with its batch the next time, and with no other", {
  two_workers()
  seen <- pretended_workers(function(keys, seen) {
    asked <- "1" %in% keys && !any(lengths(seen$wanted) > 0)
    if (asked) structure(list(wanted = "large"), class = "fl_table_wanted") else done_all(keys)
  })
  share_pieces(lapply(1:40, piece_of), NULL, seen$record, 3)
  expect_equal(sort(as.integer(seen$times)), 1:40)
  with_table <- lengths(seen$wanted) > 0
  expect_equal(sum(with_table), 1)
  expect_equal(seen$wanted[with_table], list("large"))
  expect_equal(seen$started[with_table], seen$started[1])
})

test_that("what a piece needs of the store is read before it is handed over, and once", {
  two_workers()
  reads <- integer(30)
  given <- list()
  seen <- pretended_workers(function(keys, seen) if ("2" %in% keys && length(keys) > 1) gone() else done_all(keys))
  start <- utils::getFromNamespace("start_batch", "fjordline")
  replaced("start_batch", function(pieces, ...) {
    given <<- c(given, lapply(pieces, `[[`, "fits"))
    start(pieces, ...)
  })
  share_pieces(lapply(1:30, function(key) piece_of(key, read = function() {
    reads[key] <<- reads[key] + 1L
    list(fits = paste("fits of", key))
  })), NULL, seen$record, 3)
  expect_equal(reads, rep(1L, 30))  # also of those that were done again
  expect_setequal(unlist(given), paste("fits of", 1:30))
  expect_false(any(vapply(given, is.null, NA)))
})

test_that("one that is at work has not ended, one that is through or could not be started has", {
  two_workers()
  busy <- list(future = future::future({
    Sys.sleep(1)
    7
  }))
  expect_false(has_ended(busy))
  expect_equal(outcome_of(busy), 7)
  expect_true(has_ended(busy))
  unfit <- list(future = simpleError("no worker"))
  expect_true(has_ended(unfit))
  expect_s3_class(outcome_of(unfit), "error")
  expect_equal(vapply(list(gone(), structure(list(wanted = "t"), class = "fl_table_wanted"), list()), how_it_ended, ""),
               c("lost", "unknown tables", "done"))
})

test_that("what the shell does for its workers ends with them", {
  skip_on_os("windows")
  withr::local_options(socketOptions = NULL)
  before <- class(future::plan())
  expect_equal(with_workers(list(workers = "2"), c(getOption("socketOptions"), future::nbrOfWorkers())),
               c("no-delay", "2"))
  expect_null(getOption("socketOptions"))
  expect_equal(class(future::plan()), before)
  try(with_workers(list(workers = "2"), stop("ends")), silent = TRUE)
  expect_null(getOption("socketOptions"))
  expect_null(with_workers(list(workers = "1"), getOption("socketOptions")))  # one needs none
})

test_that("workers do not mistake a table for one of the same name in an earlier study", {
  two_workers()
  small <- function(seed) quick_study(datasets = list(one = known_heaps(seed)), repeats = 1, indices = "none", k = 2:3)
  shared <- lapply(1:2, function(seed) fl_run(small(seed)))
  future::plan("sequential")
  for (seed in 1:2) expect_identical(found_by(shared[[seed]]), found_by(fl_run(small(seed))))
  expect_false(identical(shared[[1]]$cells$objective, shared[[2]]$cells$objective))
})

test_that("a worker with another version, or none, of this package ends the run with what to do", {
  two_workers()
  replaced("own_version", function() "99.0")
  file <- store_file()
  expect_error(fl_run(quick_study(), file), "A worker cannot do its work.*has fjordline .*Each needs fjordline 99.0",
               class = "fjordline_error_worker")
  expect_error(check_worker(structure(simpleError("gone"), class = c("FutureError", "error", "condition")), most_fruitless),
               "end as soon as they are started", class = "fjordline_error_worker")
  expect_null(check_worker(structure(simpleError("gone"), class = c("FutureError", "error", "condition")), 1L))
})

test_that("batches hold about the work asked for, all of it in the end, and parts stay parts", {
  piece <- function(label, part = NULL) list(kind = "fit", table = "t", label = label, part = part)
  pace <- new_pace(0.25)
  expect_equal(batch_size(rep(list(piece("a")), 100), pace, 2, 3), 12)  # unknown pieces are taken for a quarter of a second
  for (i in 1:30) pace$note(piece("a"), 0.01)
  expect_equal(batch_size(rep(list(piece("a")), 1000), pace, 2, 3), 250)  # a quarter of what is left for two workers each
  expect_equal(batch_size(rep(list(piece("a")), 60), pace, 2, 3), 60)  # so little is not worth dividing
  parts <- c(rep(list(piece("a", "p 1")), 2), list(piece("a", "p 2")), rep(list(piece("a")), 9))
  expect_equal(batch_size(parts, pace, 2, 3), 2)
  expect_equal(batch_size(parts[-(1:2)], pace, 2, 3), 1)
  expect_equal(batch_size(c(rep(list(piece("a")), 5), parts), pace, 2, 3), 5)
  for (i in 1:30) pace$note(piece("slow"), 60)
  expect_equal(batch_size(rep(list(piece("slow")), 9), pace, 2, 3), 1)  # never none
  # on a table not seen yet, pieces are taken to be as on others
  expect_equal(pace$expect(list(list(kind = "fit", table = "other", label = "slow"), piece("a"))), c(60, 0.01))
})

test_that("what a worker took along is parted so that what ended it is soon alone", {
  pieces <- lapply(1:100, function(key) list(key = as.character(key), label = "a"))
  worker_dies_of <- function(set) any(vapply(set, `[[`, "", "key") == "42")
  set <- pieces
  rounds <- 0
  while (length(set) > 1) {
    parted <- in_parts(set)
    expect_equal(vapply(parted, `[[`, "", "key"), vapply(set, `[[`, "", "key"))
    sets <- split(parted, vapply(parted, `[[`, "", "part"))
    expect_lte(length(sets), 10)
    set <- Filter(worker_dies_of, sets)[[1]]
    rounds <- rounds + 1
  }
  expect_equal(rounds, 2)
  whole <- in_parts(pieces, parts = 1)
  expect_equal(batch_size(c(whole, parted), new_pace(1), 2, 3), 100)  # beside the one that died: as it was
})


test_that("parts hold each piece once and in its order, and none holds many more than there are parts", {
  for (n in c(1, 2, 12, 13, 40, 100, 1000)) {
    parted <- in_parts(lapply(seq_len(n), piece_of))
    expect_equal(keys_of(parted), as.character(seq_len(n)))
    sizes <- table(vapply(parted, `[[`, "", "part"))
    expect_lte(max(sizes), max(1, if (n > 12) length(sizes) else 1))
    queue <- parted
    handed <- integer()
    while (length(queue) > 0) {
      handed <- c(handed, batch_size(queue, new_pace(1), 2, 3))
      queue <- queue[-seq_len(handed[length(handed)])]
    }
    expect_equal(length(handed), length(sizes))
  }
  lost <- list(list(pieces = lapply(1:5, piece_of)))
  running <- list(list(pieces = lapply(6:9, piece_of)), list(pieces = lapply(10:12, piece_of)))
  again <- in_work(lost, running)
  expect_equal(keys_of(again), as.character(1:12))
  expect_equal(unname(rle(vapply(again, `[[`, "", "part"))$lengths), c(rep(1, 5), 4, 3))
})

test_that("what pieces will take is known of their kind, first on their own table", {
  pace <- new_pace(0.5)
  piece <- function(table, label) list(kind = "fit", table = table, label = label)
  pace$note(piece("a", "m"), 2)
  pace$note(piece("b", "m"), 6)
  pace$note(piece("b", "m"), NA)  # of one that ended its worker nothing is known
  pieces <- list(piece("a", "m"), piece("b", "m"), piece("c", "m"), piece("a", "other"), piece("a", "m"))
  expect_equal(pace$expect(pieces), c(2, 6, 0.7 * 2 + 0.3 * 6, 0.5, 2))
  expect_equal(pace$expect(pieces[4]), 0.5)
})
