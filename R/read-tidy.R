# The tidy tables behind a partition, through the generics of the generics package.

#' @importFrom generics tidy glance augment
#' @export
generics::tidy

#' @export
generics::glance

#' @export
generics::augment

#' @export
as.data.frame.fl_partition <- function(x, ...) tidy.fl_partition(x)

#' @export
tidy.fl_partition <- function(x, ...) {
  here <- !is.null(x$ready$x)
  out <- tibble::tibble(
    row = seq_along(x$group), id = x$id %||% rep(NA_character_, length(x$group)), group = x$group,
    name = ifelse(is.na(x$group), NA_character_, group_names(x, x$group)),
    distance = if (here) own_distance(x) else rep(NA_real_, length(x$group))
  )
  if (here && is.function(x$method$membership)) {
    shares <- row_memberships(x)
    placed <- which(x$group > 0L)
    out$membership <- rep(NA_real_, length(x$group))
    out$membership[placed] <- shares[cbind(placed, x$group[placed])]
  }
  out
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
augment.fl_partition <- function(x, ...) {
  need_rows(x)
  with_names(x$ready$data$table, x, x$group, ifelse(is.na(x$group), NA_character_, group_names(x, x$group)))
}

# The table with its groups and, once they have names, their names.
with_names <- function(table, partition, group, name) {
  table <- with_column(table, group_column(names(table)), group)
  if (has_names(partition)) with_column(table, group_column(names(table), "group_name"), name) else table
}

# The added column is called group, or fjordline_group where the table has a group column of its own.
group_column <- function(columns, name = "group") {
  if (!name %in% columns) name else make.unique(c(columns, paste0("fjordline_", name)))[length(columns) + 1L]
}

with_column <- function(table, name, values) {
  table[[name]] <- values
  table
}

#' @export
as.data.frame.fl_score <- function(x, ...) structure(x, class = setdiff(class(x), "fl_score"), name = NULL, rows = NULL)

#' @export
as.data.frame.fl_check <- function(x, ...) structure(x, class = setdiff(class(x), "fl_check"), name = NULL)

# --- the same of everything made of a partition

tidy_of <- function(x, ...) tibble::as_tibble(as.data.frame(x))

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
tidy.fl_place <- tidy_of

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
