# Which method? Between methods the groups each of them is voted to have are compared, by the indices that judge
# partitions rather than the course over the counts.

# The families whose values depend on how one method goes from count to count, or on its own likelihood.
within_method <- c("curve", "reference", "likelihood")

judging_indices <- function(sweep) {
  Filter(function(index) is.null(index$order) && !index$family %in% within_method, sweep$indices)
}

# `votes`: of the methods on one preparation. Methods with a clear count stand; where there is none those with a weak
# one, else all. Of those the ones that compare rows as the first of them does: other metrics give values of another
# kind.
method_contest <- function(sweep, votes, counting) {
  known <- names(counting$weights) %in% c(names(sweep$indices), vapply(sweep$indices, `[[`, "", "family"))
  counting$used <- vote_weights(counting$weights[known], sweep$indices)
  named <- vapply(votes, `[[`, "", "method")
  verdicts <- vapply(votes, stands_as, "")
  best <- intersect(c("clear", "weak"), verdicts)[1L]
  standing <- if (!is.na(best)) votes[verdicts == best] else votes[!is.na(vapply(votes, `[[`, 0L, "k"))]
  metric <- vapply(standing, function(vote) contest_metric(sweep$methods[[vote$method]]), "")
  strangers <- vapply(standing[metric != metric[1L]], `[[`, "", "method")
  standing <- standing[metric == metric[1L]]
  ballots <- contest_ballots(sweep, standing, counting)
  shares <- family_points(ballots, counting$used, counting$rule, counting$depth)
  points <- vapply(seq_along(standing), function(at) sum(shares$points[shares$k == at]), 0)
  first <- if (length(standing) > 0L) order(-round(points / tie_width))[1L]
  methods <- vapply(standing, `[[`, "", "method")
  ballots$method <- methods[ballots$k]
  ballots$k <- vapply(standing, `[[`, 0L, "k")[ballots$k]
  list(first = if (length(standing) > 0L) methods[first] else named[1L],
       points = if (nrow(ballots) > 0L) stats::setNames(points, methods),
       uncompared = c(
         if (length(strangers) > 0L) paste0("another metric: ", listed(strangers)),
         if (length(standing) > 1L && nrow(ballots) == 0L) {
           paste0("no index can judge the partitions of ", listed(methods), " alike")
         }
       ),
       ballots = ballots[c("index", "family", "weight", "method", "k", "rank", "value")])
}

# Among methods a vote stands by its own margin: how often such votes are right elsewhere does not tell methods apart.
stands_as <- function(vote) if (vote$verdict == "no groups" || !is.null(vote$found)) vote$verdict else vote$pointed

contest_metric <- function(method) {
  if (is.null(method$settings$dissimilarity)) method$settings$metric %||% "euclidean" else "given"
}

# Ballots with the place among the standing methods for a count.
contest_ballots <- function(sweep, standing, counting) {
  at <- vctrs::vec_rbind(!!!lapply(seq_along(standing), function(place) {
    vote <- standing[[place]]
    mine <- sweep$values[sweep$values$preparation == vote$preparation & sweep$values$method == vote$method &
                           sweep$values$k == vote$k, ]
    mine$k <- rep(place, nrow(mine))
    mine
  }))
  judging <- judging_indices(sweep)
  if (length(standing) < 2L || length(judging) == 0L) {
    return(no_ballots())
  }
  at <- compared_coverage(at, judging, "methods")
  at$value[nzchar(at$reason)] <- NA_real_
  vctrs::vec_rbind(no_ballots(), !!!lapply(judging, function(judge) {
    middle <- vapply(seq_along(standing), function(p) middle_of(at$value[at$index == judge$key & at$k == p]), 0)
    # An index that some of them have no value of compares nothing.
    ranked <- if (!anyNA(middle)) preferred_counts(judge, seq_along(standing), middle)
    places <- ranked$k %||% integer()
    tibble::tibble(index = judge$key, family = judge$family, weight = counting$used$index[[judge$key]], k = places,
                   rank = seq_along(places), value = middle[places], tied = isTRUE(ranked$tied), prefers_one = FALSE)
  }))
}

# The votes that do not carry the headline: `points` in the contest, `alike` how much their groups are those of the
# headline.
other_votes <- function(votes, vote, contest) {
  take <- function(field, type) vapply(votes, `[[`, type, field)
  here <- labels_at(vote, vote$k)
  votes <- lapply(votes, function(other) {
    other$sweep <- vote$sweep
    # A method that finds the count itself has nothing to vote on.
    found <- counts_held(other)
    if (vote$sweep$methods[[other$method]]$free_count && length(found) == 1L) other$k <- found
    other
  })
  alike <- vapply(votes, function(other) {
    there <- labels_at(other, other$k)
    both <- !is.na(here) & !is.na(there)
    if (length(here) != length(there) || !any(both)) NA_real_ else adjusted_rand(table(here[both], there[both]))
  }, 0)
  points <- unname(contest$points[take("method", "")])
  points <- if (is.null(points)) rep(NA_real_, length(votes)) else points
  preparation <- take("preparation", "")
  tibble::tibble(preparation = preparation, method = take("method", ""), k = take("k", 0L),
                 verdict = take("verdict", ""), margin = take("margin", 0), evidence = vapply(votes, evidence_said, ""),
                 points = ifelse(preparation == vote$preparation, points, NA_real_), alike = alike)
}

# One label per row of the table.
labels_at <- function(vote, k) {
  group <- fit_at(vote, k)
  ready <- vote$sweep$ready[[vote$preparation]]
  labels <- rep(NA_integer_, ready$total)
  if (!is.null(group)) labels[ready$rows] <- group
  labels
}
