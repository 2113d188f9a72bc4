# The vote over the counts, and its verdict.

#' The count the indices agree on
#'
#' How many groups are there? The vote weighs lines of evidence that assume different things, looks at the rows whether
#' those assumptions hold, and says how often votes like it were right.
#'
#' **k-means and mixtures**, as [fl_sweep()] fits them by itself, give three lines of evidence:
#' * *k-means indices* see round groups. Every index ranks the counts of two and more and gives 3, 2 and 1 points to its
#'   first three. Indices that measure the same thing form a family, and each family has one vote, shared by its
#'   members. The margin is the winner's lead over the runner-up as a share of all points cast; ties go to the smaller
#'   count, and `print()` reports them. They are clear of their count with a margin of 0.20, or of 0.10 with all
#'   families agreeing.
#' * *components of the mixture* with the smallest BIC, over all structures, tails and counts. They are as many as it
#'   takes to describe the rows: a skewed or flat group takes several. So the rows of each component are held against
#'   what it says they are: their skewness and kurtosis (Mardia 1970) against those of tables drawn from the components.
#'   Models in which a component collapsed or vanished do not count.
#' * *dips*: components between which the rows do not dip along their discriminant (Hartigan & Hartigan 1985) are one
#'   group made of several (Hennig 2010). They are put together, the least dip first, until all that is left dips by
#'   more than nine in ten tables that fill a stretch evenly.
#' * Where columns are categories, or hold four values at most, the odds of a row's levels in the one and the other
#'   component count as a column along which rows may dip. Of categories alone components stay apart (`levels`) where
#'   less than 7% of either is taken for the other (Hennig 2010; Baudry et al. 2010). That levels are independent
#'   within a component is assumed.
#'
#' No line decides alone. Where the indices and the dips agree, that is the count. Else clear indices stand, unless all
#' components look as they say and have dips between them, or the rows dip between more groups than the indices count,
#' and by half as much again as is needed. Else components with dips between each two stand; or, where they look as they
#' say and the fitted density falls to less than half between each two (Ray & Lindsay 2005), although the rows are too
#' few for a dip; else what is left after merging. In tables of fewer than 100 rows, for which BIC is not made and a dip
#' hardly shows, BIC has four votes beside the families of k-means indices instead. The field `by` says which case it
#' was. The groups are those of k-means where only its indices stand behind the count or the groups are round, else
#' those of the mixture with so many components, as always where there are categories; where the two methods group the
#' rows differently at that count, the vote says so.
#'
#' A mixture without k-means has the last two lines, and `by = list(method = "kmeans")` uses the first alone.
#'
#' **Groups within groups.** Where the distances between groups have two scales, both counts are named (`levels`).
#' **Far rows.** Rows far from everything are listed in `far`: noise, not a group.
#'
#' **Other methods** vote on the count by themselves. Those with a clear count, or where none has one those with a weak
#' one, stand against each other: the indices that judge partitions rather than the course over the counts rank the
#' groups each of them is voted to have, again with one vote per family, and the method with most points carries the
#' headline. Methods of different metrics are not compared. In a method that finds the count itself and was swept over
#' its parameter, the stretch of neighbouring values that give a count votes too, as the family `stretch`.
#'
#' **Noise.** Partitions are compared only where the shares of rows in groups differ by at most five points; else only
#' density indices and the stretch vote. **Repeats.** The median over the repeats votes; a vote that fewer than four in
#' five repeats share is not clear, and fewer than half not weak.
#'
#' **What the verdict means.** `no groups`: the test of [fl_structure()] finds no evidence of any, and the vote names no
#' count; the test leaves levels of categories out, so with categories the vote goes on, at most weak. `clear`, `weak`
#' and `no clear count` stand for how often votes in the same situation (the case above, whether the indices are clear,
#' shallow dips, few rows, categories) named the known count in simulated tables of some forty kinds, most of which no
#' model here assumes: at least 9 in 10, at least 2 in 3, and less, in the kind of tables where they were right least
#' often. The words were set on other tables than those that give the rates (`bench/README.md` in the sources). A rate
#' belongs to the exact setting it was measured for: the sets `standard` and `fast`, methods as they are by themselves,
#' equal weights, all counts from one or two to 8 to 15, 50 to 5,000 rows, 2 to 100 prepared columns. Elsewhere nothing
#' is clear, and the vote says that it was not measured. k-means by itself is never clear: it cannot see whether groups
#' are round. A winner that is the largest count tried is never clear nor weak. Hartigan's rule, stability and the
#' likelihood indices are shown but have no vote unless you give them a weight.
#'
#' @param sweep From [fl_sweep()].
#' @param weights Named numbers of 0 or more. The name of an index divides the vote within its family, the name of a
#'   family scales that family's vote; `mixture` is the family of BIC. The points alone then decide, and nothing is
#'   clear. Or `"earned"`, or what [fl_weights()] makes of your own track record: these weigh the k-means indices
#'   only.
#' @param rule `"ranked"`, or `"plurality"` where the first choice takes all.
#' @param by Which fits carry the headline when the sweep holds several: a list with `method`, `preparation` or both.
#'   Left out, the first preparation and the method that wins there. Every combination is voted on by itself; `others`
#'   lists the rest.
#' @param depth How many ranks get points under `"ranked"`.
#' @return An object of class `fl_vote` with fields `k`, `verdict`, `by` (the case, see above), `evidence` (a row per
#' line of evidence: its count `k`, `strength`, what it `assumes`, whether that `holds`), `found` (of the mixture:
#' `components`, `groups`, `dips` at each merge and the dip `needed`, how far the last is `beyond` it, `misfit` in
#' standard deviations, `saddle`, and whether they are `apart_by` dips or levels), `levels`, `far`, `rate` (the row of
#' the record it belongs to, `NULL` where not measured), `margin`, `runner_up`, `points` (`k`, `points`, `rank`, of the
#' indices), `shape` (of the components, with the model it is told from: `form`, `structure`, `tails`, `k`, `lead` over
#' the best model of another shape, `rows` of the table) and `lead` (how far the BIC of the components lies below that
#' of every other count), both `NULL` without a mixture, `voters` (the methods that voted together), `alike` (the
#' adjusted Rand index of their groups at `k`), `ballots` (`index`, `family`, `weight`, `k`, `rank`, `value`), `shares`
#' (points by family), `abstained`, `neighbours` (what one fewer and one more would change), `repeats` (what each repeat
#' by itself says: `repeat`, `index`, or `"vote"`, and `k`), `contest` (the ballots between methods), `method_points`
#' and `uncompared` (who does not stand in it, and why), `others` (the votes of the other methods and preparations, with
#' their points in the contest and `alike`, the adjusted Rand index of their groups and those of the headline),
#' `lowered` (why a verdict is less than its margin), `structure` (the test for groups, see [fl_structure()]).
#' `as.data.frame()` gives `points`.
#' @section Errors: `fjordline_error_argument` for bad weights, rule or depth, `fjordline_error_index` for a misspelt
#'   weight.
#' @references
#' Mardia, K. V. (1970). Measures of multivariate skewness and kurtosis with applications. \doi{10.1093/biomet/57.3.519}
#'
#' Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#'
#' Ray, S. and Lindsay, B. G. (2005). The topography of multivariate normal mixtures.
#' \doi{10.1214/009053605000000417}
#'
#' Hennig, C. (2010). Methods for merging Gaussian mixture components. \doi{10.1007/s11634-010-0058-3}
#'
#' Baudry, J.-P., Raftery, A. E., Celeux, G., Lo, K. and Gottardo, R. (2010). Combining mixture components for
#' clustering. \doi{10.1198/jcgs.2010.08111}
#' @seealso [summary.fl_vote()] for all it rests on, [fl_settle()] to overrule it, [fl_take()] for the partition,
#'   [fl_weights()] for weights that were earned.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' vote <- fl_vote(fl_sweep(ready, "kmeans", k = 1:8, indices = "fast"))
#' vote
#' vote$ballots
#' @export
fl_vote <- function(sweep, weights = NULL, rule = "ranked", by = NULL, depth = 3) {
  check_made_by(sweep, "fl_sweep", "sweep")
  check_choice(rule, c("ranked", "plurality"), "rule")
  check_whole(depth, "depth")
  said <- if (is.object(weights)) verbatim("weights") else weights
  weights <- named_weights(weights, sweep)
  counting <- counting_by(rule, depth, weights)
  if (is.null(attr(weights, "earned"))) vote_weights(weights, c(sweep$indices, vote_indices()))
  given <- by
  by <- check_by(sweep, by)
  cells <- unique(sweep$cells[, c("preparation", "method")])
  votes <- lapply(seq_len(nrow(cells)), function(i) vote_of(sweep, cells$preparation[i], cells$method[i], counting))
  preparation <- by$preparation %||% names(sweep$ready)[1L]
  standing <- votes[cells$preparation == preparation]
  together <- if (is.null(by$method)) vote_together(sweep, preparation, counting)
  if (!is.null(together)) {
    standing <- c(list(together), standing[!cells$method[cells$preparation == preparation] %in% together$voters])
  }
  contest <- method_contest(sweep, standing, counting)
  method <- by$method %||% contest$first
  carries <- vapply(standing, `[[`, "", "method") == method
  vote <- c(standing[[which(carries)[1L]]], list(sweep = sweep, rule = rule, depth = depth, weights = weights,
                                                 contest = contest$ballots, method_points = contest$points,
                                                 uncompared = if (is.null(by$method)) contest$uncompared))
  rest <- votes[cells$preparation != preparation | cells$method != method]
  vote$others <- other_votes(rest, vote, contest)
  vote$neighbours <- neighbour_changes(vote)
  if (is.null(vote$far)) vote$far <- rows_far_off(sweep$ready[[vote$preparation]])
  vote$call <- code_call("fl_vote", verbatim("sweep"), weights = said, rule = if (rule != "ranked") rule,
                         by = if (length(given) > 0L) given, depth = if (depth != 3) depth)
  new_vote(vote)
}

