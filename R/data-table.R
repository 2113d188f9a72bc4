# A table with the role of every column.

#' A table and the roles of its columns
#'
#' Everything starts here: which columns are clustered (`features`), which holds known classes (`truth`), which
#' names the rows (`id`) and which are kept aside to read the groups with. Rows and their order never change.
#'
#' Defaults, all of them said by `print()`: number columns without another role are features; text, categories, dates
#' and logical columns without one are kept aside. A column of names, every row another, is suggested as `id`.
#'
#' @section Sources:
#' * `.csv`, `.tsv`, `.txt` and the same with `.gz`: delimited text with a header line. Separator (comma, semicolon,
#'   tab, bar), decimal sign and encoding (UTF-8, UTF-16 with its mark, else windows-1252) are found out, and
#'   `print()` tells them. Empty cells and `NA`, `N/A`, `#N/A`, `n/a`, `NaN`, `nan`, `null`, `NULL` are missing; a
#'   number column in which only one to three usual words for "missing" stand (`-`, `.`, `?`, `unknown` ...) is read as
#'   numbers, and print() says so. Numbers with leading zeros stay text, whole numbers of 16 digits or more too. A
#'   column without a name is called column_ and its place, and is left out where it has no values either. A line with
#'   too few or too many fields, or an open quote, is an error with its line.
#' * `.xlsx`, `.xls` (package readxl): the first sheet, or `sheet`.
#' * `.parquet` (packages nanoparquet and callr), decoded in a process of its own.
#' * `.json`: an array of records, or one record per line; `.ndjson`, `.jsonl`: one record per line; all also as `.gz`.
#'   Records within records become columns named with a dot.
#' * A `DBI` connection, or an `.sqlite` file (package RSQLite): the table or `SELECT` given as `query`; the only table
#'   where there is but one.
#' * A data frame, tibble or matrix. Row names become a first column `row`.
#'
#' Text written as 2031-04-03 throughout a column is read as dates, with a time of day as moments (UTC).
#'
#' @section Files from others: Nothing in a table is run. A damaged file is refused or read as it is, and ends no
#'   session; every line that holds something becomes a row. A query is one `SELECT`: it can neither write nor load
#'   native code. In an SQLite table a column of numbers and text comes as text, with a note. Text of databases,
#'   Parquet and JSON must be UTF-8. Control characters are kept in the table, and shown by their codes wherever it
#'   is printed.
#'
#' @section Types: `number`; `category` (text with at most 50 different values, each twice on average; factors);
#'   `ordered` (ordered factors); `logical`; `date`; `text` (any other). Levels that no row has are dropped from
#'   features.
#'
#' @param table A data frame, tibble or matrix (rows are what is grouped), the path of a file, or a `DBI` connection.
#' @param truth Column with known classes. It is kept out of fitting and used by [fl_agree()].
#' @param id Column that identifies the rows.
#' @param aside Columns to keep for reading the groups; never fitted.
#' @param features Columns to cluster. Left out: every number column without another role. Categories, ordered and
#'   logical columns are clustered where they are named here; `"numbers"` stands for all number columns left, as in
#'   `c("numbers", "cargo")`. In all four, columns are given by name, by position
#'   (also as text, `"2-7"`), or by a pattern with `*` and `?` (which takes only columns that have no other role by
#'   name).
#' @param name What to call the table in titles and reports. Left out: the file's or the object's name.
#' @param units Named text vector of units for axes and tables, e.g. `c(temperature = "°C")`.
#' @param columns For files without a header line: the names of all columns, or `FALSE` to call them column_1,
#'   column_2 and so on. For any other table, new names for all columns.
#' @param types Named list: what columns hold where the defaults are wrong. A type's word (`"category"` for numbers that
#'   are codes, `"number"`, `"logical"`, `"text"` ...); the levels of an ordered column in their order,
#'   `list(ice = c("none", "thin", "thick"))`; or the form of a date, `list(day = "%d.%m.%Y")`.
#' @param sheet Name or number of the sheet of an Excel file.
#' @param query Table name or `SELECT` for a `DBI` connection or an SQLite file.
#' @param flip `TRUE` where rows are variables: the table is turned over. Its first column names the new columns, and
#'   its header the rows (kept as a first column, `row`).
#' @param widen For a table with one row per measurement: the names of its columns for the subject, the measure and the
#'   value, as in `c("cast", "depth", "salinity")`. Each subject becomes a row, each measure a column, as by
#'   [fl_widen()]; the subject is the `id` unless another is given. Where a subject has several values for a measure, a
#'   fourth word says what to take: `"mean"`, `"sum"` or `"first"`. The other arguments name columns of the new table.
#' @param blanks Spellings or numbers that mean "missing" in this table, e.g. `c("-999", "x")`.
#' @param reading For delimited text, where what is found out is wrong: `c(separator = ";", decimal = ",", encoding =
#'   "latin1")`, any of them, and `skip`, how many lines stand above the table. Separators also by word: comma,
#'   semicolon, tab, bar.
#' @return An object of class `fl_data`. `as.data.frame()` gives the table back as it came.
#' @section Errors: `fjordline_error_file` for a missing, empty, cut or unreadable file (with the line),
#'   `fjordline_error_source` for a database that refuses, `fjordline_error_package` where a reader's package is
#'   missing, `fjordline_error_table` for no rows, duplicated or empty column names, columns that hold lists,
#'   `fjordline_error_column` for a misspelt column (naming the nearest one), one column in two roles, or a feature
#'   that is not a number (with the first offending row), `fjordline_error_argument` for options that are of no use for
#'   the source.
#' @seealso [fl_check()] for what may go wrong, [fl_prepare()] for the next step, [fl_keep()] to filter rows,
#'   [fl_widen()] for tables with one row per measurement, [fl_dates()] for months and weekdays, [fl_demo()] for tables
#'   to try.
#' @examples
#' casts <- data.frame(cast = c("a", "b", "c", "d"), salinity = c(31, 34.6, 34.7, 30.8), oxygen = c(8, 5, 5.2, 7.9))
#' fl_data(casts, id = "cast", units = c(oxygen = "ml/l"))
#' file <- tempfile(fileext = ".csv")
#' writeLines(c("station;oxygen;ice", "outer sill;6,1;thin", "narrows;5,2;none", "inner basin;?;thick"), file)
#' fl_data(file, features = c("oxygen", "ice"), types = list(ice = c("none", "thin", "thick")))
#' @export
fl_data <- function(table, truth = NULL, id = NULL, aside = NULL, features = NULL, name = NULL, units = NULL,
                    columns = NULL, types = NULL, sheet = NULL, query = NULL, flip = FALSE, widen = NULL,
                    blanks = NULL, reading = NULL) {
  file <- if (rlang::is_string(table)) table
  origin <- if (!is.null(file)) code(file) else as_label(substitute(table))
  plain_name <- if (is.null(file)) origin else file_stem(file)
  name <- check_text(name %||% plain_name, "name")
  check_flag(flip, "flip")
  check_widen(widen)
  read <- read_source(table, list(sheet = sheet, query = query, columns = columns, reading = reading))
  shaped <- shape_table(read, name, columns, flip, widen, blanks, types)
  table <- shaped$table
  check_table(table, name)
  if (is.null(id)) id <- widen[1L]
  if (flip && is.null(id) && anyDuplicated(table[[1L]]) == 0L) id <- names(table)[1L]
  roles <- assign_roles(table, truth, id, aside, features, name)
  check_units(units, table, name)
  new_data(table, roles, name, file, units, shaped$said, code_call(
    "fl_data", verbatim(origin), truth = truth, id = id, aside = aside, features = features,
    name = if (name != plain_name) name, units = units, columns = columns, types = types,
    sheet = sheet, query = query, flip = if (flip) flip, widen = widen, blanks = blanks, reading = reading
  ))
}

