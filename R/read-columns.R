# The table with its groups, and what is known of each of its rows.

#' @export
as.data.frame.fl_partition <- function(x, ...) {
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

grouped_table <- function(x) {
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
