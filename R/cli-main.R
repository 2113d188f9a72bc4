# The shell command: one verb per file, each a list of what it does, its options and the function that runs it.
# Exit status: 0 done, 1 the data or the run failed, 2 wrong usage.

cli_verbs <- function() {
  list(demo = verb_demo(), check = verb_check(), count = verb_count(), group = verb_group(), place = verb_place(),
       sql = verb_sql(), agree = verb_agree(), mismatches = verb_mismatches(), profile = verb_profile(),
       outcome = verb_outcome(), paths = verb_paths(), rows = verb_rows(), contrast = verb_contrast(),
       lineage = verb_lineage(), study = verb_study(), report = verb_report(), explore = verb_explore())
}

# Runs a command line and returns the exit status.
cli_main <- function(arguments) {
  use_utf8()
  options(cli.width = cli_columns(), width = cli_columns())
  tryCatch(
    {
      withCallingHandlers(cli_run(arguments), fjordline_warning = cli_warn)
      0L
    },
    fjordline_usage = function(e) cli_complain(e, 2L),
    fjordline_error_argument = function(e) cli_complain(e, 2L),
    fjordline_error_method = function(e) cli_complain(e, 2L),
    fjordline_error_index = function(e) cli_complain(e, 2L),
    error = function(e) cli_complain(e, 1L),
    interrupt = function(e) cli_complain(simpleError("stopped by the user; nothing more was written."), 1L)
  )
}

cli_run <- function(arguments) {
  verbs <- cli_verbs()
  if (length(arguments) == 0L || arguments[1L] %in% c("--help", "-h", "help")) {
    return(cat(cli_overview(verbs), sep = "\n"))
  }
  if (arguments[1L] == "--version") {
    return(cat("fjordline", as.character(utils::packageVersion("fjordline")), "\n"))
  }
  if (!arguments[1L] %in% names(verbs)) {
    usage_error(paste0("There is no verb ", quoted(arguments[1L]), ". ",
                       did_you_mean(arguments[1L], names(verbs), "The verbs are")))
  }
  verb <- verbs[[arguments[1L]]]
  verb$name <- arguments[1L]
  given <- parse_options(verb, replace(arguments, arguments == "-h", "--help")[-1L])
  if (given$options$help) {
    return(cat(cli_help(verb), sep = "\n"))
  }
  check_files_given(verb, given$files)
  with_bar(verb$run(given$files, given$options), shown = isatty(stderr()))
}

cli_overview <- function(verbs) {
  c("fjordline: find, count, score and read groups in tables", "", "usage: fjordline VERB ...   fjordline VERB --help",
    "",
    table_lines(list(names(verbs), vapply(verbs, `[[`, "", "summary")), header = FALSE), "",
    "Begin with: fjordline demo", "Exit status: 0 done, 1 the data or the run failed, 2 wrong usage.")
}

# All pages of help, by name: the overview and one for each verb. They are kept in inst/cli/help too.
cli_pages <- function() {
  verbs <- cli_verbs()
  pages <- lapply(names(verbs), function(name) cli_help(c(verbs[[name]], name = name)))
  c(list(fjordline = cli_overview(verbs)), stats::setNames(pages, names(verbs)))
}

# Messages go to standard error, so that --json stays clean.
cli_complain <- function(error, status) {
  text <- if (inherits(error, "rlang_error")) rlang::cnd_message(error) else conditionMessage(error)
  lines <- strsplit(text, "\n", fixed = TRUE)[[1L]]
  advice <- grepl("^(i|\u2139) ", lines)
  lines[advice] <- in_shell(lines[advice])
  cat(paste0("fjordline: ", visible(paste(lines, collapse = "\n"), keep = "\n")), "\n", sep = "", file = stderr())
  status
}

# Warnings go the same way, and the work goes on.
cli_warn <- function(warning) {
  text <- visible(rlang::cnd_message(warning), keep = "\n")
  cat("fjordline: warning: ", text, "\n", sep = "", file = stderr())
  rlang::cnd_muffle(warning)
}

check_files_given <- function(verb, files) {
  none_needed <- isTRUE(verb$without_file) && length(files) == 0L
  if (length(files) != length(verb$files) && !none_needed) {
    usage_error(paste0("fjordline ", verb$name, " takes ",
                       if (length(verb$files) == 0L) "no file" else listed(verb$files), "; ",
                       counted(length(files), "was", "were"), " given. See fjordline ", verb$name, " --help."))
  }
}

# Tables hold degrees and primes; a terminal in the C locale would show them as codes.
use_utf8 <- function() {
  if (!l10n_info()[["UTF-8"]]) suppressWarnings(Sys.setlocale("LC_CTYPE", "C.UTF-8"))
}

cli_columns <- function() {
  asked <- suppressWarnings(as.integer(Sys.getenv("COLUMNS")))
  if (is.na(asked) && isatty(stdout())) asked <- cli::console_width()
  if (is.na(asked)) 100L else max(60L, min(asked, 140L))
}
