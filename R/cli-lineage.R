verb_lineage <- function() {
  list(
    summary = "how groups split as the count grows, and which stay whole", files = "FILE",
    options = c(options_table, options_prepare, list(
      option("method", paste0("method: ", methods_known()), "kmeans"),
      option("k", "counts: 1-10 or 2,4,6", "1-8"), option("names", names_help),
      option("named_k", "the count whose groups --names names (default: the largest)")
    ), options_fit, list(option("figures", "folder for the figure"))),
    example = "fjordline lineage water_samples.csv --truth water_mass --id sample --transform turbidity=log --k 1-8",
    run = function(files, options) {
      counts <- split_counts(options$k)
      ready <- cli_ready(cli_data(files, options), options)
      # one quick index: the fits are what is followed
      sweep <- fl_sweep(ready, cli_methods(options), k = counts, indices = "calinski_harabasz",
                        seed = cli_seed(options))
      named <- if (!is.null(options$names)) {
        at <- if (is.null(options$named_k)) max(counts) else split_number(options$named_k, "named_k")
        cli_named(fl_take(sweep, k = at), options)
      }
      lineage <- fl_lineage(sweep, names = named)
      written <- write_figures(if (!is.null(options$figures)) list(lineage = autoplot(lineage)), options$figures)
      cli_show(lineage, options, groups = lineage$groups, branches = lineage$branches, flows = lineage$flows)
      cli_written(written %||% character(), options)
    }
  )
}
