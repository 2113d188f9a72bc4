# Prints the benchmarks. Speeds are ratios within one run: against textbook C++ loops compiled here (-O2, one thread),
# and against what the machine computes and reads at most, measured here too.  usage: make bench [quick=yes]
# Others run by themselves: bench/suite-sweeps.R, suite-votes.R, suite-judge.R and suite-tests.R (how often
# votes and the test for groups are right), bench/recovery.R (single indices),
# bench/methods.R (mixtures, linkage, density), bench/data.R, bench/memory.R, bench/stream.R.
library(fjordline)
Rcpp::sourceCpp("bench/textbook.cpp")
kernel <- function(name) getFromNamespace(name, "fjordline")
quick <- "quick" %in% commandArgs(TRUE)

seconds <- function(code, times = 5) {
  code <- substitute(code)
  frame <- parent.frame()
  min(vapply(seq_len(times), function(i) system.time(eval(code, frame))[["elapsed"]], 0))
}

heaps <- function(n, d, k, sd = 4, seed = 1) {
  set.seed(seed)
  matrix(rnorm(k * d, sd = sd), k)[sample(k, n, TRUE), ] + rnorm(n * d)
}

starts_of <- function(x, k) x[round(seq(1, nrow(x), length.out = k)), , drop = FALSE]

means <- function(x, k, rounds = "automatic", threads = 2L, max_rounds = 1000, start = starts_of(x, k), ...) {
  how <- kernel("kmeans_how")(fl_method("kmeans", max_rounds = max_rounds, ...)$settings, 1, rounds)
  how$threads <- threads
  kernel("kmeans_kernel")(x, as.integer(k), how, start, NULL)
}

say <- function(...) cat(..., "\n", sep = "")
ms <- function(s) paste0(format(1000 * s, digits = 3), " ms")
times <- function(r) paste0(format(r, digits = 3), "x")
line <- function(work, ours, beside, goal) {
  cat(sprintf("%-58s %-22s %-46s wanted: %s\n", work, ours, beside, goal))
}

peak <- vapply(1:2, peak_arithmetic, 0)
say("machine: ", R.version$platform, ", R ", format(getRversion()), ", ", parallel::detectCores(), " cores; at most ",
    format(peak[1], digits = 3), " and ", format(peak[2], digits = 3), " GFlop/s on one and two threads")

# --- k-means against the textbook

x <- heaps(100000, 16, 16)
read <- vapply(1:2, function(t) read_bandwidth(x, t), 0)
say("reading 12.8 MB: ", format(read[1], digits = 3), " and ", format(read[2], digits = 3), " GB/s\n")
plain <- seconds(textbook_lloyd(x, starts_of(x, 16), 20L), 3)
for (t in 1:2) {
  ours <- seconds(means(x, 16, "plain", t, 20), 9)
  line(paste0("20 plain rounds, 100,000 x 16, k = 16, ", t, " thread", if (t > 1) "s"), ms(ours),
       paste0("textbook ", ms(plain), ": ", times(plain / ours)), if (t == 1) "8x" else "14x")
}
round <- (seconds(means(x, 16, "plain", 1L, 60), 7) - seconds(means(x, 16, "plain", 1L, 20), 7)) / 40
share <- 2 * 100000 * 16 * 16 / round / 1e9 / peak[1]
line("a plain round of it, 1 thread", ms(round), paste0(format(100 * share, digits = 2), " % of peak"), "30%")
took <- textbook_lloyd(x, starts_of(x, 16), 1000L)
plain <- seconds(textbook_lloyd(x, starts_of(x, 16), 1000L), 2)
ours <- seconds(means(x, 16), 7)
line(paste0("the same to convergence (", took, " rounds), transfers too, 2 threads"), ms(ours),
     paste0("textbook ", ms(plain), ": ", times(plain / ours)), "25x")

