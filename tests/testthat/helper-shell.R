# The shell command, run as a shell runs it.

shell <- function(..., folder = NULL, env = character()) {
  out <- withr::local_tempfile()
  err <- withr::local_tempfile()
  if (!is.null(folder)) withr::local_dir(folder)
  status <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c(shQuote(system.file("cli", "fjordline", package = "fjordline")), shQuote(c(...))),
                                     stdout = out, stderr = err,
                                     env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep)),
                                             env)))
  list(status = status, out = readLines(out, warn = FALSE, encoding = "UTF-8"),
       err = readLines(err, warn = FALSE, encoding = "UTF-8"))
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
