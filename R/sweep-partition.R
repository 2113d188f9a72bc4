# One fitted result, and what it says about new rows.

#' Fit one partition
#'
#' Groups by one method at one count. To compare counts or methods, [fl_sweep()] fits them all, and [fl_take()] takes
#' one of those out without fitting it again.
#'
#' @param ready From [fl_prepare()].
#' @param method A method's key, or [fl_method()] for one with other settings.
#' @param k The count of groups: a whole number, or a vote ([fl_vote()], [fl_settle()]) that has one.
#' @param seed Whole number. The same seed gives the same groups, whatever the session drew before; the session's
#'   own random state is neither used nor changed.
#' @param name What to call the result; by default the method and the count.
#' @return An object of class `fl_partition`. Its fields: `group` (one whole number per row of the *original* table, in
#'   its order; `NA` where a value was missing), `k`, `groups` (a table with `group`, `rows`, `share`, `scatter` and
#'   the centre in original units), `centres` (scaled units), `objective`, `total` (T), `seed`, `converged`,
#'   `rounds`, `restarts`, `notes`, `seconds`. Groups are numbered by decreasing size. `as.data.frame()` has a
#'   row for every row of the table, `tidy()` for every group, `glance()` one row of totals, `augment()` the table with
#'   its groups; [fl_labels()] the bare labels.
#' @section Progress: a bar after two seconds in an interactive session, for a mixture of a large table; else its
#'   progress is signalled through the progressr package.
#' @section Errors: `fjordline_error_argument` for `k` missing or below one, `fjordline_error_count` when `k` exceeds
#'   the number of distinct rows, `fjordline_error_undecided` when `k` is a vote without a clear count,
#'   `fjordline_error_method` for a misspelt method.
#' @seealso [fl_sweep()] and [fl_vote()] to choose `k`, [tidying] for the tables behind it.
#' @examples
#' water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' groups <- fl_partition(water, "kmeans", k = 5)
#' groups
#' head(as.data.frame(groups))
#' @export
fl_partition <- function(ready, method = "kmeans", k = NULL, seed = 1, name = NULL) {
  check_made_by(ready, "fl_prepare", "ready")
  method <- as_method(method)
  check_seed(seed)
  vote <- if (inherits(k, "fl_vote")) k
  ignored <- method$free_count && !is.null(k)
  k <- if (!ignored) asked_count(k, method)
  fit <- with_bar(fit_ready(method, ready, k, seed))
  if (ignored) fit$notes <- c("The count asked for was ignored: this method finds it itself.", fit$notes)
  call <- code_call("fl_partition", verbatim("ready"), verbatim(method_code(method)), k = k, seed = seed, name = name)
  partition_of_fit(ready, method, seed, fit, name, call, vote)
}

# A method on prepared rows.
fit_ready <- function(method, ready, k, seed, memo = new_memo()) {
  fit_method(bind_method(method, ready), ready$x, k, seed, about_columns(ready), memo)
}

# The count out of an argument that takes a number or a vote.
asked_count <- function(k, method = NULL) {
  if (inherits(k, "fl_vote")) {
    return(decided_count(k))
  }
  if (isTRUE(method$free_count)) {
    return(NULL)
  }
  if (is.null(k)) {
    fl_abort("argument", "`k`, the count of groups, is needed.",
             advice = "fl_vote(fl_sweep(ready)) helps to choose one.")
  }
  as.integer(check_whole(k, "k"))
}

# The count of a vote, unless it found none; and how it was chosen, in sentences.
decided_count <- function(vote) UseMethod("decided_count")

decision_facts <- function(vote) UseMethod("decision_facts")

#' @export
decision_facts.NULL <- function(vote) NULL

# The partition that a method's fit to prepared rows gives.
partition_of_fit <- function(ready, method, seed, fit, name, call, vote = NULL) {
  group <- rep(NA_integer_, ready$total)
  group[ready$rows] <- fit$group
  new_partition(
    ready, method, fit$k, seed, name %||% default_partition_name(method, fit$k), group, fit$centres,
    group_table(ready, fit), fit$objective, fit$minimises, sum(fit$scatter), total_scatter(ready$x, fit$group > 0L),
    converged = fit$converged, rounds = fit$rounds, restarts = fit$restarts, likelihood = fit$likelihood,
    notes = fit$notes, model = fit$model, seconds = fit$seconds, vote = vote, id = row_ids(ready$data), call = call
  )
}

default_partition_name <- function(method, k) paste0(method_label(method), ", ", k)

