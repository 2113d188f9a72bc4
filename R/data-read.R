# Files and connections into a data frame: one reader a form. A reader gives the table and, in sentences, what it had
# to find out for itself (a separator, an encoding, a sheet); what it finds odd becomes an error here.

file_readers <- function() {
  list(csv = read_text, tsv = read_text, txt = read_text, xlsx = read_workbook, xls = read_workbook,
       parquet = read_parquet_file, json = read_json, ndjson = read_json, jsonl = read_json, sqlite = read_sqlite)
}

text_forms <- c("csv", "tsv", "txt", "json", "ndjson", "jsonl")

# `how`: sheet, query, columns and reading, as the user gave them.
read_table <- function(file, how = list()) {
  check_file(file, "table")
  ending <- tolower(tools::file_ext(file))
  packed <- ending == "gz"
  form <- if (packed) tolower(tools::file_ext(sub("[.][gG][zZ]$", "", file))) else ending
  readers <- file_readers()
  if (!form %in% names(readers) || (packed && !form %in% text_forms)) {
    fl_abort("file", paste0("The ending of ", quoted(basename(file)), " is not one this can read."),
             advice = paste0("Use ", listed(paste0(".", names(readers)), "or"), "; text forms also as .gz."))
  }
  if (file.size(file) == 0) {
    fl_abort("file", paste0(quoted(file), " is empty."), advice = "It needs a header line and one line per row.")
  }
  check_reading_options(how, form)
  source <- if (packed) unpack_gzip(file) else file
  if (packed) on.exit(unlink(source))
  out <- readers[[form]](source, how, shown = file, form = form)
  if (!form %in% c("csv", "tsv", "txt")) check_utf8(out$table, quoted(basename(file)))
  if (nrow(out$table) > 0L) out$table <- plain_columns(out$table)
  out
}

# Text of any other form than delimited text is UTF-8 by its own rules; where it is not, every word of it may be wrong.
check_utf8 <- function(table, shown) {
  wrong <- function(where) {
    fl_abort("file", paste0("Text of ", shown, " is not UTF-8."), found = paste0("The first is ", where, "."),
             advice = "Write the table again with its text as UTF-8.")
  }
  bad <- which(!validUTF8(names(table)))
  if (length(bad) > 0L) wrong(paste0("the name of column ", bad[1L]))
  for (j in seq_along(table)) {
    text <- if (is.factor(table[[j]])) levels(table[[j]])[table[[j]]] else table[[j]]
    if (!is.character(text)) next
    bad <- which(!validUTF8(text))
    if (length(bad) > 0L) wrong(paste0("in row ", bad[1L], " of column ", quoted(names(table)[j])))
  }
  table
}

# Options that a form cannot use are refused, never ignored.
check_reading_options <- function(how, form) {
  no_use <- function(argument, forms) {
    if (!is.null(how[[argument]]) && !form %in% forms) {
      fl_abort("argument", paste0("`", argument, "` is of no use for a ", form, " file."),
               advice = paste0("It is for ", listed(forms, "and"), "."))
    }
  }
  no_use("sheet", c("xlsx", "xls"))
  no_use("reading", c("csv", "tsv", "txt"))
  no_use("columns", c("csv", "tsv", "txt", "xlsx", "xls"))
  no_use("query", "sqlite")
}

refuse_file <- function(file, why, advice) {
  fl_abort("file", paste0(quoted(file), " could not be read as a table."), found = why, advice = advice)
}

# A gzip file, unpacked beside nothing of the user's.
unpack_gzip <- function(file) {
  cut <- function(why) refuse_file(file, paste0("Its compressed content is cut short or damaged (", why, ")."),
                                   "Fetch or pack the file again.")
  out <- tempfile(fileext = paste0(".", tools::file_ext(sub("[.][gG][zZ]$", "", file))))
  from <- gzfile(file, "rb")
  to <- file(out, "wb")
  on.exit({
    close(from)
    close(to)
  })
  tryCatch(
    repeat {
      block <- readBin(from, "raw", 2^24)
      if (length(block) == 0L) break
      writeBin(block, to)
    },
    error = function(e) cut(conditionMessage(e)), warning = function(w) cut(conditionMessage(w))
  )
  flush(to)
  if (!ends_as_packed(file, file.size(out))) cut("its end does not tell the length that came out")
  out
}

