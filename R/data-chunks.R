# A long table, a stretch of rows at a time. A source of chunks is a list of two functions: `fetch()` gives the next
# rows as a data frame, or NULL at the end; `close()` ends it. Nothing here holds more than a chunk, or one column.

# `how`: query and reading as for fl_data(); `columns`: names of all columns where the file has no header; `wanted`: the
# columns needed, or NULL for all.
open_chunks <- function(source, how, chunk_rows, wanted = NULL) {
  if (is.data.frame(source) || is.matrix(source)) {
    return(frame_chunks(as_table(source)$table, chunk_rows))
  }
  if (inherits(source, "DBIConnection")) {
    return(query_chunks(source, how$query, chunk_rows))
  }
  check_file(source, "source")
  ending <- tolower(tools::file_ext(sub("[.]gz$", "", source, ignore.case = TRUE)))
  openers <- list(csv = text_chunks, tsv = text_chunks, txt = text_chunks, parquet = parquet_chunks,
                  sqlite = sqlite_chunks)
  if (!ending %in% names(openers)) {
    fl_abort("file", paste0(quoted(basename(source)), " cannot be read in chunks."),
             advice = paste0("Use ", listed(paste0(".", names(openers)), "or"), " or a database connection."))
  }
  openers[[ending]](source, how, chunk_rows, wanted)
}

frame_chunks <- function(table, chunk_rows) {
  at <- 0
  list(
    fetch = function() {
      if (at >= nrow(table)) {
        return(NULL)
      }
      rows <- seq.int(at + 1, min(at + chunk_rows, nrow(table)))
      at <<- rows[length(rows)]
      vctrs::vec_slice(table, rows)
    },
    close = function() NULL
  )
}

# --- delimited text: a stretch of bytes, up to the end of its last line, is parsed as a file of its own

text_chunks <- function(file, how, chunk_rows, wanted) {
  packed <- grepl("[.]gz$", file, ignore.case = TRUE)
  source <- if (packed) unpack_gzip(file) else file
  given <- check_text_options(how$reading)
  look <- look_at_text(source, file, given)
  header <- is.null(how$columns) || isTRUE(how$columns)
  bytes <- file(look$recoded %||% source, "rb")
  part <- tempfile("fjordline-part-", fileext = ".csv")
  title <- first_record(bytes, as.integer(given[["skip"]] %||% 0L), header)
  parse <- part_parser(part, file, given[["separator"]] %||% look$separator, header, given)
  size <- ceiling(chunk_rows * max(20, mean(nchar(look$lines, type = "bytes")) + 1))
  held <- NULL
  list(
    fetch = function() {
      while (NROW(held) < chunk_rows && write_part(bytes, part, title, size)) held <<- stack_rows(held, parse())
      if (NROW(held) == 0L) {
        return(NULL)
      }
      rows <- seq_len(min(chunk_rows, nrow(held)))
      out <- vctrs::vec_slice(held, rows)
      held <<- vctrs::vec_slice(held, -rows)
      out
    },
    close = function() {
      close(bytes)
      unlink(c(part, if (packed) source, look$recoded))
    }
  )
}

# The header line, past lines to skip and blank ones; NULL where there is none.
first_record <- function(bytes, skip, header) {
  if (skip > 0L) readLines(bytes, skip, warn = FALSE)
  if (!header) {
    return(NULL)
  }
  repeat {
    text <- readLines(bytes, 1L, warn = FALSE)
    if (length(text) == 0L || nzchar(trimws(text))) break
  }
  while (open_quote(text) && length(more <- readLines(bytes, 1L, warn = FALSE)) > 0L) text <- c(text, more)
  c(without_mark(text[1L]), text[-1L])
}

open_quote <- function(text) sum(count_of("\"", text)) %% 2L == 1L

# Writes the next part; FALSE at the end.
write_part <- function(bytes, part, title, size) {
  block <- readBin(bytes, "raw", size)
  if (length(block) == 0L) {
    return(FALSE)
  }
  more <- readLines(bytes, 1L, warn = FALSE)
  open <- length(grepRaw("\"", block, fixed = TRUE, all = TRUE)) %% 2L == 1L
  while (open != open_quote(more)) {
    line <- readLines(bytes, 1L, warn = FALSE)
    if (length(line) == 0L) break
    more <- c(more, line)
  }
  to <- file(part, "wb")
  on.exit(close(to))
  if (length(title) > 0L) writeLines(title, to, useBytes = TRUE)
  writeBin(block, to)
  writeLines(more, to, useBytes = TRUE)
  TRUE
}

# Parses a part. The decimal sign is settled by the first.
part_parser <- function(part, file, separator, header, given) {
  rows <- 0
  decimal <- given[["decimal"]] %||% if (separator == ",") "."
  parse <- function(dec) {
    tryCatch(parse_text(part, file, separator, header = header, dec = dec), fjordline_error_file = function(e) {
      refuse_text(file, paste0("In the rows from ", format(rows + 1, scientific = FALSE), " on: ", e$body[["x"]]))
    })
  }
  function() {
    if (length(grepRaw("[^[:space:]]", readBin(part, "raw", 1e6))) == 0L) {
      return(NULL)
    }
    table <- parse(decimal %||% ".")
    if (is.null(decimal)) {
      decimal <<- if (has_decimal_commas(table)) "," else "."
      if (decimal == ",") table <- with_points(parse(","))
    }
    rows <<- rows + nrow(table)
    recode_table(single_quotes(table), file, given[["encoding"]], header)$table
  }
}

# Rows below rows. A column may hold numbers in one part and a word in another: then it is text, as it would be when
# read at once.
stack_rows <- function(above, below) {
  if (NROW(above) == 0L || NROW(below) == 0L) {
    return(if (NROW(above) == 0L) below else above)
  }
  data.table::setDF(data.table::rbindlist(lapply(list(above, below), function(part) {
    for (j in seq_along(part)) {
      if (is.character(above[[j]]) != is.character(below[[j]])) part[[j]] <- as.character(part[[j]])
    }
    part
  })))
}
