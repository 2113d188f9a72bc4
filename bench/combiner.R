# Would weights earned on labelled tables, or a learned combination of all ballots, find the known count more often than
# the vote? Both learn from the tuning tables of bench/recovery.R and are judged on its judging tables.
# usage: Rscript bench/combiner.R   after FJORDLINE_BENCH_METHODS=kmeans,mixture Rscript bench/recovery.R, once for each
# FJORDLINE_BENCH_SIDE: it reads the sweeps kept in build/recovery (FJORDLINE_BENCH_STORE).
library(fjordline)
store <- Sys.getenv("FJORDLINE_BENCH_STORE", "build/recovery")
source("bench/recovery-joined.R")

files <- intersect(list.files(file.path(store, "kmeans")), list.files(file.path(store, "mixture")))
files <- files[grepl("^(recipe|separated|overlapping|elongated|heavy)", files)]
tables <- parallel::mclapply(files, function(file) {
  kept <- lapply(c("kmeans", "mixture"), function(method) readRDS(file.path(store, method, file)))
  sweep <- with_indices(joined(lapply(kept, `[[`, "sweep")), "standard")
  list(suite = gsub("-", " ", sub("-[0-9]+\\.rds$", "", file)), k = kept[[1]]$k, sweep = sweep, vote = fl_vote(sweep),
       tuning = as.integer(sub("^.*-([0-9]+)\\.rds$", "\\1", file)) %% 2 == 1)
}, mc.cores = as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores())))
tuning <- vapply(tables, `[[`, NA, "tuning")
suite <- vapply(tables, `[[`, "", "suite")
known <- vapply(tables, `[[`, 0, "k")
shown <- function(rule, picks) {
  right <- tapply((picks == known)[!tuning], suite[!tuning], mean)
  said <- paste(names(right), format(right, digits = 2, nsmall = 2), collapse = "  ")
  cat(sprintf("%-34s %s   mean %.3f\n", rule, said, mean(right)))
}
first_of <- function(vote) vote$points$k[1]
cat(sum(tuning), "tables to learn from,", sum(!tuning), "to judge on\n")
shown("the vote", vapply(tables, function(t) first_of(t$vote), 0))

# --- earned weights: an index weighs by how often it found the count on the tuning tables, a family by its best index

hits <- function(index) {
  mean(vapply(tables[tuning], function(t) {
    mine <- t$vote$ballots[t$vote$ballots$index == index & t$vote$ballots$rank == 1, ]
    nrow(mine) == 1 && !mine$prefers_one && mine$k == t$k
  }, NA))
}
indices <- unique(unlist(lapply(tables, function(t) t$vote$ballots$index[t$vote$ballots$weight > 0])))
odds <- function(p) p / (1 - p)
earned <- vapply(indices, function(index) odds(min(hits(index), 0.98)), 0)
print(round(earned, 1))
shown("earned weights", vapply(tables, function(t) {
  mine <- earned[intersect(names(earned), names(t$vote$indices))]
  if (is.infinite(t$vote$class$votes)) mine <- mine[c("bic_all", "bic_free")]
  first_of(fl_vote(t$sweep, weights = mine))
}, 0))

# --- learned: a logit over the counts of every table (McFadden 1974), with a small ridge

features_of <- function(t) {
  counts <- sort(t$vote$points$k)
  all <- fl_vote(t$sweep, by = list(method = "kmeans"))
  points <- function(shares, family) {
    mine <- shares[shares$family == family, ]
    ifelse(counts %in% mine$k, mine$points[match(counts, mine$k)], 0)
  }
  families <- vapply(c("curve", "separation", "pairs", "reference", "resampling", "density"),
                     function(family) points(all$shares, family), numeric(length(counts)))
  bic <- vapply(c("bic_all", "bic_free"), function(index) {
    mine <- t$vote$values[t$vote$values$index == index, ]
    value <- mine$value[match(counts, mine$k)]
    behind <- value - min(value, na.rm = TRUE)
    ifelse(is.na(behind), -6, -log1p(behind))
  }, numeric(length(counts)))
  many <- log(nrow(t$sweep$ready[[1]]$x) / 100)
  cbind(families, bic, bic_many = bic * many)
}
designs <- lapply(tables, features_of)
places <- vapply(seq_along(tables), function(i) match(known[i], sort(tables[[i]]$vote$points$k)), 0L)
loss <- function(beta) {
  sum(vapply(which(tuning), function(i) {
    score <- drop(designs[[i]] %*% beta)
    max(score) + log(sum(exp(score - max(score)))) - score[places[i]]
  }, 0)) + 0.5 * sum(beta^2)
}
fit <- optim(rep(0, ncol(designs[[1]])), loss, method = "BFGS", control = list(maxit = 300))
print(round(stats::setNames(fit$par, colnames(designs[[1]])), 2))
shown("learned combination", vapply(seq_along(tables), function(i) {
  sort(tables[[i]]$vote$points$k)[which.max(designs[[i]] %*% fit$par)]
}, 0))
