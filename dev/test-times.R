# What each test takes, the slowest first: runs them one after the other, twice as long as all together.
# usage: Rscript dev/test-times.R     writes build/test-times.csv
Sys.setenv(NOT_CRAN = "true", TESTTHAT_PARALLEL = "false")
results <- as.data.frame(testthat::test_dir("tests/testthat", package = "fjordline", load_package = "installed",
                                            reporter = "silent", stop_on_failure = FALSE))
times <- results[order(-results$real), c("file", "test", "real")]
utils::write.csv(times, "build/test-times.csv", row.names = FALSE)
print(utils::head(times, 20L), row.names = FALSE)
