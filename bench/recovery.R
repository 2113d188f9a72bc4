# How often is the known count found? Labelled tables in the manner of Milligan & Cooper (1985), doi:10.1007/BF02294245,
# and tables without groups; each index by itself, the vote, and the gate. Tables with odd numbers are for tuning rules,
# those with even numbers judge them, and only those are printed.
# usage: Rscript bench/recovery.R   (FJORDLINE_BENCH_TABLES=80 a suite and half, FJORDLINE_BENCH_METHODS=kmeans;
# what was found is kept in build/recovery.rds and fitted anew only when that is gone)
library(fjordline)
tables <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "80"))
methods <- strsplit(Sys.getenv("FJORDLINE_BENCH_METHODS", "kmeans"), ",")[[1]]
store <- "build/recovery.rds"

# --- tables

# Milligan (1985), doi:10.1007/BF02294153: 50 rows; truncated normals that do not overlap in the first column.
recipe <- function() {
  k <- sample(2:5, 1)
  d <- sample(c(4, 6, 8), 1)
  first <- switch(sample(3, 1), 1 / k, 0.1, 0.6)
  share <- c(first, rep((1 - first) / (k - 1), k - 1))
  sizes <- pmax(2, round(50 * share))
  lengths <- matrix(runif(k * d, 10, 40), k)
  sd <- lengths / 3
  middle <- matrix(0, k, d)
  order <- sample(k)
  for (i in seq_len(k)[-1]) {
    a <- order[i - 1]
    b <- order[i]
    gap <- runif(1, 0.25, 0.75) * (sd[a, 1] + sd[b, 1])
    middle[b, 1] <- middle[a, 1] + (lengths[a, 1] + lengths[b, 1]) / 2 + gap
  }
  range <- diff(range(middle[, 1])) + 40
  for (j in seq_len(d)[-1]) middle[, j] <- runif(k, 0, range * 2 / 3)
  group <- rep(seq_len(k), sizes)
  draw <- function(n) qnorm(runif(n, pnorm(-1.5), pnorm(1.5)))
  list(x = middle[group, ] + sd[group, ] * matrix(draw(length(group) * d), ncol = d), k = k)
}

# Means, drawn ever wider until each two lie `apart` from each other.
places <- function(k, d, apart) {
  side <- apart
  repeat {
    m <- matrix(rnorm(k * d), k) * side
    if (k == 1 || min(dist(m)) > apart) return(m)
    side <- side * 1.03
  }
}

sizes_of <- function(n, k, even) {
  share <- if (even) rep(1, k) else exp(rnorm(k, sd = 0.6))
  pmax(8, round(n * share / sum(share)))
}

# Round groups, means at least `apart` standard deviations from each other.
round_groups <- function(apart, k = sample(2:8, 1)) {
  d <- sample(2:8, 1)
  n <- sample(150:500, 1)
  group <- rep(seq_len(k), sizes_of(n, k, runif(1) < 0.5))
  list(x = places(k, d, apart)[group, ] + matrix(rnorm(length(group) * d), ncol = d), k = k)
}

# Stretched and turned, each group its own way.
elongated <- function() {
  made <- round_groups(runif(1, 5, 8))
  d <- sample(2:6, 1)
  n <- sample(150:500, 1)
  k <- made$k
  group <- rep(seq_len(k), sizes_of(n, k, FALSE))
  x <- places(k, d, 7)[group, ]
  for (g in seq_len(k)) {
    rows <- which(group == g)
    turn <- qr.Q(qr(matrix(rnorm(d * d), d)))
    x[rows, ] <- x[rows, ] + matrix(rnorm(length(rows) * d),
                                    ncol = d) %*% diag(exp(runif(d, log(0.3), log(3)))) %*% turn
  }
  list(x = x, k = k)
}

# Heavy tails and columns of noise.
heavy <- function() {
  made <- round_groups(runif(1, 5, 8))
  made$x <- made$x + matrix(rt(length(made$x), 3), nrow(made$x)) * 0.5
  made$x <- cbind(made$x, matrix(rnorm(nrow(made$x) * 2, sd = 2), ncol = 2))
  made
}

one_heap <- function(kind) {
  d <- sample(2:10, 1)
  n <- sample(c(100, 200, 400), 1)
  z <- matrix(rnorm(n * d), n)
  x <- switch(kind,
    box = matrix(runif(n * d), n), `long box` = matrix(runif(n * d), n) %*% diag(seq(1, 8, length.out = d)),
    ball = z / sqrt(rowSums(z^2)) * runif(n)^(1 / d), gaussian = z, `long gaussian` = z %*% diag(seq(1, 8,
      length.out = d)),
    `t with 3 df` = matrix(rt(n * d, 3), n), exponential = matrix(rexp(n * d), n),
    lognormal = exp(z * 0.6), rounded = round(z * 2)
  )
  list(x = x, k = 1)
}