counting_by <- function(rule = "ranked", depth = 3, weights = NULL) list(rule = rule, depth = depth, weights = weights)

check_by <- function(sweep, by) {
  if (!is.null(by) && (!is.list(by) || !all(rlang::names2(by) %in% c("method", "preparation")))) {
    fl_abort("argument", "`by` must be a list with `method`, `preparation` or both.",
             found = paste0("It is ", shape_of(by), "."))
  }
  list(method = if (!is.null(by$method)) method_held(sweep, by$method),
       preparation = if (!is.null(by$preparation)) check_choice(by$preparation, names(sweep$ready), "preparation"))
}

# The vote over the counts of one method on one preparation: `counting` says how, see fl_vote().
vote_of <- function(sweep, preparation, method, counting) {
  of_method <- function(values) part_of(values, preparation, method)
  values <- compared_coverage(of_method(sweep$values), sweep$indices)
  own <- own_ballots(sweep, preparation, method)
  hold_vote(sweep, preparation, method, list(values = values, beside = of_method(sweep$beside)), own, counting)
}

# Of plain k-means and of mixtures together, where the sweep has both.
vote_together <- function(sweep, preparation, counting) {
  voices <- vapply(sweep$methods, voice_of, "")
  round <- names(voices)[voices == "round"][1L]
  mixture <- names(voices)[voices == "models"][1L]
  if (is.na(round) || is.na(mixture)) {
    return(NULL)
  }
  own <- own_ballots(sweep, preparation, mixture)
  if (is.null(own$shape)) {
    return(NULL)
  }
  of_method <- function(values) part_of(values, preparation, round)
  own$shape$votes <- if (own$shape$rows < few_rows) few_votes else 0
  hold_vote(sweep, preparation, round, list(values = of_method(sweep$values), beside = of_method(sweep$beside)), own,
        counting, voters = c(round, mixture))
}

