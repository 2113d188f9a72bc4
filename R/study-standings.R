# Who wins where.

#' Which method wins where
#'
#' Compares what a study's methods, or its preparations, make of each table, and over all tables: ranks with their range
#' over the repeats, whether they differ beyond chance, time, stability and failures.
#'
#' @param result From [fl_run()].
#' @param by A measure of agreement of the study, for tables whose classes are known; or the key of an index, for all.
#' @param at Which fit stands for a method on a table. `"known"`: the one with as many groups as there are classes; of
#'   methods that find the count, the one they come to by themselves. `"vote"`: the count of the method's own vote,
#'   whatever its verdict. `"best"`: the count with the best value, which nobody could know: what the method could
#'   reach. Left out, the first of these that any table has a fit for.
#' @param of What competes: `"method"` (means over the preparations), `"preparation"` (means over the methods) or
#'   `"both"`.
#' @param level Level of the tests.
#' @return An object of class `fl_standings`. Fields: `scores` (one row per table and contestant: `dataset`,
#'   `contestant`, `value`, `low` and `high` over the repeats, `k`, `stability` (mean adjusted Rand index between the
#'   repeats), `seconds` (of one fit), `failed`, `fits`), `ranks` (one row per contestant: `rank`, its mean over the
#'   tables, by scores that are means over the repeats; `low` and `high`, the range of that and of the mean ranks of
#'   single repeats; `wins`, `value`, `seconds`, `failed`), `test` (Friedman's: `statistic`, `f` and `p`),
#'   `difference` (the critical one of mean ranks), `pairs` (Wilcoxon's signed ranks, adjusted after Holm).
#'   `as.data.frame()` gives the scores.
#' @details Ranks are compared by Friedman's test and Nemenyi's critical difference (Demsar 2006). Up to 30 tables the
#'   chance is that of 9,999 ways to deal out the ranks anew within tables; the F of Iman and Davenport, which is used
#'   above, makes too much of few tables. Whether two contestants differ by mean ranks depends on who else takes part,
#'   so `pairs` compares each two by themselves (Benavoli et al. 2016). With fewer than six tables no two can differ at
#'   the level of 5%, whatever happens, and print() says so. A contestant without a result on a table is last there.
#' @section Errors: `fjordline_error_argument` for a measure the study does not have, or when no table can be scored.
#' @references
#' Demsar, J. (2006). Statistical comparisons of classifiers over multiple data sets. Journal of Machine Learning
#' Research 7, 1-30.
#'
#' Benavoli, A., Corani, G. and Mangili, F. (2016). Should we really use post-hoc tests based on mean-ranks? Journal of
#' Machine Learning Research 17(5), 1-10.
#'
#' Iman, R. L. and Davenport, J. M. (1980). Approximations of the critical region of the Friedman statistic.
#' \doi{10.1080/03610928008827904}
#' @examples
#' study <- fl_study(c("water_samples", "icequakes"), c("kmeans", "linkage"), k = 2:6, indices = "fast")
#' result <- fl_run(study)
#' fl_standings(result)
#' fl_standings(result, at = "vote")
#' @export
fl_standings <- function(result, by = NULL, at = NULL, of = "method", level = 0.05) {
  check_made_by(result, "fl_run", "result")
  measures <- c(result$study$agreements, names(present_indices(result$study)))
  by <- check_choice(by %||% measures[1L], measures, "by")
  at <- if (is.null(at)) names(at_said) else check_choice(at, names(at_said), "at")
  check_choice(of, c("method", "preparation", "both"), "of")
  check_number(level, "level", least = 1e-4, most = 0.5)
  values <- measured_fits(result, by)
  for (at in at) {
    chosen <- chosen_fits(result, values, at, lower_wins(result, by))
    if (nrow(chosen) > 0L) break
  }
  if (nrow(chosen) == 0L) refuse_standings(result, by, at)
  named <- function(part) switch(of, method = part$method, preparation = part$preparation,
                                 both = paste0(part$method, ", ", part$preparation))
  chosen$contestant <- named(chosen)
  apart <- if (of == "method") character() else partly_tried(result, chosen)
  chosen <- chosen[!chosen$dataset %in% apart, ]
  all <- result$cells[result$cells$asked & result$cells$dataset %in% chosen$dataset, ]
  all$contestant <- named(all)
  contestants <- unique(all$contestant)
  scores <- scores_of(result, chosen, all)
  sign <- if (lower_wins(result, by)) -1 else 1
  by_turn <- lapply(sort(unique(chosen$`repeat`)), function(turn) {
    ranks_in_rows(sign * score_matrix(chosen[chosen$`repeat` == turn, ], contestants))
  })
  table <- sign * score_matrix(chosen, contestants)
  ranks <- ranks_in_rows(table)
  structure(
    list(scores = scores, ranks = rank_table(ranks, by_turn, scores, sign), test = rank_test(ranks),
         difference = if (ncol(ranks) > 1L) critical_difference(ncol(ranks), nrow(ranks), level) else NA_real_,
         pairs = paired_tests(table), by = by, at = at, of = of, level = level, tables = rownames(table),
         lower = sign < 0, apart = apart,
         unscored = setdiff(names(result$study$ready), c(rownames(table), apart)),
         failed = result$cells[result$cells$asked & !result$cells$status %in% c("done", "open"), ],
         open = sum(result$cells$status == "open"), result = result),
    class = "fl_standings"
  )
}

