# k-means that finds the count: groups are cut in two as long as BIC says so.

method_splitting <- function() {
  declare_method(
    "splitting",
    fit = run_splitting,
    settings = list(fewest = 1L, most = 20L, restarts = 10L, max_rounds = 200L),
    check = check_splitting,
    about = list(label = "k-means with splits by BIC (Pelleg & Moore 2000)",
                 when = "no count is known, groups are round, and one quick answer is wanted",
                 shape = "round groups of one spread; it cuts elongated ones into too many",
                 needs = "numbers; finds the count itself, between fewest and most",
                 cost = "time n d k a round; memory: the table once more", source = "Pelleg & Moore 2000",
                 minimises = "W"),
    counts = list(free_count = TRUE)
  )
}

check_splitting <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_whole(settings$fewest, "fewest")
  check_whole(settings$most, "most", least = settings$fewest)
}

run_splitting <- function(x, k, settings, seed) {
  distinct <- distinct_kernel(x, as.integer(settings$most), "euclidean")
  check_distinct(settings$fewest, distinct)
  most <- min(settings$most, distinct)
  fit <- least_scatter(x, settings$fewest, settings$restarts, settings$max_rounds, seed)
  tried <- list(fit)
  while (length(fit$scatter) < most) {
    starts <- split_starts(x, fit, most, settings, derived_seed(seed, length(fit$scatter)))
    if (nrow(starts) == length(fit$scatter)) break
    fit <- least_scatter(x, nrow(starts), 1L, settings$max_rounds, seed, starts)
    tried <- c(tried, list(fit))
  }
  bic <- vapply(tried, function(f) round_bic(tabulate(f$group), f$objective, ncol(x)), 0)
  best <- tried[[if (all(is.na(bic))) length(tried) else which.min(bic)]]
  counts <- vapply(tried, function(f) length(f$scatter), 0L)
  list(
    group = best$group, centres = best$centres, scatter = best$scatter, objective = best$objective,
    rounds = best$rounds, converged = best$converged,
    notes = c(
      paste0("The count was found by BIC, between ", settings$fewest, " and ", settings$most, "; tried: ",
             listed(paste0(counts, " (BIC ", digits3(bic), ")")), "."),
      if (length(best$scatter) == settings$most) "It is the largest count allowed: try a larger `most`.",
      if (!best$converged) paste0("Not settled after ", best$rounds, " rounds; try a larger max_rounds.")
    )
  )
}

# The centres after every cut that BIC approves of; where there is room for some only, the cuts that gain most.
split_starts <- function(x, fit, most, settings, seed) {
  d <- ncol(x)
  cuts <- lapply(seq_along(fit$scatter), function(g) {
    rows <- x[fit$group == g, , drop = FALSE]
    # Three clusters in a triangle are no better described by two groups than by one: then three parts are tried, and
    # four.
    for (parts in 2:4) {
      if (nrow(rows) < 2L * parts || distinct_kernel(rows, parts, "euclidean") < parts) break
      cut <- least_scatter(rows, parts, settings$restarts, settings$max_rounds, derived_seed(seed, g))
      gain <- round_bic(nrow(rows), fit$scatter[g], d) - round_bic(tabulate(cut$group), cut$objective, d)
      if (isTRUE(gain > 0)) {
        return(list(gain = gain, centres = cut$centres))
      }
    }
    list(gain = 0, centres = fit$centres[g, , drop = FALSE])
  })
  gain <- vapply(cuts, `[[`, 0, "gain")
  more <- vapply(cuts, function(cut) nrow(cut$centres) - 1L, 0L)
  room <- most - length(cuts)
  chosen <- integer()
  for (g in order(-gain)) {
    if (gain[g] > 0 && more[g] <= room) {
      chosen <- c(chosen, g)
      room <- room - more[g]
    }
  }
  do.call(rbind, lapply(seq_along(cuts), function(g) if (g %in% chosen) cuts[[g]]$centres
                        else fit$centres[g, , drop = FALSE]))
}

#' k-means that finds the count
#'
#' Starts from the smallest count allowed. Every group is cut in two by k-means with two groups; where the BIC of the
#' two halves is lower than that of the whole group, the cut stands. Where it is not, three parts are tried and then
#' four, beyond the paper: three clusters in a triangle are no better described by two groups than by one. K-means from
#' all the centres then there settles the rows again, and the next round begins, until no cut stands or the largest
#' count is reached. Of all counts passed through, the one with the lowest BIC over the whole table is returned.
#'
#' BIC is that of round groups of one common variance, lower is better (see [indices]). It asks for no `k`: a `k`
#' given is ignored. On elongated groups it finds too many; [fl_vote()] hears more witnesses.
#'
#' @section Settings:
#' * `fewest` (1), `most` (20): the counts allowed.
#' * `restarts` (10): seeded starts of the first fit and of each cut.
#' * `max_rounds` (200): most Lloyd rounds of a start.
#' @references Pelleg, D. and Moore, A. (2000). Extending k-means with efficient estimation of the number of
#'   clusters. ICML, 727--734.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_partition(ready, fl_method("splitting", most = 12))
#' @name method-splitting
NULL
