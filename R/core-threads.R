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