refuse_standings <- function(result, by, at) {
  known <- Filter(Negate(is.na), unlist(known_counts(result$study)))
  indices <- names(present_indices(result$study))
  fl_abort(
    "argument", paste0("No table can be scored by ", by, " ", at_said[[at]], "."),
    found = if (!by %in% result$study$agreements) NULL
    else if (length(known) == 0L) "No table of the study has known classes."
    else paste0("There is no such fit on ", listed(paste0(names(known), " (", known, " classes)")), "."),
    advice = if (length(known) > 0L) "Try another `at`, or add the count to the study's counts."
    else if (length(indices) > 0L) paste0("The indices of the study are ", listed(indices), ".")
  )
}

lower_wins <- function(result, by) {
  by %in% lower_is_better || identical(result$study$indices[[by]]$direction, "lower")
}

# The fits that have a value: one row per fit that stands for its count.
measured_fits <- function(result, by) {
  cells <- result$cells[result$cells$asked & result$cells$stands & result$cells$status == "done", ]
  if (by %in% result$study$agreements) {
    mine <- result$agreements[result$agreements$measure == by, ]
    cells$value <- mine$value[match(cells$cell, mine$cell)]
  } else {
    cells$value <- index_values(result, by, judgement_at(result$study, cells, cells$method), cells$k)
  }
  cells[!is.na(cells$value), ]
}

index_values <- function(result, index, judgement, k) {
  mine <- result$values[result$values$measure == index & !nzchar(result$values$reason), ]
  mine$value[match(paste(judgement, k), paste(mine$judgement, mine$k))]
}

# Of every method on every preparation in every repeat one fit.
chosen_fits <- function(result, values, at, lower) {
  free <- vapply(result$study$methods, `[[`, NA, "free_count")
  known <- known_counts(result$study)
  votes <- result$picks[result$picks$voter == "vote" & result$picks$method %in% names(free), ]
  key <- function(part) coordinates(part$dataset, part$preparation, part$method, part$`repeat`)
  of_set <- key(values)
  wanted <- votes$pick[match(of_set, key(votes))]
  given <- at == "known" & !free[values$method]
  wanted[given] <- unlist(known)[values$dataset[given]]
  sets <- split(seq_len(nrow(values)), of_set)
  picked <- vapply(sets, function(rows) {
    if (at == "best") rows[which.max(if (lower) -values$value[rows] else values$value[rows])]
    else if (is.na(wanted[rows[1L]]) && length(rows) == 1L) rows
    else rows[match(wanted[rows[1L]], values$k[rows])]
  }, 0L)
  values[sort(picked[!is.na(picked)]), ]
}

# How many classes per table has, noise left out; NA where they are not known.
known_counts <- function(study) {
  lapply(stats::setNames(nm = names(study$datasets)), function(dataset) {
    truth <- truth_of(study$datasets[[dataset]])
    if (is.null(truth)) NA_integer_ else length(setdiff(truth, c(NA, noise_class(study, dataset))))
  })
}

