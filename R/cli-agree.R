verb_agree <- function() {
  list(
    summary = "compare two columns of labels: groups against known classes", files = "FILE",
    options = c(options_reading, list(option("groups", "column with the groups", "group"),
                                      option("truth", "column with the classes"),
                                      option("match", "one_to_one or majority", "one_to_one"),
                                      option("noise", "the class that is noise"),
                                      option("samples", "bootstrap samples for intervals", "0"), option_seed,
                                      option("figures", "folder for the figure"))),
    example = "fjordline agree grouped.csv --groups group --truth water_mass",
    run = function(files, options) {
      table <- cli_table(files, options)
      if (is.null(options$truth)) usage_error("--truth, the column with the classes, is needed.")
      for (role in c("groups", "truth")) check_column(options[[role]], names(table), role, basename(files))
      agreement <- fl_agree(table[[options$groups]], table[[options$truth]], match = options$match,
                            noise = options$noise, samples = split_number(options$samples, "samples"),
                            seed = cli_seed(options))
      agreement$a <- paste("column", options$groups)
      agreement$b <- options$truth
      written <- write_figures(if (!is.null(options$figures)) list(agreement = autoplot(agreement)), options$figures)
      cli_show(agreement, options, measures = agreement$measures, matched = agreement$matched,
               classes = agreement$classes, rows = agreement$rows, left_out = agreement$left_out,
               disagree = I(agreement$disagree))
      cli_written(written %||% character(), options)
    }
  )
}
