# A study run: what is missing in its store is done, what is there stays.

#' Run a benchmark
#'
#' Runs every fit of a study that its store does not hold yet, judges the fits by the study's indices, and keeps each as
#' soon as it is finished. Stopped at any moment, by whatever, the next run of the same study goes on where it was.
#'
#' @param study From [fl_study()]; the path of a YAML file, see [fl_study_file()]; or the path of a store alone, which
#'   is opened and finished.
#' @param store Where to keep what is finished: the path of a SQLite file, made if there is none, or an open `DBI`
#'   connection, such as one to PostgreSQL that a team shares. Left out, a temporary file that ends with the session.
#' @param only_open `TRUE`: nothing is fitted; what the store holds is opened.
#' @param batch Seconds of work that a worker gets at once. What is finished comes back when a batch ends, so a killed
#'   run loses no more. Where handing over is slow, as in a queue, give more: 300, say.
#' @param retry `TRUE`: fits that failed before, or were too slow or too large, are tried again, under the limits that
#'   the study has now, and what they take part in is judged anew.
#' @return An object of class `fl_run` with fields `study`, `store`, `cells` (one row per fit: `dataset`, `preparation`,
#'   `method`, `k`, `parameter`, `repeat`, `status`, `reason`, `seconds`, `found` (the count that came out),
#'   `objective`, `covered`), `agreements`, `values`, `picks` (the count each index
#'   and each vote puts first), `judgements`, `gates`, `now` (the keys, `cell`, of the fits of this
#'   run; others were in the store), `elapsed` (its seconds) and `workers`. A fit's `status` is `done`,
#'   `failed`, `slow`, `large` or `open` (not yet there), its `reason` says why. `as.data.frame()` gives the cells
#'   with a column for each measure of agreement.
#' @section Workers: under a plan of the future package the fits are shared among its workers, on this machine
#'   (`future::plan("multisession", workers = 4)`), on several (`plan("cluster", workers = c("host1", "host2"))`) or in
#'   a queue (`plan(future.batchtools::batchtools_slurm)`). `options(socketOptions = "no-delay")` before the plan makes
#'   handing over ten times faster where workers listen on sockets, as in the first two. Tables are sent to a worker
#'   once. The results are the same everywhere, apart from times. A worker that dies takes nothing along: its fits are
#'   done again by another.
#' @section The store: the file belongs to one study. Methods, counts, repeats and datasets may be added, and then
#'   only what is new is fitted; another table under the same name is refused, and so are other settings under a
#'   method's name. Two runs at once do no harm: what both finish is kept once. What failed or was too slow stays
#'   recorded as that, until `retry = TRUE`.
#'
#'   A store holds data only: the study as JSON, its tables included, fits as labels. Opened alone it runs nothing that
#'   it holds; algorithms and indices are found by their keys. A method that you registered must be registered again,
#'   the same as it was. Without an index that you registered the study goes on, and says so: the values that the store
#'   holds are shown, but the index has no vote and no new values. A store of an earlier version held its study as an R
#'   object, which is never read: give the study itself, `fl_run(study, store)`, and it goes on and is written anew.
#' @section Stores from others: A store holds data only, and opening one runs nothing. One that was damaged, brings
#'   views or triggers, or whose labels do not fit its tables is refused. Methods and indices of its maker's own are
#'   taken from your session, and only if they are registered there with the same code.
#' @section Errors: `fjordline_error_store` for a store that belongs to another study, is newer than this package, is
#'   locked, full, read-only or no store at all; `fjordline_error_worker` when workers cannot work: this package is
#'   missing there, or of another version.
#' @seealso [fl_standings()], [fl_track_record()], [fl_open()] for one of its sweeps.
#' @examples
#' study <- fl_study("icequakes", c("kmeans", "linkage"), k = 2:5, indices = "fast",
#'                   preparations = list(logs = list(transform = "log")))
#' result <- fl_run(study)
#' result
#' @export
fl_run <- function(study, store = NULL, only_open = FALSE, batch = 3, retry = FALSE) {
  started <- proc.time()[["elapsed"]]
  if (rlang::is_string(study) && grepl("[.]ya?ml$", study)) study <- fl_study_file(study)
  if (rlang::is_string(study)) {
    store <- store %||% study
    study <- stored_study(study)
  }
  check_made_by(study, "fl_study", "study")
  check_flag(only_open, "only_open")
  check_number(batch, "batch", least = 0.1, finite = FALSE)
  check_flag(retry, "retry")
  store <- store %||% tempfile("fjordline-study-", fileext = ".sqlite")
  opened <- open_store(store, study)
  on.exit(disconnect_store(opened))
  plan <- plan_of(study)
  if (retry && !only_open) forget_unfinished(opened)
  open <- if (!only_open) with_bar(finish_plan(study, plan, opened, batch))
  result <- read_result(study, plan, opened, store)
  result$now <- as.character(open)
  result$elapsed <- proc.time()[["elapsed"]] - started
  result$workers <- if (has_workers()) future::nbrOfWorkers() else 1L
  result
}

