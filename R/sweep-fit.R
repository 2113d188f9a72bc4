# Many fits at once, with their index values.

#' Fit over a range of counts, and score every fit
#'
#' Fits every method at every count on every preparation, and computes the indices of each fit. Methods that find the
#' count themselves are fitted at several values of the parameter that decides it (`radius`, `bandwidth`, `min_size`),
#' unless you set it; for each count that comes out, the middle of the longest stretch of values that give it stands.
#' One count more than asked is fitted on either side where an index needs its neighbours. A cell that fails (say, more
#' groups than distinct rows) is kept with its reason; the others go on.
#'
#' @param ready A preparation, or a named list of several.
#' @param methods Keys of methods, [fl_method()] objects, or a list of both. Left out, k-means and mixtures side by
#'   side, which [fl_vote()] hears together.
#' @param k Whole numbers: the counts to try.
#' @param indices A set of indices, or keys of some ([fl_indices()]). `"standard"`: all but those that find the count
#'   too rarely, with reference tables and resampling; `"fast"`: without those two, for a first look; `"all"`. Whether
#'   there are groups at all is tested with each ([fl_structure()]; in the set `"fast"` against 39 tables of each kind).
#' @param repeats How often every cell is fitted, each time with another seed derived from `seed`.
#' @param seed Whole number; see [fl_partition()]. The first repeat uses it as it is, so that
#'   `fl_partition(ready, method, k, seed)` gives the same groups.
#' @return An object of class `fl_sweep`. `as.data.frame()` gives `preparation`, `method`, `k`, `repeat`, `index`,
#'   `value`, its standard `error` where it has one, `covered` (the share of rows in groups: noise is left out of the
#'   indices), and the `reason` where there is no value or it does not vote.
#'   Values of different preparations are not comparable, and are never put in one ranking. The field `values_tried`
#'   says what each parameter value gave: `preparation`, `method`, `repeat`, `parameter`, `value`, `k`, `covered`, and
#'   whether it `stands` for its count.
#' @section Errors: `fjordline_error_argument` for counts that are not whole numbers of one or more,
#'   `fjordline_error_method` and `fjordline_error_index` for misspelt keys, `fjordline_error_count` when not a single
#'   cell could be fitted.
#' @section Progress and workers: a bar after two seconds in an interactive session; else progress is signalled
#'   through the progressr package. The fits, the reference tables and the resamples use all threads; under a plan of
#'   the future package, as in `future::plan("multisession", workers = 4)`, they are shared among its workers instead,
#'   which pays for methods written in R. The results are the same.
#' @seealso [fl_vote()] for the count, [fl_take()] for one of the fits.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' sweep <- fl_sweep(ready, "kmeans", k = 1:8, indices = "fast")
#' sweep
#' @export
fl_sweep <- function(ready, methods = NULL, k = 1:10, indices = "standard", repeats = 1, seed = 1) {
  ready <- as_preparations(ready)
  methods <- as_methods(methods %||% standard_methods(ready))
  asked <- sort(unique(as.integer(check_whole(k, "k", many = TRUE))))
  check_whole(repeats, "repeats")
  check_seed(seed)
  chosen <- as_indices(indices)
  cells <- sweep_cells(ready, methods, asked, repeats, seed)
  with_bar(run_sweep(ready, methods, asked, chosen, repeats, seed, cells,
                     call = sweep_call(ready, methods, asked, repeats, seed, indices)))
}

run_sweep <- function(ready, methods, asked, chosen, repeats, seed, cells, call) {
  testing <- ceiling(nrow(cells) / 10)  # about what the test for groups takes
  step <- progressr::progressor(steps = nrow(cells) + judging_steps(cells, chosen) + testing)
  memo <- new_memo()
  fits <- shared_out(seq_len(nrow(cells)), function(i) {
    method <- at_value(methods[[cells$method[i]]], cells$parameter[i])
    fit <- try_fit(method, ready[[cells$preparation[i]]], cells$k[i], cells$seed[i], memo)
    step()
    fit
  })
  check_any_fit(fits)
  cells <- represent_counts(cells, fits, asked)
  judged <- score_cells(ready, methods, cells[cells$stands, ], fits[cells$stands], chosen, step)
  tests <- structure_tests(ready, methods, seed, gate_sets(chosen))
  step(amount = testing)
  new_sweep(ready, methods, asked, chosen, repeats, seed, cells, fits, judged$values, judged$beside, judged$returns,
            judged$gaps, tried_values(cells, fits, methods), tests, call = call)
}

