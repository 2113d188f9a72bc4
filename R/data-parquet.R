# Parquet files. The library that decodes them can be ended by a damaged file, so that it works in a process of its own:
# a process that ends becomes an error of ours. The columns come back through plain files of numbers, which costs
# little.

read_parquet_file <- function(file, how, shown, form) {
  spilled <- spill_parquet(file, shown = shown)
  on.exit(unlink(spilled$folder, recursive = TRUE))
  list(table = plain_frame(stats::setNames(lapply(spilled$parts, spilled_column), spilled$columns), spilled$rows),
       said = NULL)
}

plain_frame <- function(columns, rows) structure(columns, class = "data.frame", row.names = .set_row_names(rows))

# The columns `wanted` (all, when left out), a plain file each in `folder`; `narrow`: never more than one in memory.
spill_parquet <- function(file, wanted = NULL, narrow = FALSE, shown = file, decode = decode_parquet,
                          seconds = decoding_seconds(file)) {
  need_package("nanoparquet", "Reading Parquet files")
  need_package("callr", "Reading Parquet files, in a process of its own,")
  folder <- tempfile("fjordline-columns-")
  dir.create(folder)
  done <- FALSE
  on.exit(if (!done) unlink(folder, recursive = TRUE))
  found <- tryCatch(
    callr::r(decode, list(normalizePath(file), folder, wanted, narrow), timeout = seconds),
    error = function(e) refuse_parquet(shown, e)
  )
  done <- TRUE
  c(found, folder = folder)
}

# Runs in the other process: no function of this package is there.
decode_parquet <- function(file, folder, wanted, narrow) {
  schema <- nanoparquet::read_parquet_schema(file)
  columns <- schema$name[!is.na(schema$type)]
  chosen <- if (is.null(wanted)) seq_along(columns) else which(columns %in% wanted)
  rows <- as.double(nanoparquet::read_parquet_info(file)$num_rows)
  whole <- if (!narrow && is.null(wanted)) nanoparquet::read_parquet(file)
  spill <- function(j, path) {
    values <- if (is.null(whole)) nanoparquet::read_parquet(file, col_select = j)[[1L]] else whole[[j]]
    if (length(values) != rows) stop("Column ", j, " has ", length(values), " values, the file says ", rows, " rows.")
    if (is.character(values)) {
      words <- unique(values)
      writeBin(match(values, words), path)
      return(list(path = path, type = "integer", words = words))
    }
    if (!typeof(values) %in% c("double", "integer", "logical")) {
      saveRDS(values, path, compress = FALSE)
      return(list(path = path, type = "object"))
    }
    to <- file(path, "wb")
    on.exit(close(to))
    kept <- attributes(values)
    attributes(values) <- NULL
    # by parts: one vector of more than 2^31 bytes cannot be written at once
    for (from in seq(1, max(1, length(values)), by = 2^24)) {
      writeBin(values[seq.int(from, length.out = max(0, min(2^24, length(values) - from + 1)))], to)
    }
    list(path = path, type = typeof(values), attributes = kept)
  }
  parts <- lapply(seq_along(chosen), function(i) {
    out <- spill(chosen[i], file.path(folder, i))
    if (narrow) gc(verbose = FALSE)
    out
  })
  list(columns = columns[chosen], parts = parts, rows = rows)
}

# A damaged file may also keep the library at work for ever.
decoding_seconds <- function(file) 120 + file.size(file) / 1e6

refuse_parquet <- function(file, error) {
  advice <- "It must be a whole Parquet file."
  if (inherits(error, "callr_timeout_error")) {
    refuse_file(file, "The reading library did not come to an end with it.", advice)
  }
  if (inherits(error, "callr_status_error") && is.null(error$parent)) {
    refuse_file(file, "The reading library broke down over it: the file is damaged, or was made to do that.", advice)
  }
  refuse_file(file, gsub("\\s+", " ", conditionMessage(error$parent %||% error)), advice)
}

spilled_column <- function(part) {
  if (part$type == "object") {
    return(readRDS(part$path))
  }
  values <- readBin(part$path, part$type, file.size(part$path) / if (part$type == "double") 8 else 4)
  if (!is.null(part$words)) {
    return(part$words[values])
  }
  attributes(values) <- part$attributes
  values
}

# --- in chunks: the numbers of a column (of words and dates the places of their levels) lie one after the other

parquet_chunks <- function(file, how, chunk_rows, wanted) {
  spilled <- spill_parquet(file, wanted, narrow = TRUE)
  parts <- lapply(spilled$parts, function(part) one_column(numbers_of(part)))
  readers <- lapply(parts, function(part) file(part$path, "rb"))
  at <- 0
  list(
    fetch = function() {
      n <- min(chunk_rows, spilled$rows - at)
      if (n <= 0) {
        return(NULL)
      }
      at <<- at + n
      values <- Map(function(reader, part) {
        v <- readBin(reader, if (is.null(part$levels)) "double" else "integer", n)
        if (is.null(part$levels)) v else part$levels[v]
      }, readers, parts)
      plain_frame(stats::setNames(values, spilled$columns), n)
    },
    close = function() {
      for (reader in readers) close(reader)
      unlink(spilled$folder, recursive = TRUE)
    }
  )
}

# A column of millions of rows is let go before the next is read.
one_column <- function(done) {
  force(done)
  gc(verbose = FALSE)
  done
}

# A column that came back, as doubles or as places of its levels.
numbers_of <- function(part) {
  if (part$type == "double" && is.null(part$attributes)) {
    return(list(path = part$path))
  }
  values <- plain_column(spilled_column(part))
  to <- file(part$path, "wb")
  on.exit(close(to))
  if (is.numeric(values) || is.logical(values)) {
    writeBin(as.double(values), to)
    return(list(path = part$path))
  }
  values <- if (is.factor(values)) values else factor(as.character(values))
  writeBin(as.integer(values), to)
  list(path = part$path, levels = levels(values))
}
