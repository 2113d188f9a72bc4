# The HTML report: a decision-maker reads the first screen, a colleague reruns the last.

#' Write a report
#'
#' One self-contained HTML file: the finding in short, the groups, why this count, how well they match the known
#' classes, the table and its preparation with what was found in it, what was not tried, and how to rerun it.
#'
#' @param x A partition, or a vote or settled vote whose partition is then reported.
#' @param file Path ending in `.html`. It is written whole or not at all.
#' @param title Title of the report; by default the table's name.
#' @return `file`, invisibly.
#' @section Errors: `fjordline_error_package` when rmarkdown or pandoc is missing, `_file` for another ending or a
#'   folder that cannot be written, `_undecided` for a vote without a clear count, `_model` for a partition loaded from
#'   a file.
#' @examplesIf rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0")
#' \donttest{
#' vote <- fl_vote(fl_sweep(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), indices = "fast"))
#' fl_report(fl_take(vote), tempfile(fileext = ".html"))
#' }
#' @export
fl_report <- function(x, file, title = NULL) {
  if (inherits(x, "fl_vote")) x <- fl_take(x)
  check_made_by(x, c("fl_partition", "fl_vote"), "x")
  need_rows(x)
  check_text(file, "file")
  file_form(file, "html")
  check_reporting()
  title <- check_text(title %||% paste0("Groups in ", x$ready$data$name), "title")
  write_whole(file, function(draft) render_report(report_parts(x, title), draft))
}

check_reporting <- function() {
  for (package in c("rmarkdown", "knitr", "htmltools")) {
    if (!rlang::is_installed(package)) {
      fl_abort("package", paste0("Reports need the package ", package, "."),
               advice = paste0("install.packages(\"", package, "\")"))
    }
  }
  if (!rmarkdown::pandoc_available("2.0")) {
    fl_abort("package", "Reports need pandoc 2.0 or newer.", advice = "Your system's package manager has it.")
  }
}

# Rendered in a folder of its own, so that nothing is left behind where the reader looks.
render_report <- function(parts, draft) {
  folder <- tempfile("fjordline-report-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  template <- system.file("reports", c("partition.Rmd", "report.css"), package = "fjordline", mustWork = TRUE)
  file.copy(template, folder)
  made <- rmarkdown::render(file.path(folder, "partition.Rmd"), output_file = "report.html", quiet = TRUE,
                            output_options = list(pandoc_args = c("--metadata", paste0("pagetitle:", parts$title))),
                            envir = list2env(list(parts = parts), parent = globalenv()))
  file.copy(made, draft, overwrite = TRUE)
}

# Everything the template shows, as text, tables and figures.
report_parts <- function(x, title) {
  ready <- x$ready
  agreement <- if (!is.null(truth_of(ready$data))) fl_agree(x)
  gate <- x$vote$structure %||% fl_structure(ready, seen_metric(x$method), seed = x$seed)
  # Not every method can be fitted to a part of the rows.
  reliability <- tryCatch(fl_reliability(x, seed = x$seed), fjordline_error_method = function(e) NULL)
  profile <- fl_profile(x, seed = x$seed)
  list(
    title = title, short = report_short(x, agreement, gate, reliability, profile), structure = gate,
    gate = if (!is.na(gate$groups)) autoplot(gate), reliability = reliability,
    returns = if (!is.null(reliability)) autoplot(reliability), partition = x, vote = x$vote, agreement = agreement,
    mismatches = if (!is.null(agreement)) fl_mismatches(agreement), cards = group_cards(profile), profile = profile,
    colours = fl_palette(x$k), prepared = say_steps(ready$steps), check = fl_check(ready$data), plane = autoplot(x),
    silhouettes = if (has_silhouettes(x)) autoplot(x, view = "silhouette"),
    why = if (!is.null(x$vote)) vote_figures(x$vote),
    cross = if (!is.null(agreement)) autoplot(agreement), steps = fl_steps(x), untried = report_untried(x),
    footer = paste0("Made with fjordline ", utils::packageVersion("fjordline"), ", R ", getRversion(), ". Seed ",
                    x$seed, ".")
  )
}

# How many, how sure, what they are, do they match, what to doubt.
report_short <- function(x, agreement, gate, reliability, profile) {
  facts <- fl_facts(x)
  vote <- x$vote
  sure <- paste(c(
    fl_facts(gate)[1L],
    if (is.null(vote)) "The count was given, not chosen by a vote."
    else c(vote_headline(vote), family_fact(vote), if (!is.null(vote$settled)) settled_fact(vote$settled)),
    if (!is.null(reliability)) fl_facts(reliability)[1L]
  ), collapse = " ")
  doubt <- paste(c(if (!is.null(vote)) track_fact(vote), if (isFALSE(gate$groups)) fl_facts(gate)[3L],
                   paste0(capital(method_said(x$method)), " assumes ", x$method$shape, ".")), collapse = " ")
  c(
    "How many?" = facts[1L], "How sure?" = sure, "What are they?" = groups_in_short(profile),
    "Do they match what is known?" = if (is.null(agreement)) "There are no known classes to compare with."
    else fl_facts(agreement)[1L],
    "What to doubt?" = doubt
  )
}

groups_in_short <- function(profile) {
  groups <- profile$groups
  paste0(capital(paste(paste0(group_said(profile$partition, groups$group), ": ", standouts_said(groups)),
                       collapse = "; ")), ".")
}

# Each group's size, what sets it apart, and its features beside those of the whole table.
group_cards <- function(profile) {
  features <- profile$columns[profile$columns$role == "feature", ]
  lapply(profile$groups$group, function(g) {
    mine <- features[features$group == g, ]
    number <- is.na(mine$level)
    said <- function(v) ifelse(number, digits3(v), percent(v))
    group <- profile$groups[g, ]
    list(group = g, title = group_title(profile$partition, g), rows = group$rows,
         share = percent(group$share), standout = group$standouts,
         table = tibble::tibble(
           column = ifelse(number, with_unit(mine$column, profile$partition$ready$units),
                           level_said(mine$column, mine$level)),
           mean = said(mine$mean), `overall mean` = said(mine$overall),
           `middle half` = ifelse(number, paste(digits3(mine$low), "to", digits3(mine$high)), ""),
           difference = signed(mine$difference)
         ))
  })
}

signed <- function(v) paste0(ifelse(v >= 0, "+", "\u2212"), formatC(abs(v), digits = 1L, format = "f"), " sd")

report_untried <- function(x) {
  sweep <- x$vote$sweep
  tried <- if (is.null(sweep)) method_said(x$method) else listed(vapply(sweep$methods, method_said, ""))
  prepared <- if (is.null(sweep)) x$ready$name else listed(names(sweep$ready))
  c(paste0("Methods other than ", tried, "."), paste0("Preparations other than \u201c", prepared, "\u201d."),
    if (is.null(sweep)) paste0("Counts other than ", x$k, ".") else paste0("Counts beyond ", count_range(sweep$k), "."),
    "Mixtures, which see groups that are not round.")
}
