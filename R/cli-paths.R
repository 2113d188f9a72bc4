verb_paths <- function() {
  list(
    summary = "a few plain rules that say which rows fall into which group", files = "FILE",
    options = c(options_group(), list(
      option("rule_columns", "columns the rules may use: a,b (default: the features)"),
      option("most_rules", "how many rules at most"), option("figures", "folder for the figure")
    )),
    example = "fjordline paths water_samples.csv --truth water_mass --id sample --k 5 --transform turbidity=log",
    run = function(files, options) {
      partition <- cli_partition(files, options)
      most <- if (is.null(options$most_rules)) max(8, 2 * partition$k) else split_number(options$most_rules,
                                                                                        "most_rules")
      paths <- fl_paths(partition, split_list(options$rule_columns), most, cli_seed(options))
      written <- write_figures(if (!is.null(options$figures)) list(paths = autoplot(paths)), options$figures)
      cli_show(paths, options, rules = paths$rules, fidelity = paths$fidelity)
      cli_written(written %||% character(), options)
    }
  )
}
