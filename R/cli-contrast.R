verb_contrast <- function() {
  list(
    summary = "two partitions of the same rows side by side: another count, method, preparation, or labels at hand",
    files = "FILE",
    options = c(options_group(), list(
      option("other", "how the second differs: k=6, or method=medoids,k=4,scale=median_iqr,..."),
      option("other_use", "features of the second: a,b"),
      option("with", "in place of a second: a column with labels, or a saved model (.json)"),
      option("reliability", "also tell which groups come back under resampling", flag = TRUE),
      option("figures", "folder for the figures")
    )),
    example = paste("fjordline contrast water_samples.csv --truth water_mass --id sample --transform turbidity=log",
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
    usage_error("--other, --other_use or --with must say what to compare with, as in --other k=6.")
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
