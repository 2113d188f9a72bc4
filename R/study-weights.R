# What trust an index has earned: weights for votes, from how often each found the known count.

#' Weights that indices have earned
#'
#' Turns a track record into weights for [fl_vote()]: an index that found the known count more often than guessing would
#' has a vote, the weightier the more often. `fl_vote(sweep, weights = "earned")` uses those that come with the package,
#' learned on simulated tables; `fl_vote(sweep, weights = fl_weights(record))` those of your own tables. A table of the
#' record that is voted on itself is left out of its own weights.
#'
#' @param record From [fl_track_record()]; left out, the record that comes with the package.
#' @param method Whose picks count: the name of a method of the study. Left out, k-means if the study has it, else its
#'   first method.
#' @param without Names of tables to leave out.
#' @return An object of class `fl_weights` with fields `table` (one row per index: `index`, `family`, `found` (share of
#'   the tables on which it put the known count first), `weight`, and one row per family, with `index` empty), `weights`
#'   (the same as the named numbers that [fl_vote()] takes), `tables` (how many), `counts` (how many counts there were
#'   to choose from), `method` and `validation`: with each table left out in turn, on how many the vote found the known
#'   count with equal weights and with those earned on the other tables (`rule`, `found`, `tables`, and `p` of the sign
#'   test of the tables on which the two differ). `as.data.frame()`
#'   gives the table.
#' @details A voter that is right with probability p, where guessing among m counts is right with 1/m, weighs
#'   log(p (m - 1)/(1 - p)): the best weight there is for voters that err independently (Nitzan and Paroush 1982, here
#'   for m choices), which indices are not. p is the share found, drawn towards the mean of all indices as if ten more
#'   tables had given that, so that few tables leave the weights nearly equal. No better than guessing is without a
#'   voice; where all are, all weigh alike. Within a family the weights of its indices divide its vote; a family weighs
#'   by how often its own first choice is right, and the families by 1 in the mean. The mixture's vote is not touched.
#' @section Errors: `fjordline_error_argument` when no table of the record is left, or the method was not judged.
#' @references Nitzan, S. and Paroush, J. (1982). Optimal decision rules in uncertain dichotomous choice situations.
#'   International Economic Review 23, 289-297. \doi{10.2307/2526438}
#' @seealso [fl_track_record()]
#' @examples
#' fl_weights()
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' sweep <- fl_sweep(ready, "kmeans", k = 1:8, indices = "fast")
#' fl_vote(sweep, weights = "earned")
#' @export
fl_weights <- function(record = NULL, method = NULL, without = NULL) {
  if (is.null(record)) {
    return(shipped_weights())
  }
  check_made_by(record, "fl_track_record", "record")
  for (one in without) check_choice(one, names(record$known), "without")
  weights <- earned_on(record, record_method(record, method), without)
  weights$validation <- validated_weights(record, weights$method, without)
  weights
}

# Without their trial on the tables left out, which takes a vote on each.
earned_on <- function(record, method, without = NULL) {
  cases <- record$cases[record$cases$method == method & !record$cases$dataset %in% without, ]
  if (nrow(cases) == 0L) fl_abort("argument", "No table of the record is left to learn from.")
  indices <- present_indices(record$result$study)
  learned <- learned_weights(cases, indices, length(setdiff(record$result$study$k, 1L)))
  new_weights(learned$table, learned$weights, learned$tables, learned$counts, method, without = without,
              record = record)
}

record_method <- function(record, method) {
  judged <- setdiff(unique(record$cases$method), both_said)
  if (!is.null(method)) {
    return(check_choice(method, judged, "method"))
  }
  round <- names(Filter(function(method) voice_of(method) == "round", record$result$study$methods[judged]))
  c(round, judged)[1L]
}

# `cases`: what each voter picked on each table, see fl_track_record(); several of one table count as one.
learned_weights <- function(cases, indices, counts) {
  voters <- intersect(names(indices), cases$voter)
  voters <- voters[vapply(indices[voters], function(index) index$weight > 0, NA)]
  family <- vapply(indices[voters], `[[`, "", "family")
  tables <- length(unique(cases$dataset))
  hits <- vapply(voters, function(voter) share_found(cases[cases$voter == voter, ]), 0)
  weight <- earned_weight(hits, tables, counts)
  of_family <- vapply(unique(family), function(one) {
    share_found(family_cases(cases[cases$voter %in% voters[family == one], ], weight))
  }, 0)
  loud <- earned_weight(of_family, tables, counts)
  loud <- loud / mean(loud)
  silent <- vapply(names(loud), function(one) all(weight[family == one] == 0), NA)
  loud[silent] <- 0
  table <- vctrs::vec_rbind(
    tibble::tibble(index = voters, family = unname(family), found = unname(hits), weight = unname(weight)),
    tibble::tibble(index = "", family = names(loud), found = unname(of_family), weight = unname(loud))
  )
  list(table = table, weights = c(weight, loud), tables = tables, counts = counts)
}

share_found <- function(cases) mean(tapply(!is.na(cases$pick) & cases$pick == cases$known, cases$dataset, mean))

