# What the methods around centres share.

sphere_metrics <- c("cosine", "correlation")

# k-means by its least arguments: `starts`, centres to begin from, or seeded restarts.
least_scatter <- function(x, k, restarts, max_rounds, seed, starts = NULL) {
  settings <- list(metric = "euclidean", seeding = "spread", search = "restarts", restarts = restarts,
                   max_rounds = max_rounds)
  kmeans_kernel(x, as.integer(k), kmeans_how(settings, seed), starts, NULL)
}

kmeans_how <- function(settings, seed, rounds = "automatic") {
  list(metric = settings$metric, seeding = settings$seeding, search = settings$search, rounds = rounds,
       restarts = as.integer(settings$restarts), max_rounds = as.integer(settings$max_rounds),
       threads = thread_count(), seed = as.double(seed))
}

# How many starts were tried, how many came within 1e-6 of the best objective, and the worst.
restart_counts <- function(reached, best, ...) {
  list(tried = length(reached), reached = sum(reached <= best + abs(best) * 1e-6), worst = max(reached), ...)
}

check_distinct <- function(k, distinct, metric = "euclidean", weighted = FALSE) {
  if (k > distinct) {
    what <- if (metric %in% sphere_metrics) "direction" else "row"
    fl_abort("count", paste0("There cannot be ", k, " groups: only ", counted(distinct, what),
                             if (weighted) " of positive weight",
                             if (distinct == 1L) " differs" else " differ", " from each other."),
             advice = paste0("Ask for k = ", distinct, " or fewer."))
  }
}
