# Bisecting k-means: the group with the largest scatter is cut in two until there are k.

method_bisecting <- function() {
  declare_method(
    "bisecting",
    fit = run_bisecting,
    settings = list(restarts = 10L, max_rounds = 200L),
    check = function(settings) {
      check_whole(settings$restarts, "restarts", most = 1e6)
      check_whole(settings$max_rounds, "max_rounds", most = 1e6)
    },
    about = list(label = "bisecting k-means (Steinbach, Karypis & Kumar 2000)",
                 when = "groups of a larger count should lie within those of a smaller",
                 shape = "round groups; groups of a larger count lie within those of a smaller", needs = "numbers; k",
                 cost = "time n d a cut, k - 1 cuts; memory: the table once more",
                 source = "Steinbach, Karypis & Kumar 2000", minimises = "W")
  )
}

run_bisecting <- function(x, k, settings, seed) {
  check_distinct(k, distinct_kernel(x, as.integer(k), "euclidean"))
  group <- rep(1L, nrow(x))
  scatter <- group_scatter(x, group, 1L)
  settled <- TRUE
  while (length(scatter) < k) {
    cut <- which.max(scatter)
    rows <- which(group == cut)
    halves <- least_scatter(x[rows, , drop = FALSE], 2L, settings$restarts, settings$max_rounds,
                            derived_seed(seed, length(scatter)))
    group[rows[halves$group == 2L]] <- length(scatter) + 1L
    scatter <- c(replace(scatter, cut, halves$scatter[1L]), halves$scatter[2L])
    settled <- settled && halves$converged
  }
  list(
    group = group, objective = sum(scatter), converged = settled,
    notes = c(if (k > 2L) "Rows stay on their side of every cut: some may be nearer to the mean of another group.",
              if (!settled) "A cut had not settled; try a larger max_rounds.")
  )
}

#' Bisecting k-means
#'
#' Starts from one group and cuts the group with the largest within-group sum of squares in two, by k-means with two
#' groups, until there are `k`. The groups of a larger count therefore lie within those of a smaller one, which makes a
#' sweep over counts read like a tree. W is usually larger than that of [k-means][method-kmeans]; rows are not moved
#' across earlier cuts, but new rows go to the nearest mean.
#'
#' @section Settings:
#' * `restarts` (10): seeded starts of each cut; the one with the smallest W is kept.
#' * `max_rounds` (200): most Lloyd rounds of a start.
#' @references Steinbach, M., Karypis, G. and Kumar, V. (2000). A comparison of document clustering techniques. KDD
#'   Workshop on Text Mining.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_partition(ready, "bisecting", k = 5)
#' @name method-bisecting
NULL
