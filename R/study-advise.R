# Advice for a new table: what did best on those of the record that are like it.

#' Which method for a table like this?
#'
#' Looks for the tables of a study that resemble a new one, and says which method, and which index, did best there; and
#' how far such advice is to be trusted, by giving it for each table of the study from the others.
#'
#' @param ready The table, from [fl_prepare()]. Its classes, if it has any, are not looked at; where the study holds
#'   this very table, what was found on it is left out.
#' @param result From [fl_run()], over tables with known classes.
#' @param by The measure of agreement that counts; left out, the first of the study.
#' @param at Which fit stands for a method, see [fl_standings()]: by default the one at the count of its own vote, since
#'   the known count is not at hand for a new table.
#' @return An object of class `fl_advice` with fields
#'   * `method`, the one with the best score, and `alike`, methods whose scores could be as good by chance;
#'   * `scores`: one row per method: `method`, `score` (mean agreement, similar tables counting more), `low` and `high`
#'     (90% of the means over resampled tables lie between), `plain` (mean over all tables), `here` (on the most
#'     similar table);
#'   * `voters`: one row per index and vote: `voter`, `method`, `score` (share of found counts, similar tables counting
#'     more);
#'   * `structure`: whether the new table has groups at all, see [fl_structure()]: if not, no method will find any;
#'   * `likeness`: one row per table and preparation of the study: `dataset`, `preparation`, `distance` (0: the same in
#'     all traits; 1: as far as any two), `weight` (they add up to one), `most_unlike`, the trait that differs most;
#'   * `traits`: of the new table and of those of the study;
#'   * `itself`: the name under which the study holds this very table and leaves it out, or nothing;
#'   * `trial`: one row per table of the study, advised on by the others: `dataset`, `advised`, `best`, `lost`
#'     (agreement given up), `lost_plain` (the same by the method that is best over all other tables).
#'
#'   `as.data.frame()` gives the scores.
#' @details Traits are what can be seen without classes, of the prepared rows: their number and that of the columns (in
#'   logarithms), mean skewness and mean excess of the tails, mean correlation, the share of two-valued columns, and
#'   how far the rows part: the dip and the runt statistics of [fl_structure()], without their size. Each trait is
#'   divided by its range; the distance is the mean difference. A table weighs exp(-distance/h), h the median distance
#'   between tables of the study.
#' @section Errors: `fjordline_error_argument` when the study has fewer than three other tables with known classes.
#' @examples
#' study <- fl_study(c("water_samples", "icequakes", "seal_haulouts"), c("kmeans", "linkage"), k = 2:6,
#'                   indices = "fast")
#' advice <- fl_advise(fl_prepare(fl_demo("mooring_casts")), fl_run(study))
#' advice
#' @export
fl_advise <- function(ready, result, by = NULL, at = "vote") {
  check_made_by(ready, "fl_prepare", "ready")
  check_made_by(result, "fl_run", "result")
  by <- check_choice(by %||% result$study$agreements[1L], result$study$agreements, "by")
  check_choice(at, c("known", "vote", "best"), "at")
  if (at == "vote" && nrow(result$picks) == 0L) {
    fl_abort("argument", "The fits of the study were not judged, so no vote names a count.",
             advice = "Take the known counts, fl_advise(at = \"known\"), or run the study with indices.")
  }
  sign <- if (by %in% lower_is_better) -1 else 1
  chosen <- chosen_fits(result, measured_fits(result, by), at, sign < 0)
  itself <- same_tables(ready$data, result$study)
  chosen <- chosen[!chosen$dataset %in% itself, ]
  sets <- unique(chosen[c("dataset", "preparation")])
  if (length(unique(sets$dataset)) < 3L) {
    fl_abort("argument", "Advice needs a study of three tables or more with known classes.",
             found = paste0("It has ", length(unique(sets$dataset)), if (length(itself) > 0L) " besides this one", "."))
  }
  traits <- do.call(rbind, c(list(table_traits(ready)), lapply(seq_len(nrow(sets)), function(i) {
    table_traits(result$study$ready[[sets$dataset[i]]][[sets$preparation[i]]])
  })))
  apart <- trait_distances(traits)
  scores <- scores_by_set(chosen, sets, sign)
  weight <- likeness_weights(apart$distances[1L, -1L], apart$distances[-1L, -1L], sets$dataset)
  table <- advised_scores(sets$dataset, scores, weight, sign)
  likeness <- tibble::tibble(sets, distance = apart$distances[1L, -1L], weight = weight,
                             most_unlike = colnames(traits)[max.col(apart$differences, "first")])
  structure(
    list(method = table$method[1L], alike = table$method[-1L][table$chance[-1L] > 0.05],
         scores = table[setdiff(names(table), "chance")], voters = advised_voters(result, sets, weight),
         likeness = likeness[order(-weight), ],
         traits = tibble::tibble(dataset = c(ready$data$name, sets$dataset),
                                 preparation = c(ready$name, sets$preparation), tibble::as_tibble(traits)),
         structure = fl_structure(ready), trial = advice_trial(sets$dataset, scores, apart$distances[-1L, -1L], sign),
         by = by, at = at, name = ready$data$name, itself = itself, result = result),
    class = "fl_advice"
  )
}

