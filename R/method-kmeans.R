# k-means: groups around means, W the objective. Lloyd's rounds from several seeded starts, then transfers of
# single rows. The work is done in src/kmeans.cpp.
#
# Lloyd (1982), doi:10.1109/TIT.1982.1056489
# Arthur & Vassilvitskii (2007), k-means++: the advantages of careful seeding, SODA, 1027-1035
# Hartigan & Wong (1979), doi:10.2307/2346830

method_kmeans <- function() {
  declare_method(
    "kmeans",
    label = "k-means (Lloyd 1982; Hartigan & Wong 1979)",
    fit = run_kmeans,
    settings = list(restarts = 25L, seeding = "spread", max_rounds = 200L),
    check = check_kmeans,
    shape = "round groups of similar spread",
    needs = "numbers; time grows with rows x columns x k x restarts",
    source = "Lloyd 1982; Arthur & Vassilvitskii 2007; Hartigan & Wong 1979"
  )
}

check_kmeans <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_choice(settings$seeding, c("spread", "rows"), "seeding", what = "method")
}

run_kmeans <- function(x, k, settings, seed) {
  check_distinct(x, k)
  fit <- kmeans_kernel(x, as.integer(k), settings$seeding, as.integer(settings$restarts),
                       as.integer(settings$max_rounds), as.double(seed))
  reached <- sum(fit$restart_objective <= fit$objective * (1 + 1e-6))
  list(
    group = fit$group, centres = fit$centres, objective = fit$objective, rounds = fit$rounds,
    converged = fit$converged,
    restarts = list(tried = length(fit$restart_objective), reached = reached,
                    worst = max(fit$restart_objective), refilled = fit$refilled),
    notes = c(
      if (!fit$converged) paste0("Not settled after ", fit$rounds, " rounds; try a larger max_rounds."),
      if (fit$refilled > 0L) paste0("A group emptied and was refilled ", counted(fit$refilled, "time"), ".")
    )
  )
}

check_distinct <- function(x, k) {
  distinct <- distinct_rows(x)
  if (k > distinct) {
    fl_abort("count", paste0("There cannot be ", k, " groups: only ", counted(distinct, "row"),
                             if (distinct == 1L) " differs" else " differ", " from each other."),
             advice = paste0("Ask for k = ", distinct, " or fewer."))
  }
}

#' k-means
#'
#' Puts each row into the group with the nearest mean, so that the within-group sum of squares W is small.
#' Called by its key: `fl_partition(ready, "kmeans", k = 5)` or, with settings,
#' `fl_partition(ready, fl_method("kmeans", restarts = 100), k = 5)`.
#'
#' Each restart is seeded, goes through Lloyd's rounds until no row changes its group, and then moves single rows
#' while that lowers W by more than 1e-10 of it; the restart with the smallest W is kept. A returned fit is
#' therefore a fixed point: no row is nearer to another mean, and no single transfer helps.
#'
#' Rules for the edges: a row equally near to two means stays where it is, else goes to the lower number. A group
#' that empties takes the row farthest from its own mean (the first of equals) out of a group with more than one
#' row; how often this happened is said. `k` above the number of distinct rows is an error of class
#' `fjordline_error_count`.
#'
#' @section Settings:
#' * `restarts` (25): how many seeded starts are tried; how many reached the best W is reported.
#' * `seeding` (`"spread"`): `"spread"` draws each next start with probability proportional to the squared distance
#'   from the nearest one so far and keeps the best of 2 + log k draws (Arthur & Vassilvitskii 2007); `"rows"`
#'   draws random distinct rows.
#' * `max_rounds` (200): most Lloyd rounds a restart may take.
#'
#' @references
#' Lloyd, S. P. (1982). Least squares quantization in PCM. \doi{10.1109/TIT.1982.1056489}
#'
#' Arthur, D. and Vassilvitskii, S. (2007). k-means++: the advantages of careful seeding. SODA, 1027--1035.
#'
#' Hartigan, J. A. and Wong, M. A. (1979). A k-means clustering algorithm. \doi{10.2307/2346830}
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_partition(ready, fl_method("kmeans", restarts = 10), k = 5)
#' @name method-kmeans
NULL
