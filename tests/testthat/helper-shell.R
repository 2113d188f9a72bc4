# The shell command, run as a shell runs it.

# `fresh`: in a process of its own, as a shell does. Else in one that is kept for all commands of a test file, since to
# start R takes longer than most of them.
shell <- function(..., folder = NULL, env = character(), fresh = length(env) > 0 || !rlang::is_installed("callr")) {
  if (fresh) fresh_shell(c(...), folder %||% getwd(), env) else kept_shell(c(...), folder %||% getwd())
}

fresh_shell <- function(arguments, folder, env) {
  out <- withr::local_tempfile()
  err <- withr::local_tempfile()
  withr::local_dir(folder)
  status <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"),
                                     c(shQuote(system.file("cli", "fjordline", package = "fjordline")), shQuote(arguments)),
                                     stdout = out, stderr = err,
                                     env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep)), env)))
  list(status = status, out = readLines(out, warn = FALSE, encoding = "UTF-8"),
       err = readLines(err, warn = FALSE, encoding = "UTF-8"))
}

kept_shells <- new.env()

kept_shell <- function(arguments, folder) {
  if (is.null(kept_shells$process) || !kept_shells$process$is_alive()) {
    kept_shells$process <- callr::r_session$new()
  }
  said <- kept_shells$process$run_with_output(function(arguments, folder) {
    before <- setwd(folder)
    on.exit(setwd(before))
    getFromNamespace("cli_main", "fjordline")(arguments)
  }, list(arguments, normalizePath(folder)))
  if (!is.null(said$error)) stop(said$error)
  lines <- function(text) {
    text <- enc2utf8(text)
    if (nzchar(text)) strsplit(sub("\n$", "", text), "\n", fixed = TRUE)[[1]] else character()
  }
  list(status = said$result, out = lines(said$stdout), err = lines(said$stderr))
}

# The same without a process of its own, for what ends before any work is done.
in_session <- function(...) {
  said <- withr::local_tempfile()
  con <- file(said, "w", encoding = "UTF-8")
  sink(con, type = "message")
  on.exit({
    sink(type = "message")
    close(con)
  })
  out <- utils::capture.output(status <- cli_main(c(...)))
  flush(con)
  list(status = status, out = out, err = readLines(said, warn = FALSE, encoding = "UTF-8"))
}