# The datasets of a study that hold the same rows of the same columns.
same_tables <- function(data, study) {
  same <- vapply(study$ready, function(prepared) {
    table <- prepared[[1L]]$data$table
    features <- with(data$roles, column[role == "feature"])
    all(features %in% names(table)) && identical(as.list(data$table[features]), as.list(table[features]))
  }, NA)
  names(study$ready)[same]
}

# What can be seen of prepared rows without classes.
table_traits <- function(ready) {
  x <- ready$x
  n <- nrow(x)
  two <- vapply(seq_len(ncol(x)), function(j) length(unique(x[, j])) < 3L, NA)
  z <- x[, !two, drop = FALSE]
  excess <- function(v) {
    centred <- v - mean(v)
    max(0, mean(centred^4) / mean(centred^2)^2 - 3)
  }
  test <- fl_structure(ready, sets = 39)
  plain <- function(values) if (all(is.na(values))) 0 else mean(values, na.rm = TRUE)
  related <- if (ncol(z) > 1L) abs(stats::cor(z)[upper.tri(diag(ncol(z)))]) else 0
  c(rows = log10(n), columns = log10(ncol(x)), skewness = plain(abs(apply(z, 2L, skewness))),
    tails = log1p(plain(apply(z, 2L, excess))), correlation = mean(related), two_valued = mean(two),
    dip = (test$dip %||% 0) * sqrt(test$rows), runt = (test$runt %||% 0) / test$rows)
}

# Each trait by its range over all tables; the distance is their mean.
trait_distances <- function(traits) {
  range <- apply(traits, 2L, function(v) diff(range(v)))
  scaled <- sweep(traits[, range > 0, drop = FALSE], 2L, range[range > 0], "/")
  differences <- abs(sweep(scaled[-1L, , drop = FALSE], 2L, scaled[1L, ]))
  full <- matrix(0, nrow(traits), ncol(traits), dimnames = dimnames(traits))[-1L, , drop = FALSE]
  full[, colnames(differences)] <- differences
  list(distances = unname(as.matrix(stats::dist(scaled, "manhattan"))) / ncol(traits), differences = full)
}

# How much each prepared table counts: those of one dataset share its weight.
likeness_weights <- function(distance, between, dataset) {
  usual <- stats::median(between[outer(dataset, dataset, `!=`)])
  weight <- if (isTRUE(usual > 0)) exp(-distance / usual) else rep(1, length(distance))
  weight <- weight / as.vector(table(dataset)[dataset])
  weight / sum(weight)
}

