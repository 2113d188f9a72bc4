# A sweep out of a study's store: voted on, drawn and read like any other.

#' One table of a study, as a sweep
#'
#' Everything a study holds about one of its tables, as if [fl_sweep()] had just made it: [fl_vote()], `autoplot()`,
#' [fl_lineage()] and [fl_take()] go on from there. Labels come from the store; what else a partition taken out of it
#' needs, such as a model that labels new rows, is fitted again from the fit's own seed, and held against the stored
#' labels.
#'
#' @param result From [fl_run()].
#' @param dataset Name of the dataset; left out, the first.
#' @return An object of class `fl_sweep`.
#' @section Errors: `fjordline_error_argument` for a dataset the study does not have, or one with fits still open;
#'   `fjordline_error_store` when the store is gone.
#' @examples
#' result <- fl_run(fl_study("icequakes", "kmeans", k = 2:5, indices = "fast"))
#' sweep <- fl_open(result, "icequakes")
#' fl_vote(sweep)
#' fl_take(sweep, "kmeans", 4)
#' @export
fl_open <- function(result, dataset = NULL) {
  check_made_by(result, "fl_run", "result")
  study <- result$study
  dataset <- check_choice(dataset %||% names(study$ready)[1L], names(study$ready), "dataset")
  cells <- result$cells[result$cells$dataset == dataset, ]
  if (any(cells$status == "open")) {
    fl_abort("argument", paste0("The fits of ", dataset, " are not all there."),
             found = paste0(thousands(sum(cells$status == "open")), " of ", thousands(nrow(cells)), " are open."),
             advice = "fl_run(study, store) fits them.")
  }
  held <- stored_of(result, dataset, cells)
  ready <- study$ready[[dataset]]
  fits <- lapply(seq_len(nrow(cells)), function(i) {
    x <- ready[[cells$preparation[i]]]$x
    fit <- unpacked_fit(held$rows[[i]], x)
    if (!inherits(fit, "error")) fit$centres <- group_means(x, fit$group, fit$k)
    fit
  })
  from <- if (rlang::is_string(result$store)) code_call("fl_run", result$store) else "result"
  new_sweep(
    ready, study$methods, study$k, study$indices %||% list(), study$repeats, study$seed,
    cells[c("preparation", "method", "k", "repeat", "asked", "seed", "parameter", "stands")], fits, held$values,
    held$beside, held$returns, held$gaps, tried_values(cells, fits, study$methods), held$structure, stored = TRUE,
    voted = voted_in(result, dataset), call = code_call("fl_open", verbatim(from), dataset)
  )
}

# The counts of two and more that the votes of a table name.
voted_in <- function(result, dataset) {
  votes <- result$picks[result$picks$dataset == dataset & result$picks$voter == "vote", ]
  sort(unique(votes$pick[votes$pick %in% setdiff(result$study$k, 1L)]))
}

stored_of <- function(result, dataset, cells) {
  opened <- connect_store(result$store, must_exist = TRUE)
  on.exit(disconnect_store(opened))
  rows <- stored_rows(opened, "fl_cells", cells$cell)
  rows <- rows[match(cells$cell, rows$cell), ]
  judged <- result$judgements[result$judgements$dataset == dataset, ]
  details <- stored_rows(opened, "fl_judgements", judged$judgement)
  values <- judged_values(result, judged)
  plain <- c("preparation", "method", "k", "repeat", "index", "value", "error", "covered", "reason")
  part <- function(name) {
    parts <- lapply(seq_len(nrow(details)), function(i) {
      if (is.na(details$details[i])) return(NULL)
      held <- unpacked_json(details$details[i])[[name]]
      if (is.data.frame(held)) tibble::as_tibble(json_numbers(held))
    })
    vctrs::vec_rbind(!!!parts)
  }
  list(rows = lapply(seq_len(nrow(rows)), function(i) as.list(rows[i, ])), values = values[values$asked, plain],
       beside = values[!values$asked, plain], returns = part("returns"), gaps = part("gaps"),
       structure = stored_gates(opened, result, dataset))
}

# Values in the form and the order of a sweep.
judged_values <- function(result, judged) {
  values <- result$values[result$values$judgement %in% judged$judgement, ]
  at <- match(values$judgement, judged$judgement)
  values$preparation <- judged$preparation[at]
  values$method <- judged$method[at]
  values$`repeat` <- judged$turn[at]
  values$index <- values$measure
  study <- result$study
  values[order(match(values$preparation, names(study$preparations)), match(values$method, names(study$methods)),
               values$`repeat`, match(values$index, names(study$indices)), values$k), ]
}

stored_gates <- function(opened, result, dataset) {
  gates <- result$gates[result$gates$dataset == dataset, ]
  rows <- stored_rows(opened, "fl_gates", gates$gate)
  lapply(stats::setNames(nm = names(result$study$ready[[dataset]])), function(preparation) {
    mine <- rows[rows$preparation == preparation, ]
    tests <- lapply(mine$details, unpacked_gate, ready = result$study$ready[[dataset]][[preparation]])
    stats::setNames(tests, mine$metric)
  })
}