heaps <- c("box", "long box", "ball", "gaussian", "long gaussian", "t with 3 df", "exponential", "lognormal", "rounded")
suites <- c(list(recipe = recipe, separated = function() round_groups(runif(1, 6, 9), sample(2:5, 1)),
                 overlapping = function() round_groups(runif(1, 3, 5)), elongated = elongated, heavy = heavy),
            stats::setNames(lapply(heaps, function(kind) function() one_heap(kind)), heaps))

# --- votes

look <- function(suite, number) {
  set.seed(1000 * match(suite, names(suites)) + number)
  made <- suites[[suite]]()
  ready <- fl_prepare(fl_data(as.data.frame(made$x), name = suite))
  chosen <- lapply(methods, function(key) if (key == "kmeans") fl_method(key, restarts = 10) else fl_method(key))
  sweep <- fl_sweep(ready, chosen, k = 1:10, indices = "all")
  vote <- fl_vote(sweep)
  list(suite = suite, number = number, k = made$k, structure = vote$structure[c("groups", "p_dip", "p_runt")],
       values = sweep$values, ballots = vote$ballots, shares = vote$shares, points = vote$points, margin = vote$margin,
       voted = vote$points$k[1], verdict = vote$verdict)
}

if (file.exists(store)) {
  found <- readRDS(store)
} else {
  jobs <- expand.grid(number = seq_len(2 * tables), suite = names(suites), stringsAsFactors = FALSE)
  jobs <- jobs[!jobs$suite %in% heaps | jobs$number <= tables, ]
  jobs <- jobs[order(jobs$number), ]
  options(fjordline.threads = 1L)
  found <- parallel::mclapply(seq_len(nrow(jobs)), function(i) {
    tryCatch(look(jobs$suite[i], jobs$number[i]), error = function(e) e)
  }, mc.cores = parallel::detectCores(), mc.preschedule = FALSE)
  failed <- vapply(found, inherits, NA, "error")
  if (any(failed)) stop(sum(failed), " tables failed: ", conditionMessage(found[failed][[1]]))
  dir.create("build", showWarnings = FALSE)
  saveRDS(found, store)
}

# --- what was found

judged <- Filter(function(f) f$number %% 2 == 0, found)
share <- function(hits) sub("^0", "", formatC(mean(hits), digits = 2, format = "f"))
pick_of <- function(f, index) {
  mine <- f$ballots[f$ballots$index == index & f$ballots$rank == 1, ]
  if (nrow(mine) == 0) NA else if (mine$prefers_one) 1 else mine$k
}
known <- setdiff(names(suites), heaps)
indices <- fl_indices()$key
rows <- lapply(c(indices, "the vote"), function(index) {
  pick <- function(f) if (index == "the vote") f$voted else pick_of(f, index)
  by_suite <- vapply(known, function(suite) {
    mine <- Filter(function(f) f$suite == suite, judged)
    picks <- vapply(mine, function(f) as.numeric(pick(f)), 0)
    k <- vapply(mine, `[[`, 0, "k")
    paste0(share(!is.na(picks) & picks == k), " ", share(!is.na(picks) & abs(picks - k) <= 1), " ", share(is.na(picks)))
  }, "")
  empty <- vapply(Filter(function(f) f$suite %in% heaps, judged), function(f) as.numeric(pick(f)), 0)
  c(index, by_suite, share(!is.na(empty) & empty > 1))
})
table <- do.call(rbind, rows)
colnames(table) <- c("index", paste0(known, ""), "claims in one heap")
cat("judging tables a suite:", sum(vapply(judged, function(f) f$suite == known[1], NA)), "\n",
    "found, found within one, abstained\n")
print(noquote(table), row.names = FALSE)
cat("\nthe gate: share of tables where it claims groups\n")
for (suite in names(suites)) {
  mine <- Filter(function(f) f$suite == suite, found)
  cat(sprintf("  %-14s %s  (%d tables)\n", suite, share(vapply(mine, function(f) isTRUE(f$structure$groups), NA)),
              length(mine)))
}
cat("\nverdicts, groups known: share of right counts (tables)\n")
for (suite in known) {
  mine <- Filter(function(f) f$suite == suite, judged)
  for (word in unique(vapply(mine, `[[`, "", "verdict"))) {
    those <- Filter(function(f) f$verdict == word, mine)
    cat(sprintf("  %-12s %-15s %s (%d)\n", suite, word, share(vapply(those, function(f) f$voted == f$k, NA)),
                length(those)))
  }
}