# `own`: ballots beside those of the sweep's indices, see own_ballots().
hold_vote <- function(sweep, preparation, method, heard, own, counting, voters = method) {
  indices <- c(sweep$indices, own$indices)
  values <- vctrs::vec_rbind(heard$values, own$values)
  known <- names(counting$weights) %in% c(names(indices), vapply(indices, `[[`, "", "family"))
  asked_for <- if (is.null(attr(counting$weights, "earned"))) counting$weights
  counting$used <- beside_mixture(vote_weights(counting$weights[known], indices), own$shape, asked_for)
  ends <- may_go_on(sweep, preparation, method)
  vote <- count_votes(values, heard$beside, indices, counting, ends)
  vote <- c(list(preparation = preparation, method = method, voters = voters), vote, list(
    shape = own$shape, indices = indices, values = values, used = counting$used,
    abstained = abstentions(values, vote$ballots),
    repeats = repeated_votes(values, heard$beside, indices, counting, ends),
    structure = sweep$structure[[preparation]][[seen_metric(sweep$methods[[method]])]]
  ))
  vote$measured_as <- if (length(voters) > 1L) "both" else sweep$methods[[voters]]$key
  vote$measured <- measured_set(sweep, voters, counting, sweep$ready[[preparation]])
  vote$few_values <- few_values(sweep$ready[[preparation]]$x)
  vote$with_levels <- has_levels(sweep$ready[[preparation]])
  vote <- weigh_evidence(vote, sweep, own, asked_for)
  if (length(voters) > 1L) {
    vote$alike <- methods_alike(c(vote, list(sweep = sweep)))
    vote$far <- rows_far_off(sweep$ready[[preparation]])
  }
  if (holds_alone(vote)) vote$verdict <- "weak"
  set_verdict(vote, sweep)
}

