# Workbooks, JSON and databases. Each form's library does the reading and is asked for when it is needed.

need_package <- function(package, purpose) {
  if (!rlang::is_installed(package)) {
    fl_abort("package", paste0(purpose, " needs the package ", quoted(package), ", which is not installed."),
             advice = paste0("install.packages(\"", package, "\")"))
  }
}

read_workbook <- function(file, how, shown, form) {
  need_package("readxl", "Reading Excel files")
  advice <- "It must be an Excel workbook (.xlsx or .xls) that opens without a password."
  refuse <- function(e) refuse_file(shown, conditionMessage(e), advice)
  sheets <- tryCatch(readxl::excel_sheets(file), error = refuse)
  sheet <- chosen_sheet(how$sheet, sheets, shown)
  header <- is.null(how$columns) || isTRUE(how$columns)
  # All rows are looked at before a column's type is settled: the first thousand may be empty.
  table <- withCallingHandlers(
    tryCatch(readxl::read_excel(file, sheet = sheet, col_names = header, na = missing_spellings, guess_max = 1048576L,
                                .name_repair = "minimal", progress = FALSE), error = refuse),
    warning = function(w) invokeRestart("muffleWarning")
  )
  table <- as.data.frame(table, optional = TRUE)
  said <- if (is.null(how$sheet) && length(sheets) > 1L) {
    paste0("sheet ", quoted(sheet), ", the first of ", length(sheets))
  }
  # Cells that once held something give columns without name or value.
  hollow <- (is.na(names(table)) | !nzchar(names(table))) & vapply(table, function(v) all(is.na(v)), NA)
  if (!header) names(table) <- paste0("column_", seq_along(table))
  if (header) table <- without_columns(table, hollow)
  list(table = table, said = said)
}

chosen_sheet <- function(sheet, sheets, shown) {
  if (is.null(sheet)) {
    return(sheets[1L])
  }
  if (rlang::is_string(sheet) && sheet %in% sheets) {
    return(sheet)
  }
  number <- suppressWarnings(as.numeric(sheet))
  if (length(number) == 1L && !is.na(number) && number %in% seq_along(sheets)) {
    return(sheets[number])
  }
  fl_abort("file", paste0(quoted(shown), " has no sheet ", if (length(sheet) == 1L) code(sheet) else shape_of(sheet),
                          "."),
           advice = did_you_mean(as.character(sheet)[1L], sheets, "Its sheets are"))
}

# An array of records, or one record per line.
read_json <- function(file, how, shown, form) {
  lines <- readLines(file, warn = FALSE, encoding = "UTF-8")
  lines[1L] <- without_mark(lines[1L])
  if (!all(validUTF8(lines))) {
    refuse_json(shown, paste0("Line ", which(!validUTF8(lines))[1L], " is not UTF-8."))
  }
  filled <- which(nzchar(trimws(lines)))
  if (length(filled) == 0L) refuse_json(shown, "It holds blank lines only.")
  whole <- form == "json" && grepl("^\\s*\\[", lines[filled[1L]])
  records <- if (whole) parse_array(lines, shown) else parse_lines(lines, filled, shown)
  if (!is.data.frame(records) || ncol(records) == 0L) {
    refuse_json(shown, "Its elements are not records of named values.")
  }
  list(table = records, said = NULL)
}

parse_array <- function(lines, shown) {
  text <- paste(lines, collapse = "\n")
  tryCatch(jsonlite::parse_json(text, simplifyVector = TRUE, flatten = TRUE), error = function(e) {
    offset <- attr(jsonlite::validate(text), "offset") %||% nchar(text)
    before <- substr(text, 1L, offset)
    line <- lengths(regmatches(before, gregexpr("\n", before, fixed = TRUE))) + 1L
    refuse_json(shown, paste0("Line ", line, ": ", first_words(conditionMessage(e)), "."))
  })
}

parse_lines <- function(lines, filled, shown) {
  other <- filled[!startsWith(trimws(lines[filled]), "{")]
  if (length(other) > 0L) {
    refuse_json(shown, paste0("Line ", other[1L], " is not a record: ", substr(lines[other[1L]], 1L, 60L)))
  }
  connection <- textConnection(lines[filled], encoding = "UTF-8")
  on.exit(close(connection))
  tryCatch(jsonlite::flatten(jsonlite::stream_in(connection, verbose = FALSE)), error = function(e) {
    bad <- Find(function(i) !jsonlite::validate(lines[i]), filled)
    refuse_json(shown, if (is.null(bad)) first_words(conditionMessage(e))
                else paste0("Line ", bad, " is not a complete record: ", substr(lines[bad], 1L, 60L)))
  })
}

first_words <- function(message) trimws(gsub("\\s+", " ", sub("\n.*", "", message)))

refuse_json <- function(file, why) {
  refuse_file(file, why, "It must be a JSON array of records, or one record per line.")
}
