verb_check <- function() {
  list(
    summary = "read a table and say what may go wrong with it", files = "FILE", options = options_table,
    example = "fjordline check water_samples.csv --truth water_mass --id sample",
    run = function(files, options) {
      data <- cli_data(files, options)
      check <- fl_check(data)
      if (options$json) {
        cat_json(list(facts = I(c(fl_facts(data), fl_facts(check)[1L])), columns = data$roles,
                      findings = as.data.frame(check)))
      } else {
        cat(cli::style_bold(format(data)[1L]), utils::head(format(data)[-1L], -1L), "", format(check), sep = "\n")
        cat("", next_command("count", files, options, options_table), sep = "\n")
      }
    }
  )
}
