# Runs all tests against the installed package and ends with one plain line of totals.
# Threads of one process that wait must not keep those of the other from working.
Sys.setenv(NOT_CRAN = "true", OMP_WAIT_POLICY = "passive")
results <- testthat::test_dir("tests/testthat", package = "fjordline", load_package = "installed",
                              reporter = if (isatty(stdout())) "progress" else "check", stop_on_failure = FALSE)
results <- as.data.frame(results)
failed <- sum(results$failed) + sum(results$error)
cat(sum(results$passed), "passed,", failed, "failed,", sum(results$skipped), "skipped\n")
quit(save = "no", status = as.integer(failed > 0 || sum(results$passed) == 0))
