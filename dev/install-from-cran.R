# Installs the packages named as arguments from CRAN into the first library that can be written.
wanted <- commandArgs(trailingOnly = TRUE)
if (identical(unname(getOption("repos")["CRAN"]), "@CRAN@")) {
  utils::chooseCRANmirror(graphics = FALSE, ind = 1L)
}
library <- .libPaths()[file.access(.libPaths(), 2L) == 0L][1L]
if (is.na(library)) {
  library <- strsplit(Sys.getenv("R_LIBS_USER"), .Platform$path.sep, fixed = TRUE)[[1L]][1L]
  dir.create(library, recursive = TRUE, showWarnings = FALSE)
  .libPaths(c(library, .libPaths()))
}
utils::install.packages(wanted, lib = library, Ncpus = max(1L, parallel::detectCores()), quiet = TRUE)
