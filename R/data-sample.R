# A random sample of a table too long to be held in memory.

#' A sample of a long table
#'
#' Reads a file or a database table a stretch of rows at a time and keeps a random sample of its rows, with roles as
#' [fl_data()] gives them. Prepare the sample, choose a count on it, and then let [fl_stream()] group every row of the
#' source, which is never loaded as a whole.
#'
#' Every row of the source has the same chance. Which rows are taken depends on `seed` and their place in the source
#' alone: the same table as CSV, Parquet or in a database gives the same sample.
#'
#' @param source The path of a `.csv`, `.tsv`, `.txt` (also `.gz`), `.parquet` or `.sqlite` file, a `DBI` connection, or
#'   a data frame. Parquet files are read column by column, so at most one column is in memory.
#' @param rows How many rows to take; all of them where the source has fewer.
#' @param seed Whole number; see [fl_partition()].
#' @param query,columns,reading,blanks As in [fl_data()]. What `blanks` names need not stand in every stretch.
#' @param chunk_rows How many rows are read at a time.
#' @param name What to call the table; by default the file's name.
#' @param ... Roles, types and units, as in [fl_data()]: `truth`, `id`, `aside`, `features`, `types`, `units`.
#' @return An `fl_data` object of the sampled rows, in their order, that knows its source: `sample$source`,
#'   `sample$rows` (of the source) and `sample$taken` (their row numbers).
#' @section Errors: as [fl_data()]; `fjordline_error_file` also for a form that cannot be read in chunks.
#' @seealso [fl_stream()] for the next step.
#' @examples
#' file <- tempfile(fileext = ".csv")
#' write.csv(as.data.frame(fl_demo("water_samples")), file, row.names = FALSE)
#' fl_sample(file, rows = 200, truth = "water_mass", id = "sample",
#'           features = c("temperature", "salinity", "oxygen"))
#' @export
fl_sample <- function(source, rows = 50000, seed = 1, query = NULL, columns = NULL, reading = NULL, blanks = NULL,
                      chunk_rows = 100000, name = NULL, ...) {
  check_whole(rows, "rows", least = 2)
  check_whole(chunk_rows, "chunk_rows", least = 100)
  check_seed(seed)
  check_row_by_row(...)
  origin <- if (rlang::is_string(source)) code(source) else as_label(substitute(source))
  name <- check_text(name %||% if (rlang::is_string(source)) file_stem(source) else origin, "name")
  how <- list(query = query, columns = columns, reading = reading, blanks = blanks)
  parquet <- rlang::is_string(source) && grepl("[.]parquet$", source, ignore.case = TRUE)
  if (parquet) check_file(source, "source")
  taken <- if (parquet) sample_parquet(source, rows, seed) else sample_chunks(source, how, rows, seed, chunk_rows)
  if (is.null(taken)) fl_abort("table", paste0(name, " has no rows to group."))
  data <- fl_data(taken$table, name = name, columns = columns, blanks = present_blanks(taken$table, blanks), ...)
  data$file <- if (rlang::is_string(source)) source
  data$sample <- list(source = source, how = how, rows = taken$total, taken = taken$rows, chunk_rows = chunk_rows)
  if (length(taken$rows) < taken$total) {
    data$said <- c(data$said, paste0("a random sample of ", counted(taken$total, "row")))
  }
  data$call <- code_call("fl_sample", verbatim(origin), rows = rows, seed = seed, query = query, columns = columns,
                         reading = reading, blanks = blanks, name = name, ...)
  data
}

# A sample of measurements holds no whole subject, and one of variables no whole row.
check_row_by_row <- function(...) {
  whole <- intersect(c("flip", "widen"), ...names())
  if (length(whole) > 0L) {
    fl_abort("argument", paste0("`", whole[1L], "` needs the whole table at once; fl_sample() reads a part of it."),
             advice = "Read the table with fl_data(), or write it in its new shape first.")
  }
}

# The rows with the smallest keys: each row's key depends on the seed and its place alone.
sample_chunks <- function(source, how, rows, seed, chunk_rows) {
  chunks <- open_chunks(source, how, chunk_rows)
  on.exit(chunks$close())
  kept <- NULL
  keys <- double()
  places <- double()
  total <- 0
  while (!is.null(chunk <- chunks$fetch())) {
    n <- nrow(chunk)
    fresh <- row_keys_kernel(total, n, seed)
    limit <- if (length(keys) >= rows) max(keys) else Inf
    mine <- which(fresh < limit)
    total <- total + n
    if (length(mine) > 0L) {
      keys <- c(keys, fresh[mine])
      places <- c(places, total - n + mine)
      kept <- stack_rows(kept, vctrs::vec_slice(chunk, mine))
    }
    if (length(keys) > rows) {
      best <- sort(order(keys)[seq_len(rows)])
      keys <- keys[best]
      places <- places[best]
      kept <- vctrs::vec_slice(kept, best)
    }
  }
  if (is.null(kept)) NULL else list(table = plain_columns(plain_rows(kept)), rows = places, total = total)
}

plain_rows <- function(table) {
  rownames(table) <- NULL
  table
}

sample_parquet <- function(file, rows, seed) {
  spilled <- spill_parquet(file, narrow = TRUE)
  on.exit(unlink(spilled$folder, recursive = TRUE))
  if (spilled$rows == 0) {
    return(NULL)
  }
  taken <- smallest_keys(spilled$rows, rows, seed)
  values <- lapply(spilled$parts, function(part) one_column(plain_column(spilled_column(part))[taken]))
  list(table = plain_frame(stats::setNames(values, spilled$columns), length(taken)), rows = taken, total = spilled$rows)
}

smallest_keys <- function(total, rows, seed, stretch = 1e6) {
  keys <- double()
  places <- double()
  for (from in seq(0, total - 1, by = stretch)) {
    n <- min(stretch, total - from)
    keys <- c(keys, row_keys_kernel(from, n, seed))
    places <- c(places, from + seq_len(n))
    best <- utils::head(order(keys), rows)
    keys <- keys[best]
    places <- places[best]
  }
  sort(places)
}

# A spelling of "missing" that the sample happens not to hold is no mistake.
present_blanks <- function(table, blanks) {
  if (is.null(blanks)) {
    return(NULL)
  }
  there <- vapply(as.character(blanks), function(word) {
    any(vapply(table, function(v) any(as.character(v) == word, na.rm = TRUE), NA))
  }, NA)
  if (any(there)) blanks[there]
}

# A chunk of the source as the sample's table was shaped: names, missing values, numbers.
shape_chunk <- function(chunk, data, columns) {
  how <- data$sample$how
  chunk <- name_columns(as.data.frame(chunk), how$columns, data$name)
  words <- as.character(how$blanks)
  for (form in columns) {
    values <- chunk[[form$name]]
    if (is.null(values)) next
    if (length(words) > 0L) values[as.character(values) %in% words] <- NA
    if (is.character(values) && form$type %in% c("number", "logical")) {
      values[tolower(trimws(values)) %in% placeholder_words] <- NA
      values <- freed_numbers(values)
      if (is.character(values)) values <- ungrouped(values)$values %||% values
    }
    chunk[[form$name]] <- values
  }
  chunk
}