# Ten tables more than were seen, on which all did alike: few tables leave the weights nearly equal.
usual_tables <- 10

earned_weight <- function(found, tables, counts) {
  p <- (found * tables + mean(found) * usual_tables) / (tables + usual_tables)
  p <- pmin(p, 1 - 0.5 / (tables + usual_tables))
  weight <- pmax(log(p * (counts - 1) / (1 - p)), 0)
  if (any(weight > 0)) weight else weight + 1
}

# What a family puts first, its members weighing what they earned; the smaller of equal counts.
family_cases <- function(cases, weight) {
  sets <- split(cases, list(cases$dataset, cases$preparation, cases$`repeat`), drop = TRUE)
  vctrs::vec_rbind(!!!unname(lapply(sets, function(mine) {
    votes <- tapply(weight[mine$voter], factor(mine$pick), sum)
    one <- mine[1L, ]
    one$pick <- if (length(votes) == 0L || max(votes) <= 0) NA_real_ else as.numeric(names(votes)[which.max(votes)])
    one
  })))
}

# Each table voted on with weights of the others. NULL where there are too few to learn from.
validated_weights <- function(record, method, without) {
  tables <- setdiff(unique(record$cases$dataset), without)
  if (length(tables) < 3L) {
    return(NULL)
  }
  study <- record$result$study
  right <- vapply(tables, function(table) {
    cases <- record$cases[record$cases$method == method, ]
    others <- cases[!cases$dataset %in% c(table, without), ]
    learned <- learned_weights(others, present_indices(study), length(setdiff(study$k, 1L)))
    sweep <- fl_open(record$result, table)
    vapply(list(equal = NULL, earned = learned$weights), function(weights) {
      mean(vapply(names(sweep$ready), function(preparation) {
        vote <- vote_of(sweep, preparation, method, counting_by(weights = weights))
        isTRUE(vote$points$k[1L] == record$known[[table]])
      }, NA))
    }, 0)
  }, c(equal = 0, earned = 0))
  tibble::tibble(rule = rownames(right), found = unname(rowMeans(right)), tables = length(tables),
                 p = sign_test(right["earned", ] - right["equal", ]))
}

# Of paired differences, ties left out; both sides. 1 where all are ties.
sign_test <- function(differences) {
  wins <- sum(differences > 0)
  losses <- sum(differences < 0)
  if (wins + losses == 0L) 1 else stats::binom.test(wins, wins + losses)$p.value
}

#' @export
summary.fl_weights <- showing_field("validation")

#' @export
as.data.frame.fl_weights <- function(x, ...) x$table

#' @export
named_weights.fl_track_record <- function(weights, sweep) {
  named_weights(earned_on(weights, record_method(weights, NULL)), sweep)
}

# A table that weights were learned on is left out of them.
#' @export
named_weights.fl_weights <- function(weights, sweep) {
  same <- learned_from(weights, sweep)
  if (length(same) > 0L) weights <- earned_on(weights$record, weights$method, union(weights$without, same))
  structure(weights$weights, earned = weights$tables)
}

learned_from <- function(weights, sweep) {
  datasets <- weights$record$result$study$datasets
  here <- sweep$ready[[1L]]$data$table
  setdiff(names(Filter(function(data) identical(data$table, here), datasets)), weights$without)
}

#' @export
fl_facts.fl_weights <- function(x) {
  indices <- x$table[nzchar(x$table$index), ]
  indices <- indices[order(-indices$weight), ]
  silent <- indices$index[indices$weight == 0]
  c(
    paste0("Weights of ", counted(nrow(indices), "index", "indices"), ", earned on ", counted(x$tables, "table"),
           if (is.null(x$record)) " simulated for this package", " with known counts by ", x$method, "."),
    if (diff(range(indices$weight)) < 1e-9) "Together they did no better than guessing: all weigh alike."
    else paste0(listed(utils::head(indices$index, 3L)), " carry the most weight."),
    if (length(silent) > 0L) paste0("No better than guessing, so given no weight: ", listed(silent), "."),
    validation_fact(x),
    if (x$tables < 30L) "So few tables earn little: these weights are mostly chance."
  )
}

validation_fact <- function(x) {
  v <- x$validation
  if (is.null(v)) {
    return("With so few tables nothing can be left out to test these weights.")
  }
  found <- stats::setNames(v$found, v$rule)
  paste0(if (is.null(x$record)) "On tables they were not learned on" else "Each table left out in turn",
         ", the vote found the known count in ", percent(found[["earned"]]), " of ", counted(v$tables[1L], "table"),
         " with them, in ", percent(found[["equal"]]), " with equal weights", paired_words(v[["p"]][1L], found), ".")
}

# The weights that come with the package keep no pairs: nothing is claimed of them.
paired_words <- function(p, found) {
  if (is.null(p)) ""
  else if (p > 0.05) paste0(": no difference beyond chance (sign test, p = ", p_said(p), ")")
  else paste0(": they ", if (found[["earned"]] > found[["equal"]]) "help" else "do harm", " (sign test, p = ",
              p_said(p), ")")
}
