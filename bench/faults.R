# Killed without warning at 25 random moments, resumed each time: are the final tables those of an undisturbed run?
# usage: Rscript bench/faults.R   (FJORDLINE_BENCH_KILLS=25, FJORDLINE_BENCH_WORKERS=2, FJORDLINE_BENCH_SEED=1)
library(fjordline)
source("tests/testthat/helper-study.R")
kills <- as.integer(Sys.getenv("FJORDLINE_BENCH_KILLS", "25"))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", "2"))
set.seed(as.integer(Sys.getenv("FJORDLINE_BENCH_SEED", "1")))
study <- fl_study(c("water_samples", "icequakes", "seal_haulouts"), c("kmeans", "linkage", "hdbscan"), k = 2:8,
                  repeats = 20, indices = "fast")
folder <- tempfile("faults-")
dir.create(folder)
spec <- file.path(folder, "study.rds")
store <- file.path(folder, "study.sqlite")
saveRDS(study, spec)
code <- sprintf(paste("library(fjordline); if (%d > 1) future::plan('multisession', workers = %d);",
                      "fl_run(readRDS('%s'), '%s')"), workers, workers, spec, store)
left <- function() {
  if (!file.exists(store)) return(c(NA, NA))
  con <- DBI::dbConnect(RSQLite::SQLite(), store)
  on.exit(DBI::dbDisconnect(con))
  vapply(c("fl_cells", "fl_judgements"), function(table) {
    if (DBI::dbExistsTable(con, table)) DBI::dbGetQuery(con, paste("SELECT COUNT(*) n FROM", table))$n else NA_integer_
  }, 0L)
}
total <- function() sum(left(), na.rm = TRUE)
done <- 0L
for (kill in seq_len(kills)) {
  pid <- as.integer(system(paste0(shQuote(file.path(R.home("bin"), "Rscript")), " -e ", shQuote(code),
                                  " > /dev/null 2>&1 & echo $!"), intern = TRUE))
  before <- total()
  until <- Sys.time() + 60
  while (Sys.time() < until && total() == before) Sys.sleep(0.05)  # until it is at work
  Sys.sleep(runif(1, 0, 2))
  alive <- tools::pskill(pid, tools::SIGKILL)
  done <- done + alive
  cat("kill", kill, if (alive) "in work:" else "after its end:",
      paste(left(), c("fits", "judgements"), collapse = ", "), "\n")
}
resumed <- fl_run(study, store)
whole <- fl_run(study)
same <- identical(found_by(resumed), found_by(whole))
cat(done, "runs killed in work; the tables are", if (same) "identical" else "DIFFERENT",
    "to those of an undisturbed run\n")
unlink(folder, recursive = TRUE)
