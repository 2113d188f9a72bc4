# From a table to the numeric matrix that is clustered, by steps that are recorded and can be replayed.

#' Prepare a table for clustering
#'
#' Turns the features into the numeric matrix that is clustered. What was learned from the table (means, spreads)
#' is recorded, kept with every result, and applied to new rows as it stands: nothing is refitted by `predict()`.
#'
#' The steps, in this order: rows with a missing feature are set aside (they keep their place and get `NA` for a
#' group); columns are transformed; columns with one single value (or that vary by rounding
#' only) are left out, and this is said; columns are
#' scaled. Where the interquartile range is 0 and the standard deviation is not, `median_iqr` uses the latter, and
#' says so. A column that carries more than half of all spread, and three times its fair share, is named.
#'
#' @param data From [fl_data()] or [fl_demo()].
#' @param use Names of the features to use; left out, all of them.
#' @param scale `"mean_sd"` (subtract the mean, divide by the standard deviation, n - 1), `"median_iqr"`
#'   (median, interquartile range / 1.349), `"unit_range"` (to 0..1) or `"none"`.
#' @param missing `"drop"` sets rows with a missing feature aside; `"stop"` makes them an error.
#' @param transform Named text vector, e.g. `c(turbidity = "log")`, or one unnamed word for all features: `"log"`,
#'   `"log1p"` (logarithm of 1 + x) or `"square_root"`.
#' @param name What to call the preparation; by default a short summary of it.
#' @return An object of class `fl_prepare`: the matrix (`x`, rows × columns in prepared units), the original row of
#'   each (`rows`), and the recorded `steps`. `as.data.frame()` gives the matrix with row numbers.
#' @section Errors: `fjordline_error_column` for a misspelt column, `_values` for infinite or too large numbers and
#'   for logarithms of numbers that have none (with column and row), `_table` when fewer than two complete rows or
#'   no varying column is left.
#' @examples
#' water <- fl_demo("water_samples")
#' fl_prepare(water, scale = "median_iqr", transform = c(turbidity = "log"))
#' @export
fl_prepare <- function(data, use = NULL, scale = "mean_sd", missing = "drop", transform = NULL, name = NULL) {
  check_made_by(data, "fl_data", "data")
  check_choice(scale, names(scales_known), "scale")
  check_choice(missing, c("drop", "stop"), "missing")
  features <- columns_of(data, "feature")
  used <- if (is.null(use)) features else unique(check_use(use, data))
  x <- numeric_matrix(data$table, used)
  check_finite(x, data$name)
  rows <- which(stats::complete.cases(x))
  check_complete(x, rows, missing, data$name)
  learned <- learn_steps(x[rows, , drop = FALSE], as_transform(transform, used, data$name), scale, data$name)
  call <- code_call("fl_prepare", verbatim("data"), use = use, scale = if (scale != "mean_sd") scale,
                    missing = if (missing != "drop") missing, transform = transform, name = name)
  structure(
    list(data = data, name = name %||% default_name(used, features, scale, transform), features = used,
         steps = learned$steps, x = learned$x, rows = rows, total = nrow(data$table), units = data$units, scale = scale,
         notes = c(learned$notes, deciding_column(learned$x)), call = call),
    class = "fl_prepare"
  )
}

check_use <- function(use, data) {
  check_columns(use, data$table, "use", data$name)
  for (column in use) {
    role <- data$roles$role[data$roles$column == column]
    if (role != "feature") {
      fl_abort("column", paste0(quoted(column), " is no feature."), found = paste0("Its role is ", role, "."),
               advice = "Give it to fl_data(features = ) first if it is to be clustered.")
    }
  }
  use
}

numeric_matrix <- function(table, columns) {
  x <- vapply(columns, function(column) as.double(table[[column]]), numeric(nrow(table)))
  matrix(x, nrow = nrow(table), ncol = length(columns), dimnames = list(NULL, columns))
}

check_finite <- function(x, name, what = "an infinite value", advice = "Correct it, or make it missing.") {
  wrong <- which(is.infinite(x) | abs(x) > 1e150, arr.ind = TRUE)
  if (length(wrong) > 0L) {
    value <- x[wrong[1L, , drop = FALSE]]
    fl_abort("values", paste0("Column ", quoted(colnames(x)[wrong[1L, 2L]]), " of ", name, " holds ",
                              if (is.infinite(value)) what else "a number too large to square", "."),
             found = paste0("Row ", wrong[1L, 1L], ": ", format(value),
                            if (nrow(wrong) > 1L) paste0(" (", counted(nrow(wrong), "such cell"), ")"), "."),
             advice = advice)
  }
}

check_complete <- function(x, rows, missing, name) {
  if (missing == "stop" && length(rows) < nrow(x)) {
    first <- which(is.na(x), arr.ind = TRUE)
    first <- first[order(first[, 1L]), , drop = FALSE][1L, ]
    fl_abort("values", paste0(name, " has missing values in ", counted(nrow(x) - length(rows), "row"), "."),
             found = paste0("The first: ", colnames(x)[first[2L]], " in row ", first[1L], "."),
             advice = "missing = \"drop\" sets these rows aside.")
  }
  if (length(rows) < 2L) {
    fl_abort("table", paste0("At least two complete rows are needed to look for groups in ", name, "."),
             found = paste0(counted(nrow(x), "row"), ", ", length(rows), " without a missing value."))
  }
}

