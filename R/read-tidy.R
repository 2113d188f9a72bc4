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
