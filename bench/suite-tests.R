# How often the test for groups claims groups, in tables of one cluster and in tables of several.
# usage: Rscript bench/suite-tests.R   (FJORDLINE_BENCH_NUMBERS="seq(2, 40, 2)": even ones judge,
# FJORDLINE_BENCH_SUITES a pattern, FJORDLINE_BENCH_SETS=39, FJORDLINE_BENCH_WORKERS=2). Writes
# build/tests-judging.csv.
library(fjordline)
source("bench/suites.R")
numbers <- eval(parse(text = Sys.getenv("FJORDLINE_BENCH_NUMBERS", "seq(2, 40, 2)")))
testable <- setdiff(names(all_suites), c("categories", "entangled"))
chosen <- grep(Sys.getenv("FJORDLINE_BENCH_SUITES", "."), testable, value = TRUE)
sets <- as.integer(Sys.getenv("FJORDLINE_BENCH_SETS", "39"))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
file <- "build/tests-judging.csv"
options(fjordline.threads = 1L)

jobs <- expand.grid(suite = chosen, number = numbers, stringsAsFactors = FALSE)
tested <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
  table <- made(jobs$suite[i], jobs$number[i])
  test <- fl_structure(prepared(jobs$suite[i], table), sets = sets)
  data.frame(suite = jobs$suite[i], number = jobs$number[i], known = table$k, rows = nrow(table$x),
             columns = ncol(table$x), p = test$p, p_dip = test$p_dip, p_between = test$p_between, p_runt = test$p_runt)
}, mc.cores = workers, mc.preschedule = FALSE)
tested <- do.call(rbind, Filter(is.data.frame, tested))
if (file.exists(file)) {
  before <- read.csv(file)
  tested <- rbind(before[!paste(before$suite, before$number) %in% paste(tested$suite, tested$number), ], tested)
}
write.csv(tested, file, row.names = FALSE)
claims <- do.call(rbind, lapply(split(tested, factor(tested$suite, unique(tested$suite))), function(tables) {
  share <- mean(tables$p <= 0.05)
  data.frame(suite = tables$suite[1], tables = nrow(tables), claims = round(share, 2),
             error = round(sqrt(share * (1 - share) / nrow(tables)), 2))
}))
print(claims, row.names = FALSE)
