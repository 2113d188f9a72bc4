# How often is the gate right? Tables without groups of many kinds, 200 rows in 2 to 10 columns, where it must not claim
# any, and tables with groups at several distances, where it should. Tables with odd numbers were for tuning; these,
# with even numbers, judge.
# usage: Rscript bench/structure.R   (FJORDLINE_BENCH_TABLES=60 a kind)
library(fjordline)
tables <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "60"))
n <- 200
normal <- function(d) matrix(rnorm(n * d), n)
stretch <- function(d) diag(seq(1, 8, length.out = d), d)
heap <- list(
  box = function(d) matrix(runif(n * d), n), `long box` = function(d) matrix(runif(n * d), n) %*% stretch(d),
  ball = function(d) {
    z <- normal(d)
    z / sqrt(rowSums(z^2)) * runif(n)^(1 / d)
  },
  gaussian = normal, `long gaussian` = function(d) normal(d) %*% stretch(d),
  `t with 3 df` = function(d) matrix(rt(n * d, 3), n), exponential = function(d) matrix(rexp(n * d), n),
  lognormal = function(d) exp(normal(d) * 0.6), rounded = function(d) round(normal(d) * 2)
)
# Two groups `apart` standard deviations from each other, the second with a share of the rows.
two <- function(apart, share) {
  function(d) {
    x <- normal(d)
    rows <- seq_len(round(n * share))
    x[rows, ] <- x[rows, ] + rep(apart / sqrt(d), each = length(rows) * d)
    x
  }
}
groups <- list(
  `two, 3 sd` = two(3, 0.5), `two, 4 sd` = two(4, 0.5), `two, 5 sd` = two(5, 0.5), `two, 5 sd, 3 tenths` = two(5, 0.3),
  `two, 5 sd, a fifth` = two(5, 0.2), `two, 7 sd, a fifth` = two(7, 0.2), `two, 7 sd, a tenth` = two(7, 0.1),
  `five, 5 sd` = function(d) {
    middle <- matrix(rnorm(5 * d), 5)
    normal(d) + (middle / min(dist(middle)) * 5)[sample(5, n, TRUE), ]
  },
  `ring in 2` = function(d) {
    angle <- runif(n / 2, 0, 2 * pi)
    rbind(cbind(cos(angle), sin(angle)) * 6 + rnorm(n, sd = 0.3), matrix(rnorm(n, sd = 0.7), n / 2))
  }
)
kinds <- c(heap, groups)
jobs <- expand.grid(number = 2 * seq_len(tables), kind = names(kinds), stringsAsFactors = FALSE)
options(fjordline.threads = 1L)
found <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
  set.seed(1000 * match(jobs$kind[i], names(kinds)) + jobs$number[i])
  x <- kinds[[jobs$kind[i]]](sample(2:10, 1))
  test <- fl_structure(fl_prepare(fl_data(as.data.frame(x), name = "table")))
  c(p_dip = test$p_dip, p_runt = test$p_runt)
}, mc.cores = parallel::detectCores(), mc.preschedule = TRUE)
found <- cbind(jobs, do.call(rbind, found))
if (nzchar(Sys.getenv("FJORDLINE_BENCH_KEEP"))) saveRDS(found, Sys.getenv("FJORDLINE_BENCH_KEEP"))
found$claimed <- pmin(found$p_dip, found$p_runt) <= getFromNamespace("structure_level", "fjordline")
cat("share of", tables, "tables in which groups are claimed\n")
for (kind in names(kinds)) {
  cat(sprintf("  %-22s %.2f\n", kind, mean(found$claimed[found$kind == kind])))
}
