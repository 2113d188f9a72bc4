# Tables handed on as files.

table_forms <- c("csv", "tsv", "xlsx", "parquet", "json")
sheet_rows <- 1048575L   # of data, below the header
sheet_cell <- 32767L     # characters

#' Write a result as a table
#'
#' A partition becomes the original table, every row in its order, with a column `group` added: empty where a row
#' could not be clustered, 0 for noise; and, once the groups have names ([fl_name()]), `group_name`. Where the table
#' already has such a column, the new one is called `fjordline_group` or `fjordline_group_name`. Rows placed by
#' [fl_place()] become the new table in the same way. Any other result becomes the table of its `as.data.frame()`.
#'
#' The file is written whole or not at all.
#'
#' @section A query: A file ending in `.sql` gets one query that places rows where they live: it reads a table of the
#'   database, prepares its rows as those of the fit were, and gives `group_number` (0 for none of these, NULL where a
#'   value is missing or was never seen), `group_name` and `nearest_group` beside the columns that `beside` names. These
#'   are the labels of `predict()`, up to rounding on a border. k-means, k-medoids, fuzzy, mixed prototypes, mixtures of
#'   every structure, and methods of yours that place by centres can be written; others place rows by the nearest fitted
#'   row and are refused, as are missing values filled from the nearest rows. Infinite numbers count as missing. Text in
#'   a number column that is no plain number is an error in PostgreSQL and missing in SQLite. SQLite must be built with
#'   its mathematical functions where a column was transformed; the file says so. Drift is not looked at: see
#'   [fl_place()].
#' @section PMML: A file ending in `.pmml` gets the model in the Predictive Model Markup Language, version 4.4, which
#'   other systems score: columns and levels, the preparation, centres, and as output `nearest group`, the `distance to`
#'   each, `group number` (0 for none of these, missing where a value is missing or was never seen) and `group name`.
#'   For k-means, k-medoids, fuzzy and mixed prototypes; the standard has no words for the densities of a mixture.
#'   Package xml2 is needed.
#' @section Formulas: A spreadsheet runs a cell that begins with `=`, `+`, `-` or `@` (plain numbers apart), also behind
#'   blanks, or with a tab or line break; and one that reads commas, semicolons, tabs, bars or quotes as the ends of
#'   cells runs what stands behind them. In CSV and TSV such text, column names included, is therefore written with an
#'   apostrophe in front of the sign, and a warning of class `fjordline_warning_formula` says how many cells that were
#'   (`formulas = "neutralise"`); `"refuse"` stops instead, and `"keep"` writes them as they are. In XLSX, text stays
#'   text and is not run; Parquet and JSON are written as they are.
#' @param x The object.
#' @param file Path ending in `.csv`, `.tsv`, `.xlsx` (package openxlsx), `.parquet` (nanoparquet) or `.json` (an array
#'   with an object a row); of a partition also `.sql` or `.pmml`.
#' @param what Of a partition: `"rows"`, or `"centres"`, one row per group with its name, size and centre in original
#'   units.
#' @param group Of a partition: only the rows of these groups, by number or name.
#' @param formulas `"neutralise"`, `"refuse"` or `"keep"`.
#' @param decimal Decimal sign of a CSV file: `"."`, or `","` with semicolons between the fields.
#' @param dialect Of a query: `"standard"`, `"postgresql"` or `"sqlite"`.
#' @param table Of a query: the name of the table to read, or schema and name; that of the fitted table if left out.
#' @param beside Of a query: columns to hand along. Left out, those that identify a row, or where there are none the
#'   columns the groups were made from.
#' @param reach Of a query or PMML: how far groups reach, as in [fl_place()].
#' @return `file`, invisibly.
#' @section Errors: `fjordline_error_file` for another ending, a folder that does not exist or cannot be written, or a
#'   table too large for a sheet; `fjordline_error_formula` for text that would run, where that is refused;
#'   `fjordline_error_package` when the package for the form is missing; `fjordline_error_model` for the rows of a
#'   partition loaded from a file, which has no table; `fjordline_error_method` for groups that cannot be written as a
#'   query or in PMML; `fjordline_error_argument` for an argument that is not for this file.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' file <- tempfile(fileext = ".csv")
#' fl_export(groups, file)
#' readLines(file, n = 2)
#' fl_export(groups, file, what = "centres")
#' readLines(file, n = 2)
#'
#' # the same labels made in a database
#' query <- tempfile(fileext = ".sql")
#' fl_export(groups, query, dialect = "sqlite")
#' readLines(query, n = 6)
#' @export
fl_export <- function(x, file, what = "rows", group = NULL, formulas = "neutralise", decimal = ".",
                      dialect = "standard", table = NULL, beside = NULL, reach = 1) {
  check_text(file, "file")
  if (tolower(tools::file_ext(file)) == query_form) {
    check_for_rows(what, group, formulas, decimal)
    return(write_query(x, file, table, beside, reach, dialect))
  }
  check_not_query(file, dialect != "standard" || !is.null(table) || !is.null(beside),
                  "`dialect`, `table` and `beside`", ".sql")
  if (tolower(tools::file_ext(file)) == pmml_form) {
    check_for_rows(what, group, formulas, decimal)
    return(write_pmml(x, file, reach))
  }
  check_not_query(file, !identical(reach, 1), "`reach`", ".sql or .pmml")
  check_choice(what, c("rows", "centres"), "what")
  check_choice(formulas, c("neutralise", "refuse", "keep"), "formulas")
  check_choice(decimal, c(".", ","), "decimal")
  if (decimal == "," && file_form(file, table_forms) != "csv") {
    fl_abort("argument", "`decimal` is for CSV files.", found = paste0("The file is ", quoted(basename(file)), "."))
  }
  export_table(exported_table(x, what, group), file, formulas, decimal)
}

