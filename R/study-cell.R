# One piece of work of a study, done here or on a worker: a fit, a judgement of fits, or the test for groups.

# What all pieces of work on one preparation need: it is sent to each worker once.
study_table <- function(study, dataset, preparation) {
  ready <- study$ready[[dataset]][[preparation]]
  list(ready = ready, truth = truth_of(ready$data)[ready$rows], memo = new_memo())
}

do_piece <- function(piece, table) {
  switch(piece$kind, fit = do_fit(piece, table), judge = do_judge(piece, table), gate = do_gate(piece, table),
         together = do_together(piece, table))
}

# What came of it. Where a limit or an error ends it, this says so and the others go on; else `finish` says what to
# write, and its time is not counted.
outcome_of_work <- function(work, finish, seconds = Inf, megabytes = Inf) {
  started <- elapsed_seconds()
  found <- within_limits(work, seconds, megabytes)
  took <- elapsed_seconds() - started
  if (inherits(found, "error")) {
    return(list(status = attr(found, "status"), reason = first_line(found), seconds = took))
  }
  c(list(status = "done", reason = "", seconds = took), finish(found))
}

do_fit <- function(piece, table) {
  method <- at_value(piece$method, piece$parameter)
  k <- if (!is.na(piece$k)) piece$k
  outcome_of_work(fit_ready(method, table$ready, k, piece$seed, table$memo), function(fit) {
    list(found = as.integer(fit$k), objective = fit$objective, converged = fit$converged,
         covered = mean(fit$group > 0L), labels = packed_labels(fit$group), details = packed_details(fit),
         agreements = agreements_with(table$truth, fit$group, piece$agreements, piece$noise))
  }, piece$seconds, piece$megabytes)
}

agreements_with <- function(truth, group, measures, noise = NULL) {
  known <- !is.na(truth)  # none where there is no truth
  if (!any(known) || length(measures) == 0L) {
    return(NULL)
  }
  table <- quick_table(group[known], truth[known])
  # only some ask which group is which class
  vapply(agreement_measures[measures], function(measure) {
    as.double(measure(table, match_groups(table, "one_to_one", "0", noise)))
  }, 0)
}

# As table() counts, which takes ten times as long.
quick_table <- function(group, class) {
  groups <- sort(unique(group))
  classes <- sort(unique(class))
  at <- match(group, groups) + length(groups) * (match(class, classes) - 1L)
  matrix(as.double(tabulate(at, length(groups) * length(classes))), length(groups),
         dimnames = list(group = as.character(groups), class = as.character(classes)))
}

# What votes need of a fit beside its labels.
packed_details <- function(fit) {
  tried <- fit$model$tried
  as_json(list(likelihood = fit$likelihood, tried = tried, notes = I(as.character(fit$notes))), auto_unbox = TRUE)
}

# The fits of one method over its counts: their index values, and what each index and the vote pick.
do_judge <- function(piece, table) {
  outcome_of_work(judged_piece(piece_sweep(piece, table)), function(judged) {
    parts <- judged$parts
    values <- vctrs::vec_rbind(tibble::tibble(parts$values, asked = rep(TRUE, nrow(parts$values))),
                               tibble::tibble(parts$beside, asked = rep(FALSE, nrow(parts$beside))))
    list(values = values[c("k", "asked", "index", "value", "error", "covered", "reason")], picks = judged$picks,
         details = as_json(parts[c("returns", "gaps")]))
  })
}

judged_piece <- function(sweep) {
  stand <- sweep$cells$stands
  parts <- score_cells(sweep$ready, sweep$methods, sweep$cells[stand, ], sweep$fits[stand], sweep$indices,
                       function() NULL)
  sweep[names(parts)] <- parts
  vote <- vote_of(sweep, sweep$cells$preparation[1L], sweep$cells$method[1L], counting_by())
  list(parts = parts, picks = picks_of(vote))
}

# The vote of two methods, of what was judged of each.
do_together <- function(piece, table) {
  outcome_of_work({
    sweep <- joined_sweeps(lapply(piece$pieces, piece_sweep, table = table), piece$values)
    vote_together(sweep, piece$preparation, counting_by())
  }, function(vote) list(picks = if (!is.null(vote)) picks_of(vote)[1L, ]))
}

# Sweeps of one preparation by a method each as one; `values`: of their indices, at all counts.
joined_sweeps <- function(sweeps, values) {
  first <- sweeps[[1L]]
  all <- function(field) do.call(c, lapply(sweeps, `[[`, field))
  new_sweep(first$ready, all("methods"), first$k, first$indices, 1L, first$seed,
            vctrs::vec_rbind(!!!lapply(sweeps, `[[`, "cells")), all("fits"), values[values$asked, ],
            values[!values$asked, ], values_tried = first$values_tried, structure = first$structure)
}

# A sweep of one method in one repeat, its fits out of the store.
piece_sweep <- function(piece, table) {
  cells <- piece$cells
  cells$`repeat` <- 1L
  preparation <- cells$preparation[1L]
  methods <- stats::setNames(list(piece$method), cells$method[1L])
  fits <- lapply(piece$fits, unpacked_fit, x = table$ready$x)
  cells <- represent_counts(cells, fits, piece$counts)
  gate <- stats::setNames(list(unpacked_gate(piece$gate, table$ready)), seen_metric(piece$method))
  new_sweep(stats::setNames(list(table$ready), preparation), methods, piece$counts, piece$indices, 1L, cells$seed[1L],
            cells, fits, values_tried = tried_values(cells, fits, methods),
            structure = stats::setNames(list(gate), preparation))
}

