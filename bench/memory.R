# Peak memory of preparing a table of 1,000,000 x 20, as a multiple of the table's own size, the table included; one R
# process each. usage: Rscript bench/memory.R (Linux: the peak is the one the system reports)
cases <- list(
  plain = "fl_prepare(data)", `a missing value` = "fl_prepare(gappy)",
    filled = "fl_prepare(gappy, missing = \"middle\")",
  winsorised = "fl_prepare(data, scale = \"median_iqr\", outliers = \"winsorise\")",
  components = "fl_prepare(gappy, reduce = 0.5)", transformed = "fl_prepare(gappy, transform = \"square_root\")"
)
script <- "
  suppressMessages(library(fjordline))
  peak <- function() as.numeric(gsub('[^0-9]', '', grep('VmHWM', readLines('/proc/self/status'), value = TRUE))) / 1024
  bare <- peak()
  table <- list()
  for (j in 1:20) table[[paste0('v', j)]] <- runif(1e6)
  attributes(table) <- list(names = names(table), class = 'data.frame', row.names = .set_row_names(1e6))
  size <- as.numeric(object.size(table)) / 2^20
  data <- fl_data(table, name = 'table')
  gappy <- data
  gappy$table$v3[5] <- NA
  invisible(gc())
  took <- system.time(ready <- %s)[['elapsed']]
  cat(sprintf('%%-16s %%5.2f times the table, %%4.1f s\n', '%s', (peak() - bare) / size, took))
"
for (name in names(cases)) {
  file <- tempfile(fileext = ".R")
  writeLines(sprintf(script, cases[[name]], name), file)
  system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(file)), env = paste0("R_LIBS=",
                                                                                           paste(.libPaths(),
                                                                                                 collapse = ":")))
}