as_transform <- function(transform, used, name) {
  if (is.null(transform)) {
    return(NULL)
  }
  if (!is.character(transform)) {
    fl_abort("argument", "`transform` must be text, as in c(turbidity = \"log\").",
             found = paste0("It is ", shape_of(transform), "."))
  }
  if (is.null(names(transform))) {
    transform <- stats::setNames(rep_len(transform, length(used)), used)
  }
  for (column in names(transform)) check_column(column, used, "transform", name)
  for (how in transform) check_choice(how, names(transforms), "transform")
  transform
}

learn_steps <- function(x, transform, scale, name) {
  steps <- list()
  notes <- character()
  add <- function(kind, ...) {
    step <- step_kinds[[kind]]$learn(x, ...)
    x <<- step_kinds[[kind]]$apply(x, step)
    steps[[length(steps) + 1L]] <<- step
  }
  if (!is.null(transform)) {
    check_domain(x, transform, name)
    add("transform", transform)
  }
  constant <- colnames(x)[apply(x, 2L, is_constant)]
  if (length(constant) == ncol(x)) {
    fl_abort("table", paste0("No column of ", name, " varies: all rows are the same."),
             found = paste0("Columns: ", listed(constant), "."))
  }
  if (length(constant) > 0L) {
    add("drop", constant)
    notes <- c(notes, paste0(listed(constant), if (length(constant) == 1L) " holds" else " hold",
                             " one single value and ", if (length(constant) == 1L) "is" else "are", " left out."))
  }
  if (scale == "median_iqr") {
    flat <- colnames(x)[apply(x, 2L, stats::IQR, type = 7L) == 0]
    if (length(flat) > 0L) {
      notes <- c(notes, paste0("The interquartile range of ", listed(flat), " is 0: its standard deviation is used."))
    }
  }
  if (scale != "none") add("scale", scale)
  list(steps = steps, x = x, notes = notes)
}

# One value, or values that differ by no more than the rounding of numbers of their size.
is_constant <- function(v) diff(range(v)) <= 1e-13 * max(abs(v))

check_domain <- function(x, transform, name) {
  for (column in names(transform)) {
    after <- suppressWarnings(transforms[[transform[[column]]]]$forward(x[, column]))
    if (!all(is.finite(after))) {
      wrong <- which(!is.finite(after))
      how <- transforms[[transform[[column]]]]
      fl_abort("values", paste0("The ", how$said, " of column ", quoted(column), " of ", name, " needs numbers ",
                                how$domain, "."),
               found = paste0(counted(length(wrong), "complete row"), if (length(wrong) == 1L) " has" else " have",
                              " another, for one ", digits3(x[wrong[1L], column]), "."),
               advice = "Use \"log1p\" or \"square_root\" where there are zeros, or leave the column as it is.")
    }
  }
}

# A column with more than half of the spread, and three times its fair share, is said aloud.
deciding_column <- function(x) {
  if (ncol(x) < 2L) {
    return(NULL)
  }
  spread <- apply(x, 2L, stats::var)
  share <- spread / sum(spread)
  most <- which.max(share)
  if (share[most] > 0.5 && share[most] > 3 / ncol(x)) {
    paste0(colnames(x)[most], " has ", percent(share[most]),
           " of all spread in these units: it will decide the groups.")
  }
}

default_name <- function(used, features, scale, transform) {
  changed <- if (is.null(transform)) NULL
  else if (is.null(names(transform))) paste0(transform[1L], "(all)")
  else paste0(transform, "(", names(transform), ")")
  columns <- if (!setequal(used, features)) paste(counted(length(used), "column"))
  paste(c(scale, changed, columns), collapse = ", ")
}

# New rows through the recorded steps: a matrix with one row each, NA where a value is missing.
replay <- function(ready, table) {
  name <- "the new rows"
  missing <- setdiff(ready$features, names(table))
  if (length(missing) > 0L) {
    fl_abort("column", paste0("The new rows lack ", if (length(missing) == 1L) "column " else "columns ",
                              listed(quoted(missing)), "."),
             found = paste0("The groups were made from ", listed(ready$features), "."),
             advice = did_you_mean(missing[1L], names(table), "The columns given are"))
  }
  for (column in ready$features) {
    values <- table[[column]]
    if (!is.numeric(values) && !all(is.na(values))) {
      row <- first_text(values)
      fl_abort("column", paste0("Column ", quoted(column), " of the new rows must hold numbers, as it did in the fit."),
               found = if (!is.na(row)) paste0("Row ", row, " holds ", quoted(as.character(values[row])), ".")
               else paste0("It is stored as ", column_type(values), "."))
    }
  }
  x <- numeric_matrix(table, ready$features)
  check_finite(x, name)
  steps <- ready$steps
  for (step in Filter(function(s) s$kind == "transform", steps)) {
    complete <- which(stats::complete.cases(x))
    if (length(complete) > 0L) check_domain(x[complete, , drop = FALSE], stats::setNames(step$how, step$columns), name)
  }
  apply_steps(x, steps)
}

# A matrix in prepared units, taken back to original units (columns left out stay out).
original_units <- function(ready, x) invert_steps(x, ready$steps)

#' @export
as.data.frame.fl_prepare <- function(x, ...) tibble::tibble(row = x$rows, tibble::as_tibble(x$x))