# A packed file ends with its length (RFC 1952); reading one that is cut short ends without a word. Where several were
# joined it is that of the last, and gzip itself, if it is there, looks through all of them.
ends_as_packed <- function(file, size) {
  bytes <- file.size(file)
  connection <- file(file, "rb")
  on.exit(close(connection))
  head <- readBin(connection, "raw", 2L)
  if (!identical(head, as.raw(c(0x1f, 0x8b)))) {
    return(TRUE)  # plain text under a packed name is read as it is
  }
  seek(connection, max(0, bytes - 4))
  last <- sum(as.integer(readBin(connection, "raw", 4L)) * 256^(0:3))
  if (bytes >= 18 && last == size %% 2^32) {
    return(TRUE)
  }
  tool <- Sys.which("gzip")
  nzchar(tool) && suppressWarnings(system2(tool, c("-t", shQuote(file)), stdout = FALSE, stderr = FALSE)) == 0L
}

# Text without the UTF-8 mark at its start; by bytes, so that it works in any locale.
without_mark <- function(text) {
  bytes <- charToRaw(text)
  if (!identical(utils::head(bytes, 3L), as.raw(c(0xef, 0xbb, 0xbf)))) {
    return(text)
  }
  out <- rawToChar(bytes[-(1:3)])
  Encoding(out) <- Encoding(text)
  out
}

# Columns left out; repeated names stay repeated, so that they are found.
without_columns <- function(table, out) {
  stats::setNames(table[!out], names(table)[!out])
}

# --- what every source's columns go through

plain_columns <- function(table) {
  table[] <- lapply(table, plain_column)
  table
}

# Dates written as text, days stored as moments, long whole numbers.
plain_column <- function(values) {
  if (inherits(values, "integer64")) plain_long(as.character(values))
  else if (is.character(values)) plain_dates(values)
  else if (inherits(values, "POSIXt")) plain_days(values)
  else if (is.factor(values)) values
  else if (is.list(values)) plain_list(values)
  else values
}

# Whole numbers beyond 2^53 would lose their last digits: they stay text.
plain_long <- function(values) {
  digits <- nchar(sub("^-", "", values))
  if (all(is.na(values) | digits < 16L)) as.double(values) else values
}

# Text written as 2031-04-03 throughout is a date; 2031-04-03 10:20 throughout a moment (UTC unless it says Z).
plain_dates <- function(values) {
  present <- values[!is.na(values)]
  if (length(present) == 0L || !grepl("^\\d{4}-\\d{2}-\\d{2}", present[1L])) {
    return(values)
  }
  if (all(grepl("^\\d{4}-\\d{2}-\\d{2}$", present))) {
    dates <- as.Date(values, format = "%Y-%m-%d")
    return(if (anyNA(dates[!is.na(values)])) values else dates)
  }
  plain_moments(values, present)
}

plain_moments <- function(values, present) {
  if (!all(grepl("^\\d{4}-\\d{2}-\\d{2}[T ]\\d{2}:\\d{2}(:\\d{2}([.]\\d+)?)?Z?$", present))) {
    return(values)
  }
  text <- sub("Z$", "", sub("T", " ", values, fixed = TRUE))
  text <- ifelse(grepl(" \\d{2}:\\d{2}$", text), paste0(text, ":00"), text)
  moments <- as.POSIXct(text, format = "%Y-%m-%d %H:%M:%OS", tz = "UTC")
  if (anyNA(moments[!is.na(values)])) values else moments
}

plain_days <- function(values) {
  values <- as.POSIXct(values)
  seconds <- as.double(values)[!is.na(values)]
  if (length(seconds) > 0L && all(seconds %% 86400 == 0)) as.Date(values, tz = "UTC") else values
}

# One value a cell, or none, is a plain column.
plain_list <- function(values) {
  if (!all(lengths(values) <= 1L) || !all(vapply(values, function(v) is.null(v) || is.atomic(v), NA))) {
    return(values)
  }
  values[lengths(values) == 0L] <- NA
  unlist(values, use.names = FALSE)
}