check_for_rows <- function(what, group, formulas, decimal) {
  if (what != "rows" || !is.null(group) || formulas != "neutralise" || decimal != ".") {
    fl_abort("argument", "`what`, `group`, `formulas` and `decimal` are for tables, not for a query or a model.")
  }
}

check_not_query <- function(file, given, arguments, endings) {
  if (given) {
    fl_abort("argument", paste0(arguments, " can be given for files that end in ", endings, "."),
             found = paste0("The file is ", quoted(basename(file)), "."))
  }
}

exported_table <- function(x, what, group) {
  if (!any(startsWith(class(x), "fl_"))) {
    fl_abort("argument", "`x` must be a result of this package.", found = paste0("It is ", shape_of(x), "."))
  }
  partition <- inherits(x, "fl_partition")
  if (!partition && (what != "rows" || !is.null(group))) {
    fl_abort("argument", "`what` and `group` are for partitions.", found = paste0("x is ", shape_of(x), "."))
  }
  if (what == "centres") {
    rows <- if (!is.null(group)) rows_by_group(x, group)
    chosen <- if (is.null(group)) seq_len(x$k) else sort(unique(x$group[rows]))
    return(centres_table(x)[chosen, , drop = FALSE])
  }
  if (partition) {
    table <- grouped_table(x)
    return(if (is.null(group)) table else table[rows_by_group(x, group), , drop = FALSE])
  }
  if (inherits(x, "fl_place")) with_names(x$table, x$partition, x$rows$group, x$rows$name) else as.data.frame(x)
}

# Number, name, size and centre of every group.
centres_table <- function(x) {
  out <- x$groups
  own <- c("group", "name", "rows", "share", "scatter")
  centre <- out[, -(1:4), drop = FALSE]
  names(centre) <- beside_own(attr(out, "columns"), own)
  data.frame(group = out$group, name = group_names(x), rows = out$rows, share = out$share, scatter = out$scatter,
             as.data.frame(centre, optional = TRUE), check.names = FALSE)
}

export_table <- function(table, file, formulas = "neutralise", decimal = ".") {
  form <- file_form(file, table_forms)
  table <- as.data.frame(table, optional = TRUE)
  if (form %in% c("csv", "tsv")) table <- without_formulas(table, formulas)
  write_whole(file, function(draft) {
    if (decimal == ",") write_text_table(table, draft, ";", decimal) else table_writers[[form]](table, draft)
    check_rows_written(table, draft, form, file)
  })
}

# Rows in, rows out: what was written is counted again where its form tells.
check_rows_written <- function(table, draft, form, file) {
  written <- switch(form, csv = , tsv = if (ncol(table) > 1L) text_records(draft) - 1,
                    parquet = as.double(nanoparquet::read_parquet_info(draft)$num_rows))
  if (!is.null(written) && written != nrow(table)) {
    fl_abort("file", paste0(quoted(file), " could not be written whole."),
             found = paste0(thousands(written), " of ", counted(nrow(table), "row"), " arrived."))
  }
}

