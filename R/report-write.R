# Reports: a decision-maker reads the first screen, a colleague reruns the last.

report_forms <- c("html", "md", "docx")

#' Write a report
#'
#' One file for others to read: the finding in short, the groups with their names and what sets them apart, why this
#' count, how reliable they are, how well they match the known classes, the table and its preparation with what was
#' found in it, what was not tried, and how to rerun it. Of a sweep or a vote without a clear count it tells what the
#' indices said, why that is no decision, and how groups split as the count grows.
#'
#' @section Forms: `.html` is self-contained; it also has the rows in three dimensions, to be turned, with their values
#'   at the pointer. `.docx` is for Word. `.md` is plain Markdown, its figures in a folder
#'   beside it (`report.md`, `report_files/`).
#' @param x A partition; new rows placed by [fl_place()] into the groups of a saved model; a sweep ([fl_sweep()]), which
#'   is voted on; a vote or settled vote; or a study that was run ([fl_run()]), whose report tells which method wins
#'   where, which index can be trusted, and what the answer depends on.
#' @param file Path ending in `.html`, `.md` or `.docx`. It is written whole or not at all.
#' @param title Title of the report; by default the table's name.
#' @return `file`, invisibly.
#' @section Progress: a bar after two seconds in an interactive session; else progress is signalled through the
#'   progressr package.
#' @section Errors: `fjordline_error_package` when rmarkdown or pandoc is missing, `fjordline_error_file` for another
#'   ending or a folder that cannot be written, `fjordline_error_model` for a partition loaded from a file.
#' @examplesIf rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0")
#' \donttest{
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' vote <- fl_vote(fl_sweep(ready, "kmeans", indices = "fast"))
#' fl_report(vote, tempfile(fileext = ".html"))
#' groups <- fl_take(fl_settle(vote, 5, "five kinds of water are known"))
#' fl_report(fl_name(groups), tempfile(fileext = ".docx"))
#' }
#' @export
fl_report <- function(x, file, title = NULL) {
  if (inherits(x, "fl_place")) x <- fl_adopt(x)
  check_made_by(x, c("fl_partition", "fl_sweep", "fl_vote", "fl_place", "fl_run"), "x")
  if (inherits(x, "fl_partition")) {
    need_rows(x)
    need_groups(x)
  }
  check_text(file, "file")
  form <- file_form(file, report_forms)
  check_target(file)
  check_reporting()
  with_bar(reported(x, file, form, title))
}

reported <- function(x, file, form, title) {
  step <- progressr::progressor(steps = report_stages)
  if (inherits(x, "fl_run")) {
    parts <- study_parts(x)
    parts$title <- check_text(title %||% parts$title, "title")
    return(render_report(parts, study_figures(parts), file, form, "study.Rmd", step))
  }
  if (inherits(x, "fl_sweep")) x <- fl_vote(x)
  if (inherits(x, "fl_vote") && (!is.null(x$settled) || !x$verdict %in% undecided)) x <- fl_take(x)
  ready <- if (inherits(x, "fl_vote")) x$sweep$ready[[x$preparation]] else x$ready
  title <- check_text(title %||% paste0("Groups in ", ready$data$name), "title")
  parts <- if (inherits(x, "fl_vote")) vote_parts(x, ready) else partition_parts(x, step)
  parts$title <- title
  parts$below <- title_facts(x, ready)
  render_report(parts, report_figures(parts), file, form, step = step)
}

# What a report waits for: the test for groups, reliability, profile, paths, figures, and writing.
report_stages <- 6L

check_reporting <- function() {
  for (package in c("rmarkdown", "knitr", "htmltools")) need_package(package, "A report")
  if (!rmarkdown::pandoc_available("2.0")) {
    fl_abort("package", "Reports need pandoc 2.0 or newer.", advice = "Your system's package manager has it.")
  }
}

# Rendered in a folder of its own, so that nothing is left behind where the reader looks.
render_report <- function(parts, figures, file, form, template = "report.Rmd", step) {
  folder <- tempfile("fjordline-report-")
  dir.create(folder)
  before <- scratch_files()
  on.exit(unlink(c(folder, setdiff(scratch_files(), before)), recursive = TRUE))
  file.copy(system.file("reports", c(template, "report.css"), package = "fjordline", mustWork = TRUE), folder)
  # Scripts in a report run only with a word that its table cannot know.
  pass <- rlang::hash(parts)
  # of Markdown the figures go into a folder beside it
  beside <- paste0(tools::file_path_sans_ext(basename(file)), "_files")
  drawn <- drawn_figures(figures, file.path(folder, "figures"))
  step()
  writer <- report_writer(form, drawn, if (form == "md") beside else "figures", pass)
  room <- list2env(list(parts = parts, writer = writer), parent = globalenv())
  made <- rmarkdown::render(file.path(folder, template), report_output(form, parts$title, folder, pass),
                            output_file = basename(file), quiet = TRUE, envir = room)
  # the figures first: a file must not name what is not there
  if (form == "md") {
    dir.create(file.path(dirname(file), beside), showWarnings = FALSE)
    file.copy(list.files(file.path(folder, "figures"), full.names = TRUE), file.path(dirname(file), beside),
              overwrite = TRUE)
  }
  write_whole(file, function(draft) file.copy(made, draft, overwrite = TRUE))
}

# Pictures that the library which knits tries its devices with stay in the session's folder.
scratch_files <- function() list.files(tempdir(), "^file[0-9a-f]+$", full.names = TRUE)

# The page around an HTML report: its style, and a policy by which it loads nothing, sends nothing, and runs only
# scripts that carry the pass.
page_template <- function(folder, pass) {
  policy <- paste0("default-src 'none'; img-src data:; style-src 'unsafe-inline'; script-src 'nonce-", pass,
                   "'; base-uri 'none'; form-action 'none'")
  style <- gsub("$", "$$", paste(readLines(file.path(folder, "report.css")), collapse = "\n"), fixed = TRUE)
  file <- file.path(folder, "page.html")
  writeLines(c(
    "<!DOCTYPE html>", "<html lang=\"en\">", "<head>", "<meta charset=\"utf-8\">",
    paste0("<meta http-equiv=\"Content-Security-Policy\" content=\"", policy, "\">"),
    "<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">", "<title>$pagetitle$</title>",
    "<style>", style, "</style>", "</head>", "<body>", "$body$", "</body>", "</html>"
  ), file, useBytes = TRUE)
  file
}

report_output <- function(form, title, folder, pass) {
  # escaped brackets are brackets, not formulas
  plain <- "-tex_math_single_backslash-tex_math_dollars"
  switch(
    form,
    html = rmarkdown::html_document(theme = NULL, highlight = NULL, mathjax = NULL, self_contained = TRUE,
                                    section_divs = FALSE, template = page_template(folder, pass),
                                    pandoc_args = c("--metadata", paste0("pagetitle:", title))),
    md = rmarkdown::md_document(variant = "gfm", md_extensions = plain),
    docx = rmarkdown::word_document(md_extensions = plain)
  )
}
