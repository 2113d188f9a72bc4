# Streamed k-means of 10,000,000 x 10 from CSV and from Parquet: time, peak memory beyond the R session with the package
# loaded (as Linux reports it), and W against the full fit on a sample that fits. Needs 3 GB of disk and the package
# nanoparquet.  usage: Rscript bench/stream.R
folder <- tempfile("fjordline-long-")
dir.create(folder)
make <- sprintf("
  set.seed(1)
  n <- 1e7
  centres <- matrix(rnorm(80, sd = 3), 8)
  group <- sample(8, n, TRUE)
  table <- as.data.frame(lapply(1:10, function(j) round(centres[group, j] + rnorm(n), 4)))
  names(table) <- paste0('v', 1:10)
  data.table::fwrite(table, '%1$s/long.csv')
  nanoparquet::write_parquet(table, '%1$s/long.parquet')
", folder)
work <- "
  suppressMessages(library(fjordline))
  invisible(c(loadNamespace('data.table'), loadNamespace('nanoparquet')))
  peak <- function() as.numeric(gsub('[^0-9]', '', grep('VmHWM', readLines('/proc/self/status'), value = TRUE))) / 1024
  bare <- peak()
  took <- system.time({
    ready <- fl_prepare(fl_sample('%s', rows = 50000))
    groups <- fl_stream(ready, k = 8)
  })[['elapsed']]
  most <- peak() - bare
  # the sample's own best fit, and one from the streamed centres on another sample of 200,000 rows
  other <- fl_prepare(fl_sample('%s', rows = 200000, seed = 2))
  full <- fl_partition(other, k = 8)
  near <- fjordline:::nearest_kernel(predict(ready, other$data), groups$centres, 'euclidean', 1L)
  best <- fjordline:::group_scatter(predict(ready, other$data), fl_labels(full))
  cat(sprintf('%%-12s %%5.1f s, %%4.0f MB beyond the session; W on another sample %%.3f %%%% above its full fit\n',
              basename('%s'), took, most, 100 * (sum(near$distance^2) / sum(best) - 1)))
"
run <- function(code) {
  file <- tempfile(fileext = ".R")
  writeLines(code, file)
  libraries <- paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))
  system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(file)), env = libraries)
}
run(make)
for (file in file.path(folder, c("long.csv", "long.parquet"))) run(sprintf(work, file, file, file))
unlink(folder, recursive = TRUE)