# What each index puts first, and the vote with its verdict.
picks_of <- function(vote) {
  first <- vote$ballots[vote$ballots$rank == 1L, ]
  tibble::tibble(voter = c("vote", first$index), pick = c(vote$k, ifelse(first$prefers_one, 1L, first$k)),
                 verdict = c(vote$verdict, rep(NA_character_, nrow(first))),
                 margin = c(vote$margin, rep(NA_real_, nrow(first))))
}

do_gate <- function(piece, table) {
  outcome_of_work(fl_structure(table$ready, piece$metric, piece$sets, piece$seed), function(test) {
    list(details = as_json(unclass(test)[setdiff(names(test), c("ready", "call"))], auto_unbox = TRUE))
  })
}

as_json <- function(fields, ...) {
  as.character(jsonlite::toJSON(fields, digits = I(17), na = "string", null = "null", ...))
}

# The value, or the error that ended it, with what kind of end that was. Kernels look at the deadline themselves, and
# say that they were interrupted; what runs in R is stopped by R's own limit, a little later. What nothing can stop
# before its end (a method of the user's own that waits, or works outside R) is too slow all the same.
within_limits <- function(expr, seconds, megabytes) {
  started <- proc.time()[["elapsed"]]
  if (is.finite(megabytes)) memory_limit_kernel(megabytes * 2^20)
  on.exit({
    setTimeLimit()
    deadline_kernel(Inf)
    if (is.finite(megabytes)) memory_limit_kernel(-1)
  })
  deadline_kernel(seconds)
  if (is.finite(seconds)) setTimeLimit(elapsed = seconds + 0.2, transient = TRUE)
  too_long <- function() is.finite(seconds) && proc.time()[["elapsed"]] - started >= seconds
  ended <- function(e) {
    setTimeLimit()
    over <- too_long()
    if (inherits(e, "interrupt") && !over) stop(e)
    message <- conditionMessage(e)
    large <- grepl("cannot allocate|bad_alloc|memory", message) && !inherits(e, "fjordline_error") ||
      inherits(e, "fjordline_error_memory")
    said <- if (over) simpleError(paste0("it took more than ", digits3(seconds), " s"))
    else if (large && is.finite(megabytes)) simpleError(paste0("it needed more than ", thousands(megabytes), " MB"))
    else if (inherits(e, "interrupt")) simpleError("it was interrupted") else e
    structure(said, status = if (over) "slow" else if (large) "large" else "failed")
  }
  tryCatch({
    value <- expr
    if (too_long()) stop("it went on after its time")
    value
  }, error = ended, interrupt = ended)
}

# --- compact forms

# Labels as text: a byte each where there are few groups, pressed.
packed_labels <- function(group) {
  small <- max(group) < 256L
  bytes <- if (small) as.raw(group) else writeBin(as.integer(group), raw(), endian = "little")
  paste0(if (small) "1" else "4", jsonlite::base64_enc(memCompress(bytes, "gzip")))
}

unpacked_labels <- function(text) {
  readable_part("labels", {
    bytes <- memDecompress(jsonlite::base64_dec(substring(text, 2L)), "gzip")
    if (startsWith(text, "1")) as.integer(bytes)
    else readBin(bytes, "integer", length(bytes) %/% 4L, endian = "little")
  })
}

unpacked_json <- function(text) {
  held <- readable_part("details", jsonlite::parse_json(if (is.na(text)) "{}" else text, simplifyVector = TRUE))
  if (is.list(held)) held else refuse_part("The details of a fit are not named values.")
}

# What a store holds was written by us, and may have been damaged or changed since.
readable_part <- function(what, expr) {
  tryCatch(expr, error = function(e) refuse_part(paste0("The ", what, " of a fit cannot be read (",
                                                        gsub("\\s+", " ", conditionMessage(e)), ").")))
}

refuse_part <- function(why) {
  fl_abort("store", "A part of the store is damaged, or was changed.", found = why,
           advice = "Run the study again with another store.")
}

# A fit as far as judging needs it.
unpacked_fit <- function(row, x) {
  if (row$status != "done") {
    return(simpleError(row$reason))
  }
  group <- unpacked_labels(row$labels)
  sound <- length(group) == nrow(x) && !anyNA(group) && all(group >= 0L) && isTRUE(row$found == max(group)) &&
    all(tabulate(group, max(group)) > 0L)
  if (!sound) refuse_part(paste0("The labels of ", row$cell, " do not fit their table."))
  details <- unpacked_json(row$details)
  list(group = group, k = as.integer(row$found), scatter = group_scatter(x, group), objective = row$objective,
       likelihood = numbers_in(details$likelihood), notes = details$notes,
       model = list(tried = if (is.data.frame(details$tried)) tibble::as_tibble(json_numbers(details$tried))))
}

unpacked_gate <- function(details, ready) {
  held <- unpacked_json(details)
  number <- c("p", "p_dip", "p_between", "p_runt", "dip", "between", "runt", "fit")
  held[number] <- lapply(held[number], function(v) if (is.null(v)) NA_real_ else number_from(v))
  if (!is.logical(held$groups)) held$groups <- NA
  new_structure(held, ready)
}

# Values that JSON has no number for come back as text.
json_numbers <- function(table) {
  worded <- c("structure", "tails", "reason")
  for (column in setdiff(names(table), worded)) {
    if (is.character(table[[column]])) table[[column]] <- number_from(table[[column]])
  }
  table
}

number_from <- function(text) suppressWarnings(as.numeric(text))

numbers_in <- function(part) if (!is.null(part)) lapply(part, function(v) if (is.character(v)) number_from(v) else v)