# Size, share, scatter and centre of every group; centres in original units, their own names in the attribute `columns`.
group_table <- function(ready, fit, rows = tabulate(fit$group[fit$group > 0L], fit$k), of = length(fit$group)) {
  centres <- tibble::as_tibble(readable_centres(ready, fit))
  own <- tibble::tibble(group = seq_len(fit$k), rows = rows, share = rows / of, scatter = fit$scatter)
  columns <- names(centres)
  names(centres) <- beside_own(columns, names(own))
  structure(tibble::tibble(own, centres), columns = columns)
}

# Names for columns of the table beside columns of ours: one that has such a name already becomes group_1 and so on.
beside_own <- function(columns, own) utils::tail(make.unique(c(own, columns), sep = "_"), length(columns))

# Centres in original units. Components would show them as far as the kept directions go only; where the rows are here,
# the means of the columns before the reduction are shown.
readable_centres <- function(ready, fit) {
  reduced <- length(steps_of_kind(ready$steps, "components")) > 0L
  if (!reduced || is.null(ready$x)) {
    return(original_units(ready, fit$centres))
  }
  invert_steps(group_means(before_components(ready), fit$group, fit$k), unreducing_steps(ready))
}

#' The labels of a partition
#'
#' The bare vector, for code of your own and for comparing with what others made.
#'
#' @param partition From [fl_partition()], [fl_take()] or [fl_load()].
#' @return A whole number per row of the original table, in its order: the group, 0 for noise, `NA` for a row that
#'   could not be clustered.
#' @section Errors: `fjordline_error_argument` where `partition` is not a partition.
#' @examples
#' fl_labels(fl_partition(fl_prepare(fl_demo("still_water")), k = 2))[1:10]
#' @export
fl_labels <- function(partition) {
  check_made_by(partition, "fl_partition", "partition")
  partition$group
}

need_memberships <- function(partition) {
  if (is.null(partition$method$membership)) {
    fl_abort("argument", paste0(partition$method$label, " gives each row to one group: it has no memberships."),
             advice = "Use type = \"group\" or \"distance\".")
  }
}

place_rows <- function(partition, x) {
  whole <- which(stats::complete.cases(x))
  out <- list(group = rep(NA_integer_, nrow(x)), distance = rep(NA_real_, nrow(x)))
  if (length(whole) > 0L) {
    placed <- assign_rows(partition$method, partition, x[whole, , drop = FALSE])
    out$group[whole] <- placed$group
    out$distance[whole] <- placed$distance
  }
  out
}

place_memberships <- function(partition, x) {
  whole <- which(stats::complete.cases(x))
  out <- matrix(NA_real_, nrow(x), partition$k, dimnames = list(NULL, group_names(partition)))
  if (length(whole) > 0L) out[whole, ] <- partition$method$membership(partition, x[whole, , drop = FALSE])
  out
}

place_densities <- function(partition, x) {
  if (is.null(partition$method$density)) {
    fl_abort("argument", paste0(partition$method$label, " fits no density."),
             advice = "fl_methods() tells which methods do; mixture is one.")
  }
  whole <- which(stats::complete.cases(x))
  out <- rep(NA_real_, nrow(x))
  if (length(whole) > 0L) out[whole] <- partition$method$density(partition, x[whole, , drop = FALSE])
  out
}

# Memberships of the rows of the table, where the method has them.
row_memberships <- function(partition) {
  need_memberships(partition)
  need_rows(partition)
  out <- matrix(NA_real_, partition$ready$total, partition$k,
                dimnames = list(NULL, group_names(partition)))
  out[partition$ready$rows, ] <- partition$method$membership(partition, partition$ready$x)
  out
}

# Clustered rows and centres as the metric sees them: under cosine and correlation as directions.
seen_points <- function(partition) {
  metric <- seen_metric(partition$method)
  list(x = as_seen(partition$ready$x, metric),
       centres = partition$model$directions %||% as_seen(partition$centres, metric))
}

# Distance of every clustered row to its own centre, in scaled units: by the method's metric where that is what put
# the row there.
own_distance <- function(partition) {
  ready <- partition$ready
  group <- partition$group[ready$rows]
  inside <- group > 0L
  gaps <- ready$x[inside, , drop = FALSE] - partition$centres[group[inside], , drop = FALSE]
  distance <- rep(NA_real_, length(group))
  distance[inside] <- sqrt(rowSums(gaps^2))
  if (!is.null(partition$method$assign) && !partition$method$by_rows) {
    placed <- tryCatch(assign_rows(partition$method, partition, ready$x), fjordline_error = function(e) NULL)
    same <- placed$group == group & inside
    distance[same] <- placed$distance[same]
  }
  out <- rep(NA_real_, length(partition$group))
  out[ready$rows] <- distance
  out
}

