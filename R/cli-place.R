verb_place <- function() {
  list(
    summary = "put new rows into saved groups, or into none of them; say what has drifted", files = c("MODEL", "FILE"),
    options = c(options_reading, list(
      option("reach", "how far groups reach: a quantile of their fitted rows from 0.5 to 1, or Inf", "1"),
      option("strict", "no: place a table that is of another kind all the same", "yes"),
      option("formulas", formulas_help, "neutralise"),
      option("out", paste("labelled table", table_endings))
    )),
    example = "fjordline place water.json next_month.csv --out placed.csv",
    run = function(files, options) {
      if (!is.null(options$out)) file_form(options$out, table_forms)
      model <- fl_load(files[1L])
      placed <- fl_place(model, cli_table(files[2L], options), reach = split_number(options$reach, "reach"),
                         strict = yes_or_no(options$strict, "strict"))
      placed$name <- basename(files[2L])
      if (!is.null(options$out)) fl_export(placed, options$out, formulas = options$formulas)
      if (options$json) cat_json(list(facts = I(fl_facts(placed)), labels = I(placed$rows$group),
                                      names = I(placed$rows$name), distance = I(placed$rows$distance),
                                      outside = I(placed$rows$outside), drift = placed$drift, mix = placed$mix))
      else write_lines(c(strip_next(format(placed)),
                         if (is.null(options$out)) "Next: add --out placed.csv to keep the labels"))
      cli_written(c(table = options$out) %||% character(), options)
    }
  )
}
