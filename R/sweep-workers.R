# Many fits shared among the workers of the reader's own plan.

# lapply() here or, where a plan of the future package with several workers is set, there. Each worker then uses one
# thread. The results are the same: what is random in `work` depends on what it is given alone.
shared_out <- function(over, work) {
  if (!has_workers()) {
    return(lapply(over, work))
  }
  future.apply::future_lapply(over, on_one_thread(work), future.seed = NULL, future.packages = "fjordline")
}

has_workers <- function() {
  rlang::is_installed("future.apply") && isNamespaceLoaded("future") && future::nbrOfWorkers() > 1L
}

on_one_thread <- function(work) {
  force(work)
  function(...) {
    before <- options(fjordline.threads = 1L)
    on.exit(options(before))
    work(...)
  }
}