# Tables for which some preparations were not meant, unless none is left without them.
partly_tried <- function(result, chosen) {
  meant <- lapply(result$study$preparations, `[[`, "datasets")
  for_all <- Reduce(intersect, meant)
  if (any(chosen$dataset %in% for_all)) setdiff(unique(chosen$dataset), for_all) else character()
}

score_matrix <- function(chosen, contestants) {
  rows <- factor(chosen$dataset, unique(chosen$dataset))
  tapply(chosen$value, list(rows, factor(chosen$contestant, contestants)), mean)
}

# A row for every table and contestant, also where none of its fits has a value.
scores_of <- function(result, chosen, all) {
  chosen$stable <- between_repeats(result, chosen)
  sets <- unique(all[c("dataset", "contestant")])
  vctrs::vec_rbind(!!!lapply(seq_len(nrow(sets)), function(i) {
    of <- function(part) part[part$dataset == sets$dataset[i] & part$contestant == sets$contestant[i], ]
    mine <- of(chosen)
    tried <- of(all)
    by_turn <- tapply(mine$value, mine$`repeat`, mean)
    whole <- function(how, from) if (length(from) > 0L && !all(is.na(from))) how(from, na.rm = TRUE) else NA_real_
    tibble::tibble(sets[i, ], value = whole(mean, mine$value), low = whole(min, by_turn), high = whole(max, by_turn),
                   k = as.integer(whole(stats::median, mine$k)), stability = whole(mean, mine$stable),
                   seconds = whole(stats::median, tried$seconds), failed = sum(!tried$status %in% c("done", "open")),
                   fits = nrow(tried))
  }))
}

most_repeats <- 40L

# How alike the repeats of a fit are: the mean adjusted Rand index of its labels with those of the other repeats, of
# many with the first forty. Equal labels are compared once.
between_repeats <- function(result, chosen) {
  out <- rep(NA_real_, nrow(chosen))
  if (result$study$repeats < 2L) {
    return(out)
  }
  opened <- connect_store(result$store, must_exist = TRUE)
  on.exit(disconnect_store(opened))
  sets <- split(seq_len(nrow(chosen)), coordinates(chosen$dataset, chosen$preparation, chosen$method))
  sets <- lapply(sets[lengths(sets) > 1L], utils::head, most_repeats)
  wanted <- unlist(sets, use.names = FALSE)
  rows <- stored_rows(opened, "fl_cells", chosen$cell[wanted])
  packed <- character(nrow(chosen))
  packed[wanted] <- rows$labels[match(chosen$cell[wanted], rows$cell)]
  for (rows in sets) {
    kinds <- unique(packed[rows])
    labels <- lapply(kinds, unpacked_labels)
    alike <- diag(length(kinds))
    for (i in seq_along(kinds)[-1L]) for (j in seq_len(i - 1L)) {
      alike[i, j] <- alike[j, i] <- adjusted_rand(quick_table(labels[[i]], labels[[j]]))
    }
    of <- match(packed[rows], kinds)
    out[rows] <- (rowSums(alike[of, of, drop = FALSE]) - 1) / (length(rows) - 1L)
  }
  out
}

rank_table <- function(ranks, by_turn, scores, sign) {
  contestants <- colnames(ranks)
  means <- vapply(by_turn, function(turn) colMeans(turn), double(length(contestants)))
  means <- matrix(means, nrow = length(contestants))
  mine <- function(field, how) unname(vapply(contestants, function(c) how(scores[[field]][scores$contestant == c]), 0))
  out <- tibble::tibble(
    contestant = contestants, rank = unname(colMeans(ranks)),
    # repeats may each rank otherwise than their mean does: the range holds both
    low = pmin(apply(means, 1L, min), colMeans(ranks)), high = pmax(apply(means, 1L, max), colMeans(ranks)),
    wins = unname(colSums(ranks == apply(ranks, 1L, min))), value = mine("value", function(v) mean(v, na.rm = TRUE)),
    seconds = mine("seconds", function(v) stats::median(v, na.rm = TRUE)), failed = mine("failed", sum)
  )
  out[order(out$rank, -sign * out$value), ]
}

#' @export
summary.fl_standings <- showing_field("ranks")

#' @export
as.data.frame.fl_standings <- function(x, ...) x$scores
