# Attacks on everything that reads what a stranger sent: see bench/attack/README.md. Prints a table of outcomes and the
# cases that ended badly; exit status 1 where there are any.
# usage: Rscript bench/attack.R   (FJORDLINE_BENCH_SEED=1, FJORDLINE_BENCH_CASES=10000, FJORDLINE_BENCH_ATTACKS=.,
# FJORDLINE_BENCH_WORKERS=2)
files <- normalizePath(c("bench/attack/harness.R", setdiff(list.files("bench/attack", "[.]R$", full.names = TRUE),
                                                          "bench/attack/harness.R")))
for (file in files) source(file)
seed <- as.integer(Sys.getenv("FJORDLINE_BENCH_SEED", "1"))
wanted <- as.integer(Sys.getenv("FJORDLINE_BENCH_CASES", "10000"))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
attacks <- attacks[grep(Sys.getenv("FJORDLINE_BENCH_ATTACKS", "."), names(attacks))]
every <- sum(vapply(attacks, `[[`, 0, "cases"))
share <- min(1, wanted / max(every, 1))
cases <- do.call(rbind, lapply(names(attacks), function(kind) {
  data.frame(kind = kind, number = seq_len(max(1, round(share * attacks[[kind]]$cases))))
}))

ready_worker <- function() {
  session <- callr::r_session$new(options = callr::r_session_options(stdout = NULL, stderr = NULL))
  session$run(function(files) {
    options(fjordline.threads = 1L)
    for (file in files) source(file, local = globalenv())
  }, list(files))
  session
}

# One case after another in a process that may die of them; every sixtieth of them gets a fresh one.
outcomes_of <- function(cases) {
  session <- ready_worker()
  on.exit(session$kill())
  vapply(seq_len(nrow(cases)), function(i) {
    limit <- attacks[[cases$kind[i]]]$seconds
    renew <- function() {
      session$kill()
      session <<- ready_worker()
    }
    tryCatch({
      session$call(function(...) outcome_of_case(...), list(cases$kind[i], cases$number[i], seed))
      if (session$poll_process(limit * 1000) == "timeout") {
        renew()
        return("hang")
      }
      got <- session$read()
      if (!is.null(got$error)) {
        alive <- session$is_alive()
        if (!alive) renew()
        return(if (alive) paste("unclassed:", conditionMessage(got$error)) else "crash")
      }
      if (is.character(got$result)) got$result else "crash"
    }, error = function(e) {
      renew()
      "crash"
    })
  }, "")
}

started <- Sys.time()
part <- split(cases, seq_len(nrow(cases)) %% max(1, workers))
done <- if (workers > 1L) parallel::mclapply(part, outcomes_of, mc.cores = workers) else lapply(part, outcomes_of)
cases$outcome <- unsplit(done, seq_len(nrow(cases)) %% max(1, workers))
# small disks of workers that are gone
if (file.exists("/proc/mounts")) {
  disks <- vapply(strsplit(grep("/fjordline-small-", readLines("/proc/mounts"), value = TRUE), " "), `[[`, "", 2L)
  for (disk in disks) system2("umount", shQuote(disk), stdout = FALSE, stderr = FALSE)
}
words <- c("read", "classed", "unclassed", "other", "crash", "hang")
table <- table(factor(cases$kind, unique(cases$kind)), factor(sub(":.*", "", cases$outcome), words))
print(stats::addmargins(table, 1))
bad <- cases[!cases$outcome %in% words[1:2], ]
told <- split(bad, paste(bad$kind, bad$outcome))
for (like in utils::head(told, 40)) {
  which <- toString(utils::head(like$number, 5))
  cat(like$kind[1], ": ", nrow(like), " x ", like$outcome[1], " (", which, ")\n", sep = "")
}
cat(nrow(cases), "cases,", nrow(bad), "of them bad, in", format(round(difftime(Sys.time(), started), 1)), "\n")
quit(save = "no", status = as.integer(nrow(bad) > 0L))
