# What the methods around centres share.

sphere_metrics <- c("cosine", "correlation")

# Rows as these metrics see them: of length one, under correlation without their own mean.
to_directions <- function(x, metric) {
  if (metric == "correlation") x <- x - rowMeans(x)
  x / sqrt(rowSums(x^2))
}

# Rows as any metric sees them.
as_seen <- function(x, metric) if (metric %in% sphere_metrics) to_directions(x, metric) else x

# k-means by its least arguments: `starts`, centres to begin from, or seeded restarts.
least_scatter <- function(x, k, restarts, max_rounds, seed, starts = NULL) {
  settings <- list(metric = "euclidean", seeding = "spread", search = "restarts", restarts = restarts,
                   max_rounds = max_rounds)
  kmeans_kernel(x, as.integer(k), kmeans_how(settings, seed), starts, NULL)
}

kmeans_how <- function(settings, seed, rounds = "automatic") {
  list(metric = settings$metric, seeding = settings$seeding, search = settings$search, rounds = rounds,
       restarts = as.integer(settings$restarts), finished = as.integer(settings$finished %||% 0L),
       max_rounds = as.integer(settings$max_rounds), threads = thread_count(), seed = as.double(seed))
}

# How many starts were tried, how many came within 1e-6 of the best objective, and the worst.
restart_counts <- function(reached, best, ...) {
  list(tried = length(reached), reached = sum(reached <= best + abs(best) * 1e-6), worst = max(reached), ...)
}

check_distinct <- function(k, distinct, metric = "euclidean", weighted = FALSE) {
  if (k > distinct) {
    what <- if (metric %in% sphere_metrics) "direction" else "row"
    fl_abort("count", paste0(thousands(k), " groups are impossible: the table has only ",
                             counted(distinct, paste("distinct", what)), if (weighted) " of positive weight", "."),
             advice = "Use a far smaller k; fl_sweep() tries several.")
  }
}

# --- batches: centres that are pulled on by rows they see once

# Centres, how much each was given, and the metric. On the sphere centres are means of directions.
batch_state <- function(fit) {
  list(centres = fit$model$directions %||% fit$centres, mass = as.double(tabulate(fit$group, fit$k)),
       metric = fit$model$metric %||% "euclidean")
}

pull_centres <- function(state, x, batch_rows) {
  if (nrow(x) > 0L) {
    state[c("centres", "mass")] <- batches_kernel(x, state$centres, state$mass, state$metric, as.integer(batch_rows))
  }
  state
}

settle_directions <- function(state) {
  if (state$metric %in% sphere_metrics) state$centres <- state$centres / sqrt(rowSums(state$centres^2))
  state
}

# What rows add to the objective at their distance from the own centre.
added_by <- function(distance, metric) if (metric == "euclidean") distance^2 else distance

# By which share the objective of a sample is above that of the sample's own fit.
excess_over <- function(fit, sample, state) {
  near <- nearest_kernel(sample, state$centres, state$metric, thread_count())
  if (fit$objective > 0) sum(added_by(near$distance, state$metric)) / fit$objective - 1 else 0
}

approximate_note <- function(sampled, what, excess) {
  paste0("Approximate: centres from a sample of ", counted(sampled, "row"),
         ", pulled on by one pass in batches. On the ",
         "sample ", what, " is ", if (excess > 0) paste0(percent(excess), " above") else "no larger than",
         " that of the sample's own fit.")
}
