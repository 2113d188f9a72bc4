# Verbs that hand the result on: place, sql, explore, report.

verb_place <- function() {
  list(
    summary = "put new rows into saved groups, or into none of them; say what has drifted", files = c("MODEL", "FILE"),
    options = c(options_reading, list(
      option("reach", "how far groups reach: a quantile of their fitted rows from 0.5 to 1, or Inf", "1"),
      option("strict", "no: place a table that is of another kind all the same", "yes"),
      option("formulas", formulas_help, "neutralise"), option_decimal,
      option("out", paste("labelled table", table_endings))
    )),
    example = "fjordline place water.json next_month.csv --out placed.csv",
    run = function(files, options) {
      if (!is.null(options$out)) file_form(options$out, table_forms)
      model <- fl_load(files[1L])
      placed <- fl_place(model, cli_table(files[2L], options), reach = split_number(options$reach, "reach"),
                         strict = yes_or_no(options$strict, "strict"))
      placed$name <- basename(files[2L])
      if (!is.null(options$out)) export_by(placed, options$out, options)
      if (options$json) cat_json(list(facts = I(fl_facts(placed)), labels = I(placed$rows$group),
                                      names = I(placed$rows$name), distance = I(placed$rows$distance),
                                      outside = I(placed$rows$outside), drift = placed$drift, mix = placed$mix))
      else write_lines(c(strip_next(format(placed)),
                         if (is.null(options$out)) "Next: add --out placed.csv to keep the labels"))
      cli_written(c(table = options$out) %||% character(), options)
    }
  )
}

verb_sql <- function() {
  list(
    summary = "write a saved model as an SQL query that places rows where they live", files = "MODEL",
    options = list(
      option("dialect", "standard, postgresql or sqlite", "standard"),
      option("table", "table to read: rows or schema.rows; left out, that of the fit"),
      option("beside", "columns to hand along: a,b; left out, the features"),
      option("reach", "how far groups reach: a quantile of their fitted rows from 0.5 to 1, or Inf", "1"),
      option("out", "the query (.sql); left out, it is printed")
    ),
    example = "fjordline sql water.json --dialect postgresql --table lab.samples --beside sample --out place.sql",
    run = function(files, options) {
      if (!is.null(options$out)) file_form(options$out, query_form)
      table <- if (!is.null(options$table)) strsplit(options$table, ".", fixed = TRUE)[[1L]]
      lines <- query_lines(fl_load(files[1L]), table, split_list(options$beside), split_number(options$reach, "reach"),
                           options$dialect)
      if (!is.null(options$out)) write_query_lines(lines, options$out)
      else if (options$json) cat_json(list(query = paste(lines, collapse = "\n")))
      else write_lines(lines)
      cli_written(c(query = options$out) %||% character(), options)
    }
  )
}

verb_explore <- function() {
  list(
    summary = "look, step, compare, name and decide in a browser; every click is kept as code", files = "FILE",
    without_file = TRUE,
    options = c(options_table, list(
      option("port", "the port to listen at; left out, a free one"),
      option("no_browser", "only print the address", flag = TRUE), option("most", "most rows to draw", "200000")
    )),
    example = paste("fjordline explore", example_table),
    run = function(files, options) {
      data <- if (length(files) > 0L) cli_data(files, options)
      fl_explore(data, port = if (!is.null(options$port)) split_number(options$port, "port"),
                 open = !isTRUE(options$no_browser), most = split_number(options$most, "most"))
      invisible()
    }
  )
}

verb_report <- function() {
  list(
    summary = "group the rows and write a report for others to read; also when the vote decides nothing",
    files = "FILE",
    options = c(options_group(), list(option("out", "report (.html, .md, .docx)", "report.html"),
                                      option("title", "title of the report"))),
    example = paste("fjordline report", example_table, "--k 5 --out report.html"),
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
