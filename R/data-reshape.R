# Tables that want another shape before they are read: one row per measurement; dates.

#' From one row per measurement to one row per subject
#'
#' Clustering needs all that is known of a subject in one row; measurements often come one a row.
#'
#' @param table A data frame, or the path of a file [fl_data()] can read.
#' @param subject Name of the column that says which subject a row belongs to; it becomes the first column.
#' @param measure Name of the column that says what was measured (or where, or when): each of its values becomes a
#'   column.
#' @param value Name of the column with the numbers.
#' @param several Where a subject has several numbers for one measure: `"stop"`, or take their `"mean"`, `"sum"` or the
#'   `"first"`.
#' @return A data frame with one row per subject, in the order they first appear: the subject, the columns that hold one
#'   value per subject, and a column for each measure, named by value and measure (`salinity_10`) and in the measures'
#'   own order. A measure a subject lacks is `NA`.
#' @section Errors: `fjordline_error_column` for a misspelt column or numbers that are none, `fjordline_error_values`
#'   when a subject has several numbers for one measure (naming the first), unless `several` says what to do.
#' @examples
#' long <- data.frame(cast = rep(c("a", "b"), each = 2), season = rep(c("spring", "autumn"), each = 2),
#'                    depth = c(5, 10, 5, 10), salinity = c(28, 33, 30, 34))
#' fl_widen(long, subject = "cast", measure = "depth", value = "salinity")
#' @seealso `widen` of [fl_data()], which reads such a table in one step.
#' @export
fl_widen <- function(table, subject, measure, value, several = "stop") {
  table <- if (rlang::is_string(table)) read_table(table)$table else as_table(table)$table
  check_table(table, "the table")
  widen_table(table, subject, measure, value, several)
}

several_ways <- c("mean", "sum", "first")

widen_table <- function(table, subject, measure, value, several = "stop") {
  check_choice(several, c("stop", several_ways), "several")
  for (argument in c("subject", "measure", "value")) {
    check_columns(check_text(get(argument), argument), table, argument, "the table", one = TRUE)
  }
  numbers <- as_numbers(table[[value]], value, "the table")
  subjects <- unique(table[[subject]])
  measures <- sort(unique(table[[measure]]))
  if (anyNA(table[[subject]]) || anyNA(table[[measure]])) {
    row <- which(is.na(table[[subject]]) | is.na(table[[measure]]))[1L]
    fl_abort("values", paste0("Row ", row, " has no ", if (is.na(table[[subject]][row])) subject else measure, "."),
             advice = "Every row needs both.")
  }
  at <- cbind(match(table[[subject]], subjects), match(table[[measure]], measures))
  if (several == "stop") check_single(at, subjects, measures, subject, measure)
  cells <- one_a_cell(numbers, at, length(subjects), length(measures), several)
  first <- match(subjects, table[[subject]])
  other <- Filter(function(column) one_value_each(table[[column]], at[, 1L], first),
                  setdiff(names(table), c(subject, measure, value)))
  wide <- stats::setNames(as.data.frame(cells), paste(value, format_measure(measures), sep = "_"))
  out <- cbind(table[first, c(subject, other), drop = FALSE], wide)
  rownames(out) <- NULL
  out
}

check_single <- function(at, subjects, measures, subject, measure) {
  twice <- which(duplicated(at))[1L]
  if (!is.na(twice)) {
    fl_abort("values", paste0(subject, " ", quoted(as.character(subjects[at[twice, 1L]])), " has several values for ",
                              measure, " ", quoted(as.character(measures[at[twice, 2L]])), "."),
             found = paste0("The second stands in row ", twice, "."),
             advice = "Take their mean, sum or first: `several` of fl_widen(), or a fourth word of `widen`.")
  }
}

one_a_cell <- function(numbers, at, rows, columns, several) {
  cells <- matrix(NA_real_, rows, columns)
  if (several %in% c("stop", "first")) {
    keep <- !duplicated(at)
    cells[at[keep, , drop = FALSE]] <- numbers[keep]
    return(cells)
  }
  place <- (at[, 2L] - 1) * rows + at[, 1L]
  present <- !is.na(numbers)
  sums <- rowsum(numbers[present], place[present])
  where <- as.integer(rownames(sums))
  cells[where] <- if (several == "sum") sums else sums / tabulate(place[present], rows * columns)[where]
  cells
}

one_value_each <- function(values, subject, first) {
  mine <- values[first][subject]
  all(is.na(values) == is.na(mine)) && all(values == mine, na.rm = TRUE)
}

format_measure <- function(measures) if (is.numeric(measures)) format(measures, trim = TRUE, digits = 15L,
                                                                      drop0trailing = TRUE) else as.character(measures)

#' Parts of a date as columns
#'
#' A date is not clustered; its month or weekday can be kept aside, to read the groups with.
#'
#' @param data From [fl_data()].
#' @param column Name of a date column.
#' @param parts Any of `"year"`, `"month"`, `"week"` (ISO 8601, 1 to 53), `"weekday"`, `"day_of_year"` and `"hour"`.
#' @param role What the new columns are for. `"aside"`: months and weekdays become categories, the others numbers.
#'   `"feature"`: all become numbers (months 1 to 12, weekdays 1 Monday to 7 Sunday), and December lies far from
#'   January.
#' @return The `fl_data` object with one more column for each part, named `<column>_<part>`.
#' @section Errors: `fjordline_error_column` for a misspelt column or one that holds no dates.
#' @examples
#' fl_dates(fl_demo("water_samples"), "date", parts = c("month", "weekday"))
#' @export
fl_dates <- function(data, column, parts = c("month", "weekday"), role = "aside") {
  check_made_by(data, "fl_data", "data")
  column <- check_columns(column, data$table, "column", data$name, one = TRUE)
  for (part in parts) check_choice(part, names(date_parts), "parts")
  check_choice(role, c("aside", "feature"), "role")
  values <- data$table[[column]]
  if (!inherits(values, c("Date", "POSIXt"))) {
    fl_abort("column", paste0("Column ", quoted(column), " of ", data$name, " holds no dates."),
             found = paste0("It is ", column_type(values), "."),
             advice = paste0("Give their form: fl_data(types = list(", column, " = \"%d.%m.%Y\"))."))
  }
  for (part in parts) {
    made <- new_word(paste(column, part, sep = "_"), names(data$table))
    number <- as.integer(format(values, date_parts[[part]]))
    # as numbers January and December would be far apart
    goes_round <- role == "aside" && part %in% names(round_parts)
    words <- round_parts[[part]]
    data$table[[made]] <- if (goes_round) factor(number, seq_along(words), words) else number
    data$roles <- vctrs::vec_rbind(data$roles, tibble::tibble(column = made, role = role,
                                                             type = column_type(data$table[[made]]), by = "you"))
  }
  data$call <- c(data$call, code_call("fl_dates", verbatim("data"), column, parts = parts,
                                      role = if (role != "aside") role))
  data
}

round_parts <- list(month = c("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"),
                    weekday = c("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"))

date_parts <- c(year = "%Y", month = "%m", week = "%V", weekday = "%u", day_of_year = "%j", hour = "%H")
