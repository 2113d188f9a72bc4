# What a preparation holds.

preparation_holds <- list(
  data = or_none(made_by("fl_data")), name = rlang::is_string, features = is_text, columns = is.list, steps = is.list,
  # the prepared rows, a column each; `rows`: which rows of the table they are
  x = or_none(is_matrix_of_numbers), rows = is.integer, total = is_count,
  # how many rows were left out, by why
  left = or_none(is_number_list), units = or_none(is_text), notes = is_text, scale = or_none(rlang::is_string),
  call = or_none(is_text), outliers = or_none(made_by("fl_outliers")),
  # of one out of a file, in place of its table: what that was called, and the columns of its rows
  table_name = or_none(rlang::is_string), prepared = or_none(is_text)
)

preparation_rules <- list(
  `a row of x for every row kept` = function(x) is.null(x$x) || nrow(x$x) == length(x$rows),
  `rows of the table` = function(x) length(x$rows) == 0L || min(x$rows) >= 1L && max(x$rows) <= x$total
)

is_number_list <- function(v) is.numeric(v) || is.list(v)

new_preparation <- function(data, name, features, columns, steps, x, rows, total, left, units = NULL, scale = NULL,
                            notes = character(), call = NULL, outliers = NULL, table_name = NULL, prepared = NULL) {
  ready <- list(data = data, name = name, features = features, columns = columns, steps = steps, x = x, rows = rows,
                total = total, left = left, units = units, scale = scale, notes = notes, call = call,
                outliers = outliers, table_name = table_name, prepared = prepared)
  check_preparation_object(structure(ready, class = "fl_prepare"))
}

check_preparation_object <- function(x) {
  check_object(x, preparation_holds, preparation_rules, optional = names(preparation_holds))
}
