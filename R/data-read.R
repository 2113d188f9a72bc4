# Delimited text into a data frame. Parsing is data.table's; what it finds odd becomes an error here.

missing_spellings <- c("", "NA", "N/A", "n/a", "NaN", "nan", "null")

read_table <- function(file) {
  check_file(file, "table")
  file_form(file, c("csv", "tsv", "txt"))
  if (file.size(file) == 0) {
    fl_abort("file", paste0(quoted(file), " is empty."), advice = "It needs a header line and one line a row.")
  }
  table <- withCallingHandlers(
    tryCatch(
      data.table::fread(file, data.table = FALSE, na.strings = missing_spellings, integer64 = "double", dec = ".",
                        keepLeadingZeros = TRUE, showProgress = FALSE, encoding = "UTF-8", header = TRUE),
      error = function(e) refuse_file(file, conditionMessage(e))
    ),
    warning = function(w) {
      if (grepl("line|quote|column|EOF|embedded|nul", conditionMessage(w), ignore.case = TRUE)) {
        refuse_file(file, conditionMessage(w))
      }
      invokeRestart("muffleWarning")
    }
  )
  check_utf8(table, file)
  table[] <- lapply(table, plain_dates)
  table
}

# Text written as 2031-04-03 throughout is a date. (Asked to keep leading zeros, the reader leaves it as text.)
plain_dates <- function(values) {
  present <- if (is.character(values)) values[!is.na(values)] else character()
  if (length(present) == 0L || !all(grepl("^\\d{4}-\\d{2}-\\d{2}$", present))) {
    return(values)
  }
  dates <- as.Date(values, format = "%Y-%m-%d")
  if (anyNA(dates[!is.na(values)])) values else dates
}

check_utf8 <- function(table, file) {
  bad_name <- which(!validUTF8(names(table)))
  if (length(bad_name) > 0L) refuse_file(file, paste0("The name of column ", bad_name[1L], " is not UTF-8."))
  for (column in names(table)[vapply(table, is.character, NA)]) {
    bad <- which(!validUTF8(table[[column]]))
    if (length(bad) > 0L) {
      refuse_file(file, paste0("Line ", bad[1L] + 1L, " is not UTF-8 (column ", quoted(column), ")."))
    }
  }
}

refuse_file <- function(file, why) {
  fl_abort("file", paste0(quoted(file), " could not be read as a table."),
           found = gsub("\\s+", " ", sub("Consider .*|If this .*", "", why)),
           advice = paste("It must be UTF-8 text with the same number of fields in every line,",
                          "separated by commas, semicolons or tabs."))
}
