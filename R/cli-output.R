# What verbs print and write: screens, JSON, files, figures.

# A screen without its last line, the next call in R: the shell has a next command of its own.
strip_next <- function(lines) {
  # where the rest is: in R behind a call, here in the JSON
  lines <- sub(": (as[.]data[.]frame\\([a-z]+\\)|[a-z]+[$][a-z]+)$", ": --json has all", lines)
  at <- grep("^Next: ", lines)
  if (length(at) == 0L) lines else lines[seq_len(at[1L] - 1L)]
}

# The object as text, or as JSON with its sentences and its tidy table.
cli_show <- function(object, options, ...) {
  if (options$json) {
    cat_json(c(list(facts = I(fl_facts(object))), list(...)))
  } else {
    write_lines(strip_next(format(object)))
  }
}

cat_json <- function(fields) {
  cat(jsonlite::toJSON(fields, auto_unbox = TRUE, null = "null", na = "null", digits = 10, dataframe = "rows",
                       pretty = TRUE), "\n", sep = "")
}

# What was written where; on standard error under --json.
cli_written <- function(files, options) {
  files <- files[nzchar(files)]
  if (length(files) > 0L) {
    cat(paste0(formatC(paste0(names(files), ":"), width = -max(nchar(names(files)) + 1L)), " ", files), sep = "\n",
        file = if (options$json) stderr() else stdout())
  }
}

write_figures <- function(figures, folder) {
  if (is.null(folder)) {
    return(invisible())
  }
  make_folder(folder)
  save_figures(figures, file.path(folder, paste0(names(figures), ".png")))
  stats::setNames(folder, "figures")
}

make_folder <- function(folder) {
  if (file.exists(folder) && !dir.exists(folder)) {
    fl_abort("file", paste0(quoted(folder), " is a file; a folder is needed."))
  }
  if (!dir.exists(folder) && !dir.create(folder, recursive = TRUE, showWarnings = FALSE)) {
    fl_abort("file", paste0("The folder ", quoted(folder), " could not be made."), advice = "Is the place writable?")
  }
  folder
}

partition_figures <- function(partition, agreement) {
  own <- names(own_views(partition))
  Filter(Negate(is.null), c(list(
    groups = autoplot(partition),
    silhouettes = if (has_silhouettes(partition)) autoplot(partition, view = "silhouette"),
    agreement = if (!is.null(agreement)) autoplot(agreement)
  ), stats::setNames(lapply(own, function(view) autoplot(partition, view = view)), own)))
}
