verb_outcome <- function() {
  list(
    summary = "how a column kept aside differs between the groups, or how they are mixed over time", files = "FILE",
    options = c(options_group(), list(
      option("column", "column kept aside: numbers, categories or dates"), option("level", "of the intervals", "0.95"),
      option("by", "of dates: hour, day, week, month, quarter or year"), option("figures", "folder for the figure")
    )),
    example = "fjordline outcome vessel_visits.csv --k 4 --aside overstay --column overstay",
    run = function(files, options) {
      if (is.null(options$column)) usage_error("--column, the column to compare, is needed.")
      outcome <- fl_outcome(cli_partition(files, options), options$column, split_number(options$level, "level"),
                            options$by)
      written <- write_figures(if (!is.null(options$figures)) list(outcome = autoplot(outcome)), options$figures)
      cli_show(outcome, options, groups = outcome$groups, overall = outcome$overall, test = outcome$test)
      cli_written(written %||% character(), options)
    }
  )
}
