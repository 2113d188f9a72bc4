# The weights that come with the package: earned by the indices of k-means partitions on the tuning tables of
# bench/recovery.R, and tried on its judging tables. Writes inst/records/earned-weights.csv. usage: Rscript
# bench/earned.R   after FJORDLINE_BENCH_SUITES=recipe,separated,overlapping,elongated,heavy Rscript bench/recovery.R,
# once for each FJORDLINE_BENCH_SIDE: it reads the sweeps kept in build/recovery (FJORDLINE_BENCH_STORE).
library(fjordline)
ours <- function(name) getFromNamespace(name, "fjordline")
store <- Sys.getenv("FJORDLINE_BENCH_STORE", "build/recovery")
source("bench/recovery-joined.R")
most <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "40"))  # of each suite, so that all count alike

files <- list.files(file.path(store, "kmeans"), "^(recipe|separated|overlapping|elongated|heavy)-[0-9]+[.]rds$")
kept <- data.frame(file = files, suite = sub("-[0-9]+[.]rds$", "", files),
                   number = as.integer(sub("^.*-([0-9]+)[.]rds$", "\\1", files)))
kept$tuning <- kept$number %% 2 == 1
kept <- do.call(rbind, lapply(split(kept, list(kept$suite, kept$tuning), drop = TRUE), function(part) {
  head(part[order(part$number), ], most)
}))
usual <- function(weights = NULL) list(rule = "ranked", depth = 3, weights = weights)
read <- function(file) {
  one <- readRDS(file.path(store, "kmeans", file))
  one$sweep <- with_indices(one$sweep, "standard")
  one
}
vote_on <- function(one, weights = NULL) {
  ours("vote_of")(one$sweep, names(one$sweep$ready), names(one$sweep$methods), usual(weights))
}

tuning <- kept[kept$tuning, ]
cases <- do.call(rbind, lapply(tuning$file, function(file) {
  one <- read(file)
  picks <- ours("picks_of")(vote_on(one))
  picks <- picks[match(c("vote", names(one$sweep$indices)), picks$voter), ]
  data.frame(dataset = file, preparation = "plain", method = "kmeans", `repeat` = 1,
             voter = c("vote", names(one$sweep$indices)), pick = picks$pick, known = one$k, check.names = FALSE)
}))
indices <- ours("as_indices")("standard")
learnt <- ours("learnt_weights")(cases, indices, 9)
print(as.data.frame(learnt$table), digits = 2)
judging <- kept[!kept$tuning, ]
cat(nrow(tuning), "tables to learn from,", nrow(judging), "to judge on\n")
right <- vapply(judging$file, function(file) {
  one <- read(file)
  c(equal = vote_on(one)$points$k[1] %in% one$k, earned = vote_on(one, learnt$weights)$points$k[1] %in% one$k)
}, c(NA, NA))
by_suite <- rbind(apply(right, 1, function(hit) tapply(hit, judging$suite, mean)), all = rowMeans(right))
print(cbind(by_suite, tables = c(table(judging$suite), nrow(judging))), digits = 2)
rows <- rbind(data.frame(learnt$table, tables = nrow(tuning)),
              data.frame(index = c("equal", "earned"), family = "", found = rowMeans(right), weight = NA,
                         tables = nrow(judging)))
rows[c("found", "weight")] <- lapply(rows[c("found", "weight")], signif, 4)
write.csv(rows, "inst/records/earned-weights.csv", row.names = FALSE, na = "")
