# A table with the role of every column.

#' A table and the roles of its columns
#'
#' Everything starts here: which columns are clustered (`features`), which holds known classes (`truth`), which
#' names the rows (`id`) and which are kept aside to read the groups with. Rows and their order never change.
#'
#' Defaults, all of them said by `print()`: number columns without another role are features; text, dates and
#' logical columns without one are kept aside.
#'
#' @param table A data frame or matrix (rows are what is grouped), or the path of a CSV or TSV file (`.csv`,
#'   `.tsv`, `.txt`; UTF-8, with a header line). Empty cells and `NA`, `N/A`, `n/a`, `NaN`, `nan`, `null` are
#'   missing. Numbers with leading zeros stay text. In a file, a column without a name is called V and its place.
#' @param truth Name of the column with known classes. It is kept out of fitting and used by [fl_agree()].
#' @param id Name of the column that identifies the rows.
#' @param aside Names of columns to keep for reading the groups; never fitted.
#' @param features Names of the columns to cluster. Left out: every number column without another role.
#' @param name What to call the table in titles and reports. Left out: the file's or the object's name.
#' @param units Named text vector of units for axes and tables, e.g. `c(temperature = "°C")`.
#' @return An object of class `fl_data`. `as.data.frame()` gives the table back as it came.
#' @section Errors: `fjordline_error_file` for a missing, empty or unreadable file (with the line), `_table` for no
#'   rows, duplicated or empty column names, list columns, `_column` for a misspelt column (naming the nearest
#'   one), one column in two roles, or a feature that is not a number (with the first offending row).
#' @seealso [fl_check()] for what may go wrong, [fl_prepare()] for the next step, [fl_demo()] for tables to try.
#' @examples
#' casts <- data.frame(cast = c("a", "b", "c", "d"), salinity = c(31, 34.6, 34.7, 30.8), oxygen = c(8, 5, 5.2, 7.9))
#' fl_data(casts, id = "cast", units = c(oxygen = "ml/l"))
#' @export
fl_data <- function(table, truth = NULL, id = NULL, aside = NULL, features = NULL, name = NULL, units = NULL) {
  file <- if (rlang::is_string(table)) table
  origin <- if (!is.null(file)) code(file) else as_label(substitute(table))
  if (is.null(name)) name <- if (is.null(file)) origin else tools::file_path_sans_ext(basename(file))
  check_text(name, "name")
  table <- if (is.null(file)) as_table(table) else read_table(file)
  check_table(table, name)
  roles <- assign_roles(table, truth, id, aside, features, name)
  check_units(units, table, name)
  new_data(table, roles, name, file, units, code_call(
    "fl_data", verbatim(origin), truth = truth, id = id, aside = aside, features = features,
    name = if (is.null(file) || name != tools::file_path_sans_ext(basename(file))) name, units = units
  ))
}

new_data <- function(table, roles, name, file, units, call) {
  structure(list(table = table, roles = roles, name = name, file = file, units = units, call = call),
            class = "fl_data")
}

as_label <- function(expression) {
  label <- if (is.symbol(expression)) as.character(expression) else "table"
  if (label == ".") "table" else label
}

as_table <- function(table) {
  if (is.matrix(table) || is.data.frame(table)) {
    if (is.matrix(table) && is.null(colnames(table)) && ncol(table) > 0L) {
      colnames(table) <- paste0("column_", seq_len(ncol(table)))
    }
    out <- as.data.frame(table, stringsAsFactors = FALSE)
    rownames(out) <- NULL
    return(out)
  }
  fl_abort("table", "`table` must be a data frame, a matrix or the path of a file.",
           found = paste0("It is ", shape_of(table), "."))
}

check_table <- function(table, name) {
  columns <- names(table)
  if (nrow(table) == 0L || ncol(table) == 0L) {
    fl_abort("table", paste0(name, " has no rows to group."),
             found = paste0("It has ", counted(ncol(table), "column name"), " and nothing below."))
  }
  empty <- which(is.na(columns) | !nzchar(trimws(columns)))
  if (length(empty) > 0L) {
    fl_abort("table", paste0("Every column of ", name, " needs a name."),
             found = paste0("Column ", empty[1L], " has none."))
  }
  twice <- columns[duplicated(columns)]
  if (length(twice) > 0L) {
    fl_abort("table", paste0("Column names of ", name, " must differ."),
             found = paste0(quoted(twice[1L]), " stands more than once."), advice = "Rename one of them.")
  }
  listed_columns <- columns[vapply(table, function(v) is.list(v) || !is.null(dim(v)), NA)]
  if (length(listed_columns) > 0L) {
    fl_abort("table", paste0("Column ", quoted(listed_columns[1L]), " of ", name,
                             " holds lists or tables, not values."),
             advice = "Take one value a row out of it first.")
  }
}

