# Pieces of work handed to the workers of the reader's own plan of the future package, in batches, since handing one
# over takes time; each worker gets a large table once. With one worker all is done here.

# `tables`: a function that makes the table a piece is about. `record(pieces, outcomes)` is called here, as pieces end.
# `stamp` tells tables of this study from others of the same names, which workers may hold; `batch`: seconds of work
# handed over at once.
work_through <- function(pieces, tables, record, stamp = "", batch = 3) {
  if (length(pieces) == 0L) {
    return(invisible())
  }
  if (has_workers()) share_pieces(pieces, table_sender(tables, stamp), record, batch)
  else do_pieces(pieces, tables, record)
}

do_pieces <- function(pieces, tables, record) {
  held <- NULL
  table <- NULL
  for (piece in pieces) {
    if (!identical(held, piece$table)) {
      table <- tables(piece)
      held <- piece$table
    }
    piece <- with_its_fits(piece)
    outcome <- do_piece(piece, table)
    record(list(piece), list(outcome))
  }
}

# A piece of work that needs what the store holds reads it just before it is done.
with_its_fits <- function(piece) {
  if (is.null(piece$read)) piece else c(piece[names(piece) != "read"], piece$read())
}

# The next batch is made up while workers are busy, and handed over before what came back is recorded: none waits for
# the store.
share_pieces <- function(pieces, sender, record, batch) {
  most <- min(future::nbrOfWorkers(), 100)
  pace <- new_pace(batch / 12)
  losses <- count_losses()
  queue <- pieces
  ahead <- NULL
  running <- list()
  fruitless <- 0L
  make_up <- function() {
    if (is.null(ahead) && length(queue) > 0L) {
      size <- batch_size(queue, pace, most, batch)
      ahead <<- lapply(queue[seq_len(size)], with_its_fits)
      queue <<- queue[-seq_len(size)]
    }
  }
  start <- function(pieces, wanted = character()) {
    due <- elapsed_seconds() + sum(pace$expect(pieces))
    running <<- c(running, list(c(start_batch(pieces, sender, wanted), due = due)))
  }
  keep_busy <- function() {
    while (length(running) < most && (length(queue) > 0L || !is.null(ahead))) {
      make_up()
      start(ahead)
      ahead <<- NULL
    }
  }
  replace_workers <- function(lost) {
    fruitless <<- fruitless + 1L
    error <- lost[[1L]]$outcome
    check_worker(error, fruitless)
    again <- in_work(lost, running)
    running <<- list()
    renew_workers(error)
    for (one in lost) losses$note(one$pieces)
    hopeless <- vapply(again, losses$hopeless, NA)
    if (any(hopeless)) {
      # they are to blame unless nothing at all ends workers too
      nothing <- outcome_of(start_batch(list(), sender))
      if (inherits(nothing, "error")) check_worker(nothing, most_fruitless)
      record(again[hopeless], rep(list(ended_its_worker(error)), sum(hopeless)))
      fruitless <<- 0L
    }
    queue <<- c(again[!hopeless], ahead, queue)
    ahead <<- NULL
  }
  repeat {
    keep_busy()
    if (length(running) == 0L) break
    ended <- vapply(running, has_ended, NA)
    if (!any(ended)) {
      # asking takes time too: the more seldom, the farther from when one is due
      due <- min(abs(vapply(running, `[[`, 0, "due") - elapsed_seconds()))
      if (due < batch / 10) make_up()
      Sys.sleep(min(max(due / 8, 0.01), batch / 20, 2))
      next
    }
    came <- lapply(running[ended], function(one) c(one, list(outcome = outcome_of(one))))
    running <- running[!ended]
    how <- vapply(came, function(one) how_it_ended(one$outcome), "")
    for (one in came[how == "done"]) {
      Map(function(piece, done) pace$note(piece, done$seconds), one$pieces, one$outcome)
      fruitless <- 0L
    }
    tryCatch({
      if (any(how == "lost")) replace_workers(came[how == "lost"])
      for (one in came[how == "unknown tables"]) start(one$pieces, one$outcome$wanted)
      keep_busy()
    }, finally = for (one in came[how == "done"]) record(one$pieces, one$outcome))
  }
}

how_it_ended <- function(outcome) {
  if (inherits(outcome, "error")) "lost" else if (inherits(outcome, "fl_table_wanted")) "unknown tables" else "done"
}

# What is done again after workers were lost, and with them what the others were doing, since all are started anew.
in_work <- function(lost, running) {
  parted <- c(lapply(lost, function(one) in_parts(one$pieces)), lapply(running, function(one) in_parts(one$pieces, 1L)))
  unlist(parted, recursive = FALSE)
}

# To be handed over in about as many parts as each has pieces, few one by one: what ends its worker is soon alone with
# it, and a queue has few jobs more.
in_parts <- function(pieces, parts = if (length(pieces) > 12L) ceiling(sqrt(length(pieces))) else length(pieces)) {
  part <- sort(rep_len(seq_len(parts), length(pieces)))
  of <- paste(pieces[[1L]]$key, length(pieces), part)
  Map(function(piece, of) replace(piece, "part", of), pieces, of, USE.NAMES = FALSE)
}

# A piece that was alone with its worker, twice, when that ended.
count_losses <- function() {
  lost <- list()
  list(
    note = function(pieces) {
      if (length(pieces) == 1L) lost[[pieces[[1L]]$key]] <<- (lost[[pieces[[1L]]$key]] %||% 0L) + 1L
    },
    hopeless = function(piece) isTRUE(lost[[piece$key]] >= 2L)
  )
}

