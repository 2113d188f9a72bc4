verb_check <- function() {
  list(
    summary = "read a table and say what may go wrong with it", files = "FILE",
    options = c(options_table, options_prepare, list(option("figures", "folder for first looks at the table"))),
    example = paste("fjordline check", example_table),
    run = function(files, options) {
      data <- cli_data(files, options)
      check <- fl_check(data)
      ready <- if (asks_preparation(options)) cli_ready(data, options)
      written <- write_figures(if (!is.null(options$figures)) first_looks(data), options$figures)
      if (options$json) {
        findings <- as.data.frame(check)
        findings$advice <- in_shell(findings$advice)
        cat_json(list(facts = I(c(fl_facts(data), fl_facts(check)[1L])), columns = data$roles,
                      findings = findings, sift = as.data.frame(fl_sift(data)),
                      preparation = if (!is.null(ready)) I(say_steps(ready$steps))))
      } else {
        show_check(data, check, ready)
        cat("", next_command("count", files, options, c(options_table, options_prepare)), sep = "\n")
      }
      cli_written(written %||% character(), options)
    }
  )
}

show_check <- function(data, check, ready) {
  lines <- strip_next(format(data))
  suggested <- startsWith(lines, "  suggested")
  lines[suggested] <- in_shell(lines[suggested])
  write_lines(lines)
  cat("\n")
  write_lines(format(check, advise = in_shell))
  if (!is.null(ready)) cat("", visible(strip_next(format(ready))), sep = "\n")
}

# The views every table has.
first_looks <- function(data) {
  numbers <- sum(type_of(data, columns_of(data, "feature")) %in% c("number", "logical"))
  gaps <- any(vapply(features_of(data), anyNA, NA))
  views <- c("columns", if (numbers > 1L) c("pairs", "correlations", "profiles"), "pull", if (gaps) "missing")
  lapply(stats::setNames(nm = views), function(view) autoplot(data, view = view))
}
