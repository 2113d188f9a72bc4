# Prints the benchmarks. Speeds are ratios within one run: against textbook C++ loops compiled here, and against what
# the machine computes at most.  usage: make bench   (bench/verdict.R, the vote's track record, runs by itself)
library(fjordline)
Rcpp::sourceCpp("bench/textbook.cpp")
kernel <- function(name) getFromNamespace(name, "fjordline")

seconds <- function(code, times = 5) {
  code <- substitute(code)
  frame <- parent.frame()
  min(vapply(seq_len(times), function(i) system.time(eval(code, frame))[["elapsed"]], 0))
}

heaps <- function(n, d, k, seed = 1) {
  set.seed(seed)
  matrix(rnorm(k * d, sd = 4), k)[sample(k, n, TRUE), ] + matrix(rnorm(n * d), n)
}

say <- function(...) cat(..., "\n\n", sep = "")

cores <- parallel::detectCores()
say("machine: ", R.version$platform, ", R ", format(getRversion()), ", ", cores, " cores, one thread used")

ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
sweep_time <- seconds(fl_sweep(ready, fl_method("kmeans", restarts = 25), k = 1:10))
say("sweep, 599 x 6, k = 1..10, 25 restarts, four indices: ", format(sweep_time), " s (wanted: under 2)")

x <- heaps(100000, 16, 16)
start <- x[round(seq(1, nrow(x), length.out = 16)), ]
plain <- seconds(textbook_lloyd(x, start, 20L))
ours <- seconds(kernel("kmeans_kernel")(x, 16L, "rows", 1L, 20L, 1))
arithmetic <- seconds(multiply_adds(2e9))
needed <- 20 * nrow(x) * 16 * ncol(x) / 2e9 * arithmetic
say("k-means, 100,000 x 16, k = 16, up to 20 rounds and a pass of transfers: ", format(ours), " s\n",
    "  textbook Lloyd, 20 rounds: ", format(plain), " s; ratio ", format(plain / ours, digits = 3),
    "; the bare arithmetic takes ", format(needed, digits = 2), " s")

x <- heaps(4000, 8, 6)
groups <- vapply(2:10, function(k) kernel("kmeans_kernel")(x, k, "spread", 1L, 50L, 1)$group, integer(4000))
plain <- seconds(for (m in 1:9) textbook_silhouette(x, groups[, m]), times = 2)
ours <- seconds(kernel("silhouette_kernel")(x, groups, 2:10), times = 2)
say("silhouettes of nine labelings, 4,000 x 8: ", format(ours), " s\n",
    "  textbook double loop for each: ", format(plain), " s; ratio ", format(plain / ours, digits = 3))
