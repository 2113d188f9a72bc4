# Delimited text. Parsing is data.table's; separator, decimal sign, encoding and header are settled here, and said.

missing_spellings <- c("", "NA", "N/A", "n/a", "NaN", "nan", "null", "NULL", "#N/A")

separators <- c(comma = ",", semicolon = ";", tab = "\t", bar = "|")

read_text <- function(file, how, shown, form) {
  given <- check_text_options(how$reading)
  found <- look_at_text(file, shown, given)
  if (!is.null(found$recoded)) on.exit(unlink(found$recoded))
  source <- found$recoded %||% file
  separator <- given[["separator"]] %||% found$separator
  header <- is.null(how$columns) || isTRUE(how$columns)
  skip <- if (is.null(given[["skip"]])) list() else list(skip = as.integer(given[["skip"]]))
  parse <- function(...) do.call(parse_text, c(list(source, shown, separator), skip, list(...)))
  first <- parse(header = FALSE, nrows = 1L, colClasses = "character", na.strings = NULL)
  table <- parse(header = header, dec = given[["decimal"]] %||% ".")
  check_first_line(found$lines, separator, names(table), shown, given[["skip"]])
  check_no_row_lost(source, nrow(table) + header, given[["skip"]], ncol(table), shown)
  said <- character()
  if (is.null(given[["decimal"]]) && separator != "," && has_decimal_commas(table)) {
    table <- with_points(parse(header = header, dec = ","))
    said <- "decimal commas"
  }
  if (header) {
    named <- header_names(names(table), unlist(first, use.names = FALSE))
    names(table) <- named$names
    said <- c(said, named$said)
    # what a separator at the end of every line makes
    hollow <- named$empty & vapply(table, function(v) all(is.na(v)), NA)
    if (!all(hollow)) table <- without_columns(table, hollow)
  }
  table <- single_quotes(table)
  recoded <- recode_table(table, shown, given[["encoding"]], header)
  table <- recoded$table
  long <- vapply(table, function(v) is.character(v) && any(nchar(v) >= 10L, na.rm = TRUE) &&
                   all(grepl("^-?[1-9][0-9]*$", v[!is.na(v)])), NA)
  table[long] <- lapply(table[long], plain_long)
  said <- c(if (is.null(given[["separator"]]) && separator != if (form == "tsv") "\t" else ",") {
    paste0(names(separators)[match(separator, separators)], "s between the fields")
  }, said, found$said, recoded$said)
  list(table = table, said = said)
}

check_text_options <- function(reading) {
  if (is.null(reading)) {
    return(list())
  }
  known <- c("separator", "decimal", "encoding", "skip")
  if (!(is.atomic(reading) || is.list(reading)) || is.null(names(reading))) {
    fl_abort("argument", "`reading` must be named, as in c(separator = \";\", decimal = \",\", encoding = \"latin1\").",
             found = paste0("It is ", shape_of(reading), "."))
  }
  reading <- as.list(reading)
  for (name in names(reading)) check_choice(name, known, "reading")
  reading <- lapply(reading, function(value) if (is.numeric(value)) format(value) else value)
  for (name in names(reading)) check_text_value(reading[[name]], name)
  if (!is.null(reading$skip) && !grepl("^[0-9]{1,6}$", reading$skip)) {
    fl_abort("argument", "reading: `skip` must be a number of lines.", found = paste0("It is ", quoted(reading$skip),
                                                                                      "."))
  }
  if (!is.null(reading$separator)) {
    word <- match(reading$separator, names(separators))
    if (!is.na(word)) reading$separator <- separators[[word]]
    if (nchar(reading$separator) != 1L) {
      fl_abort("argument", "The separator must be one character, or a word for it.",
               found = paste0("It is ", quoted(reading$separator), "."),
               advice = paste0("Words: ", listed(names(separators)), "."))
    }
  }
  words <- c(point = ".", comma = ",")
  if (isTRUE(reading$decimal %in% names(words))) reading$decimal <- words[[reading$decimal]]
  if (!is.null(reading$decimal)) check_choice(reading$decimal, c(".", ","), "decimal")
  if (!is.null(reading$encoding) && !tolower(reading$encoding) %in% tolower(iconvlist())) {
    fl_abort("argument", paste0("The encoding ", quoted(reading$encoding), " is not known here."),
             advice = "Try \"UTF-8\", \"latin1\", \"windows-1252\" or \"UTF-16\".")
  }
  reading
}

