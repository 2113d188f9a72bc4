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