plan_of <- function(study) {
  cells <- study_cells(study)
  judgements <- study_judgements(study, cells)
  list(cells = cells, judgements = judgements, gates = study_gates(study), together = study_pairs(study, judgements))
}

# What the store does not hold yet.
missing_of <- function(plan, opened) {
  left <- function(part, table, key) {
    if (!is.null(part)) part[!part[[key]] %in% stored_keys(opened, table), ]
  }
  list(cells = left(plan$cells, "fl_cells", "cell"), judgements = left(plan$judgements, "fl_judgements", "judgement"),
       gates = left(plan$gates, "fl_gates", "gate"), together = left(plan$together, "fl_judgements", "judgement"))
}

# Gives the cells that were fitted.
finish_plan <- function(study, plan, opened, batch) {
  open <- missing_of(plan, opened)
  step <- progressr::progressor(steps = sum(vapply(open, NROW, 0L)))
  tables <- function(piece) study_table(study, piece$dataset, piece$preparation)
  stamp <- rlang::hash(study_identity(study))
  writer <- piece_writer(opened)
  on.exit(writer$flush())
  record <- function(pieces, outcomes) {
    writer$take(Map(function(piece, outcome) rows_of[[piece$kind]](piece, outcome), pieces, outcomes))
    step(amount = length(pieces))
  }
  through <- function(pieces) {
    work_through(pieces, tables, record, stamp, batch)
    writer$flush()
  }
  for (part in names(open)) if (NROW(open[[part]]) > 0L) {
    open[[part]]$table <- coordinates(open[[part]]$dataset, open[[part]]$preparation)
  }
  gates <- lapply(seq_len(NROW(open$gates)), gate_piece, study = study, gates = open$gates)
  fits <- lapply(seq_len(nrow(open$cells)), fit_piece, study = study, cells = open$cells)
  pieces <- c(gates, fits)
  table <- vapply(pieces, `[[`, "", "table")
  through(pieces[order(match(table, unique(table)))])
  through(judge_pieces(study, plan, open$judgements, opened))
  through(lapply(seq_len(NROW(open$together)), together_piece, study = study, plan = plan, rows = open$together,
                 opened = opened))
  open$cells$cell
}

# What is finished within a tenth of a second is written at once: of fits that take a millisecond, writing would
# otherwise take most of the time.
piece_writer <- function(opened, seconds = 0.1) {
  waiting <- list()
  written <- -Inf
  flush <- function() {
    rows <- waiting
    waiting <<- list()
    if (length(rows) > 0L) write_pieces(opened, rows)
    written <<- proc.time()[["elapsed"]]
  }
  list(flush = flush, take = function(rows) {
    waiting <<- c(waiting, rows)
    if (proc.time()[["elapsed"]] - written >= seconds) flush()
  })
}

# --- what is written of each kind of piece

rows_of <- list(
  fit = function(piece, outcome) rows_of_cell(piece, outcome),
  judge = function(piece, outcome) rows_of_judgement(piece, outcome),
  together = function(piece, outcome) rows_of_judgement(piece, outcome),
  gate = function(piece, outcome) rows_of_gate(piece, outcome)
)

rows_of_cell <- function(piece, outcome) {
  cell <- piece$row
  agreements <- outcome$agreements
  list(
    fl_cells = list(
      cell = cell$cell, dataset = cell$dataset, preparation = cell$preparation, method = cell$method, k = cell$k,
      parameter = cell$parameter, turn = cell$`repeat`, status = outcome$status, reason = outcome$reason,
      seconds = outcome$seconds, found = outcome$found %||% NA_integer_, objective = outcome$objective %||% NA_real_,
      converged = as.integer(outcome$converged %||% NA), covered = outcome$covered %||% NA_real_,
      labels = outcome$labels %||% NA_character_, details = outcome$details %||% NA_character_
    ),
    fl_agreements = if (length(agreements) > 0L) {
      list(cell = rep(cell$cell, length(agreements)), measure = names(agreements), value = unname(agreements))
    }
  )
}

rows_of_judgement <- function(piece, outcome) {
  of <- piece$row
  values <- outcome$values
  list(
    fl_judgements = list(
      judgement = of$judgement, dataset = of$dataset, preparation = of$preparation, method = of$method,
      turn = of$`repeat`, status = outcome$status, reason = outcome$reason, seconds = outcome$seconds,
      details = outcome$details %||% NA_character_
    ),
    fl_values = if (NROW(values) > 0L) {
      list(judgement = rep(of$judgement, nrow(values)), k = values$k, asked = as.integer(values$asked),
           measure = values$index, value = values$value, error = values$error, covered = values$covered,
           reason = values$reason)
    },
    fl_picks = if (!is.null(outcome$picks)) c(list(judgement = rep(of$judgement, nrow(outcome$picks))),
                                              as.list(outcome$picks))
  )
}

