# Extracted from test-cli.R:158

# setup ------------------------------------------------------------------------
library(testthat)
test_env <- simulate_test_env(package = "fjordline", path = "..")
attach(test_env, warn.conflicts = FALSE)

# prequel ----------------------------------------------------------------------
command <- system.file("cli", "fjordline", package = "fjordline")
shell <- function(..., folder = NULL, env = character()) {
  out <- withr::local_tempfile()
  err <- withr::local_tempfile()
  if (!is.null(folder)) withr::local_dir(folder)
  status <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c(shQuote(command), shQuote(c(...))),
                                     stdout = out, stderr = err,
                                     env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep)),
                                             env)))
  list(status = status, out = readLines(out, warn = FALSE, encoding = "UTF-8"),
       err = readLines(err, warn = FALSE, encoding = "UTF-8"))
}
water_file <- demo_file("water_samples")
water_roles <- c("--truth", "water_mass", "--id", "sample", "--aside", "station,date,longitude,latitude,depth",
                 "--transform", "turbidity=log")

# test -------------------------------------------------------------------------
count <- c(cli_verbs()$count, name = "count")
expect_snapshot(cat(cli_help(count), sep = "\n"))