ended_its_worker <- function(error) {
  list(status = "failed", reason = paste0("it ended its worker, twice: ", first_words(conditionMessage(error))),
       seconds = NA_real_)
}

# `wanted`: large tables that the worker asked for. What pieces have in common is sent once.
start_batch <- function(pieces, sender, wanted = character()) {
  label <- vapply(pieces, `[[`, "", "label")
  methods <- lapply(pieces[!duplicated(label)], `[[`, "method")
  names(methods) <- unique(label)
  bare <- lapply(pieces, function(piece) piece[names(piece) != "method"])
  # one object: each takes a round to every worker
  batch <- list(pieces = bare, methods = methods, tables = sender$send(pieces, wanted), stamp = sender$stamp,
                version = own_version())
  # a worker found dead is no other thing than one that dies at work
  list(pieces = pieces, future = tryCatch(
    future::future(utils::getFromNamespace("do_batch", "fjordline")(batch), globals = list(batch = batch), seed = NULL),
    error = function(e) e
  ))
}

# Small tables go along with every batch, which costs less than to be asked for them.
table_sender <- function(tables, stamp, small = 2^20) {
  size <- new.env(parent = emptyenv())
  send <- function(pieces, wanted) {
    of <- vapply(pieces, `[[`, "", "table")
    out <- list()
    for (key in unique(of)) {
      if (!isTRUE(size[[key]] > small) || key %in% wanted) {
        table <- tables(pieces[[match(key, of)]])
        size[[key]] <- as.double(utils::object.size(table))
        if (size[[key]] <= small || key %in% wanted) out[[key]] <- table
      }
    }
    out
  }
  list(send = send, stamp = stamp)
}

# Asking a dead worker is an error; what became of it is then told with the value.
has_ended <- function(batch) {
  # without the timeout each that is at work would be waited for a while
  inherits(batch$future, "error") || tryCatch(future::resolved(batch$future, timeout = 0), error = function(e) TRUE)
}

outcome_of <- function(batch) {
  if (inherits(batch$future, "error")) batch$future else tryCatch(future::value(batch$future), error = function(e) e)
}

# On the worker. A table that was sent stays there, with what fits share, for the batches to come.
do_batch <- function(batch) {
  if (batch$version != own_version()) stop("it has fjordline ", own_version(), " there")
  here <- function(key) paste(batch$stamp, key)
  needed <- unique(vapply(batch$pieces, `[[`, "", "table"))
  for (key in names(batch$tables)) keep_table(here(key), batch$tables[[key]], here(needed))
  missing <- needed[!here(needed) %in% ls(kept_tables)]
  if (length(missing) > 0L) {
    return(structure(list(wanted = missing), class = "fl_table_wanted"))
  }
  on_one_thread(lapply)(batch$pieces, function(piece) {
    if (!is.null(batch$methods[[piece$label]])) piece$method <- batch$methods[[piece$label]]
    do_piece(piece, kept_tables[[here(piece$table)]])
  })
}

own_version <- function() as.character(utils::packageVersion("fjordline"))

kept_tables <- new.env(parent = emptyenv())
most_kept <- 16L

# Where there are many, those that are not needed now make room.
keep_table <- function(key, table, needed) {
  there <- ls(kept_tables)
  if (key %in% there) {
    return(invisible())
  }
  if (length(there) >= most_kept) rm(list = setdiff(there, needed), envir = kept_tables)
  kept_tables[[key]] <- table
}

# So many pieces as fill a batch; towards the end fewer, so that no worker is left with much, but not so few
# that handing over takes longer than the work.
batch_size <- function(queue, pace, workers, batch) {
  ahead <- queue[seq_len(min(length(queue), 1000L))]
  alike <- vapply(ahead, function(piece) identical(piece$part, queue[[1L]]$part), NA)
  together <- which.min(c(alike, FALSE)) - 1L
  if (!is.null(queue[[1L]]$part)) {
    return(together)
  }
  seconds <- cumsum(pace$expect(ahead))
  share <- seconds[length(seconds)] / (2 * workers)
  most <- min(batch, max(share, batch / 4))
  max(1L, min(together, sum(seconds <= most)))
}

# How long pieces of a kind took of late: on this table, else on any.
new_pace <- function(usual) {
  known <- new.env(parent = emptyenv())
  part <- function(pieces, name) vapply(pieces, `[[`, "", name)
  kinds <- function(pieces) {
    kind <- part(pieces, "kind")
    label <- part(pieces, "label")
    list(on_table = paste(kind, part(pieces, "table"), label), anywhere = paste(kind, label))
  }
  list(
    note = function(piece, seconds) {
      if (is.finite(seconds)) for (kind in unlist(kinds(list(piece)))) {
        known[[kind]] <- 0.7 * (known[[kind]] %||% seconds) + 0.3 * seconds
      }
    },
    expect = function(pieces) {
      of <- kinds(pieces)
      first <- !duplicated(of$on_table)
      each <- mapply(function(here, elsewhere) known[[here]] %||% known[[elsewhere]] %||% usual,
                     of$on_table[first], of$anywhere[first])
      unname(each[of$on_table])
    }
  )
}

most_fruitless <- 8L

# A worker that is gone is one thing, one that answers with an error another: that would end every batch.
check_worker <- function(error, fruitless) {
  if (inherits(error, "FutureError") && fruitless < most_fruitless) {
    return(invisible())
  }
  fl_abort("worker", if (inherits(error, "FutureError")) "Workers end as soon as they are started."
           else "A worker cannot do its work.", found = first_words(conditionMessage(error)),
           advice = paste0("Each needs fjordline ", own_version(), " where its own R finds it; with plan(\"cluster\") ",
                           "rscript_libs names the folder. What was finished is in the store."))
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
