# Peak memory of a table of 1,000,000 x 20, as a multiple of the table's own size; one R process each. Of preparing it,
# the table included; of fitting, what is needed besides the prepared table that was there before.
# usage: Rscript bench/memory.R (Linux: the peak is the one the system reports)
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
fits <- c(kmeans = "fl_method('kmeans', restarts = 2)", cosine = "fl_method('kmeans', restarts = 2, metric = 'cosine')",
          evolution = "fl_method('kmeans', restarts = 2, search = 'evolution', max_rounds = 20)",
          batches = "fl_method('kmeans', search = 'batches', restarts = 2)",
          medoids = "fl_method('medoids', restarts = 2)", fuzzy = "fl_method('fuzzy', restarts = 1)")
fit_script <- "
  suppressMessages(library(fjordline))
  lines <- function(what) grep(what, readLines('/proc/self/status'), value = TRUE)
  status <- function(what) as.numeric(gsub('[^0-9]', '', lines(what))) / 1024
  table <- as.data.frame(matrix(runif(2e7), ncol = 20) + rep(1:4, 250000))
  size <- as.numeric(object.size(table)) / 2^20
  ready <- fl_prepare(fl_data(table, name = 'table'))
  rm(table)
  invisible(gc())
  writeLines('5', '/proc/self/clear_refs')  # the peak begins anew
  before <- status('VmRSS')
  took <- system.time(fit <- fl_partition(ready, %s, k = 4))[['elapsed']]
  cat(sprintf('%%-16s %%5.2f times the table besides, %%4.1f s\n', '%s', (status('VmHWM') - before) / size, took))
"

run <- function(script) {
  file <- tempfile(fileext = ".R")
  writeLines(script, file)
  system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(file)),
          env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":")))
}
for (name in names(cases)) run(sprintf(script, cases[[name]], name))
for (name in names(fits)) run(sprintf(fit_script, fits[[name]], name))
