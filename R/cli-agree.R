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

verb_mismatches <- function() {
  list(
    summary = "the rows that disagree with the known classes: where they lie, what they have in common", files = "FILE",
    options = c(options_group(), list(option("match", "one_to_one or majority", "one_to_one"),
                                      option("noise", "the class that is noise"),
                                      option("out", paste("table of the rows", table_endings)),
                                      option("formulas", formulas_help, "neutralise"),
                                      option("figures", "folder for the figures"))),
    example = "fjordline mismatches water_samples.csv --truth water_mass --id sample --aside station,date --k 5",
    run = function(files, options) {
      if (!is.null(options$out)) file_form(options$out, table_forms)
      partition <- cli_partition(files, options)
      mismatches <- fl_mismatches(fl_agree(partition, match = options$match, noise = options$noise))
      if (!is.null(options$out)) fl_export(mismatches, options$out, formulas = options$formulas)
      drawn <- !is.null(options$figures) && partition$k > 1L && nrow(mismatches$rows) > 0L
      written <- c(table = options$out, write_figures(if (drawn) list(mismatches = autoplot(mismatches)),
                                                      options$figures))
      cli_show(mismatches, options, rows = mismatches$rows, kinds = mismatches$kinds, causes = mismatches$causes)
      cli_written(written %||% character(), options)
    }
  )
}
