# What three defaults rest on: the rows that make a place dense, the draws of the k-means seeding, and the limits of
# stable groups. Chosen on tables with odd numbers of bench/suites, told on those with even ones.
# usage: Rscript bench/defaults.R   (FJORDLINE_BENCH_TABLES=3 for each suite and side,
# FJORDLINE_BENCH_PART=density,seeding,stable)
library(fjordline)
source("bench/suites.R")
ours <- function(name) getFromNamespace(name, "fjordline")
each <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "3"))
parts <- strsplit(Sys.getenv("FJORDLINE_BENCH_PART", "density,seeding,stable"), ",")[[1]]
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
options(fjordline.threads = 1L)
numeric_suites <- setdiff(names(new_suites),
                          c("mixed", "weak categories", "categories", "entangled", "customers", "many rows"))

tables_of <- function(suites) {
  jobs <- expand.grid(suite = suites, number = seq_len(2L * each), stringsAsFactors = FALSE)
  jobs$side <- ifelse(jobs$number %% 2 == 1, "tuning", "judging")
  jobs
}

over_tables <- function(suites, one) {
  jobs <- tables_of(suites)
  rows <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
    table <- made(jobs$suite[i], jobs$number[i])
    cbind(jobs[i, ], one(prepared(jobs$suite[i], table), table), row.names = NULL)
  }, mc.cores = workers, mc.preschedule = FALSE)
  do.call(rbind, Filter(is.data.frame, rows))
}

agreement <- function(group, class) ours("adjusted_rand")(table(group[class > 0], class[class > 0]))

# --- the rows that make a place dense (dbscan, hdbscan)

rules <- list(
  `now` = function(n, d) max(4, 2 * d, log(n)),
  `twice the columns` = function(n, d) max(4, 2 * d), `columns + 1` = function(n, d) max(4, d + 1),
  `log n` = function(n, d) max(4, log(n)), `2 log n` = function(n, d) 2 * log(n), `root n` = function(n, d) sqrt(n),
  `half root n` = function(n, d) max(4, sqrt(n) / 2), `always 5` = function(n, d) 5, `always 10` = function(n, d) 10
)
density_rules <- function(ready, table) {
  n <- nrow(ready$x)
  class <- table$group[ready$rows]
  rows <- lapply(names(rules), function(rule) {
    few <- as.integer(min(max(2, round(rules[[rule]](n, ncol(ready$x)))), n %/% 3))
    value <- vapply(c("dbscan", "hdbscan"), function(key) {
      agreement(fl_partition(ready, fl_method(key, min_rows = few))$group[ready$rows], class)
    }, 0)
    data.frame(rule = rule, method = names(value), value = value)
  })
  do.call(rbind, rows)
}

# --- draws of the seeding: how many distances it takes to reach the best partition with 99 % certainty

draws <- list(`1` = 1, `2` = 2, `3` = 3, `5` = 5, `8` = 8, `2 + log k` = NULL)
spread_starts <- function(x, k, draws) {
  draws <- if (is.null(draws)) 2L + as.integer(log(k)) else draws
  at <- sample(nrow(x), 1L)
  nearest <- rowSums(sweep(x, 2L, x[at, ])^2)
  while (length(at) < k) {
    drawn <- sample(nrow(x), draws, replace = TRUE, prob = nearest)
    with <- lapply(drawn, function(i) pmin(nearest, rowSums(sweep(x, 2L, x[i, ])^2)))
    best <- which.min(vapply(with, sum, 0))
    at <- c(at, drawn[best])
    nearest <- with[[best]]
  }
  x[at, , drop = FALSE]
}
seedings <- function(ready, table, runs = 60L) {
  x <- ready$x
  k <- max(table$k[1L], 2L)
  set.seed(table$k[1L] + nrow(x))
  tried <- lapply(draws, function(draw) {
    fits <- lapply(seq_len(runs), function(i) {
      ours("fit_method")(fl_method("kmeans", starts = spread_starts(x, k, draw)), x, k, 1)
    })
    drawn <- if (is.null(draw)) 2 + floor(log(k)) else draw
    data.frame(objective = vapply(fits, `[[`, 0, "objective"), seeding = k * drawn,
               rounds = vapply(fits, function(fit) as.double(fit$rounds %||% NA), 0) * k)
  })
  least <- min(vapply(tried, function(run) min(run$objective), 0))
  rows <- lapply(names(tried), function(draw) {
    run <- tried[[draw]]
    hit <- mean(run$objective <= least * (1 + 1e-6))
    restarts <- if (hit >= 0.99) 1 else if (hit > 0) log(0.01) / log(1 - hit) else NA
    data.frame(rule = draw, method = "kmeans", value = hit, distances = restarts * mean(run$seeding + run$rounds))
  })
  do.call(rbind, rows)
}
`%||%` <- function(a, b) if (is.null(a)) b else a

# --- stable groups: how often a group of so much overlap is one of the table's

stable_groups <- function(ready, table) {
  class <- table$group[ready$rows]
  known <- table$k[1L]
  rows <- lapply(unique(pmax(2L, known + c(-1L, 0L, 1L, 2L))), function(k) {
    partition <- fl_partition(ready, fl_method("kmeans", restarts = 5), k = k)
    overlap <- fl_reliability(partition, samples = 30, reseeds = 2)$groups$returns
    share <- ours("best_matches")(partition$group[ready$rows], class)$share
    data.frame(k = k, known = known, overlap = overlap, share = share)
  })
  do.call(rbind, rows)
}

shown <- function(rows, by) {
  means <- stats::aggregate(rows["value"], rows[by], mean)
  last <- by[length(by)]
  print(stats::reshape(means, direction = "wide", idvar = setdiff(by, last), timevar = last), digits = 3,
        row.names = FALSE)
}

if ("density" %in% parts) {
  rows <- over_tables(numeric_suites, density_rules)
  cat("\nmean adjusted Rand index by the rows that make a place dense\n")
  shown(rows, c("method", "rule", "side"))
}
if ("seeding" %in% parts) {
  rows <- over_tables(setdiff(numeric_suites, c("profiles", "many a little")), seedings)
  cat("\nshare of starts that reach the best partition; then distances per row until one does with 99 % certainty\n")
  shown(rows, c("rule", "side"))
  # tables where every start finds it tell nothing
  cost <- stats::aggregate(rows["distances"], rows[c("rule", "side")], function(v) exp(mean(log(v), na.rm = TRUE)))
  print(cost, digits = 3, row.names = FALSE)
  hard <- with(rows, stats::ave(value, suite, number, FUN = min)) < 0.5
  print(stats::aggregate(rows[hard, "distances", drop = FALSE], rows[hard, c("rule", "side")],
                         function(v) exp(mean(log(v), na.rm = TRUE))), digits = 3, row.names = FALSE)
}
if ("stable" %in% parts) {
  rows <- over_tables(numeric_suites, stable_groups)
  rows$right <- rows$share >= 0.9
  rows$bin <- cut(rows$overlap, c(0, 0.5, 0.6, 0.7, 0.75, 0.8, 0.85, 0.9, 0.95, 1), include.lowest = TRUE)
  cat("\ngroups by their mean overlap under resampling: how many, and which share of them is a group of the table\n")
  groups <- stats::aggregate(list(groups = rows$right), rows[c("side", "bin")], length)
  groups$right <- stats::aggregate(list(right = rows$right), rows[c("side", "bin")], mean)$right
  print(groups, digits = 2, row.names = FALSE)
  write.csv(rows, "build/stable-groups.csv", row.names = FALSE)
}
