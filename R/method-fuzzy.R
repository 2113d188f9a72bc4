# Fuzzy c-means: memberships in parts. The work is done in src/fuzzy.cpp.

method_fuzzy <- function() {
  declare_method(
    "fuzzy",
    fit = run_fuzzy,
    settings = list(restarts = 5L, fuzziness = 2, tolerance = 1e-6, max_rounds = 1000L),
    check = check_fuzzy,
    about = list(label = "fuzzy c-means (Dunn 1973; Bezdek 1981)",
                 when = "groups run into each other and each row's share in them is wanted",
                 shape = "round groups that run into each other", needs = "numbers; k",
                 cost = "time n d k a round, many rounds; memory: the table once more",
                 source = "Dunn 1973; Bezdek 1981", minimises = "fuzzy scatter", centre = "weighted mean"),
    placing = list(membership = fuzzy_memberships)
  )
}

check_fuzzy <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_number(settings$fuzziness, "fuzziness", least = 1.01, most = 100)
  check_number(settings$tolerance, "tolerance", least = 1e-14, most = 1)
}

run_fuzzy <- function(x, k, settings, seed) {
  fit <- fuzzy_kernel(x, as.integer(k), settings$fuzziness, as.integer(settings$restarts),
                      as.integer(settings$max_rounds), settings$tolerance, thread_count(), as.double(seed))
  check_distinct(k, fit$distinct)
  group <- nearest_kernel(x, fit$centres, "euclidean", thread_count())$group
  used <- sort(unique(group))
  list(
    group = match(group, used), centres = fit$centres[used, , drop = FALSE], objective = fit$objective,
    rounds = fit$rounds, converged = fit$converged, model = list(fuzziness = settings$fuzziness),
    restarts = restart_counts(fit$reached, fit$objective),
    notes = c(
      fuzzy_note(x, fit$centres[used, , drop = FALSE], settings$fuzziness),
      if (length(used) < k) paste0(counted(k - length(used), "group"), " that no row belongs to most ",
                                   if (k - length(used) == 1L) "was" else "were", " left out."),
      if (!fit$converged) paste0("Not settled after ", fit$rounds, " rounds; try a larger max_rounds.")
    )
  )
}

# How sharp the memberships are: the partition coefficient, from 1 / k to 1.
fuzzy_note <- function(x, centres, fuzziness) {
  share <- memberships_kernel(x, centres, fuzziness, thread_count())
  own <- do.call(pmax, lapply(seq_len(ncol(share)), function(g) share[, g]))
  paste0("The median membership is ", percent(stats::median(own)), "; ", percent(mean(own < 0.5)),
         " of the rows are below a half. Partition coefficient ", digits3(mean(rowSums(share^2))), " (1 is crisp, ",
         digits3(1 / nrow(centres)), " is all equal).")
}

fuzzy_memberships <- function(fit, x) memberships_kernel(x, fit$centres, fit$model$fuzziness, thread_count())

#' Fuzzy c-means
#'
#' Gives every row to every group in parts: the memberships of a row add up to 1 and fall with the squared distance to
#' the centres, so that rows between groups show as such. Labels are those of the largest membership.
#'
#' Minimises the sum of membership^fuzziness times squared distance, by turns: memberships from the centres, centres
#' from the memberships (Bezdek 1981), from several starts seeded as k-means is. A row that lies on a centre belongs
#' to it alone (or to all centres there, in equal parts). A group that is nobody's largest membership is left out, and
#' a note tells it. `predict(type = "membership")` gives the memberships of new rows, `as.data.frame()` each row's in
#' its own group. The centre of a group is the mean weighted by memberships, not that of its rows.
#'
#' @section Settings:
#' * `fuzziness` (2): the exponent, above 1. Near 1 the memberships are crisp, as in k-means; large, all equal.
#' * `restarts` (5): seeded starts.
#' * `tolerance` (1e-6): it has settled when no centre moves farther than this times the root mean squared distance of
#'   the rows from their mean.
#' * `max_rounds` (1000): most rounds of a start.
#'
#' @references
#' Dunn, J. C. (1973). A fuzzy relative of the ISODATA process and its use in detecting compact well-separated clusters.
#' \doi{10.1080/01969727308546046}
#'
#' Bezdek, J. C. (1981). Pattern Recognition with Fuzzy Objective Function Algorithms. Plenum.
#' \doi{10.1007/978-1-4757-0450-1}
#' @examples
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' groups <- fl_partition(ready, "fuzzy", k = 4)
#' groups
#' head(predict(groups, fl_demo("icequakes"), type = "membership"))
#' @name method-fuzzy
NULL
