# What a study costs beyond its fits, and what a second worker gains.
# usage: Rscript bench/study.R   (FJORDLINE_BENCH_FITS=5000, FJORDLINE_BENCH_WORKERS=16)
library(fjordline)
ours <- function(name) getFromNamespace(name, "fjordline")
fits <- as.integer(Sys.getenv("FJORDLINE_BENCH_FITS", "5000"))
heaps <- function(i, each) {
  set.seed(i)
  x <- matrix(rnorm(8 * each), ncol = 4)
  x[seq_len(each), ] <- x[seq_len(each), ] + 5
  fl_data(data.frame(x, kind = rep(1:2, each = each)), truth = "kind", name = paste0("t", i))
}
tables <- function(many, each) {
  lapply(stats::setNames(seq_len(many), paste0("t", seq_len(many))), heaps, each = each)
}
elapsed <- function(expr) system.time(expr)[["elapsed"]]
options(fjordline.threads = 1L, socketOptions = "no-delay")

small <- fl_study(tables(10, 25), list(fl_method("kmeans", restarts = 1)), k = 2:6, repeats = fits / 50,
                  indices = "none")
whole <- elapsed(result <- fl_run(small))
ready <- small$ready[[1]][[1]]
bare <- elapsed(for (i in seq_len(fits)) ours("fit_ready")(small$methods[[1]], ready, 2 + i %% 5, i)) / fits
cat(sprintf("%d small fits: %.1f ms each, of which the fit %.1f ms; overhead %.1f ms\n", fits, 1e3 * whole / fits,
            1e3 * bare, 1e3 * (whole / fits - bare)))

# many workers, whose fits only wait: what one process that hands out can serve
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", "16"))
waits <- fl_method("kmeans")
waits$fit <- eval(quote(function(x, k, settings, seed) {
  Sys.sleep(0.1)
  list(group = rep_len(seq_len(k), nrow(x)))
}), baseenv())
waits$scatter <- NULL
waiting <- fl_study(tables(2, 30), list(waits = waits), k = 2:9, repeats = 10 * workers, indices = "none")
start_workers <- function(workers) {
  future::plan("multisession", workers = workers)
  started <- lapply(seq_len(workers), function(i) {
    future::future({
      library(fjordline)
      Sys.sleep(1)
    })
  })
  for (worker in started) future::value(worker)
}
start_workers(workers)
spent <- elapsed(fl_run(waiting))
cat(sprintf("%d workers, %d fits that wait 0.1 s each: %.1f s; without any hand-over 16.0 s\n", workers, 160L * workers,
            spent))

equal <- fl_study(tables(4, 300), list(fl_method("kmeans", restarts = 150)), k = 5:9, repeats = 30, indices = "none")
with_workers <- function(workers) {
  future::plan("sequential")
  if (workers > 1) start_workers(workers)
  elapsed(fl_run(equal))
}
# what this machine gives two processes that have nothing to do with each other
ready <- equal$ready[[1]][[1]]
work <- function(many) for (i in seq_len(many)) ours("fit_ready")(equal$methods[[1]], ready, 7, i)
rounds <- vapply(1:3, function(round) {
  c(one = with_workers(1), two = with_workers(2), alone = elapsed(work(150)),
    both = elapsed(parallel::mclapply(1:2, function(i) work(150), mc.cores = 2)))
}, double(4))
middle <- apply(rounds, 1, median)
cat(sprintf("two workers: %.2f times one (%.1f s, %.1f s); two processes without any hand-over: %.2f times one\n",
            middle[["one"]] / middle[["two"]], middle[["one"]], middle[["two"]],
            2 * middle[["alone"]] / middle[["both"]]))
