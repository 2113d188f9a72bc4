# Whether the search for mixtures finds what another version's does: both fit one to eleven components to judging tables
# of all suites. usage: Rscript bench/mixture-search.R fit FILE   (once in each version, R_LIBS says which)
#        Rscript bench/mixture-search.R compare BEFORE_FILE FILE
# FJORDLINE_BENCH_NUMBERS=101:103 tables of each suite, FJORDLINE_BENCH_WORKERS=2
arguments <- commandArgs(TRUE)

fitted_by <- function(ready) {
  lapply(1:11, function(k) {
    took <- system.time({
      groups <- tryCatch(fl_partition(ready, "mixture", k = k), error = function(e) NULL)
    })[["user.self"]]
    if (is.null(groups)) return(NULL)
    tried <- groups$model$tried
    list(k = k, seconds = took, model = paste(groups$model$structure, groups$model$tails),
         bic = min(tried$bic[!nzchar(tried$reason)], Inf),
         tried = tried[c("structure", "tails", "log_likelihood", "reason")],
         log_likelihood = groups$likelihood$log, group = groups$group)
  })
}

if (arguments[1L] == "fit") {
  library(fjordline)
  source("bench/suites.R")
  options(fjordline.threads = 1L)
  numbers <- eval(parse(text = Sys.getenv("FJORDLINE_BENCH_NUMBERS", "101:103")))
  jobs <- expand.grid(suite = setdiff(c(names(old_suites), names(new_suites)), "many rows"), number = numbers,
                      stringsAsFactors = FALSE)
  found <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
    tryCatch(fitted_by(prepared(jobs$suite[i], made(jobs$suite[i], jobs$number[i]))), error = function(e) NULL)
  }, mc.cores = as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", "2")), mc.preschedule = FALSE)
  saveRDS(list(jobs = jobs, found = found), arguments[2L])
} else {
  before <- readRDS(arguments[2L])
  now <- readRDS(arguments[3L])
  stopifnot(identical(before$jobs, now$jobs))
  rand <- getFromNamespace("adjusted_rand", "fjordline")
  `%||%` <- rlang::`%||%`
  of <- function(fits, part, type = 0) vapply(fits, function(fit) fit[[part]] %||% NA_real_, type)
  lines <- lapply(which(lengths(before$found) == 11 & lengths(now$found) == 11), function(i) {
    a <- before$found[[i]]
    b <- now$found[[i]]
    k <- c(which.min(of(a, "bic")), which.min(of(b, "bic")))
    if (length(k) < 2L) return(NULL)
    data.frame(suite = before$jobs$suite[i], number = before$jobs$number[i], k_before = k[1L], k_now = k[2L],
               model = a[[k[1L]]]$model == b[[k[2L]]]$model,
               rand = if (k[1L] == k[2L]) rand(table(a[[k[1L]]]$group, b[[k[2L]]]$group)) else NA,
               bic = b[[k[2L]]]$bic - a[[k[1L]]]$bic, worse = sum(of(b, "bic") - of(a, "bic") > 1, na.rm = TRUE),
               better = sum(of(b, "bic") - of(a, "bic") < -1, na.rm = TRUE),
               seconds_before = sum(of(a, "seconds")), seconds_now = sum(of(b, "seconds")))
  })
  lines <- do.call(rbind, lines)
  print(lines[lines$k_before != lines$k_now | !lines$model | lines$rand %in% NA | lines$rand < 0.99 |
                abs(lines$bic) > 1, ], digits = 3, row.names = FALSE)
  cat(nrow(lines), "tables. Same count:", sum(lines$k_before == lines$k_now), " same model:", sum(lines$model),
      " same groups (adjusted Rand .99):", sum(lines$rand >= 0.99, na.rm = TRUE),
      "\nsmallest BIC no more than 1 worse:", sum(lines$bic <= 1), " 1 better or more:", sum(lines$bic < -1),
      "\nof all counts: worse", sum(lines$worse), "better", sum(lines$better), "of", 11 * nrow(lines),
      "\nseconds:", sum(lines$seconds_before, na.rm = TRUE), "before,", sum(lines$seconds_now, na.rm = TRUE), "now\n")
}
