# Disks that fill, processes that are killed, keys that are pressed. (Linux, with the right to mount.)
mounted <- function() once("small disk", function() {
  folder <- tempfile("fjordline-small-")
  dir.create(folder)
  status <- suppressWarnings(system2("mount", c("-t", "tmpfs", "-o", "size=300k", "tmpfs", folder), stdout = FALSE,
                                     stderr = FALSE))
  list(folder = if (status == 0L) folder)
})

attack("full disk", function(number) {
  folder <- mounted()$folder
  if (is.null(folder)) return("read")
  unlink(list.files(folder, full.names = TRUE, all.files = TRUE, no.. = TRUE))
  set.seed(number)
  groups <- once("large groups", function() {
    set.seed(4)
    ready <- fl_prepare(fl_data(data.frame(a = rnorm(3000), b = rnorm(3000))))
    fl_partition(ready, fl_method("kmeans", restarts = 2), k = 3)
  })
  forms <- c("csv", "tsv", "json", if (rlang::is_installed("openxlsx")) "xlsx",
             if (rlang::is_installed("nanoparquet")) "parquet")
  file <- file.path(folder, paste0("out.", sample(forms, 1)))
  fl_export(groups, file, group = 3)
  before <- read_bytes(file)
  suppressWarnings(writeBin(raw(runif(1, 0, 3e5)), file.path(folder, "filler")))
  outcome <- outcome_of({
    fl_export(groups, file)
    TRUE
  })
  # whole and new, or whole and old
  after <- read_bytes(file)
  if (outcome == "classed" && !identical(after, before)) "other"
  else if (outcome == "read" && identical(after, before)) "other"
  else if (any(startsWith(list.files(folder, all.files = TRUE), ".fjordline-"))) "other"
  else outcome
}, 80)

r_script <- function(...) {
  file <- tempfile(fileext = ".R")
  writeLines(c("library(fjordline)", ...), file)
  # its own group, so that what it began ends with it
  processx::process$new(file.path(R.home("bin"), "Rscript"), file, stdout = "|", stderr = "|", env = c("current"))
}

wait_for <- function(process, word, seconds = 60) {
  said <- character()
  until <- Sys.time() + seconds
  while (process$is_alive() && Sys.time() < until && !any(grepl(word, said, fixed = TRUE))) {
    process$poll_io(200)
    said <- c(said, process$read_output_lines())
  }
  invisible(said)
}

attack("kills", function(number) {
  file <- tempfile(fileext = ".csv")
  writeLines("old", file)
  process <- r_script("x <- data.frame(a = rnorm(60000), b = rnorm(60000))",
                      "groups <- fl_partition(fl_prepare(fl_data(x)), fl_method('kmeans', restarts = 2), k = 3)",
                      "cat('ready\\n')",
                      paste0("repeat fl_export(groups, ", deparse(file), ")"))
  wait_for(process, "ready")
  Sys.sleep(runif(1, 0, 0.6))
  process$kill()
  lines <- length(readLines(file, warn = FALSE))
  if (lines %in% c(1L, 60001L)) "read" else "other"
}, 25, seconds = 120)

# Long work ends within three seconds of the key (one on an idle machine).
long_work <- c(
  hdbscan = "fl_partition(ready, 'hdbscan')", dbscan = "fl_partition(ready, 'dbscan')",
  kmeans = "fl_partition(ready, fl_method('kmeans', restarts = 5000), k = 50)",
  mixture = "fl_partition(ready, 'mixture', k = 9)", medoids = "fl_partition(ready, 'medoids', k = 40)",
  linkage = "fl_partition(ready, fl_method('linkage', join = 'single'), k = 3)",
  indices = "fl_sweep(ready, 'kmeans', k = 1:10)", structure = "fl_structure(ready, sets = 999)",
  outliers = "fl_outliers(ready)", reliability = "fl_reliability(fl_partition(ready, k = 9), samples = 9999)"
)

attack("interrupts", function(number) {
  what <- long_work[[(number - 1L) %% length(long_work) + 1L]]
  process <- r_script("set.seed(1)", "x <- as.data.frame(matrix(rnorm(6 * 80000), 80000))",
                      "ready <- fl_prepare(fl_data(x))", "cat('ready\\n')", paste0("invisible(", what, ")"))
  wait_for(process, "ready")
  process$poll_io(as.integer(runif(1, 300, 6000)))
  started <- Sys.time()
  process$interrupt()
  process$wait(20000)
  took <- as.double(difftime(Sys.time(), started, units = "secs"))
  process$kill()
  if (took > 3) "hang" else "read"
}, 20, seconds = 120)
