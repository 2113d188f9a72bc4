# Rows of the table behind a result.

#' Rows by id, group or condition
#'
#' The row's own name leads back to it at any time: which group is this one in?
#'
#' @param x From [fl_data()] or [fl_partition()] (not one loaded from a file).
#' @param group Numbers of groups (partitions only); 0 for noise, `NA` for rows without a group.
#' @param id Values of the id column.
#' @param where A condition on the columns, as in [fl_keep()]; on a partition `group` is a column too.
#' @return A tibble with the rows that fulfil all that is given, in the table's order: `row`, for a partition `group`
#'   and `distance` (to the own centre, prepared units), and all columns (one that has such a name already becomes
#'   `row_1` and so on).
#' @section Errors: `fjordline_error_argument` for an id or a group that does not exist (naming the nearest).
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' fl_rows(groups, id = c("WS-1003", "WS-1010"))
#' fl_rows(groups, group = 5, where = depth > 4)
#' @export
fl_rows <- function(x, group = NULL, id = NULL, where = NULL) {
  check_made_by(x, c("fl_data", "fl_partition"), "x")
  if (inherits(x, "fl_partition")) need_rows(x)
  data <- if (inherits(x, "fl_data")) x else x$ready$data
  found <- rep(TRUE, nrow(data$table))
  if (!is.null(id)) found <- found & seq_along(found) %in% rows_by_id(data, as.character(id))
  if (!is.null(group)) found <- found & rows_by_group(x, group)
  asked <- rlang::enquo(where)
  if (!rlang::quo_is_null(asked)) {
    if (inherits(x, "fl_partition")) data$table <- with_column(data$table, "group", x$group)
    found <- found & row_condition(data, asked, rlang::as_label(asked)) %in% TRUE
  }
  rows <- which(found)
  own <- if (inherits(x, "fl_partition")) {
    tibble::tibble(row = rows, group = x$group[rows], distance = own_distance(x)[rows])
  } else {
    tibble::tibble(row = rows)
  }
  table <- if (inherits(x, "fl_partition")) x$ready$data$table else x$table
  table <- table[rows, , drop = FALSE]
  names(table) <- utils::tail(make.unique(c(names(own), names(table)), sep = "_"), ncol(table))
  tibble::as_tibble(c(own, table))
}

rows_by_id <- function(data, id) {
  ids <- row_ids(data)
  if (is.null(ids)) {
    fl_abort("argument", paste0(data$name, " has no id column."), advice = "Name one: fl_data(id = ).")
  }
  rows_of_ids(id, ids, columns_of(data, "id"))
}

rows_by_group <- function(x, group) {
  if (!inherits(x, "fl_partition")) {
    fl_abort("argument", "`group` is for partitions: a table has no groups yet.")
  }
  unknown <- group[!is.na(group) & !group %in% c(0L, seq_len(x$k))]
  if (length(unknown) > 0L) {
    fl_abort("argument", paste0("There is no group ", unknown[1L], "."),
             found = paste0("The groups are 1 to ", x$k, "."))
  }
  x$group %in% group
}
