# k-means: groups around means, W the objective. The work is done in src/: rows.cpp (the table as the kernels like it),
# seeding.cpp, descent.cpp (Lloyd's rounds and transfers), evolution.cpp, kmeans.cpp (restarts).

method_kmeans <- function() {
  declare_method(
    "kmeans",
    fit = run_kmeans,
    settings = list(restarts = 25L, seeding = "spread", metric = "euclidean", search = "restarts", max_rounds = 200L,
                    row_weights = NULL, starts = NULL, sample_rows = 50000L, batch_rows = 10000L),
    check = check_kmeans,
    about = list(label = "k-means (Lloyd 1982; Hartigan & Wong 1979)",
                 when = paste("groups are round and of like spread, or a quick and stable answer is wanted; always the",
                              "first to try"),
                 shape = "round groups of similar spread; under cosine and correlation, bundles of directions",
                 needs = "numbers; k",
                 cost = "time n d k a round, far less once groups settle; memory: the table once more",
                 source = "Lloyd 1982; Hartigan & Wong 1979; Arthur & Vassilvitskii 2007; Hamerly 2010; Elkan 2003",
                 minimises = "W"),
    placing = list(assign = assign_kmeans, rule = rule_of_kmeans),
    shortcuts = list(scatter = scatter_kmeans, by_samples = by_samples_kmeans),
    traits = list(voice = voice_of_kmeans, usual_up_to = Inf, in_batches = TRUE)
  )
}

# In its plain form it is what indices of round groups are about.
voice_of_kmeans <- function(settings) {
  if (settings$metric == "euclidean" && is.null(settings$row_weights)) "round" else ""
}

check_kmeans <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_choice(settings$seeding, c("spread", "rows", "partition", "splits"), "seeding", what = "method")
  check_choice(settings$metric, c("euclidean", sphere_metrics), "metric", what = "method")
  check_whole(settings$sample_rows, "sample_rows", least = 10)
  check_whole(settings$batch_rows, "batch_rows", least = 10)
  check_choice(settings$search, c("restarts", "evolution", "batches"), "search", what = "method")
}

run_kmeans <- function(x, k, settings, seed) {
  check_starts(settings$starts, k)
  if (settings$search == "batches" && nrow(x) > settings$sample_rows) run_batches(x, k, settings, seed)
  else run_whole(x, k, settings, seed)
}

# W alone over several counts, and labels of all rows by fits to samples.
scatter_kmeans <- function(x, counts, settings, seed) {
  if (only_restarts(settings)) kmeans_scatter_kernel(x, counts, kmeans_how(settings, seed))
}

by_samples_kmeans <- function(x, k, samples, settings, seeds) {
  if (only_restarts(settings)) kmeans_by_samples_kernel(x, samples, seeds, as.integer(k), kmeans_how(settings, 1))
}

# Where a fit is nothing but restarts on the rows as they are.
only_restarts <- function(settings) {
  settings$metric == "euclidean" && settings$search == "restarts" && settings$seeding != "splits" &&
    is.null(settings$starts) && is.null(settings$row_weights)
}

# A sample's fit, one pass in batches over all rows, and every row to its nearest centre.
run_batches <- function(x, k, settings, seed) {
  if (!is.null(settings$row_weights)) {
    fl_abort("method", "Batches cannot weigh rows.", advice = "Use search = \"restarts\" with row_weights.")
  }
  sampled <- x[draw_kernel(nrow(x), settings$sample_rows, derived_seed(seed, k)), , drop = FALSE]
  fit <- run_whole(sampled, k, utils::modifyList(settings, list(search = "restarts")), seed)
  fit$k <- k
  state <- settle_directions(pull_centres(batch_state(fit), x, settings$batch_rows))
  near <- nearest_kernel(x, state$centres, state$metric, thread_count())
  used <- sort(unique(near$group))
  centres <- state$centres[used, , drop = FALSE]
  sphere <- state$metric %in% sphere_metrics
  excess <- excess_over(fit, sampled, state)
  list(
    group = match(near$group, used), centres = if (!sphere) centres,
    objective = sum(added_by(near$distance, state$metric)), minimises = fit$minimises, restarts = fit$restarts,
    model = if (sphere) list(metric = state$metric, directions = centres),
    notes = c(approximate_note(nrow(sampled), fit$minimises %||% "W", excess), fit$notes)
  )
}

run_whole <- function(x, k, settings, seed) {
  single <- !is.null(settings$starts) || settings$seeding == "splits" && settings$search == "restarts"
  if (single) settings$restarts <- 1L
  fit <- kmeans_kernel(x, as.integer(k), kmeans_how(settings, seed), settings$starts, settings$row_weights)
  check_directions(x, fit, settings$metric)
  check_distinct(k, fit$distinct, settings$metric, !is.null(settings$row_weights))
  sphere <- settings$metric %in% sphere_metrics
  list(
    group = fit$group, objective = fit$objective, rounds = fit$rounds, converged = fit$converged,
    centres = if (!sphere) fit$centres,
    scatter = if (!sphere && is.null(settings$row_weights)) fit$scatter,
    minimises = if (sphere) paste("sum of 1 -", settings$metric),
    model = if (sphere) list(metric = settings$metric, directions = fit$centres),
    restarts = restart_counts(fit$reached, fit$objective, refilled = fit$refilled, transferred = fit$transferred),
    notes = c(
      if (sphere) paste0("Rows are compared by ", settings$metric, ": the sum of 1 - ", settings$metric,
                         " to the own group's direction is ", digits3(fit$objective), "."),
      if (!fit$converged) paste0("Not settled after ", fit$rounds, " rounds; try a larger max_rounds."),
      if (fit$refilled > 0L) paste0("A group emptied and was refilled ", counted(fit$refilled, "time"), ".")
    )
  )
}

