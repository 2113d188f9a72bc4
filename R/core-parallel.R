# Work shared among threads, and among the workers of the reader's own plan.

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

# How many threads the kernels may use. Results never depend on it.
thread_count <- function() {
  asked <- getOption("fjordline.threads")
  if (!is.null(asked)) {
    return(as.integer(check_whole(asked, "options(fjordline.threads)", most = 1024)))
  }
  most <- threads_kernel()
  # R CMD check allows two.
  if (nzchar(Sys.getenv("_R_CHECK_LIMIT_CORES_"))) min(most, 2L) else most
}

elapsed_seconds <- function() proc.time()[["elapsed"]]
