# tidy(), glance() and augment() of the generics package: a row for each component (a group, a method, an index, a
# column), a row of totals, and the table with what was found of each of its rows.

#' @importFrom generics tidy glance augment
#' @export
generics::tidy

#' @export
generics::glance

#' @export
generics::augment

#' Tables behind every object
#'
#' `tidy()` gives a row for each part an object is made of, `glance()` one row of totals, `augment()` the rows of the
#' table with what was found of each.
#'
#' @param x An object of this package.
#' @param ... Not used.
#' @return Data frames.
#'
#' | object | `tidy()`: a row a | `augment()` adds |
#' |---|---|---|
#' | `fl_data()` | column: role, type | nothing |
#' | `fl_prepare()` | prepared column: mean and spread in scaled units | |
#' | `fl_partition()` | group: name, rows, share, scatter, centre | group, and its name |
#' | `fl_sweep()` | value of an index: preparation, method, count | a column of groups a fit that was asked for |
#' | `fl_vote()` | count: points, rank | the groups of the count it stands for |
#' | `fl_agree()`, `fl_mismatches()` | measure; row that disagrees | |
#' | `fl_profile()`, `fl_outcome()`, `fl_reliability()` | column and group; group; group | of reliability: `stays` |
#' | `fl_paths()`, `fl_contrast()`, `fl_lineage()`, `fl_choices()` | rule; pair of groups; group at a count; choice | |
#' | `fl_place()`, `fl_outliers()` | group; row | group; score and flag |
#' | `fl_structure()`, `fl_score()` | statistic; index | |
#' | `fl_study()`, `fl_run()`, `fl_standings()`, `fl_track_record()` | fit; fit; dataset and method; voter | |
#'
#' @section Errors: `fjordline_error_argument` for `augment()` of preparations of different tables, and
#'   `fjordline_error_model` for an object whose rows are not at hand.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' tidy(groups)
#' glance(groups)
#' head(augment(groups))
#' @name tidying
NULL

# --- one row per component

tidy_of <- function(x, ...) tibble::as_tibble(as.data.frame(x))

#' @export
tidy.fl_data <- function(x, ...) tibble::as_tibble(x$roles)

#' @export
tidy.fl_prepare <- function(x, ...) {
  if (is.null(x$x)) fl_abort("model", "This preparation was loaded from a file, which keeps no rows.")
  tibble::tibble(column = colnames(x$x), mean = unname(colMeans(x$x, na.rm = TRUE)),
                 sd = unname(apply(x$x, 2L, stats::sd, na.rm = TRUE)))
}

#' @export
tidy.fl_partition <- function(x, ...) {
  tibble::as_tibble(centres_table(x))
}

#' @export
tidy.fl_choices <- function(x, ...) x$shares

#' @export
tidy.fl_place <- function(x, ...) tibble::as_tibble(x$mix)

#' @export
tidy.fl_sweep <- tidy_of

#' @export
tidy.fl_vote <- tidy_of

#' @export
tidy.fl_score <- tidy_of

#' @export
tidy.fl_agree <- tidy_of

#' @export
tidy.fl_mismatches <- tidy_of

#' @export
tidy.fl_profile <- tidy_of

#' @export
tidy.fl_outcome <- tidy_of

#' @export
tidy.fl_paths <- tidy_of

#' @export
tidy.fl_reliability <- tidy_of

#' @export
tidy.fl_contrast <- tidy_of

#' @export
tidy.fl_lineage <- tidy_of

#' @export
tidy.fl_outliers <- tidy_of

#' @export
tidy.fl_structure <- tidy_of

#' @export
tidy.fl_study <- tidy_of

#' @export
tidy.fl_run <- tidy_of

#' @export
tidy.fl_standings <- tidy_of

#' @export
tidy.fl_track_record <- tidy_of

# --- a row of totals

#' @export
glance.fl_data <- function(x, ...) {
  tibble::tibble(name = x$name, rows = nrow(x$table), taking_part = length(taking_part(x)),
                 features = length(columns_of(x, "feature")), missing = sum(is.na(x$table)))
}

