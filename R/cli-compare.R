# Verbs that compare labelings: agree, mismatches, contrast, lineage.

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
    example = paste("fjordline mismatches", example_table, "--k 5"),
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

verb_contrast <- function() {
  list(
    summary = "two partitions of the same rows side by side: another count, method, preparation, or labels at hand",
    files = "FILE",
    options = c(options_group(), list(
      option("other", "how the second differs: k=6, or method=medoids,k=4,scale=median_iqr,..."),
      option("other_use", "features of the second: a,b"),
      option("with", "in place of a second: a column with labels, or a saved model (.json)"),
      option("reliability", "also tell which groups are stable under resampling", flag = TRUE),
      option("figures", "folder for the figures")
    )),
    example = paste("fjordline contrast", example_table, "--transform turbidity=log",
                    "--k 5 --other k=6"),
    run = function(files, options) {
      first <- cli_partition(files, options)
      contrast <- fl_contrast(first, cli_second(first, files, options), reliability = options$reliability,
                              seed = cli_seed(options))
      figures <- if (!is.null(options$figures)) list(flows = autoplot(contrast), planes = autoplot(contrast, "planes"))
      written <- write_figures(figures, options$figures)
      cli_show(contrast, options, agreement = contrast$agreement$measures, flows = contrast$flows,
               fates = contrast$fates, moved = contrast$moved, judged = contrast$judged, returns = contrast$returns)
      cli_written(written %||% character(), options)
    }
  )
}

cli_second <- function(first, files, options) {
  if (!is.null(options$with)) {
    return(if (grepl("[.]json$", options$with)) fl_load(options$with) else fl_adopt(first$ready, options$with))
  }
  changes <- split_pairs(options$other)
  if (is.null(changes) && is.null(options$other_use)) {
    usage_error("--other, --other-use or --with must say what to compare with, as in --other k=6.")
  }
  known <- setdiff(vapply(c(options_prepare, options_group()), `[[`, "", "name"), c("use", "names"))
  if (!is.null(changes) && is.null(names(changes))) usage_error("--other must be name=value pairs, as in k=6.")
  for (name in names(changes)) if (!name %in% known) {
    usage_error(paste0("--other cannot change ", quoted(name), ". ", did_you_mean(name, known)))
  }
  options[names(changes)] <- as.list(changes)
  if (!is.null(options$other_use)) options$use <- options$other_use
  options$names <- NULL
  cli_partition(files, options)
}

verb_lineage <- function() {
  list(
    summary = "how groups split as the count grows, and which stay whole", files = "FILE",
    options = c(options_table, options_prepare, list(
      option("method", paste0("method: ", methods_known()), usual_method()),
      option("k", "counts: 1-10 or 2,4,6", "1-8"), option("names", names_help),
      option("named_k", "the count whose groups --names names (default: the largest)")
    ), options_fit, list(option("figures", "folder for the figure"))),
    example = paste("fjordline lineage", example_table, "--transform turbidity=log --k 1-8"),
    run = function(files, options) {
      counts <- split_counts(options$k)
      ready <- cli_ready(cli_data(files, options), options)
      # one quick index: the fits are what is followed
      sweep <- fl_sweep(ready, cli_methods(options), k = counts, indices = quick_index(),
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