table_writers <- list(
  csv = function(table, file) write_text_table(table, file, ","),
  tsv = function(table, file) write_text_table(table, file, "\t"),
  xlsx = function(table, file) {
    need_package("openxlsx", "Writing Excel files")
    openxlsx::write.xlsx(sheet_table(table), file)
  },
  parquet = function(table, file) {
    need_package("nanoparquet", "Writing Parquet files")
    nanoparquet::write_parquet(table, file)
  },
  json = function(table, file) {
    jsonlite::write_json(table, file, dataframe = "rows", na = "null", digits = NA, auto_unbox = TRUE,
                         POSIXt = "ISO8601", pretty = FALSE)
  }
)

write_text_table <- function(table, file, separator, decimal = ".") {
  data.table::fwrite(table, file, sep = separator, dec = decimal, na = "", quote = "auto", dateTimeAs = "write.csv")
}

# What a sheet can hold: so many rows, cells of so many characters, no control characters.
sheet_table <- function(table) {
  if (nrow(table) > sheet_rows) {
    fl_abort("file", paste0("A sheet holds ", thousands(sheet_rows), " rows."),
             found = paste0("The table has ", thousands(nrow(table)), "."), advice = "CSV and Parquet hold any number.")
  }
  text <- vapply(table, function(v) is.character(v) || is.factor(v), NA)
  table[text] <- lapply(table[text], function(v) {
    v <- gsub("[\x01-\x08\x0b\x0c\x0e-\x1f]", "", as.character(v))
    long <- which(nchar(v) > sheet_cell)
    if (length(long) > 0L) {
      fl_abort("file", paste0("A cell of a sheet holds ", thousands(sheet_cell), " characters."),
               found = paste0("Row ", long[1L], " has ", thousands(nchar(v[long[1L]])), "."))
    }
    v
  })
  table
}

# --- text that a spreadsheet would run

without_formulas <- function(table, formulas) {
  if (formulas == "keep") {
    return(table)
  }
  text <- vapply(table, function(v) is.character(v) || is.factor(v), NA)
  cells <- lapply(table[text], function(v) which(runs_as_formula(as.character(v))))
  heads <- which(runs_as_formula(names(table)))
  found <- length(heads) + sum(lengths(cells))
  if (found == 0L) {
    return(table)
  }
  running <- cells[lengths(cells) > 0L]
  first <- if (length(heads) > 0L) paste0("the name of column ", heads[1L])
  else paste0("row ", running[[1L]][1L], " of column ", quoted(names(running)[1L]))
  if (formulas == "refuse") {
    fl_abort("formula", paste0("A spreadsheet would run ", counted(found, "cell"), " as formulas."),
             found = paste0("The first is ", first, "."),
             advice = "formulas = \"neutralise\" puts an apostrophe in front.")
  }
  for (column in names(running)) {
    values <- as.character(table[[column]])
    values[running[[column]]] <- neutralised(values[running[[column]]])
    table[[column]] <- values
  }
  names(table)[heads] <- neutralised(names(table)[heads])
  fl_warn("formula", paste0(counted(found, "cell"), " that a spreadsheet would run as a formula ",
                            if (found == 1L) "has" else "have", " an apostrophe in front now (", first, ")."),
          advice = "formulas = \"keep\" writes them as they are.")
  table
}

# Where a program may see the start of a formula: at the start of the text, or behind what another program takes for the
# end of a cell; blanks and marks in front do not help. Full-width forms count too, plain numbers and single signs not.
# Behind a separator a plus or minus is usually prose, unless a call, a pipe or another sheet follows.
formula_blanks <- "[\\s\\p{Z}\ufeff\u200b]*"
cell_ends <- "[,;|\t\r\n\"]"
formula_first <- paste0("^", formula_blanks, "[=+@\uff1d\uff0b\uff0d\uff20-]")
formula_behind <- paste0("(", cell_ends, formula_blanks, ")(?=[=@\uff1d\uff20]|[+\uff0b\uff0d-].*[(|!])")

runs_as_formula <- function(text) {
  begins <- grepl(formula_first, text, perl = TRUE)
  bare <- gsub(formula_blanks, "", text[begins], perl = TRUE)
  begins[begins] <- nchar(bare) > 1L & is.na(suppressWarnings(as.numeric(bare)))
  breaks <- grepl("^[\t\r\n]", text) & nchar(text) > 1L
  (begins | breaks | grepl(formula_behind, text, perl = TRUE)) & !is.na(text)
}

neutralised <- function(text) {
  text <- gsub(formula_behind, "\\1'", text, perl = TRUE)
  ahead <- runs_as_formula(text)
  text[ahead] <- paste0("'", text[ahead])
  text
}