check_units <- function(units, table, name) {
  if (is.null(units)) {
    return(invisible())
  }
  if (!is.character(units) || is.null(names(units))) {
    fl_abort("argument", "`units` must be a named text vector, as in c(temperature = \"\u00b0C\").")
  }
  for (column in names(units)) check_column(column, names(table), "units", name)
}

# --- roles

column_type <- function(values) {
  if (is.numeric(values)) "number"
  else if (inherits(values, c("Date", "POSIXt"))) "date"
  else if (is.logical(values)) "logical"
  else "text"
}

check_column <- function(column, columns, argument, name) {
  if (!column %in% columns) {
    fl_abort("column", paste0("There is no column ", quoted(column), "."),
             found = paste0(argument, " = ", quoted(column), " must name a column of ", name, "."),
             advice = did_you_mean(column, columns, "Its columns are"))
  }
}

check_columns <- function(columns, table, argument, name, one = FALSE) {
  if (is.null(columns)) {
    return(character())
  }
  if (!is.character(columns) || (one && length(columns) != 1L)) {
    fl_abort("column", paste0("`", argument, "` must be ", if (one) "the name of one column." else "names of columns."),
             found = paste0("It is ", shape_of(columns), "."))
  }
  for (column in columns) check_column(column, names(table), argument, name)
  columns
}

assign_roles <- function(table, truth, id, aside, features, name) {
  given <- list(
    truth = check_columns(truth, table, "truth", name, one = TRUE),
    id = check_columns(id, table, "id", name, one = TRUE),
    aside = check_columns(aside, table, "aside", name), feature = check_columns(features, table, "features", name)
  )
  named <- unlist(given, use.names = FALSE)
  if (anyDuplicated(named)) {
    twice <- named[duplicated(named)][1L]
    fl_abort("column", paste0("Column ", quoted(twice), " is given two roles."),
             found = listed(rep(names(given), lengths(given))[named == twice]), advice = "A column has one role.")
  }
  if (length(given$truth) > 0L && all(is.na(table[[given$truth]]))) {
    fl_abort("column", paste0("The truth column ", quoted(given$truth), " of ", name, " holds no value."),
             advice = "Name another column, or leave truth out.")
  }
  roles <- tibble::tibble(column = names(table), role = NA_character_, type = vapply(table, column_type, ""),
                          by = "you")
  for (role in names(given)) roles$role[roles$column %in% given[[role]]] <- role
  open <- is.na(roles$role)
  roles$by[open] <- "default"
  roles$role[open] <- ifelse(roles$type[open] == "number" & is.null(features), "feature", "aside")
  check_features(table, roles, name)
  roles
}

check_features <- function(table, roles, name) {
  chosen <- roles$column[roles$role == "feature"]
  wrong <- chosen[roles$type[match(chosen, roles$column)] != "number"]
  if (length(wrong) > 0L) {
    column <- wrong[1L]
    row <- first_text(table[[column]])
    fl_abort("column", paste0("Feature ", quoted(column), " is not a number column."),
             found = if (!is.na(row)) paste0("Row ", row, " holds ", quoted(as.character(table[[column]][row])), "."),
             advice = "Correct the values, or keep the column aside.")
  }
  if (length(chosen) == 0L) {
    fl_abort("column", paste0(name, " has no number column to cluster."),
             found = paste0("Its columns: ", listed(paste0(roles$column, " (", roles$type, ", ", roles$role, ")")),
                            "."),
             advice = "Name the features, or correct columns whose numbers are stored as text.")
  }
}

as_number <- function(values) suppressWarnings(as.numeric(as.character(values)))

# The first row whose value is no number.
first_text <- function(values) which(!is.na(values) & is.na(as_number(values)))[1L]

columns_of <- function(data, role) data$roles$column[data$roles$role == role]

truth_of <- function(data) {
  column <- columns_of(data, "truth")
  if (length(column) == 0L) NULL else as.character(data$table[[column]])
}

# "temperature (°C)", for axes.
with_unit <- function(columns, units) {
  known <- unname(units[columns])
  if (is.null(known)) known <- rep(NA_character_, length(columns))
  ifelse(is.na(known), columns, paste0(columns, " (", known, ")"))
}

#' @export
as.data.frame.fl_data <- function(x, ...) x$table