# One row per prepared table, one column per method: the mean over the repeats; without a fit, no agreement.
scores_by_set <- function(chosen, sets, sign) {
  at <- factor(paste(chosen$dataset, chosen$preparation, sep = "\r"), paste(sets$dataset, sets$preparation, sep = "\r"))
  scores <- tapply(chosen$value, list(at, factor(chosen$method, unique(chosen$method))), mean)
  scores[is.na(scores)] <- if (sign > 0) 0 else max(chosen$value)
  scores
}

advice_draws <- 999L

# Tables are drawn anew, each with the weight its likeness gives it.
advised_scores <- function(dataset, scores, weight, sign) {
  tables <- unique(dataset)
  at <- match(dataset, tables)
  means <- vapply(seq_len(advice_draws), function(draw) {
    w <- weight * tabulate(drawn_again(length(tables), draw), length(tables))[at]
    colSums(w * scores) / sum(w)
  }, double(ncol(scores)))
  means <- matrix(means, advice_draws, byrow = TRUE)
  score <- colSums(weight * scores)
  first <- which.max(sign * score)
  equal <- 1 / as.vector(table(dataset)[dataset])
  out <- tibble::tibble(
    method = colnames(scores), score = unname(score), low = apply(means, 2L, stats::quantile, 0.05, names = FALSE),
    high = apply(means, 2L, stats::quantile, 0.95, names = FALSE), plain = unname(colSums(equal * scores) / sum(equal)),
    here = unname(scores[which.max(weight), ]), chance = colMeans(sign * (means - means[, first]) >= 0)
  )
  out[order(-sign * out$score), ]
}

# Which index and which vote found the count on tables like this.
advised_voters <- function(result, sets, weight) {
  if (nrow(result$picks) == 0L) {
    return(NULL)
  }
  cases <- track_cases(result, unique(sets$dataset), unlist(known_counts(result$study)))
  key <- function(part) paste(part$dataset, part$preparation, sep = "\r")
  cases$weight <- weight[match(key(cases), key(sets))]
  cases <- cases[!is.na(cases$weight), ]
  cases$right <- !is.na(cases$pick) & cases$pick == cases$known
  parts <- split(cases, list(cases$voter, cases$method), drop = TRUE)
  out <- vctrs::vec_rbind(!!!unname(lapply(parts, function(mine) {
    tibble::tibble(voter = mine$voter[1L], method = mine$method[1L],
                   score = sum(mine$weight * mine$right) / sum(mine$weight))
  })))
  out[order(-out$score, out$voter != "vote"), ]
}

# Each table advised on by the others, and by which method is best over the others alike.
advice_trial <- function(dataset, scores, distances, sign) {
  vctrs::vec_rbind(!!!lapply(unique(dataset), function(table) {
    mine <- dataset == table
    others <- dataset[!mine]
    between <- distances[!mine, !mine, drop = FALSE]
    weight <- rowMeans(vapply(which(mine), function(i) likeness_weights(distances[i, !mine], between, others),
                              double(sum(!mine))))
    best_of <- function(w) which.max(sign * colSums(w * scores[!mine, , drop = FALSE]))
    advised <- best_of(weight)
    plain <- best_of(1 / as.vector(table(others)[others]))
    own <- sign * colMeans(scores[mine, , drop = FALSE])
    tibble::tibble(dataset = table, advised = colnames(scores)[advised], best = colnames(scores)[which.max(own)],
                   lost = max(own) - own[[advised]], lost_plain = max(own) - own[[plain]])
  }))
}

#' @export
summary.fl_advice <- showing_field("likeness")

#' @export
as.data.frame.fl_advice <- function(x, ...) x$scores

trait_words <- c(rows = "the number of rows", columns = "the number of columns", skewness = "skewness",
                 tails = "long tails", correlation = "correlation", two_valued = "two-valued columns",
                 dip = "how far the rows part (dip)", runt = "how far the rows part (runt)")