# Silhouette width and nearest other group of every clustered row.
row_silhouettes <- function(partition) {
  need_rows(partition)
  ready <- partition$ready
  if (length(ready$rows) > silhouette_most_rows) {
    fl_abort("argument",
             paste0("Silhouettes of single rows are given up to ", thousands(silhouette_most_rows), " rows."),
             found = paste0("This table has ", thousands(length(ready$rows)), "."))
  }
  judged <- judged_by(partition$method, ready, partition$seed)
  fit <- pair_sums(judged$given %||% ready$x, list(partition$group[ready$rows]), judged$metric)
  tibble::tibble(row = ready$rows, group = partition$group[ready$rows], silhouette = fit$width[, 1L],
                 neighbour = fit$neighbour[, 1L])
}

has_silhouettes <- function(partition) {
  partition$k > 1L && length(partition$ready$rows) <= silhouette_most_rows
}

# Where every row is noise there is nothing to draw, profile or fit again.
need_groups <- function(partition) {
  if (partition$k == 0L) {
    fl_abort("argument", paste0("There are no groups: ", method_said(partition$method), " took every row for noise."),
             advice = paste0("Change what decides how many there are",
                             if (!is.null(partition$method$parameter)) paste0(": ", partition$method$parameter), "."))
  }
}

# A partition loaded from a file labels new rows, but has no rows of its own.
need_rows <- function(partition) {
  if (is.null(partition$ready$x)) {
    fl_abort("model", if (is.null(partition$origin)) {
      "This partition was loaded from a file, which keeps the model and the labels but not the rows."
    } else {
      "This partition was made from a table read in chunks: it has the labels, but not the rows."
    }, advice = if (is.null(partition$origin)) "predict() labels new rows; for the rest, fit again from the table."
    else "fl_partition() on the sample gives a partition with rows; predict() labels any others.")
  }
}

# --- what a partition holds

partition_holds <- list(
  ready = made_by("fl_prepare"), method = made_by("fl_method"), k = is_count, seed = or_none(is_number),
  name = rlang::is_string,
  # a row of the original table each: the group, 0 for noise, NA where it was not clustered
  group = is.integer,
  # one row per group, in scaled units; the table of groups has them in original units
  centres = or_none(is_matrix_of_numbers), groups = table_with("group", "rows", "share", "scatter"),
  objective = or_none(is_number), minimises = rlang::is_string, scatter = or_none(is_number),
  total = or_none(is_number), converged = is_flag_or_na, rounds = is_number, restarts = or_none(is.list),
  likelihood = or_none(is.list), notes = or_none(is_text), model = or_none(is.list), seconds = is_number,
  vote = or_none(made_by("fl_vote")), id = is_any, call = or_none(is_text),
  # of labels from elsewhere, the column they came from; of placed rows, their placement
  labelled_by = or_none(rlang::is_string), placed = or_none(made_by("fl_place")),
  # one name per group, NA for none
  names = or_none(is_text),
  # of what was taken from a sweep, read in chunks or loaded from a file: the script up to it, where it came from, how
  # its count was chosen, how far its groups reach and what its columns were like
  sweep_steps = or_none(is_text), before = or_none(is_text), origin = or_none(is_text), file = or_none(is_text),
  approximation = or_none(is_number), decision = or_none(is_text), reach = or_none(is.list), fitted = or_none(is.list)
)

partition_rules <- list(
  `a label for every row of the table` = function(x) length(x$group) == x$ready$total,
  `groups from 1 to k, noise 0` = function(x) all(is.na(x$group) | x$group >= 0L & x$group <= x$k),
  `a row for every group in the table of groups` = function(x) nrow(x$groups) == x$k,
  `a centre for every group` = function(x) is.null(x$centres) || nrow(x$centres) == x$k,
  `a name for every group, or none` = function(x) is.null(x$names) || length(x$names) == x$k
)

new_partition <- function(ready, method, k, seed, name, group, centres, groups, objective, minimises, scatter, total,
                          converged = NA, rounds = NA_integer_, restarts = NULL, likelihood = NULL, notes = NULL,
                          model = NULL, seconds = NA_real_, vote = NULL, id = NULL, call = NULL, names = NULL,
                          before = NULL, origin = NULL, approximation = NULL, decision = NULL, reach = NULL,
                          fitted = NULL) {
  fields <- list(
    ready = ready, method = method, k = k, seed = seed, name = name, group = group, centres = centres, groups = groups,
    objective = objective, minimises = minimises, scatter = scatter, total = total, converged = converged,
    rounds = rounds, restarts = restarts, likelihood = likelihood, notes = notes, model = model, seconds = seconds,
    vote = vote, id = id, call = call, names = names, before = before, origin = origin, approximation = approximation,
    decision = decision, reach = reach, fitted = fitted
  )
  check_partition(structure(fields, class = "fl_partition"))
}

check_partition <- function(x) check_object(x, partition_holds, partition_rules, optional = names(partition_holds))
