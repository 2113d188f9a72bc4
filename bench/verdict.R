# How often does a vote of a given margin find the known count? Simulated tables with 2 to 8 groups: round and
# separated, round and overlapping, elongated; and tables without groups. The limits in R/vote-verdict.R were set on the
# tuning tables (odd seeds); the rates printed are those of the judging tables (even seeds).
library(fjordline)

tables_each <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "150"))

# Means drawn until every two groups lie at least `apart` standard deviations from each other.
draw_means <- function(k, d, apart) {
  side <- apart * k^(1 / d) * 1.3
  repeat {
    means <- matrix(runif(k * d, 0, side), k)
    if (min(as.numeric(gap(means))) >= apart) return(means)
    side <- side * 1.05
  }
}

gap <- function(means) {
  pairs <- utils::combn(nrow(means), 2)
  sqrt(rowSums((means[pairs[1, ], , drop = FALSE] - means[pairs[2, ], , drop = FALSE])^2))
}

draw_sizes <- function(n, k) {
  share <- runif(k, 0.4, 1.6)
  pmax(8, round(n * share / sum(share)))
}

suites <- list(
  separated = function() simulate_round(apart = runif(1, 5, 8)),
  overlapping = function() simulate_round(apart = runif(1, 3, 5)),
  elongated = function() simulate_long(),
  none = function() {
    d <- sample(2:8, 1)
    x <- matrix(if (runif(1) < 0.5) rnorm(300 * d) else runif(300 * d), 300) %*% diag(runif(d, 0.3, 1), d)
    list(x = x, k = 1L)
  }
)

simulate_round <- function(apart) {
  k <- sample(2:8, 1)
  d <- sample(2:8, 1)
  sizes <- draw_sizes(sample(c(150, 300, 500), 1), k)
  means <- draw_means(k, d, apart)
  list(x = means[rep(seq_len(k), sizes), ] + matrix(rnorm(sum(sizes) * d), ncol = d), k = k)
}

simulate_long <- function() {
  made <- simulate_round(apart = runif(1, 5, 7))
  d <- ncol(made$x)
  turn <- qr.Q(qr(matrix(rnorm(d * d), d)))
  list(x = made$x %*% turn %*% diag(exp(runif(d, -0.8, 0.8)), d), k = made$k)
}

judge <- function(suite, seed) {
  set.seed(seed)
  made <- suites[[suite]]()
  ready <- fl_prepare(fl_data(as.data.frame(made$x), name = suite))
  vote <- fl_vote(fl_sweep(ready, fl_method("kmeans", restarts = 10), k = 1:10))
  firsts <- fjordline:::family_firsts(vote$shares)
  data.frame(suite, seed, known = made$k, found = vote$k, margin = vote$margin, verdict = vote$verdict,
             firsts = sum(firsts == vote$k), tuning = seed %% 2 == 1)
}

workers <- if (.Platform$OS.type == "windows") 1L else parallel::detectCores()
grid <- expand.grid(seed = seq_len(2 * tables_each), suite = names(suites), stringsAsFactors = FALSE)
results <- do.call(rbind, parallel::mcmapply(judge, grid$suite, grid$seed, SIMPLIFY = FALSE,
                                             mc.cores = workers))
results$right <- results$known == results$found
results$round <- results$suite %in% c("separated", "overlapping")
results$band <- cut(results$margin, c(-1, 0.05, 0.10, 0.15, 0.20, 1), right = FALSE)

rates <- function(rows, ...) {
  by <- list(...)
  out <- aggregate(list(tables = rep(1, nrow(rows))), by, sum)
  cbind(out, right = round(aggregate(rows$right, by, mean)$x, 2))
}
for (tuning in c(TRUE, FALSE)) {
  rows <- results[results$tuning == tuning, ]
  cat("\n", if (tuning) "TUNING TABLES" else "JUDGING TABLES",
      "\n\nround groups, by margin and families that put the winner first\n", sep = "")
  print(rates(rows[rows$round, ], margin = rows$band[rows$round], firsts = rows$firsts[rows$round]), row.names = FALSE)
  cat("\nby suite and verdict\n")
  print(rates(rows, verdict = rows$verdict, suite = rows$suite), row.names = FALSE)
  cat("\nround groups by verdict\n")
  print(rates(rows[rows$round, ], verdict = rows$verdict[rows$round]), row.names = FALSE)
}