# Whether more groups than were tried are possible: where a method takes a count, and more rows are different.
may_go_on <- function(sweep, preparation, method) {
  if (sweep$methods[[method]]$free_count) {
    return(FALSE)
  }
  most <- max(1L, sweep$cells$k[cells_of(sweep, preparation, method, fitted = TRUE)])
  x <- sweep$ready[[preparation]]$x
  distinct_kernel(x[stats::complete.cases(x), , drop = FALSE], as.integer(most + 1L), "euclidean") > most
}

# What votes beside the indices: of a mixture its BIC, of a method swept over its parameter the stretch of values that
# give a count.
own_ballots <- function(sweep, preparation, method) {
  if (voice_of(sweep$methods[[method]]) == "models") {
    models <- mixture_models(sweep, preparation, method)
    shape <- shape_of_groups(models, nrow(sweep$ready[[preparation]]$x))
    if (!is.null(shape)) {
      return(list(indices = mixture_ballots(), shape = shape, models = models,
                  values = mixture_values(models, sweep, preparation, method)))
    }
  }
  stretch <- stretch_values(sweep, preparation, method)
  if (!is.null(stretch)) list(indices = vote_indices()["stretch"], values = stretch)
}

# `ends`: the winner may be the largest count tried, which counts for nothing where the method finds the counts.
count_votes <- function(values, beside, indices, counting, ends = TRUE) {
  ballots <- cast_ballots(vctrs::vec_rbind(values, beside), indices, counting$used, unique(values$k))
  shares <- family_points(ballots, counting$used, counting$rule, counting$depth)
  points <- total_points(shares, sort(unique(values$k)))
  cast <- sum(points$points)
  # One count alone has won against nothing, and so has one whose rivals could not be fitted.
  able <- points$k[points$k %in% values$k[!is.na(values$value)]]
  contest <- length(able) > 1L
  lead <- if (contest) points$points[1L] - points$points[2L] else 0
  margin <- if (cast > 0 && contest) lead / cast else NA_real_
  firsts <- family_firsts(shares)
  at_end <- ends && points$k[1L] == max(able, 2L)
  list(
    k = if (cast > 0) points$k[1L] else NA_integer_,
    verdict = verdict_of(margin, sum(firsts == points$k[1L]), length(firsts), at_end),
    at_end = at_end,
    margin = margin,
    runner_up = if (cast > 0 && contest && points$points[2L] > 0) points$k[2L] else NA_integer_,
    tied = cast > 0 && contest && isTRUE(lead <= tie_width), points = points, ballots = ballots, shares = shares
  )
}