standard_methods <- function(ready) usual_methods(max(vapply(ready, function(one) nrow(one$x), 0L)))

as_preparations <- function(ready) {
  if (inherits(ready, "fl_prepare")) {
    return(stats::setNames(list(ready), ready$name))
  }
  if (!is.list(ready) || length(ready) == 0L) check_made_by(ready, "fl_prepare", "ready")
  for (one in ready) check_made_by(one, "fl_prepare", "ready")
  given <- rlang::names2(ready)
  stats::setNames(ready, make.unique(ifelse(nzchar(given), given, vapply(ready, `[[`, "", "name"))))
}

# One row per fit. The counts beside the asked ones serve the indices that need neighbours.
sweep_cells <- function(ready, methods, asked, repeats, seed) {
  beside <- setdiff(unique(c(asked - 1L, asked + 1L)), c(0L, asked))
  one <- function(preparation, method, turn) {
    free <- methods[[method]]$free_count
    k <- if (free) NA_integer_ else sort(c(asked, beside))
    vctrs::data_frame(preparation = preparation, method = method, k = k, `repeat` = turn,
                      asked = is.na(k) | k %in% asked, seed = repeat_seed(seed, turn),
                      parameter = (if (free) grid_values(methods[[method]], ready[[preparation]])) %||% NA_real_)
  }
  grid <- expand.grid(turn = seq_len(repeats), method = names(methods), preparation = names(ready),
                      stringsAsFactors = FALSE)
  tibble::as_tibble(vctrs::vec_rbind(!!!unname(Map(one, grid$preparation, grid$method, grid$turn))))
}

# A failing fit is kept as its error.
try_fit <- function(method, ready, k, seed, memo) {
  tryCatch(fit_ready(method, ready, k, seed, memo), error = function(e) e)
}

check_any_fit <- function(fits) {
  failed <- vapply(fits, inherits, NA, "error")
  if (all(failed)) {
    first <- fits[[1L]]
    fl_abort(if (inherits(first, "fjordline_error_count")) "count" else "method", "Not a single fit succeeded.",
             found = first_line(first))
  }
}

# Steps of progress that reference tables and resampling take.
judging_steps <- function(cells, indices) {
  sets <- nrow(unique(cells[c("preparation", "method", "repeat")]))
  needed <- unlist(lapply(indices, `[[`, "needs"))
  sets * (("references" %in% needed) * 2 * reference_sets + ("resamples" %in% needed) * length(unique(cells$k)))
}

score_cells <- function(ready, methods, cells, fits, indices, step) {
  sets <- split(seq_len(nrow(cells)), list(cells$preparation, cells$method, cells$`repeat`), drop = TRUE)
  drawn <- length(indices_needing(indices, "references")) > 0L
  pools <- shared_distances(ready, methods, cells, fits)
  judgements <- lapply(sets, function(rows) {
    failed <- vapply(fits[rows], inherits, NA, "error")
    where <- cells[rows[1L], c("preparation", "method", "repeat")]
    own <- ready[[where$preparation]]
    judged <- judged_by(methods[[where$method]], own, cells$seed[rows[1L]], step)
    judged$pool <- pools[[pool_names(methods, cells[rows[1L], ])]]
    # What only uses them where they are there (the elbow) is then shown untested.
    if (!drawn) judged$references <- NULL
    set <- if (!all(failed)) index_set(own$x, fits[rows[!failed]], judged)
    scored <- if (!all(failed)) score_set(set, indices)
    resampled <- length(indices_needing(indices, "resamples")) > 0L && !all(failed)
    scored <- vctrs::vec_rbind(scored, failed_values(cells$k[rows[failed]], fits[rows[failed]], indices))
    scored$asked <- is.na(cells$k[rows[1L]]) | scored$k %in% cells$k[rows[cells$asked[rows]]]
    of <- function(rows) {
      if (!is.null(rows)) tibble::tibble(preparation = where$preparation, method = where$method,
                                         `repeat` = where$`repeat`, rows)
    }
    list(values = of(scored), returns = of(if (resampled) returns_of(set)),
         gaps = of(if (drawn && !all(failed)) gap_curves(set)))
  })
  bound <- function(part) vctrs::vec_rbind(!!!lapply(unname(judgements), `[[`, part))
  values <- bound("values")
  order <- order(match(values$preparation, names(ready)), match(values$method, unique(cells$method)), values$`repeat`,
                 match(values$index, names(indices)), values$k)
  fields <- c("preparation", "method", "k", "repeat", "index", "value", "error", "covered", "reason")
  list(values = values[order[values$asked[order]], fields], beside = values[order[!values$asked[order]], fields],
       returns = bound("returns"), gaps = bound("gaps"))
}