x <- heaps(100000, 16, 128)
fit <- means(x, 128)
plain <- seconds(textbook_lloyd(x, starts_of(x, 128), 4L), 2) / 4 * fit$rounds
ours <- seconds(means(x, 128), 4)
line(paste0("100,000 x 16, k = 128 to convergence (", fit$rounds, " rounds), 2 threads"), ms(ours),
     paste0("textbook (4 rounds scaled) ", ms(plain), ": ", times(plain / ours)), "40x")

x <- heaps(1e6, 2, 8)
once <- 16e6 / (read_bandwidth(x, 2) * 1e9)
round <- (seconds(means(x, 8, "plain", 2L, 60), 5) - seconds(means(x, 8, "plain", 2L, 20), 5)) / 40
line("a round of 1,000,000 x 2, k = 8, 2 threads", ms(round), paste0("reading once ", ms(once), ": ",
                                                                     times(round / once)),
     "within 3x")

if (!quick) {
  x <- heaps(60000, 800, 10, sd = 1)
  least <- 2 * 60000 * 800 * 10 / peak[2] / 1e9
  reading <- 384e6 / (read_bandwidth(x, 2) * 1e9)
  start <- starts_of(x, 10)
  fit <- means(x, 10, start = start)
  whole <- seconds(means(x, 10, start = start), 3)
  one <- seconds(means(x, 10, start = start, max_rounds = 1), 3)
  round <- (whole - one) / max(1, fit$rounds - 1)
  line(paste0("a round of 60,000 x 800, k = 10 (mean of ", fit$rounds, "), 2 threads"), ms(round),
       paste0("arithmetic ", ms(least), ": ", times(round / least), "; reading ", ms(reading)), "within 2x")
  ours <- seconds(means(x, 10, start = NULL, restarts = 10), 1)
  line("10 restarts of it, seeding and packing too", paste0(format(ours, digits = 3), " s"), "", "under 60 s")
  rm(x)
}

ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
fast <- seconds(fl_sweep(ready, fl_method("kmeans", restarts = 25), k = 1:10, indices = "fast"))
line("sweep, 599 x 6, k = 1..10, 25 restarts, fast set", paste0(format(fast), " s"), "", "under 0.5 s")
ours <- seconds(fl_sweep(ready, k = 1:10), 1)
line("the same, standard set: references, resampling, gate", paste0(format(ours, digits = 3), " s"),
     paste0("fast set: ", times(ours / fast), " less"), "under 10 s")
if (!quick) {
  long <- fl_prepare(fl_data(as.data.frame(heaps(10000, 10, 5)), name = "long"))
  catalogue <- fl_indices()
  all_but <- setdiff(catalogue$key[catalogue$tier != "all"], c("stability", "prediction_strength"))
  ours <- seconds(fl_sweep(long, k = 1:15, indices = all_but), 1)
  line("sweep, 10,000 x 10, k = 1..15, all but resampling", paste0(format(ours, digits = 3), " s"), "", "under 60 s")
}

# --- a stronger search

say("\nsearch: W of restarts and of evolution in the same time, 2,000 x 4, 60 groups; mean over five tables")
won <- vapply(1:5, function(seed) {
  x <- heaps(2000, 4, 60, sd = 3, seed = seed)
  how <- function(search, restarts) means(x, 60, start = NULL, restarts = restarts, search = search)
  took <- system.time(plain <- how("restarts", 200))[["elapsed"]]
  few <- 50
  repeat {
    spent <- system.time(bred <- how("evolution", few))[["elapsed"]]
    if (spent > took * 0.7 || few > 5000) break
    few <- ceiling(few * min(3, 0.9 * took / spent))
  }
  c(restarts = plain$objective, evolution = bred$objective, seconds = took, bred = spent)
}, double(4))
say("  restarts ", format(mean(won["restarts", ]), digits = 6), " (", format(mean(won["seconds", ]), digits = 2),
    " s)   evolution ", format(mean(won["evolution", ]), digits = 6), " (", format(mean(won["bred", ]), digits = 2),
    " s): ", format(100 * mean(1 - won["evolution", ] / won["restarts", ]), digits = 2), " % smaller, smaller in ",
    sum(won["evolution", ] < won["restarts", ]), " of 5")