data_holds <- list(
  table = is_table, roles = table_with("column", "role", "type"), name = rlang::is_string,
  file = or_none(rlang::is_string), units = or_none(is_text), said = or_none(is_text), apart = is_any,
  call = or_none(is_text), history = or_none(is_text), sample = or_none(is.list)
)

data_rules <- list(`a role for every column` = function(x) identical(x$roles$column, names(x$table)))

new_data <- function(table, roles, name, file, units, said, call) {
  data <- list(table = table, roles = roles, name = name, file = file, units = units, said = said, apart = NULL,
               call = call)
  check_data(structure(data, class = "fl_data"))
}

check_data <- function(x) {
  check_object(x, data_holds, data_rules, optional = setdiff(names(data_holds), c("table", "roles", "name")))
}

as_label <- function(expression) {
  label <- if (is.symbol(expression)) as.character(expression) else "table"
  if (label == ".") "table" else label
}

file_stem <- function(file) tools::file_path_sans_ext(sub("[.]gz$", "", basename(file), ignore.case = TRUE))

# Any source as a data frame, with what had to be found out.
read_source <- function(source, how) {
  if (rlang::is_string(source)) {
    return(read_table(source, how))
  }
  if (inherits(source, "DBIConnection")) {
    return(read_database(source, how$query))
  }
  given <- names(Filter(Negate(is.null), how[c("sheet", "query", "reading")]))
  if (length(given) > 0L) {
    fl_abort("argument", paste0("`", given[1L], "` is of no use for a table that is in R already."))
  }
  as_table(source)
}