check_text_value <- function(value, name) {
  if (!rlang::is_string(value) || !nzchar(value)) {
    fl_abort("argument", paste0("reading: `", name, "` must be text."), found = paste0("It is ", shape_of(value), "."))
  }
}

# --- a look before parsing: byte-order mark, NUL bytes, separator

look_at_text <- function(file, shown, given) {
  start <- readBin(file, "raw", 65536L)
  wide <- wide_encoding(start, given[["encoding"]])
  said <- character()
  recoded <- NULL
  if (!is.null(wide)) {
    recoded <- recode_file(file, shown, wide)
    start <- readBin(recoded, "raw", 65536L)
    said <- paste0("encoding ", wide)
  }
  refuse_nul(recoded %||% file, shown)
  text <- without_mark(rawToChar(start))
  lines <- first_lines(text, length(start) == 65536L, as.integer(given[["skip"]] %||% 0L))
  list(separator = guess_separator(lines), lines = lines, recoded = recoded, said = said)
}

# The first lines that are not blank, without what stands in quotes.
first_lines <- function(text, cut, skip) {
  text <- gsub("\"([^\"]|\"\")*\"", "", text, useBytes = TRUE)
  lines <- strsplit(text, "\r\n|\n|\r", useBytes = TRUE)[[1L]]
  if (cut && length(lines) > 1L) lines <- lines[-length(lines)]
  if (skip > 0L) lines <- lines[-seq_len(min(skip, length(lines)))]
  utils::head(lines[nzchar(lines)], 50L)
}

# The parser passes over lines above the table without a word; they may be a title, or the header itself.
check_first_line <- function(lines, separator, columns, shown, skip) {
  if (length(lines) == 0L) {
    return(invisible())
  }
  fields <- count_of(separator, lines[1L]) + 1L
  # a header may leave out the name of a first column of row names
  unnamed <- fields == length(columns) - 1L && columns[1L] == "V1"
  if (fields != length(columns) && !unnamed) {
    refuse_text(shown, paste0("The first line has ", counted(fields, "field"), ", the lines below ", length(columns),
                              "."),
                paste0("If it is a title: reading = c(skip = ", as.integer(skip %||% 0L) + 1L,
                       ") leaves out that many lines; else correct it."))
  }
}

# Every line of the file that holds something is a row of the table, or its header. (Of a single column a blank line is
# a row as well.)
check_no_row_lost <- function(file, read, skip, columns, shown) {
  records <- text_records(file, as.integer(skip %||% 0L))
  if (columns > 1L && read < records) {
    refuse_text(shown, paste0("It holds ", counted(records, "line"), " with values, and ", thousands(read),
                              " could be read."))
  }
}

# Lines that hold something, those within quotes counted as one.
text_records <- function(file, skip = 0L) {
  from <- file(file, "rb")
  on.exit(close(from))
  if (skip > 0L) readLines(from, skip, warn = FALSE)
  so_far <- c(0, 0, 0)
  while (length(block <- readBin(from, "raw", 2^22)) > 0L) so_far <- records_kernel(block, so_far)
  so_far[1L] + so_far[2L]
}

count_of <- function(separator, lines) {
  lengths(regmatches(lines, gregexpr(separator, lines, fixed = TRUE, useBytes = TRUE)))
}

