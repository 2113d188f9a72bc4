verb_report <- function() {
  list(
    summary = "group the rows and write a report for others to read; also when the vote decides nothing",
    files = "FILE",
    options = c(options_group(), list(option("out", "report (.html, .md, .docx)", "report.html"),
                                      option("title", "title of the report"))),
    example = "fjordline report water_samples.csv --truth water_mass --id sample --k 5 --out report.html",
    run = function(files, options) {
      file_form(options$out, report_forms)
      found <- cli_fitted(files, options, or_vote = TRUE)
      if (inherits(found, "fl_partition")) found <- cli_named(found, options)
      fl_report(found, options$out, title = options$title)
      if (options$json) cat_json(list(facts = I(fl_facts(found)), report = options$out))
      else write_lines(c(sentence_lines(fl_facts(found)), paste0("report: ", options$out)))
    }
  )
}