#' @export
glance.fl_prepare <- function(x, ...) {
  tibble::tibble(name = x$name, rows = length(x$rows), total = x$total, features = length(x$features),
                 columns = if (is.null(x$x)) length(x$prepared) else ncol(x$x))
}

#' @export
glance.fl_partition <- function(x, ...) {
  tibble::tibble(method = method_label(x$method), k = x$k, rows = sum(!is.na(x$group)), scatter = x$scatter,
                 total = x$total,
                 explained = 1 - x$scatter / x$total, seed = x$seed, converged = x$converged, seconds = x$seconds,
                 objective = x$objective, rounds = x$rounds, restarts = x$restarts$tried %||% NA_integer_,
                 reached = x$restarts$reached %||% NA_integer_)
}

#' @export
glance.fl_sweep <- function(x, ...) {
  failed <- vapply(x$fits, inherits, NA, "error")
  test <- x$structure[[1L]][[1L]]
  tibble::tibble(preparations = length(x$ready), methods = length(x$methods), fits = length(x$fits),
                 failed = sum(failed), fewest = min(x$k), most = max(x$k), indices = length(x$indices),
                 repeats = x$repeats, seed = x$seed, p_groups = test$p %||% NA_real_)
}

#' @export
glance.fl_vote <- function(x, ...) {
  tibble::tibble(method = x$method, preparation = x$preparation, k = x$k, verdict = x$verdict, margin = x$margin,
                 runner_up = x$runner_up, shape = x$shape$form %||% NA_character_, settled = !is.null(x$settled),
                 p_groups = x$structure$p %||% NA_real_)
}

#' @export
glance.fl_agree <- function(x, ...) {
  values <- stats::setNames(as.list(x$measures$value), x$measures$measure)
  tibble::tibble(rows = x$rows, left_out = x$left_out, match = x$match, !!!values)
}

#' @export
glance.fl_outcome <- function(x, ...) {
  tibble::tibble(column = x$column, test = x$test$name, statistic = x$test$statistic, p = x$test$p,
                 effect = x$test$effect, without = x$without)
}

#' @export
glance.fl_paths <- function(x, ...) tibble::tibble(rules = nrow(x$rules), !!!x$fidelity)

#' @export
glance.fl_contrast <- function(x, ...) {
  tibble::tibble(a = x$said[1L], b = x$said[2L], rows = x$agreement$rows, moved = nrow(x$moved),
                 adjusted_rand = measure_of(x$agreement, "adjusted_rand"), same = sum(x$fates$fate == "same"))
}

#' @export
glance.fl_place <- function(x, ...) {
  tibble::tibble(rows = nrow(x$rows), none = sum(x$rows$group %in% 0L), unplaced = sum(is.na(x$rows$group)),
                 reach = x$reach, drifted = if (is.null(x$drift)) NA_integer_ else sum(x$drift$drifted))
}


#' @export
glance.fl_profile <- function(x, ...) {
  tibble::tibble(groups = nrow(x$groups), columns = nrow(x$separation), decide = sum(x$separation$decides %in% TRUE),
                 sets = x$sets)
}

#' @export
glance.fl_reliability <- function(x, ...) {
  tibble::tibble(groups = nrow(x$groups), stable = sum(x$groups$returns >= stable_from),
                 unstable = sum(x$groups$returns < unstable_below), samples = x$samples, reseeds = x$reseeds,
                 judged = x$judged)
}

#' @export
glance.fl_mismatches <- function(x, ...) {
  tibble::tibble(mismatches = nrow(x$rows), rows = x$agreement$rows)
}

#' @export
glance.fl_lineage <- function(x, ...) {
  tibble::tibble(counts = length(x$partitions), fewest = min(x$groups$k), most = max(x$groups$k),
                 missed = length(x$missed))
}

#' @export
glance.fl_choices <- function(x, ...) {
  tibble::tibble(partitions = nrow(x$fits), apart = mean(x$fits$apart), combinations = x$combinations,
                 survive = sum(x$groups$found_again >= 1), groups = nrow(x$groups))
}