wide_encoding <- function(start, given) {
  if (!is.null(given)) {
    return(if (grepl("^(utf|ucs)-?(16|32)", given, ignore.case = TRUE)) given)
  }
  mark <- as.integer(utils::head(start, 4L))
  if (identical(mark, c(0xffL, 0xfeL, 0L, 0L))) return("UTF-32LE")
  if (identical(mark, c(0L, 0L, 0xfeL, 0xffL))) return("UTF-32BE")
  mark <- utils::head(mark, 2L)
  if (identical(mark, c(0xffL, 0xfeL))) "UTF-16LE" else if (identical(mark, c(0xfeL, 0xffL))) "UTF-16BE"
}

recode_file <- function(file, shown, encoding) {
  bytes <- readBin(file, "raw", file.size(file))
  text <- tryCatch(iconv(list(bytes), encoding, "UTF-8"), error = function(e) NA)
  if (is.na(text)) refuse_text(shown, paste0("It is not ", encoding, " throughout."))
  out <- tempfile(fileext = ".csv")
  writeBin(charToRaw(without_mark(text)), out)
  out
}

refuse_nul <- function(file, shown) {
  from <- file(file, "rb")
  on.exit(close(from))
  before <- 0
  repeat {
    block <- readBin(from, "raw", 2^20)
    if (length(block) == 0L) break
    at <- grepRaw(as.raw(0L), block, fixed = TRUE)
    if (length(at) > 0L) {
      line <- lines_within(file, before + at) + 1
      refuse_text(shown, paste0("Line ", line, " holds a NUL byte: it may be no text, or UTF-16 without its mark."),
                  "If it is UTF-16, give reading = c(encoding = \"UTF-16LE\").")
    }
    before <- before + length(block)
  }
}

# Line ends among the first bytes of a file.
lines_within <- function(file, bytes) {
  from <- file(file, "rb")
  on.exit(close(from))
  lines <- 0
  while (bytes > 0 && length(block <- readBin(from, "raw", min(bytes, 2^20))) > 0L) {
    lines <- lines + sum(block == as.raw(10L))
    bytes <- bytes - length(block)
  }
  lines
}

# The separator that stands equally often in each of the first lines; in doubt the one most frequent in the header.
guess_separator <- function(lines) {
  if (length(lines) == 0L) {
    return(",")
  }
  counts <- vapply(separators, count_of, integer(length(lines)), lines = lines)
  counts <- matrix(counts, nrow = length(lines))
  even <- apply(counts, 2L, function(n) n[1L] > 0L && all(n == n[1L]))
  best <- if (any(even)) which(even)[which.max(counts[1L, even])]
  else if (any(counts[1L, ] > 0L)) which.max(counts[1L, ])
  else which.max(colSums(counts))
  separators[[best]]
}

# --- parsing

parse_text <- function(file, shown, separator, ...) {
  arguments <- utils::modifyList(list(
    file = file, sep = separator, data.table = FALSE, na.strings = missing_spellings, integer64 = "character",
    keepLeadingZeros = TRUE, showProgress = FALSE, header = TRUE
  ), list(...))
  withCallingHandlers(
    tryCatch(do.call(data.table::fread, arguments), error = function(e) refuse_text(shown, conditionMessage(e))),
    warning = function(w) {
      if (grepl("line|quote|column|EOF|embedded|nul", conditionMessage(w), ignore.case = TRUE)) {
        refuse_text(shown, with_line(conditionMessage(w), file))
      }
      invokeRestart("muffleWarning")
    }
  )
}

# The parser tells what stands in a last line that does not fit, but not which line it is.
with_line <- function(message, file) {
  if (!grepl("single-line footer", message)) {
    return(message)
  }
  paste0("Line ", length(readLines(file, warn = FALSE)), ", the last, does not have the fields of those above: ",
         sub(".*<<(.*)>>.*", "\\1", message), ". Was the file cut?")
}

