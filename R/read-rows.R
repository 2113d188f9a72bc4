# Rows of the table behind a result.

#' Rows by id, group, kind or condition
#'
#' The row's own name leads back to it at any time: which group is this one in? And a group is best known by its most
#' typical rows, doubted by its least certain ones.
#'
#' @param x From [fl_data()] or [fl_partition()] (not one loaded from a file).
#' @param group Groups by number or by name (partitions only); 0 for noise, `NA` for rows without a group.
#' @param id Values of the id column.
#' @param where A condition on the columns, as in [fl_keep()]; on a partition `group` is a column too, and
#'   `group_name` once the groups have names.
#' @param kind Of the rows that fulfil the rest, only those of a kind (partitions only):
#'   * `"typical"`: of each group the rows nearest to its centre, the nearest first;
#'   * `"boundary"`: the rows nearest to the border of their group (where the method gives memberships: the rows whose
#'     membership of their own group is smallest), the least certain first;
#'   * `"mismatch"`: the rows that disagree with the known classes, as in [fl_mismatches()].
#' @param most How many rows of a kind: of each group the typical ones, in all those near a border.
#' @return A tibble with the rows that fulfil all that is given, in the table's order (of a kind: in the kind's): `row`,
#'   for a partition `group`, `group_name` once there are names, and `distance` (to the own centre, scaled units); for
#'   `"boundary"` also `border` (the distance to it; negative beyond it) and `toward` (the group beyond), or
#'   `membership`; for `"mismatch"` `class` and `expected` (the group matched to it); then all columns of the table
#'   (one that has such a name already becomes `row_1` and so on).
#' @section Errors: `fjordline_error_argument` for an id or a group that does not exist (naming the nearest), a kind
#'   asked of a table, mismatches without known classes.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' fl_rows(groups, id = c("WS-1003", "WS-1010"))
#' fl_rows(groups, group = 5, where = depth > 4)
#' fl_rows(groups, kind = "typical", most = 2)
#' fl_rows(groups, kind = "boundary")
#' @export
fl_rows <- function(x, group = NULL, id = NULL, where = NULL, kind = NULL, most = 5) {
  check_made_by(x, c("fl_data", "fl_partition"), "x")
  partition <- inherits(x, "fl_partition")
  if (partition) need_rows(x)
  data <- if (partition) x$ready$data else x
  found <- rep(TRUE, nrow(data$table))
  if (!is.null(id)) found <- found & seq_along(found) %in% rows_by_id(data, as.character(id))
  if (!is.null(group)) found <- found & rows_by_group(x, group)
  asked <- rlang::enquo(where)
  if (!rlang::quo_is_null(asked)) {
    with <- data
    if (partition) with$table <- with_asked_groups(data$table, x)
    found <- found & row_condition(with, asked, rlang::as_label(asked)) %in% TRUE
  }
  rows <- which(found)
  own <- if (!is.null(kind)) rows_of_kind(x, rows, kind, most)
  else if (partition) own_columns(x, rows)
  else tibble::tibble(row = rows)
  beside_table(own, data$table)
}

# For conditions the added columns are called group and group_name, whatever the table calls its own.
with_asked_groups <- function(table, x) {
  table <- with_column(table, "group", x$group)
  if (has_names(x)) with_column(table, "group_name", ifelse(is.na(x$group), NA, group_names(x, x$group))) else table
}

own_columns <- function(x, rows) {
  out <- tibble::tibble(row = rows, group = x$group[rows])
  if (has_names(x)) out$group_name <- ifelse(is.na(out$group), NA_character_, group_names(x, out$group))
  out$distance <- own_distance(x)[rows]
  out
}

# What was found of the rows, before the columns of the table.
beside_table <- function(own, table) {
  table <- table[own$row, , drop = FALSE]
  names(table) <- beside_own(names(table), names(own))
  tibble::as_tibble(c(own, table))
}

rows_of_kind <- function(x, rows, kind, most) {
  if (!inherits(x, "fl_partition")) {
    fl_abort("argument", "`kind` is for partitions: a table has no groups yet.")
  }
  check_choice(kind, c("typical", "boundary", "mismatch"), "kind")
  check_whole(most, "most")
  own <- own_columns(x, rows)
  switch(kind, typical = typical_rows(own, most), boundary = boundary_rows(x, own, most),
         mismatch = mismatched_rows(x, own))
}

typical_rows <- function(own, most) {
  own <- own[own$group %in% seq_len(max(0L, own$group, na.rm = TRUE)) & !is.na(own$distance), ]
  own <- own[order(own$group, own$distance, own$row), ]
  own[stats::ave(own$row, own$group, FUN = seq_along) <= most, ]
}

boundary_rows <- function(x, own, most) {
  own <- own[own$group %in% seq_len(x$k), ]
  if (is.function(x$method$membership)) {
    own$membership <- row_memberships(x)[cbind(own$row, own$group)]
    return(utils::head(own[order(own$membership, own$row), ], most))
  }
  borders <- border_distances(x)
  own$border <- borders$border[own$row]
  own$toward <- borders$toward[own$row]
  own <- own[!is.na(own$border), ]
  utils::head(own[order(own$border, own$row), ], most)
}

mismatched_rows <- function(x, own) {
  agreement <- fl_agree(x)
  own <- own[own$row %in% agreement$disagree, ]
  own$class <- agreement$labels$b[own$row]
  own$expected <- expected_groups(agreement, own$row, border_distances(x)$toward)
  own
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
  if (is.character(group)) group <- groups_by_name(x, group)
  unknown <- group[!is.na(group) & !group %in% c(0L, seq_len(x$k))]
  if (length(unknown) > 0L) {
    fl_abort("argument", paste0("There is no group ", unknown[1L], "."),
             found = paste0("The groups are 1 to ", x$k, "."))
  }
  x$group %in% group
}

groups_by_name <- function(x, names) {
  known <- c(group_names(x), "noise")
  number <- c(seq_len(x$k), 0L)[match(names, known)]
  number <- ifelse(is.na(number), suppressWarnings(as.integer(names)), number)
  wrong <- which(is.na(number) & !is.na(names))
  if (length(wrong) > 0L) {
    fl_abort("argument", paste0("There is no group ", quoted(names[wrong[1L]]), "."),
             advice = did_you_mean(names[wrong[1L]], group_names(x), "The groups are"))
  }
  number
}