# Methods that see the rows of a preparation alike share their distances; given ones are a method's own.
pool_names <- function(methods, cells) {
  seen <- vapply(methods[cells$method], function(method) {
    if (is.null(method$settings$dissimilarity)) method$settings$metric %||% "euclidean" else ""
  }, "")
  ifelse(nzchar(seen), paste(cells$preparation, seen), NA_character_)
}

shared_distances <- function(ready, methods, cells, fits) {
  cells$fitted <- !vapply(fits, inherits, NA, "error")
  cells$pool <- pool_names(methods, cells)
  by_pool <- split(which(cells$fitted), cells$pool[cells$fitted])
  lapply(by_pool, function(rows) {
    metric <- methods[[cells$method[rows[1L]]]]$settings$metric %||% "euclidean"
    distance_pool(as_seen(ready[[cells$preparation[rows[1L]]]]$x, metric), lapply(fits[rows], `[[`, "group"), metric)
  })
}

# For a first look just as many tables as can show groups at the level.
gate_sets <- function(indices) if (all(vapply(indices, `[[`, "", "tier") == "fast")) 39L else 99L

# By preparation and metric, as the methods see the rows.
structure_tests <- function(ready, methods, seed, sets) {
  seen <- unique(vapply(methods, seen_metric, ""))
  lapply(ready, function(one) {
    stats::setNames(lapply(seen, function(metric) fl_structure(one, metric, sets, seed)), seen)
  })
}

seen_metric <- function(method) {
  metric <- method$settings$metric %||% "euclidean"
  if (metric %in% sphere_metrics) metric else "euclidean"
}

# How often the groups of each count come back in bootstrap samples: k, group, returns, stays.
returns_of <- function(set) {
  returns <- set$resamples()$returns
  found <- which(!vapply(returns, is.null, NA))
  vctrs::vec_rbind(!!!lapply(found, function(m) tibble::tibble(k = as.integer(set$k[m]), returns[[m]])))
}

fit_failed <- "the fit failed: "

failed_values <- function(k, errors, indices) {
  grid <- expand.grid(at = seq_along(k), index = names(indices), stringsAsFactors = FALSE)
  tibble::tibble(index = grid$index, k = k[grid$at], value = NA_real_, error = NA_real_, covered = NA_real_,
                 reason = paste0(fit_failed, sub("[.]$", "", vapply(errors, first_line, "")))[grid$at])
}

sweep_call <- function(ready, methods, k, repeats, seed, indices) {
  methods <- vapply(methods, method_code, "")
  named <- paste(name_code(names(ready)), "=", name_code(names(ready)), collapse = ", ")
  ready <- if (length(ready) == 1L) "ready" else paste0("list(", named, ")")
  code_call("fl_sweep", verbatim(ready),
            verbatim(if (length(methods) == 1L) methods else paste0("list(", paste(methods, collapse = ", "), ")")),
            k = k, indices = if (!identical(indices, "standard")) indices,
            repeats = if (repeats > 1L) as.integer(repeats), seed = seed)
}

#' @export
as.data.frame.fl_sweep <- function(x, ...) x$values