refuse_text <- function(file, why, advice = NULL) {
  refuse_file(file, gsub("\\s+", " ", sub("Consider .*|If this .*", "", why)),
              advice %||% paste("It must be text with the same number of fields in every line. If they are separated",
                                "by another character, give reading = c(separator = ...)."))
}

# A quote inside a quoted field is written twice (RFC 4180); the parser leaves both.
single_quotes <- function(table) {
  single <- function(v) gsub("\"\"", "\"", v, fixed = TRUE, useBytes = TRUE)
  names(table) <- single(names(table))
  text <- vapply(table, function(v) is.character(v) && any(grepl("\"\"", v, fixed = TRUE, useBytes = TRUE)), NA)
  table[text] <- lapply(table[text], single)
  table
}

has_decimal_commas <- function(table) any(vapply(table, writes_commas, NA))

# Numbers with decimal commas, but for words that mean missing.
writes_commas <- function(v) {
  if (is.character(v) && !all(validUTF8(v))) {
    return(FALSE)  # words in another encoding, which is settled later
  }
  present <- if (is.character(v)) v[!is.na(v) & !tolower(trimws(v)) %in% placeholder_words] else character()
  any(grepl(",", present, fixed = TRUE)) && all(grepl("^[-+]?[0-9]*,?[0-9]+([eE][-+]?[0-9]+)?$", present))
}

# Columns that such a word keeps text get points, so that they are numbers once the word is taken out.
with_points <- function(table) {
  still <- vapply(table, writes_commas, NA)
  table[still] <- lapply(table[still], function(v) sub(",", ".", v, fixed = TRUE))
  table
}

# A header field left empty (as for row numbers) gets a name by its place; so does a column of row names that the
# header leaves out altogether.
header_names <- function(names, fields) {
  if (length(fields) == length(names) - 1L) fields <- c("", fields)
  empty <- if (length(fields) == length(names)) is.na(fields) | !nzchar(trimws(fields)) else rep(FALSE, length(names))
  names[which(empty)] <- paste0("column_", which(empty))
  list(names = names, empty = empty, said = if (any(empty)) {
    paste0(counted(sum(empty), "column"), " without a name (now ", listed(names[which(empty)], most = 3L), ")")
  })
}

# --- encoding

# Text that is not UTF-8 is taken as windows-1252, the usual other one, unless an encoding is given.
recode_table <- function(table, shown, encoding, header) {
  text <- names(table)[vapply(table, is.character, NA)]
  wide <- !is.null(encoding) && grepl("^(utf|ucs)-?(16|32)", encoding, ignore.case = TRUE)
  if (is.null(encoding) || wide) {
    valid <- all(validUTF8(names(table))) && all(vapply(table[text], function(v) all(validUTF8(v)), NA))
    if (valid) {
      return(list(table = mark_utf8(table), said = NULL))
    }
    encoding <- "windows-1252"
    said <- "encoding windows-1252 (it is not UTF-8)"
  } else {
    said <- NULL
  }
  new_names <- iconv(names(table), encoding, "UTF-8")
  if (anyNA(new_names)) refuse_text(shown, paste0("The name of column ", which(is.na(new_names))[1L], " is not ",
                                                  encoding, "."))
  names(table) <- new_names
  for (i in which(vapply(table, is.character, NA))) {
    before <- table[[i]]
    table[[i]] <- iconv(before, encoding, "UTF-8")
    bad <- which(is.na(table[[i]]) & !is.na(before))
    if (length(bad) > 0L) {
      refuse_text(shown, paste0("Line ", bad[1L] + header, " is neither UTF-8 nor ", encoding, " (column ",
                                quoted(names(table)[i]), ")."),
                  "Give its encoding: reading = c(encoding = ...).")
    }
  }
  list(table = table, said = said)
}

mark_utf8 <- function(table) {
  mark <- function(v) {
    Encoding(v) <- "UTF-8"
    v
  }
  names(table) <- mark(names(table))
  text <- vapply(table, is.character, NA)
  table[text] <- lapply(table[text], mark)
  table
}