# What each repeat by itself would have said: a row for every repeat and index, and for the vote. With one repeat: none.
repeated_votes <- function(values, beside, indices, counting, ends) {
  turns <- unique(values$`repeat`)
  each <- if (length(turns) > 1L) lapply(turns, function(turn) {
    vote <- count_votes(values[values$`repeat` == turn, ], beside[beside$`repeat` == turn, ], indices, counting,
                        ends)
    picks <- vote$ballots[vote$ballots$rank == 1L, ]
    tibble::tibble(`repeat` = turn, index = c("vote", picks$index), k = c(vote$k, picks$k),
                   margin = c(vote$margin, rep(NA_real_, nrow(picks))),
                   clear = c(vote$verdict == "clear", rep(NA, nrow(picks))))
  })
  vctrs::vec_rbind(tibble::tibble(`repeat` = integer(), index = character(), k = integer(), margin = double(),
                                  clear = logical()), !!!each)
}

# Indices with no value at any count of two or more, and why.
abstentions <- function(values, ballots) {
  silent <- setdiff(unique(values$index), ballots$index)
  reasons <- vapply(silent, function(index) {
    reason <- values$reason[values$index == index & values$k >= 2L]
    of_fits <- startsWith(reason, fit_failed)
    if (any(!of_fits)) reason <- reason[!of_fits]
    if (length(reason) == 0L) "no count of two or more was tried"
    else if (any(!nzchar(reason))) "its rule picks none of the counts"
    else names(sort(table(reason), decreasing = TRUE))[1L]
  }, "")
  tibble::tibble(index = silent, reason = unname(reasons))
}

#' @export
as.data.frame.fl_vote <- function(x, ...) x$points

#' Decide on a count
#'
#' Accepts or overrules a vote, and keeps the reason: it stands in every result and report made from the vote.
#'
#' @param vote From [fl_vote()].
#' @param k The count decided on.
#' @param reason Why, in words.
#' @param purpose What the groups are for, where one table has different counts for different purposes.
#' @return The vote, with `k` replaced and `settled` holding `k`, `voted` (what the vote had said), `reason` and
#'   `purpose`.
#' @section Errors: `fjordline_error_argument` for a count the sweep does not hold, or an empty reason.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' vote <- fl_vote(fl_sweep(ready, "kmeans", k = 1:8, indices = "fast"))
#' fl_settle(vote, k = 4, reason = "the crew can sample four kinds of water")
#' @export
fl_settle <- function(vote, k, reason, purpose = NULL) {
  check_made_by(vote, "fl_vote", "vote")
  if (missing(k) || missing(reason)) {
    fl_abort("argument", "Both `k` and `reason` are needed: a decision without a reason cannot be defended.")
  }
  k <- as.integer(check_whole(k, "k"))
  check_text(reason, "reason")
  if (!is.null(purpose)) check_text(purpose, "purpose")
  held <- counts_held(vote)
  if (!k %in% held) {
    fl_abort("argument", paste0("The sweep holds no fit at k = ", k, "."),
             advice = paste0("It holds k = ", listed(held), "."))
  }
  vote$settled <- list(k = k, voted = vote$settled$voted %||% vote$k, verdict = vote$verdict, reason = reason,
                       purpose = purpose)
  vote$k <- k
  vote$neighbours <- neighbour_changes(vote)
  vote$settle_call <- code_call("fl_settle", verbatim("vote"), k = k, reason = reason, purpose = purpose)
  new_vote(vote)
}

# The counts of the vote's method: those asked for, or those it found itself.
counts_held <- function(vote) {
  cells <- vote$sweep$cells
  mine <- cells_of(vote$sweep, vote$preparation, vote$method, asked = TRUE)
  counts <- cells$k[mine]
  found <- vapply(vote$sweep$fits[mine], function(fit) if (inherits(fit, "error")) NA_integer_ else fit$k, 0L)
  found <- ifelse(is.na(counts), found, counts)
  sort(unique(found[found > 0L]))
}
