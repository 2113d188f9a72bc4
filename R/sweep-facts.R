# What partitions, scores and sweeps say, in sentences.

#' @export
fl_facts.fl_partition <- function(x) {
  sizes <- vapply(x$groups$rows, thousands, "")
  noise <- sum(x$group == 0L, na.rm = TRUE)
  if (x$k == 0L) {
    return(c(paste0("No groups, by ", method_said(x$method), ": all ", counted(noise, "row"), " are ", noise_word(x),
                    " (0)."), left_facts(x$ready$left), x$notes))
  }
  c(
    paste0(capital(spelt(x$k)), if (x$k == 1L) " group" else " groups", ", by ", method_said(x$method), ": ",
           listed(paste0(if (has_names(x)) paste0(group_said(x, x$groups$group), " "), sizes, " (",
                         percent(x$groups$share), ")")), " rows."),
    left_facts(x$ready$left),
    if (noise > 0L) paste0(counted(noise, "row"), " ", if (noise == 1L) "is " else "are ", noise_word(x), " (0)."),
    explained_fact(x), restart_fact(x), x$notes, medoid_fact(x), decision_facts(x$vote)
  )
}

explained_fact <- function(x) {
  if (x$k < 2L || is.na(x$scatter)) {
    return(NULL)
  }
  paste0("The groups explain ", percent(1 - x$scatter / x$total), " of the variance in scaled units (within-group sum ",
         "of squares ", digits3(x$scatter), " of ", digits3(x$total), ").")
}

restart_fact <- function(x) {
  r <- x$restarts
  if (is.null(r) || r$tried < 2L || x$k < 2L) {
    return(NULL)
  }
  if (startsWith(x$minimises, "-")) {
    return(likelihood_fact(r, x$objective))
  }
  what <- if (x$minimises == "objective") "the best objective" else paste("the smallest", x$minimises)
  paste0(r$reached, " of ", r$tried, " restarts reached ", what,
         if (r$worst > x$objective * 1.000001) {
           paste0("; the worst was ", percent(r$worst / x$objective - 1), " above it")
         }, ".")
}

# Likelihoods have no zero that a share could be taken of. Runs that would not have come as far were ended early.
likelihood_fact <- function(r, objective) {
  behind <- r$worst - objective
  paste0(if (r$reached == r$tried) paste("All", r$tried) else paste(r$reached, "of", r$tried),
         " runs reached the largest log-likelihood, ", digits3(-objective),
         if (behind > 1e-6 * abs(objective)) paste0("; the worst ended ", digits3(behind), " below it"), ".")
}

# Which rows of the table the medoids are.
medoid_fact <- function(x) {
  if (is.null(x$model$medoid) || length(x$ready$rows) == 0L) {
    return(NULL)
  }
  rows <- x$ready$rows[x$model$medoid]
  said <- if (is.null(x$id)) paste("row", rows) else x$id[rows]
  paste0("The medoids are ", listed(said, most = 12L), ".")
}

#' @export
fl_facts.fl_score <- function(x) {
  silent <- x[is.na(x$value), ]
  c(paste0("Scores of ", attr(x, "name"), ", by ", counted(nrow(x) - nrow(silent), "index", "indices"), "."),
    reasons_said(silent$index, silent$reason),
    sample_fact(x$index, attr(x, "rows")))
}

# Who abstains: one sentence a reason.
reasons_said <- function(who, reason) {
  by_reason <- split(who, factor(reason, unique(reason)))
  vapply(names(by_reason), function(reason) {
    several <- length(by_reason[[reason]]) > 1L
    if (several) reason <- sub("^it needs", "they need", sub("^its rule picks", "their rules pick", reason))
    paste0(listed(by_reason[[reason]]), if (several) " abstain: " else " abstains: ", reason, ".")
  }, "", USE.NAMES = FALSE)
}

#' @export
fl_facts.fl_sweep <- function(x) {
  failed <- vapply(x$fits, inherits, NA, "error") & x$cells$asked
  unsettled <- sum(vapply(x$fits, function(f) isFALSE(f$converged), NA))
  c(
    paste0(counted(sum(x$cells$asked | !is.na(x$cells$parameter)), "fit"), " of ",
           listed(vapply(x$methods, method_said, "")), " on ",
           x$ready[[1L]]$data$name, " (",
           listed(names(x$ready)), "): k = ", count_range(x$k), ", ", counted(length(x$indices), "index", "indices"),
           if (x$repeats > 1L) paste0(", ", x$repeats, " repeats"), "."),
    if (any(failed)) paste0(counted(sum(failed), "fit"), " failed: ", first_line(x$fits[failed][[1L]])),
    value_facts(x),
    if (unsettled > 0L) paste0(counted(unsettled, "fit"), " did not settle within max_rounds."),
    sample_fact(names(x$indices), max(vapply(x$ready, function(r) nrow(r$x), 0L))),
    if (length(x$ready) > 1L) "Index values of different preparations are not comparable."
  )
}

# Said where indices were not computed on every row.
sample_fact <- function(indices, rows) {
  sampled <- Filter(function(index) !is.null(index$sampled) && rows > index$sampled$above, all_indices()[indices])
  how <- vapply(sampled, function(index) index$sampled$how, "")
  vapply(unique(how), function(one) paste0(capital(listed(names(sampled)[how == one])), ": ", one, "."), "",
         USE.NAMES = FALSE)
}

count_range <- function(k) if (length(k) > 2L && all(diff(k) == 1L)) paste0(k[1L], " to ", k[length(k)]) else listed(k)