#' @export
fl_facts.fl_advice <- function(x) {
  if (isFALSE(x$structure$groups)) {
    return(c(paste0("No clear advice for ", x$name, ": there is no evidence of groups (", p_of_test(x$structure), ")."),
             highest_fact(x), often_missed(), advice_facts(x)))
  }
  c(advice_headline(x), advice_facts(x))
}

# An imperative needs rivals outside chance and advice that beat one method for all tables.
advice_headline <- function(x) {
  reasons <- c(if (unlike_all(x)) paste0("none of the ", counted(nrow(x$trial), "table"), " of the study is similar"),
               if (length(x$alike) > 0L) "other methods are within chance of the best",
               if (!trial_gain(x$trial)) "advice by similar tables is not shown to beat one method for all")
  if (length(reasons) == 0L) {
    return(paste0("For ", x$name, " take ", x$method, ", which ", sub(paste0(x$method, " "), "", highest_fact(x),
                                                                       fixed = TRUE)))
  }
  paste0("No clear advice for ", x$name, ": ", reasons[1L], ".")
}

highest_fact <- function(x) {
  first <- x$scores[1L, ]
  paste0(first$method, " scores highest on similar tables: mean ", measure_said(x$by), " ", fixed2(first$score),
         " (95% interval ", fixed2(first$low), " to ", fixed2(first$high), ").")
}

unlike_all <- function(x) min(x$likeness$distance) > 0.3

advice_facts <- function(x) {
  near <- x$likeness[!duplicated(x$likeness$dataset), ]
  clear <- startsWith(advice_headline(x), "For ")
  c(
    if (!clear && !isFALSE(x$structure$groups)) highest_fact(x),
    if (length(x$alike) > 0L) paste0(listed(x$alike), if (length(x$alike) == 1L) " is" else " are",
                                     " within chance of it."),
    if (length(x$itself) > 0L) {
      paste0("The study holds this table", if (!identical(x$itself, x$name)) paste0(" as ", listed(x$itself)),
             "; its results there are left out.")
    },
    paste0("The most similar table is ", near$dataset[1L], if (nrow(near) > 1L) paste0(", then ", near$dataset[2L]),
           "; it differs most in ", trait_words[[near$most_unlike[1L]]], "."),
    if (!is.null(x$voters)) voter_fact(x$voters[1L, ]),
    trial_fact(x)
  )
}

voter_fact <- function(voter) {
  paste0("For the number of groups, ", if (voter$voter == "vote") "the vote" else voter$voter, " of ", voter$method,
         " was right most often on similar tables: ", percent(voter$score), ".")
}

# The advice tried on the study's own tables, each left out in turn.
trial_fact <- function(x) {
  hits <- sum(x$trial$lost < 1e-9)
  named <- c("never", "once", "twice")[hits + 1L]
  c(paste0("Tested by leaving out each of the ", counted(nrow(x$trial), "table"), ", the advice named the best method ",
           if (is.na(named)) paste(hits, "times") else named, " and lost ", fixed2(mean(x$trial$lost)), " ",
           measure_said(x$by), " on average."),
    paste0("One method for all tables lost ", fixed2(mean(x$trial$lost_plain)), ". ", gain_said(x$trial)))
}

# Whether advice by like tables loses less than advice by all of them: a paired question, table by table.
trial_gain <- function(trial) {
  gain <- trial$lost_plain - trial$lost
  mean(gain) > 0 && sign_test(gain) <= 0.05
}

gain_said <- function(trial) {
  if (trial_gain(trial)) paste0("The difference is beyond chance (sign test, p = ",
                                p_said(sign_test(trial$lost_plain - trial$lost)), ").")
  else if (nrow(trial) < 6L) paste0(capital(spelt(nrow(trial))), " tables cannot tell these apart.")
  else "The difference is within chance."
}
