# Sweeps of all suites, kept in build/sweeps: rules of the vote are then tried without fitting again.
# usage: Rscript bench/suite-sweeps.R   (FJORDLINE_BENCH_NUMBERS=1:40, FJORDLINE_BENCH_SUITES=a;b,
# FJORDLINE_BENCH_SET=fast, FJORDLINE_BENCH_WORKERS=2, FJORDLINE_BENCH_STORE=build/sweeps)
library(fjordline)
source("bench/suites.R")
numbers <- eval(parse(text = Sys.getenv("FJORDLINE_BENCH_NUMBERS", "1:40")))
every <- paste(c(names(old_suites), names(new_suites)), collapse = ";")
chosen <- strsplit(Sys.getenv("FJORDLINE_BENCH_SUITES", every), ";")[[1]]
set <- Sys.getenv("FJORDLINE_BENCH_SET", "fast")
store <- Sys.getenv("FJORDLINE_BENCH_STORE", "build/sweeps")
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
dir.create(store, showWarnings = FALSE, recursive = TRUE)
options(fjordline.threads = 1L)
# the test for groups has a script of its own, bench/suite-tests.R
untested <- function(ready, methods, seed, sets) {
  lapply(ready, function(one) list(euclidean = list(groups = TRUE, p = NA_real_, sets = sets)))
}
assignInNamespace("structure_tests", untested, "fjordline")

swept <- function(suite, number) {
  file <- file.path(store, paste0(gsub("[^a-zA-Z0-9]+", "-", suite), "-", set, "-", number, ".rds"))
  if (file.exists(file)) return(invisible())
  table <- made(suite, number)
  took <- system.time(sweep <- tryCatch(fl_sweep(prepared(suite, table), c("kmeans", "mixture"),
                                                 k = if (suite == "many groups") 1:15 else 1:10, indices = set),
                                        error = function(e) e))
  saveRDS(list(suite = suite, number = number, known = c(table$k, table$also), group = table$group, sweep = sweep,
               seconds = took[[3]]), file)
}
jobs <- expand.grid(suite = chosen, number = numbers, stringsAsFactors = FALSE)
done <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
  tryCatch(swept(jobs$suite[i], jobs$number[i]), error = function(e) {
    message(jobs$suite[i], " ", jobs$number[i], ": ", conditionMessage(e))
  })
}, mc.cores = workers, mc.preschedule = FALSE)