#' One partition out of a sweep or a vote
#'
#' Takes a fit that was made by [fl_sweep()], without fitting again.
#'
#' @param sweep A sweep, or a vote ([fl_vote()], [fl_settle()]), which knows its sweep and its count.
#' @param method Key or label of the method, as in the sweep; left out, the sweep's (or the vote's) first.
#' @param k The count, or a vote. For a vote given as `sweep`: the vote's own count.
#' @param preparation Name of the preparation; left out, the sweep's (or the vote's) first.
#' @param turn Which repeat.
#' @return A partition, as from [fl_partition()]. Taken from a vote, it keeps the vote as the reason for its count.
#' @section Errors: `fjordline_error_undecided` for a vote without a clear count that was not settled,
#'   `fjordline_error_argument` for a method, count, preparation or repeat the sweep does not hold,
#'   `fjordline_error_count` when that fit had failed.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' sweep <- fl_sweep(ready, "kmeans", k = 1:8, indices = "fast")
#' fl_take(sweep, "kmeans", 5)
#' fl_take(fl_settle(fl_vote(sweep), k = 4, reason = "the station plans with four"))
#' @export
fl_take <- function(sweep, method = NULL, k = NULL, preparation = NULL, turn = 1) {
  vote <- if (inherits(sweep, "fl_vote")) sweep else if (inherits(k, "fl_vote")) k
  if (inherits(sweep, "fl_vote")) {
    k <- k %||% sweep
    method <- method %||% sweep$method
    preparation <- preparation %||% sweep$preparation
    sweep <- sweep$sweep
  }
  check_made_by(sweep, "fl_sweep", "sweep")
  method <- method_held(sweep, method %||% names(sweep$methods)[1L])
  preparation <- check_choice(preparation %||% names(sweep$ready)[1L], names(sweep$ready), "preparation")
  check_whole(turn, "turn", most = sweep$repeats)
  mine <- cells_of(sweep, preparation, method, turn)
  mine <- mine[sweep$cells$stands[mine]]
  by_value <- any(!is.na(sweep$cells$parameter[mine]))
  k <- asked_count(k, if (!by_value) sweep$methods[[method]])
  at <- mine[is.na(sweep$cells$k[mine]) | sweep$cells$k[mine] %in% k]
  if (length(at) != 1L) {
    fl_abort("argument", paste0("The sweep holds no fit of ", method, " at k = ", k, "."),
             advice = paste0("It holds k = ", listed(if (by_value) sort(sweep$cells$k[mine]) else sweep$k), "."))
  }
  fit <- sweep$fits[[at]]
  if (inherits(fit, "error")) {
    fl_abort("count", paste0("The fit of ", method, " at k = ", k, " had failed."), found = first_line(fit))
  }
  several <- length(sweep$ready) > 1L
  call <- code_call("fl_take", verbatim("sweep"), method, k = k, preparation = if (several) preparation,
                    turn = if (turn > 1L) turn)
  used <- at_value(sweep$methods[[method]], sweep$cells$parameter[at])
  if (sweep$stored) fit <- fitted_again(sweep, at, used)
  partition <- partition_of_fit(sweep$ready[[preparation]], used, sweep$cells$seed[at], fit, NULL, call, vote)
  partition$sweep_steps <- fl_steps(sweep)
  partition
}

# A method of the sweep by its label, or by its key where that names one only.
method_held <- function(sweep, method) {
  keys <- vapply(sweep$methods, `[[`, "", "key")
  by_key <- names(keys)[keys %in% method]
  if (!method %in% names(keys) && length(by_key) == 1L) by_key else check_choice(method, names(keys), "method")
}

# A stored fit as it was when it was fitted.
fitted_again <- function(sweep, at, method) {
  cell <- sweep$cells[at, ]
  k <- if (!method$free_count) cell$k
  fit <- fit_ready(method, sweep$ready[[cell$preparation]], k, cell$seed)
  if (!identical(fit$group, sweep$fits[[at]]$group)) {
    fl_warn("store", paste0("Fitted again, ", cell$method, " at k = ", cell$k, " gives other groups than those ",
                            "stored: another version of this package, or another machine, made those. These are the ",
                            "new ones."))
  }
  fit
}
