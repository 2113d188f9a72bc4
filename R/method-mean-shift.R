# Groups as the hills of the rows' density. The work is done in src/mean-shift.cpp.

method_mean_shift <- function() {
  declare_method(
    "mean_shift",
    fit = run_mean_shift,
    settings = list(bandwidth = "reference", min_size = NULL, max_rounds = 500L, sample_rows = 5000L),
    check = check_mean_shift,
    about = list(label = "mean shift (Fukunaga & Hostetler 1975; Comaniciu & Meer 2002)",
                 when = "few columns, groups are hills of any outline, and how smooth the density is can be said",
                 shape = "one hill of density each, of any outline",
                 needs = "numbers in like units, few columns; a bandwidth, which has a rule; finds the count itself",
                 cost = "time n^2 d a round, with samples s^2 d; memory: the table twice",
                 source = "Fukunaga & Hostetler 1975; Comaniciu & Meer 2002", minimises = "W"),
    counts = list(free_count = TRUE, parameter = "bandwidth", grid = mean_shift_grid),
    placing = list(assign = assign_nearest_kept, by_rows = TRUE)
  )
}

bandwidth_rules <- c("reference", "neighbours")

check_mean_shift <- function(settings) {
  if (is.character(settings$bandwidth)) check_choice(settings$bandwidth, bandwidth_rules, "bandwidth", what = "method")
  else check_number(settings$bandwidth, "bandwidth", least = 1e-300)
  if (!is.null(settings$min_size)) check_whole(settings$min_size, "min_size")
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_whole(settings$sample_rows, "sample_rows", least = 10)
}

run_mean_shift <- function(x, k, settings, seed) {
  rows <- sampled_rows(nrow(x), settings$sample_rows, seed)
  part <- if (length(rows) < nrow(x)) x[rows, , drop = FALSE] else x
  bandwidth <- asked_bandwidth(part, settings$bandwidth)
  min_size <- settings$min_size %||% max(2L, ceiling(nrow(part) / 100))
  fit <- mean_shift_kernel(part, bandwidth, as.integer(settings$max_rounds), thread_count())
  large <- which(tabulate(fit$group) >= min(min_size, nrow(part)))
  found <- match(fit$group, large, nomatch = 0L)
  whole <- length(rows) == nrow(x)
  all <- if (whole) found else by_nearest_kept(x, rows_with_group(part, found), rep(Inf, nrow(part)))$group
  group <- if (any(all > 0L)) number_groups(all, x) else all
  list(
    group = group, converged = fit$unsettled == 0,
    model = list(bandwidth = bandwidth, kept = rows_with_group(part, if (whole) group else group[rows])),
    notes = c(
      paste0("Bandwidth ", digits3(bandwidth), " in scaled units", bandwidth_said(settings$bandwidth), "."),
      if (length(large) < nrow(fit$modes)) {
        paste0(counted(nrow(fit$modes) - length(large), "hill"), " of fewer than ", min_size, " rows ",
               if (nrow(fit$modes) - length(large) == 1L) "is" else "are", " noise.")
      },
      noise_note(group),
      if (length(rows) < nrow(x)) paste0("The density is that of an even sample of ", counted(length(rows), "row"),
                                         "; the others went with the nearest of those."),
      if (fit$unsettled > 0) paste0(counted(fit$unsettled, "row"), " had not settled after ", settings$max_rounds,
                                    " rounds; try a larger max_rounds.")
    )
  )
}

asked_bandwidth <- function(x, bandwidth) {
  if (is.numeric(bandwidth)) {
    return(bandwidth)
  }
  out <- if (bandwidth == "reference") reference_bandwidth(x) else mean(core_distance(x, round(sqrt(nrow(x)))))
  if (out > 0) out else 1
}

# That of a normal density with the rows' spread, for its slopes (Chacon, Duong & Wand 2011).
reference_bandwidth <- function(x) {
  d <- ncol(x)
  (4 / ((d + 4) * nrow(x)))^(1 / (d + 6)) * sqrt(total_scatter(x) / (d * nrow(x)))
}

bandwidth_said <- function(bandwidth) {
  if (is.numeric(bandwidth)) ""
  else if (bandwidth == "reference") ", that of one normal cluster with the rows' spread"
  else ", the mean distance to as many rows as the root of their number"
}

mean_shift_grid <- function(x, settings) {
  usual <- asked_bandwidth(x, if (is.character(settings$bandwidth)) settings$bandwidth else "reference")
  signif(usual * c(0.4, 0.5, 0.65, 0.8, 1, 1.25, 1.6, 2), 6L)
}

assign_nearest_kept <- function(fit, x) {
  by_nearest_kept(x, fit$model$kept, rep(Inf, nrow(fit$model$kept)))[c("group", "distance")]
}

#' Mean shift
#'
#' Every row walks uphill on the density of the rows, a sum of Gaussians of one `bandwidth`, by moving to the weighted
#' mean of the rows again and again; rows that end on the same hilltop share a group. Hills of fewer than `min_size`
#' rows are noise, group 0.
#'
#' The bandwidth decides: a small one sees many hills. `"reference"` is the one that estimates the slopes of a single
#' normal cluster of the rows' spread best (Chacon, Duong & Wand 2011), which errs towards few hills; `"neighbours"` is
#' the mean distance to as many nearest rows as the root of their number. A sweep tries others: `fl_sweep(ready,
#' "mean_shift")`.
#'
#' Above `sample_rows` rows the density is that of an even sample; the others, and new rows, go with the nearest row of
#' it. It finds the count itself: a `k` given is ignored.
#'
#' @section Settings:
#' * `bandwidth` (`"reference"`): a rule, or a distance in scaled units.
#' * `min_size` (`NULL`): fewest rows of a group; left out, one in a hundred rows, at least 2.
#' * `max_rounds` (500): most steps of a row.
#' * `sample_rows` (5,000): rows above which a sample is used.
#' @references
#' Fukunaga, K. and Hostetler, L. D. (1975). The estimation of the gradient of a density function.
#' \doi{10.1109/TIT.1975.1055330}
#'
#' Comaniciu, D. and Meer, P. (2002). Mean shift: a robust approach toward feature space analysis.
#' \doi{10.1109/34.1000236}
#'
#' Chacon, J. E., Duong, T. and Wand, M. P. (2011). Asymptotics for general multivariate kernel density derivative
#' estimators. Statistica Sinica 21, 807--840.
#' @examples
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' fl_partition(ready, "mean_shift")
#' @name method-mean_shift
NULL