# --- the relatives

say("\nrelatives, 2 threads")
x <- heaps(5000, 6, 8)
fit_time <- function(x, key, ...) {
  seconds(kernel("fit_method")(fl_method(key, ...), x, 8L, 1), 1)
}
for (n in c(5000, 10000)) {
  say("  medoids, ", n, " x 6, k = 8, one start to the last swap: ",
      format(fit_time(heaps(n, 6, 8), "medoids", restarts = 1), digits = 3), " s")
}
say("  medoids, 100,000 x 6, samples: ", format(fit_time(heaps(1e5, 6, 8), "medoids"), digits = 3), " s")
say("  fuzzy, 100,000 x 6, k = 8, one start: ", format(fit_time(heaps(1e5, 6, 8), "fuzzy", restarts = 1), digits = 3),
    " s")
say("  bisecting and splitting, 100,000 x 6: ", format(fit_time(heaps(1e5, 6, 8), "bisecting"), digits = 3), " and ",
    format(fit_time(heaps(1e5, 6, 8), "splitting"), digits = 3), " s")
say("  kmeans(search = batches), 1,000,000 x 6, k = 8: ",
    format(fit_time(heaps(1e6, 6, 8), "kmeans", search = "batches", restarts = 5), digits = 3),
      " s; all rows, five restarts: ",
    format(fit_time(heaps(1e6, 6, 8), "kmeans", restarts = 5), digits = 3), " s")

# --- how the time of a plain round grows

say("\ngrowth of a plain round, one thread: log-log slopes over doublings from 50,000 x 16, k = 16")
round_time <- function(n, d, k) {
  x <- heaps(n, d, k)
  (seconds(means(x, k, "plain", 1L, 22), 3) - seconds(means(x, k, "plain", 1L, 2), 3)) / 20
}
slope <- function(sizes, took) coef(lm(log(took) ~ log(sizes)))[[2]]
n <- c(25000, 50000, 100000, 200000)
d <- c(8, 16, 32, 64)
k <- c(8, 16, 32, 64)
say("  n ", format(slope(n, vapply(n, function(v) round_time(v, 16, 16), 0)), digits = 2),
    "   d ", format(slope(d, vapply(d, function(v) round_time(50000, v, 16), 0)), digits = 2),
    "   k ", format(slope(k, vapply(k, function(v) round_time(50000, 16, v), 0)), digits = 2))
x <- heaps(200000, 16, 16)
one <- seconds(means(x, 16, "plain", 1L, 30), 3)
two <- seconds(means(x, 16, "plain", 2L, 30), 3)
say("  two threads: ", times(one / two), " one\n")

# --- indices

x <- heaps(20000, 16, 8, sd = 2)
group <- cbind(means(x, 8, start = NULL, restarts = 1, max_rounds = 50)$group)
plain <- seconds(textbook_silhouette(x, group), times = 2)
for (t in 1:2) {
  ours <- seconds(kernel("pair_sums_kernel")(x, group, 8L, "euclidean", t), times = 5)
  line(paste0("exact silhouettes, 20,000 x 16, ", t, " thread", if (t > 1) "s"), ms(ours),
       paste0("textbook ", ms(plain), ": ", times(plain / ours)), if (t == 1) "6x" else "12x")
}
x <- heaps(3000, 6, 5, sd = 2)
groups <- vapply(2:10, function(k) means(x, k, start = NULL, restarts = 1, max_rounds = 50)$group, integer(3000))
say("  C index and gamma of nine labelings, 3,000 rows: ",
    format(seconds(kernel("pair_order_kernel")(x, groups, 2:10, "euclidean", 2L), 2), digits = 3), " s; DBCV ",
    format(seconds(kernel("density_kernel")(x, groups, 2:10, "euclidean", 6, 2L), 2), digits = 3), " s")