check_starts <- function(starts, k) {
  if (!is.null(starts) && nrow(starts) != k) {
    fl_abort("count", paste0("k = ", k, " needs ", counted(k, "start"), "."),
             found = paste0("`starts` has ", counted(nrow(starts), "row"), "."))
  }
}

check_directions <- function(x, fit, metric) {
  if (fit$without_direction <= nrow(x)) {
    fl_abort("values", paste0(if (metric == "cosine") "A row of zeros has no direction"
                              else "A constant row has no shape", ", so there is no ", metric, " to it."),
             found = paste0("The first such row is row ", fit$without_direction, " of the rows clustered."),
             advice = "Leave such rows out with fl_set_apart(), or use metric = \"euclidean\".")
  }
}

assign_kmeans <- function(fit, x) {
  metric <- fit$model$metric %||% "euclidean"
  nearest_kernel(x, fit$model$directions %||% fit$centres, metric, thread_count())
}

rule_of_kmeans <- function(fit) {
  rule_of_centres(fit$model$directions %||% fit$centres, fit$model$metric %||% "euclidean")
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
#' Rounds are computed in the way that suits the table: sixteen rows at a time against eight centres in the processor's
#' vector registers and, once groups settle, only for rows that the triangle inequality does not let be skipped. All
#' ways give the same labels, for any number of threads. `options(fjordline.threads = 1)` limits the threads; by
#' default all are used. Beside the table, memory for one copy of it is needed.
#'
#' Rules for the edges: a row equally near to two means stays where it is, else goes to the lower number. A group
#' that empties takes the row that adds most to W (the first of equals) out of a group with more than one row; how often
#' this happened is noted. `k` above the number of distinct rows is an error of class `fjordline_error_count`. Columns
#' are shifted to their mean and scaled by a power of two inside, so that large offsets and tiny units cost no digits.
#'
#' @section Settings:
#' * `restarts` (25): how many seeded starts are tried; how many reached the best W is reported.
#' * `seeding` (`"spread"`): `"spread"` draws each next start with probability proportional to the squared distance
#'   from the nearest one so far and keeps the best of 2 + log k draws (Arthur & Vassilvitskii 2007); `"rows"`
#'   draws random different rows; `"partition"` takes the means of random groups; `"splits"` uses no chance: the group
#'   of largest scatter is cut at the mean of its widest column until there are k (Su & Dy 2007), and there is one
#'   start.
#' * `starts`: centres to begin from, a data frame with k rows and the columns of the features, in original units, or a
#'   partition whose centres are taken. Then there is one start.
#' * `metric` (`"euclidean"`): `"cosine"` compares directions: rows are scaled to length 1, groups have mean directions,
#'   and the objective is the sum of 1 - cosine (Dhillon & Modha 2001). `"correlation"` compares profiles: each row's
#'   own mean is taken off first. Rows without a direction are an error of class `fjordline_error_values`.
#' * `search` (`"restarts"`): `"evolution"` breeds starts from the best partitions found so far (Gribel & Vidal 2019);
#'   with the same number of `restarts` it finds smaller W where there are many groups, usually in less time.
#'   `"batches"` is for tables of millions of rows, and approximate: k-means of a sample of `sample_rows` (50,000),
#'   one pass over all rows in batches of `batch_rows` (10,000) that pull the centres on (Sculley 2010), then every
#'   row to its nearest centre. It says by how much W of the sample is above the sample's own fit. [fl_stream()] does
#'   the same for tables that do not fit in memory.
#' * `row_weights`: what each row counts, as the name of a column of the table or as numbers, one a row; W is then the
#'   weighted sum. Rows of weight 0 get a group and make none.
#' * `max_rounds` (200): most rounds a restart may take, Lloyd's and those of transfers together.
#'
#' @references
#' Lloyd, S. P. (1982). Least squares quantization in PCM. \doi{10.1109/TIT.1982.1056489}
#'
#' Hartigan, J. A. and Wong, M. A. (1979). A k-means clustering algorithm. \doi{10.2307/2346830}
#'
#' Arthur, D. and Vassilvitskii, S. (2007). k-means++: the advantages of careful seeding. SODA, 1027--1035.
#'
#' Su, T. and Dy, J. G. (2007). In search of deterministic methods for initializing k-means and Gaussian mixture
#' clustering. Intelligent Data Analysis 11, 319--338.
#'
#' Elkan, C. (2003). Using the triangle inequality to accelerate k-means. ICML, 147--153.
#'
#' Hamerly, G. (2010). Making k-means even faster. \doi{10.1137/1.9781611972801.12}
#'
#' Dhillon, I. S. and Modha, D. S. (2001). Concept decompositions for large sparse text data using clustering.
#' \doi{10.1023/A:1007612920971}
#'
#' Sculley, D. (2010). Web-scale k-means clustering. \doi{10.1145/1772690.1772862}
#'
#' Gribel, D. and Vidal, T. (2019). A scalable hybrid genetic algorithm for minimum sum-of-squares clustering.
#' \doi{10.1016/j.patcog.2018.12.022}
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_partition(ready, fl_method("kmeans", restarts = 10), k = 5)
#'
#' # groups by the shape of a cast's salinity profile, not by its level
#' casts <- fl_prepare(fl_demo("mooring_casts"), scale = "none")
#' fl_partition(casts, fl_method("kmeans", metric = "correlation"), k = 3)
#' @name method-kmeans
NULL
