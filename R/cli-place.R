verb_place <- function() {
  list(
    summary = "label new rows with a saved model", files = c("MODEL", "FILE"),
    options = c(options_reading, list(option("out", "labelled table (.csv, .tsv)"))),
    example = "fjordline place water.json next_month.csv --out placed.csv",
    run = function(files, options) {
      model <- fl_load(files[1L])
      table <- cli_table(files[2L], options)
      placed <- place_rows(model, replay(model$ready, table))
      out <- with_column(table, group_column(names(table)), placed$group)
      if (!is.null(options$out)) export_table(out, options$out)
      sizes <- tabulate(placed$group[!is.na(placed$group)], model$k)
      left <- sum(is.na(placed$group))
      facts <- c(
        paste0(counted(length(placed$group), "row"), " of ", basename(files[2L]), " placed into the ", spelt(model$k),
               " groups of ", model$ready$table_name, ": ",
               listed(paste0(vapply(sizes, thousands, ""), " in group ", seq_along(sizes))), "."),
        if (left > 0L) paste0(counted(left, "row"),
                              " could not be placed: a value is missing or was never seen (empty)."),
        "Not tested: whether these rows are like the fitted ones; every row goes to its nearest centre."
      )
      if (options$json) cat_json(list(facts = I(facts), labels = I(placed$group), distance = I(placed$distance)))
      else write_lines(c(sentence_lines(facts),
                         if (is.null(options$out)) "Next: add --out placed.csv to keep the labels"))
      cli_written(c(table = options$out) %||% character(), options)
    }
  )
}
