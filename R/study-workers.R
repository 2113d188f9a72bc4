# Pieces of work handed to the workers of the reader's own plan of the future package, in batches that take about three
# seconds, since handing one over takes a tenth; each worker gets a table once. With one worker all is done here.

batch_seconds <- 3

# `tables`: a function that makes the table a piece is about. `record(pieces, outcomes)` is called here, as pieces end.
work_through <- function(pieces, tables, record) {
  if (length(pieces) == 0L) {
    return(invisible())
  }
  if (has_workers()) share_pieces(pieces, tables, record) else do_pieces(pieces, tables, record)
}

do_pieces <- function(pieces, tables, record) {
  held <- NULL
  table <- NULL
  for (piece in pieces) {
    if (!identical(held, piece$table)) {
      table <- tables(piece)
      held <- piece$table
    }
    outcome <- do_piece(piece, table)
    record(list(piece), list(outcome))
  }
}

share_pieces <- function(pieces, tables, record) {
  most <- min(future::nbrOfWorkers(), 100)
  queue <- pieces
  running <- list()
  lost <- list()
  pace <- new_pace()
  idle <- 0.002
  repeat {
    while (length(running) < most && length(queue) > 0L) {
      size <- batch_size(queue, pace, most)
      running <- c(running, list(start_batch(queue[seq_len(size)])))
      queue <- queue[-seq_len(size)]
    }
    if (length(running) == 0L) break
    ended <- which(vapply(running, has_ended, NA))
    if (length(ended) == 0L) {
      idle <- min(2 * idle, 0.05)
      Sys.sleep(idle)
      next
    }
    idle <- 0.002
    batch <- running[[ended[1L]]]
    running <- running[-ended[1L]]
    outcome <- tryCatch(future::value(batch$future), error = function(e) e)
    if (inherits(outcome, "fl_table_wanted")) {
      running <- c(running, list(start_batch(batch$pieces, tables(batch$pieces[[1L]]))))
    } else if (inherits(outcome, "error")) {
      # The worker is gone, and with it what others were doing: new ones are started, and what was in work is done
      # again, each piece alone, so that one that ends its worker is found.
      again <- c(batch$pieces, unlist(lapply(running, `[[`, "pieces"), recursive = FALSE))
      running <- list()
      renew_workers(outcome)
      for (piece in batch$pieces) lost[[piece$key]] <- (lost[[piece$key]] %||% 0L) + (length(batch$pieces) == 1L)
      hopeless <- vapply(again, function(piece) isTRUE(lost[[piece$key]] >= 2L), NA)
      why <- paste0("it ended its worker, twice: ", first_words(conditionMessage(outcome)))
      died <- list(status = "failed", reason = why, seconds = NA_real_)
      if (any(hopeless)) record(again[hopeless], rep(list(died), sum(hopeless)))
      queue <- c(lapply(again[!hopeless], replace, "alone", TRUE), queue)
    } else {
      Map(function(piece, one) pace$note(piece, one$seconds), batch$pieces, outcome)
      record(batch$pieces, outcome)
    }
  }
}

start_batch <- function(pieces, table = NULL) {
  list(pieces = pieces, future = future::future(
    run(pieces, table), globals = list(run = on_one_thread(do_batch), pieces = pieces, table = table),
    packages = "fjordline", seed = NULL
  ))
}

# Asking a dead worker is an error; what became of it is then told with the value.
has_ended <- function(batch) tryCatch(future::resolved(batch$future), error = function(e) TRUE)

# On the worker. A table that was sent stays there, with what fits share, for the batches to come.
do_batch <- function(pieces, table) {
  key <- pieces[[1L]]$table
  if (!is.null(table)) keep_table(key, table)
  table <- kept_tables[[key]]
  if (is.null(table)) structure(list(), class = "fl_table_wanted") else lapply(pieces, do_piece, table = table)
}

kept_tables <- new.env(parent = emptyenv())
most_kept <- 4L

keep_table <- function(key, table) {
  there <- ls(kept_tables)
  if (length(there) >= most_kept) rm(list = there, envir = kept_tables)
  kept_tables[[key]] <- table
}

# So many pieces of one table as take about three seconds, and no more than leave work for the other workers.
batch_size <- function(queue, pace, workers) {
  if (isTRUE(queue[[1L]]$alone)) {
    return(1L)
  }
  share <- ceiling(length(queue) / (2 * workers))
  ahead <- queue[seq_len(min(length(queue), share, 500L))]
  same <- vapply(ahead, function(piece) piece$table == queue[[1L]]$table && !isTRUE(piece$alone), NA)
  seconds <- cumsum(vapply(ahead, pace$expect, 0))
  max(1L, min(which.min(c(same, FALSE)) - 1L, sum(seconds <= batch_seconds)))
}

# How long pieces of a kind took of late.
new_pace <- function() {
  known <- new.env(parent = emptyenv())
  kind_of <- function(piece) paste(piece$kind, piece$table, piece$label)
  list(
    note = function(piece, seconds) {
      kind <- kind_of(piece)
      if (is.finite(seconds)) known[[kind]] <- 0.7 * (known[[kind]] %||% seconds) + 0.3 * seconds
    },
    expect = function(piece) known[[kind_of(piece)]] %||% (batch_seconds / 12)
  )
}

# A plan that starts its own processes can start them anew; a cluster that was given cannot.
renew_workers <- function(error) {
  given <- future::plan("list")
  tryCatch({
    future::plan("sequential")
    future::plan(given)
  }, error = function(e) {
    fl_abort("store", "A worker is gone, and new ones could not be started.", found = conditionMessage(error),
             advice = "What was finished is in the store: start the workers and run again.")
  })
}