rows_of_gate <- function(piece, outcome) {
  of <- piece$row
  list(fl_gates = list(
    gate = of$gate, dataset = of$dataset, preparation = of$preparation, metric = of$metric, status = outcome$status,
    reason = outcome$reason, seconds = outcome$seconds, details = outcome$details %||% NA_character_
  ))
}

# --- what the store says

read_result <- function(study, plan, opened, store) {
  there <- stored_table(opened, "fl_cells", without = c("labels", "details"))
  at <- match(plan$cells$cell, there$cell)
  cells <- plan$cells
  for (field in c("status", "reason", "seconds", "found", "objective", "converged", "covered")) {
    cells[[field]] <- there[[field]][at]
  }
  cells$status[is.na(at)] <- "open"
  cells$reason[is.na(at)] <- "not fitted yet"
  agreements <- stored_table(opened, "fl_agreements")
  of <- function(rows, part, key) rows[rows[[key]] %in% part[[key]], ]
  judgements <- stored_table(opened, "fl_judgements", without = "details")
  values <- stored_table(opened, "fl_values")
  values$asked <- as.logical(values$asked)
  structure(
    list(study = study, store = store, cells = stood_for(cells, study$k), agreements = of(agreements, cells, "cell"),
         judgements = of(judgements, plan$judgements, "judgement"), values = of(values, plan$judgements, "judgement"),
         picks = all_picks(opened, plan),
         gates = of(stored_table(opened, "fl_gates", without = "details"), plan$gates, "gate")),
    class = "fl_run"
  )
}

# Who picked which count: an index, the vote of a method, or that of k-means and a mixture together.
all_picks <- function(opened, plan) {
  picks <- stored_table(opened, "fl_picks")
  of <- vctrs::vec_rbind(plan$judgements, plan$together)
  at <- match(picks$judgement, of$judgement)
  where <- of[at, c("dataset", "preparation", "method", "repeat")]
  tibble::tibble(where, picks[c("voter", "pick", "verdict", "margin")])[!is.na(at), ]
}

# Of methods that find the count one parameter value stands for each count that came out, as in a sweep.
stood_for <- function(cells, asked) {
  found <- ifelse(cells$status == "done", cells$found, NA_integer_)
  cells$stands <- TRUE
  parts <- split(seq_len(nrow(cells)), cells$dataset)
  for (rows in parts) {
    held <- represent_found(cells[rows, ], found[rows], asked)
    cells[rows, c("k", "asked", "stands")] <- held[c("k", "asked", "stands")]
  }
  cells
}

#' @export
as.data.frame.fl_run <- function(x, ...) {
  cells <- x$cells[x$cells$asked, setdiff(names(x$cells), c("cell", "asked", "seed"))]
  keys <- x$cells$cell[x$cells$asked]
  for (measure in x$study$agreements) {
    mine <- x$agreements[x$agreements$measure == measure, ]
    cells[[measure]] <- mine$value[match(keys, mine$cell)]
  }
  cells
}

# --- what it would take

#' What a study would take
#'
#' Fits every method on every prepared table at a middle count, and estimates from that how long all fits will take on
#' one thread. Judging them comes on top and is not estimated.
#'
#' @param object From [fl_study()].
#' @param patience Seconds after which a pilot fit is given up.
#' @param ... Not used.
#' @return A data frame with a row for every dataset, preparation and method: `fits`, `pilot` (seconds of the first fit;
#'   `NA` where it failed or was given up) and `seconds` (of all).
#' @section Errors: `fjordline_error_argument` for an argument that is not used.
#' @examples
#' summary(fl_study("icequakes", "kmeans", k = 2:4, indices = "fast"))
#' @export
summary.fl_study <- function(object, patience = 30, ...) {
  check_no_dots(...)
  cells <- study_cells(object)
  sets <- unique(cells[c("dataset", "preparation", "method")])
  rows <- lapply(seq_len(nrow(sets)), function(i) {
    mine <- cells[cells$dataset == sets$dataset[i] & cells$preparation == sets$preparation[i] &
                    cells$method == sets$method[i], ]
    piece <- fit_piece(ceiling(nrow(mine) / 2), object, mine[order(mine$k), ])
    piece$seconds <- min(patience, object$seconds)
    table <- study_table(object, sets$dataset[i], sets$preparation[i])
    pilot <- function() {
      outcome <- on_one_thread(do_piece)(piece, table)
      if (outcome$status == "done") outcome$seconds else NA_real_
    }
    first <- pilot()
    # what all counts share, such as a tree, is made once
    next_one <- if (is.null(piece$method$shared) || is.na(first)) first else pilot()
    tibble::tibble(sets[i, ], fits = nrow(mine), pilot = first, seconds = first + next_one * (nrow(mine) - 1))
  })
  vctrs::vec_rbind(!!!rows)
}
