options_group <- function() {
  c(options_table, options_prepare, list(
    option("method", paste0("method: ", methods_known(), " (kmeans; where a vote decides, its own)")),
    option("k", "count of groups; left out, a vote over 1-10 decides"),
    option("reason", "with --k: hold the vote, overrule it with --k, and keep this reason"),
    option("names", names_help),
    option("saved", "a saved model (.json): place the rows into its groups instead of making groups")
  ), options_fit)
}

verb_group <- function() {
  list(
    summary = "put the rows into groups; write the labelled table, the model, figures, a report", files = "FILE",
    options = c(options_group(), list(
      option("sample_rows", "for a table too long to hold: learn from so many of its rows, then group all"),
      option("out", paste("labelled table", table_endings)),
      option("formulas", formulas_help, "neutralise"), option_decimal,
      option("centres", paste("table of the groups: names, sizes, centres", table_endings)),
      option("model", "model for new rows (.json)"),
      option("figures", "folder for the figures"),
      option("report", "report (.html, .md, .docx)")
    )),
    example = paste("fjordline group", example_table, "--k 5 --out grouped.csv"),
    run = function(files, options) {
      check_endings(options)
      if (!is.null(options$sample_rows)) {
        return(cli_stream(files, options))
      }
      partition <- cli_partition(files, options)
      agreement <- if (!is.null(truth_of(partition$ready$data))) fl_agree(partition)
      written <- c(
        table = if (!is.null(options$out)) export_by(partition, options$out, options),
        centres = if (!is.null(options$centres)) export_by(partition, options$centres, options, "centres"),
        model = if (!is.null(options$model)) fl_save(partition, options$model),
        write_figures(if (!is.null(options$figures)) {
          c(if (!is.null(partition$vote)) vote_figures(partition$vote), partition_figures(partition, agreement))
        }, options$figures),
        report = if (!is.null(options$report)) fl_report(partition, options$report)
      )
      show_partition(partition, agreement, options)
      cli_written(written %||% character(), options)
    }
  )
}

# Looked at before anything is fitted or written.
check_endings <- function(options) {
  forms <- list(out = table_forms, centres = table_forms, model = "json", report = report_forms)
  for (name in intersect(names(forms), names(options))) file_form(options[[name]], forms[[name]])
  if (!is.null(options$report)) check_reporting()
}

# The groups, by the names asked for.
cli_partition <- function(file, options) cli_named(cli_fitted(file, options), options)

cli_named <- function(partition, options) {
  words <- options$names
  if (is.null(words)) partition
  else if (words == "suggested") fl_name(partition)
  else if (words == "classes") fl_name(partition, fl_agree(partition))
  else if (grepl("[.]json$", words)) fl_name(partition, fl_load(words))
  else fl_name(partition, split_pairs(words))
}

# `or_vote`: a vote that decided nothing is given back as it is.
cli_fitted <- function(file, options, or_vote = FALSE) {
  if (!is.null(options$saved)) {
    fitting <- c("k", "reason", "use", "scale", "missing", "categories", "transform", "outliers", "reduce",
                 "column_weights", "restarts", "settings")
    given <- fitting[!vapply(options[fitting], is.null, NA)]
    if (length(given) > 0L) {
      usage_error(paste0("--saved places rows into groups that are there; --", given[1L], " is for making groups."))
    }
    return(fl_adopt(fl_place(fl_load(options$saved), cli_data(file, options))))
  }
  ready <- cli_ready(cli_data(file, options), options)
  method <- cli_methods(options)[[1L]]
  k <- cli_choice(ready, method, options)
  if (or_vote && inherits(k, "fl_vote") && is.null(k$settled) && k$verdict %in% undecided) {
    return(k)
  }
  if (inherits(k, "fl_vote")) undecided_in_words(k, fl_take(k))
  else fl_partition(ready, method, k = k, seed = cli_seed(options))
}

# The count is given, given with a reason against the vote, or the vote's.
cli_choice <- function(ready, method, options) {
  k <- if (!is.null(options$k)) split_counts(options$k)
  if (length(k) > 1L) usage_error("--k must be one count here; fjordline count compares several.")
  if (method$free_count || is.null(options$reason) && !is.null(k)) {
    return(k)
  }
  if (is.null(k) && !is.null(options$reason)) usage_error("--reason goes with --k, the count it speaks for.")
  vote <- cli_vote(ready, options, counts = paste0("1-", max(10, k)))
  if (is.null(k)) vote else fl_settle(vote, k, options$reason)
}

undecided_in_words <- function(vote, taking) {
  tryCatch(taking, fjordline_error_undecided = function(e) {
    fl_abort("undecided", paste0("The vote over 1 to 10 groups has no clear winner: ", vote_headline(vote)),
             advice = "Choose one with --k, and say why with --reason.")
  })
}

show_partition <- function(partition, agreement, options) {
  if (options$json) {
    return(cat_json(list(
      facts = I(fl_facts(partition)), k = partition$k, method = method_label(partition$method), seed = partition$seed,
      groups = partition$groups, labels = I(partition$group),
      agreement = if (!is.null(agreement)) agreement$measures, decision = partition$vote$settled
    )))
  }
  write_lines(strip_next(format(partition)))
  if (!is.null(agreement)) {
    cat("\n")
    write_lines(strip_next(format(agreement)))
  }
}

# --- groups for a table too long to hold: learned from a sample, given to every row a stretch at a time.

cli_stream <- function(file, options) {
  for (one in c("sheet", "flip", "widen", "keep", "figures", "report")) {
    if (!is.null(options[[one]]) && !isFALSE(options[[one]])) {
      usage_error(paste0("--", with_hyphens(one), " needs the whole table at once, so it does not go with ",
                         "--sample-rows."))
    }
  }
  if (!is.null(options$out)) file_form(options$out, "csv")
  rows <- split_number(options$sample_rows, "sample_rows")
  sample <- cli_data(file, options, function(...) fl_sample(..., rows = rows, seed = cli_seed(options)))
  ready <- cli_ready(sample, options)
  method <- cli_methods(options)[[1L]]
  k <- cli_choice(ready, method, options)
  stream <- function() fl_stream(ready, k, method, seed = cli_seed(options), file = options$out)
  partition <- if (inherits(k, "fl_vote")) undecided_in_words(k, stream()) else stream()
  written <- c(table = options$out, model = if (!is.null(options$model)) fl_save(partition, options$model))
  show_partition(partition, NULL, options)
  cli_written(written %||% character(), options)
}
