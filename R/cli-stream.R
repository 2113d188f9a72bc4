# Groups for a table too long to hold: learned from a sample, given to every row a stretch at a time.

cli_stream <- function(file, options) {
  for (one in c("sheet", "flip", "keep", "figures", "report")) {
    if (!is.null(options[[one]]) && !isFALSE(options[[one]])) {
      usage_error(paste0("--", one, " needs the whole table at once, so it does not go with --sample_rows."))
    }
  }
  if (!is.null(options$out)) file_form(options$out, "csv")
  rows <- split_number(options$sample_rows, "sample_rows")
  sample <- cli_data(file, options, function(...) fl_sample(..., rows = rows, seed = cli_seed(options)))
  ready <- cli_ready(sample, options)
  method <- cli_methods(options)[[1L]]
  k <- cli_choice(ready, method, options)
  stream <- function() fl_stream(ready, k, method, seed = cli_seed(options), file = options$out)
  partition <- if (inherits(k, "fl_vote")) undecided_in_words(k, stream()) else stream()
  written <- c(table = options$out, model = if (!is.null(options$model)) fl_save(partition, options$model))
  show_partition(partition, NULL, options)
  cli_written(written %||% character(), options)
}
