verb_profile <- function() {
  list(
    summary = "what the groups are like: column by column, which columns tell them apart, which decide", files = "FILE",
    options = c(options_group(), list(option("sets", "heaps to draw for the tests of features", "99"),
                                      option("figures", "folder for the figures"))),
    example = "fjordline profile water_samples.csv --truth water_mass --id sample --k 5 --transform turbidity=log",
    run = function(files, options) {
      partition <- cli_partition(files, options)
      profile <- fl_profile(partition, sets = split_number(options$sets %||% "99", "sets"), seed = cli_seed(options))
      figures <- if (!is.null(options$figures)) profile_figures(profile)
      written <- write_figures(figures, options$figures)
      cli_show(profile, options, groups = profile$groups, columns = profile$columns, separation = profile$separation)
      cli_written(written %||% character(), options)
    }
  )
}

# One group has no columns that tell it apart, and no neighbours.
profile_figures <- function(profile) {
  c(list(profile = autoplot(profile)),
    if (nrow(profile$groups) > 1L) {
      list(separation = autoplot(profile, "separation"), groups = autoplot(profile, "groups"))
    })
}