as_table <- function(table) {
  if (is.matrix(table) || is.data.frame(table)) {
    if (is.matrix(table) && is.null(colnames(table)) && ncol(table) > 0L) {
      colnames(table) <- paste0("column_", seq_len(ncol(table)))
    }
    labels <- row_names_of(table)
    out <- as.data.frame(table, stringsAsFactors = FALSE, optional = TRUE)
    if (!inherits(table, "data.frame")) names(out) <- colnames(table)
    odd <- vapply(out, inherits, NA, c("integer64", "POSIXlt"))
    out[odd] <- lapply(out[odd], plain_column)
    rownames(out) <- NULL
    if (!is.null(labels)) {
      taken <- names(out)
      out <- with_first(out, new_word("row", taken), labels)
    }
    return(list(table = out, said = if (!is.null(labels)) paste0("row names kept as column ", quoted(names(out)[1L]))))
  }
  fl_abort("table", "`table` must be a data frame, a matrix, the path of a file or a database connection.",
           found = paste0("It is ", shape_of(table), "."))
}

# Named, turned the right way, missing values and types as given.
shape_table <- function(read, name, columns = NULL, flip = FALSE, widen = NULL, blanks = NULL, types = NULL) {
  table <- name_columns(read$table, columns, name)
  said <- read$said
  if (flip && nrow(table) > 0L) table <- flip_table(table, name)
  if (nrow(table) > 0L && ncol(table) > 0L && !anyDuplicated(names(table))) {
    blank <- apply_blanks(table, blanks, name)
    found <- detect_blanks(blank$table)
    grouped <- detect_grouped(found$table, names(Filter(function(type) !identical(type, "number"), types)))
    table <- apply_types(grouped$table, types, name)
    said <- c(said, if (flip) "turned over: rows were variables", blank$said, found$said, grouped$said)
  }
  if (!is.null(widen)) {
    table <- widen_table(table, widen[1L], widen[2L], widen[3L], if (length(widen) > 3L) widen[4L] else "stop")
    said <- c(said, paste0("one row per ", widen[1L], ", one column per ", widen[2L]))
  }
  list(table = table, said = said)
}

check_widen <- function(widen) {
  if (!is.null(widen) && !(is.character(widen) && length(widen) %in% 3:4 && !anyNA(widen))) {
    fl_abort("argument", "`widen` must name three columns: the subject, the measure and the value.",
             found = paste0("It is ", shape_of(widen), "."),
             advice = "As in widen = c(\"cast\", \"depth\", \"salinity\").")
  }
}

name_columns <- function(table, columns, name) {
  if (is.null(columns) || isTRUE(columns)) {
    return(table)
  }
  if (isFALSE(columns)) columns <- paste0("column_", seq_along(table))
  if (!is.character(columns)) {
    fl_abort("argument", "`columns` must hold the names of all columns, or FALSE.",
             found = paste0("It is ", shape_of(columns), "."))
  }
  if (length(columns) != ncol(table)) {
    fl_abort("argument", paste0("`columns` must name every column of ", name, "."),
             found = paste0(counted(length(columns), "name"), " for ", counted(ncol(table), "column"), "."))
  }
  stats::setNames(table, columns)
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
             found = paste0("Column ", empty[1L], " has none."),
             advice = "Name it, or give all names with `columns`.")
  }
  reserved <- grep("^[.][.]([.]|[0-9]+)$", columns, value = TRUE)
  if (length(reserved) > 0L) {
    fl_abort("table", paste0("No column of ", name, " can be called ", quoted(reserved[1L]), "."),
             found = "R keeps names of that form for itself.", advice = "Rename it, or give all names with `columns`.")
  }
  twice <- columns[duplicated(columns)]
  if (length(twice) > 0L) {
    fl_abort("table", paste0("Column names of ", name, " must differ."),
             found = paste0(quoted(twice[1L]), " appears more than once."),
             advice = "Rename one of them, or give all names with `columns`.")
  }
  listed_columns <- columns[vapply(table, function(v) is.list(v) || !is.null(dim(v)), NA)]
  if (length(listed_columns) > 0L) {
    fl_abort("table", paste0("Column ", quoted(listed_columns[1L]), " of ", name,
                             " holds lists or tables, not values."),
             advice = "Take one value per row out of it first.")
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

#' @export
as.data.frame.fl_data <- function(x, ...) x$table