#' @export
glance.fl_outliers <- function(x, ...) {
  tibble::tibble(method = x$method, rows = sum(!is.na(x$rows$flagged)), flagged = sum(x$rows$flagged, na.rm = TRUE),
                 threshold = x$threshold)
}

#' @export
glance.fl_structure <- function(x, ...) {
  tibble::tibble(groups = x$groups, p = x$p, p_dip = x$p_dip, p_between = x$p_between, p_runt = x$p_runt,
                 rows = x$rows, sets = x$sets)
}

#' @export
glance.fl_score <- function(x, ...) {
  tibble::tibble(name = attr(x, "name"), rows = attr(x, "rows"), !!!stats::setNames(as.list(x$value), x$index))
}

#' @export
glance.fl_study <- function(x, ...) {
  tibble::tibble(datasets = length(x$datasets), preparations = length(x$preparations), methods = length(x$methods),
                 fits = nrow(as.data.frame(x)), repeats = x$repeats, seed = x$seed)
}

#' @export
glance.fl_run <- function(x, ...) {
  status <- x$cells$status[x$cells$asked]
  tibble::tibble(glance(x$study), done = sum(status == "done"), failed = sum(!status %in% c("done", "open")),
                 open = sum(status == "open"), seconds = sum(x$cells$seconds, na.rm = TRUE))
}

#' @export
glance.fl_standings <- function(x, ...) {
  tibble::tibble(by = x$by, at = x$at, contestants = length(unique(x$scores$contestant %||% x$scores$method)),
                 tables = length(x$tables), p = x$test$p, difference = x$difference)
}

#' @export
glance.fl_track_record <- function(x, ...) {
  tibble::tibble(tables = length(x$known), voters = nrow(x$record), best = x$record$voter[1L],
                 found = x$record$found[1L])
}

# --- the table with what was found of each row

#' @export
augment.fl_data <- function(x, ...) tibble::as_tibble(x$table)

#' @export
augment.fl_partition <- function(x, ...) grouped_table(x)

#' @export
augment.fl_place <- function(x, ...) with_names(x$table, x$partition, x$rows$group, x$rows$name)

# One column per fit that was asked for, called as in kmeans_3.
#' @export
augment.fl_sweep <- function(x, ...) {
  rows <- vapply(x$ready, `[[`, 0, "total")
  if (length(unique(rows)) > 1L) {
    fl_abort("argument", "The preparations of this sweep are of different tables.",
             found = paste0("They have ", listed(paste(rows, "rows")), "."), advice = "Sweep each of them by itself.")
  }
  cells <- x$cells[x$cells$asked & x$cells$stands, ]
  fits <- x$fits[x$cells$asked & x$cells$stands]
  done <- !vapply(fits, inherits, NA, "error")
  cells <- cells[done, ]
  count <- vapply(fits[done], `[[`, 0L, "k")
  names <- paste0(if (length(x$ready) > 1L) paste0(cells$preparation, "_"), cells$method, "_", count,
                  if (x$repeats > 1L) paste0("_", cells$`repeat`))
  groups <- Map(function(fit, preparation) {
    ready <- x$ready[[preparation]]
    replace(rep(NA_integer_, ready$total), ready$rows, fit$group)
  }, fits[done], cells$preparation)
  table <- tibble::as_tibble(x$ready[[1L]]$data$table)
  added <- stats::setNames(groups, beside_own(names, names(table)))
  tibble::tibble(table, !!!added)
}

#' @export
augment.fl_vote <- function(x, ...) augment(fl_take(x))

#' @export
augment.fl_reliability <- function(x, ...) {
  table <- augment(x$partition)
  with_column(table, beside_own("stays", names(table)), x$rows$stays)
}

#' @export
augment.fl_outliers <- function(x, ...) {
  table <- tibble::as_tibble(x$ready$data$table)
  added <- stats::setNames(list(x$rows$score, x$rows$flagged), beside_own(c("score", "flagged"), names(table)))
  tibble::tibble(table, !!!added)
}
