# How often is the known count found? By each index alone, by the vote, and what the gate says of the same tables.
# Tables with odd numbers are for tuning rules, those with even numbers judge them, and only those are printed; of those
# without groups all are printed, as no rule of the vote was tuned on them.
# usage: Rscript bench/recovery.R   (FJORDLINE_BENCH_TABLES=40 judging tables a suite, FJORDLINE_BENCH_METHODS=kmeans,
# FJORDLINE_BENCH_SIDE=judging, or tuning to fit and print those, FJORDLINE_BENCH_SUITES=recipe,box,... for some suites)
# Each sweep is kept in build/recovery and fitted anew only when that is gone: votes can be counted by another rule, and
# with another method beside, without fitting the first again.
library(fjordline)
source("bench/recovery-tables.R")
source("bench/recovery-joined.R")
tables <- as.integer(Sys.getenv("FJORDLINE_BENCH_TABLES", "40"))
methods <- strsplit(Sys.getenv("FJORDLINE_BENCH_METHODS", "kmeans"), ",")[[1]]
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
store <- Sys.getenv("FJORDLINE_BENCH_STORE", "build/recovery")
side <- match.arg(Sys.getenv("FJORDLINE_BENCH_SIDE", "judging"), c("judging", "tuning"))
chosen <- strsplit(Sys.getenv("FJORDLINE_BENCH_SUITES"), ",")[[1]]
only <- function(names) if (length(chosen) == 0L) names else intersect(names, chosen)
without <- only(names(heaps))
known <- only(names(suites))

# --- sweeps

# Tables of the recipe are small: at least 160.
jobs <- rbind(expand.grid(number = seq_len(2 * tables), suite = known, stringsAsFactors = FALSE),
              expand.grid(number = setdiff(seq_len(320), seq_len(2 * tables)), suite = c("recipe", "recipe scaled"),
                          stringsAsFactors = FALSE),
              expand.grid(number = seq_len(ceiling(0.3 * tables)), suite = without, stringsAsFactors = FALSE))
jobs <- jobs[jobs$suite %in% known | jobs$suite %in% without, ]
jobs <- jobs[jobs$suite %in% without | jobs$number %% 2 == (side == "tuning"), ]
jobs <- jobs[order(jobs$number), ]
file_of <- function(method, job) file.path(store, method, paste0(gsub(" ", "-", job$suite), "-", job$number, ".rds"))

made_for <- function(job) {
  drawn <- setdiff(c(names(suites), names(heaps)), "recipe scaled")
  set.seed(1000 * match(sub(" scaled", "", job$suite), drawn) + job$number)
  c(suites, heaps)[[job$suite]]()
}

fit <- function(method, job) {
  made <- made_for(job)
  ready <- fl_prepare(fl_data(as.data.frame(made$x), name = job$suite), scale = scale_of(job$suite))
  chosen <- if (method == "kmeans") fl_method(method, restarts = 10) else fl_method(method)
  part <- tempfile(tmpdir = file.path(store, method))
  saveRDS(list(k = made$k, sweep = fl_sweep(ready, chosen, k = 1:10, indices = "all")), part)
  file.rename(part, file_of(method, job))
}

for (method in methods) dir.create(file.path(store, method), recursive = TRUE, showWarnings = FALSE)
cells <- expand.grid(method = methods, job = seq_len(nrow(jobs)), stringsAsFactors = FALSE)
cells <- cells[!file.exists(mapply(function(method, job) file_of(method, jobs[job, ]), cells$method, cells$job)), ]
options(fjordline.threads = 1L)
done <- parallel::mclapply(seq_len(nrow(cells)), function(i) {
  try(fit(cells$method[i], jobs[cells$job[i], ]), silent = TRUE)
}, mc.cores = workers, mc.preschedule = FALSE)
for (failed in Filter(function(d) inherits(d, "try-error"), done)) cat("failed:", failed)

# --- votes

# The set "fast" has no reference tables to test the elbow, and fewer for the gate.
voted <- function(sweep, set, by = NULL) {
  sweep <- with_indices(sweep, set)
  if (set == "fast") {
    sweep$structure <- list(list(euclidean = fl_structure(sweep$ready[[1]], sets = 39)))
    names(sweep$structure) <- names(sweep$ready)
    sweep$values$reason[sweep$values$index == "elbow" & !is.na(sweep$values$value)] <- ""
  }
  fl_vote(sweep, by = by)
}

look <- function(job) {
  kept <- readRDS(file_of(methods[1], job))
  kept$sweep <- joined(lapply(methods, function(method) readRDS(file_of(method, job))$sweep))
  ready <- kept$sweep$ready
  kept$sweep$structure <- lapply(ready, function(one) list(euclidean = fl_structure(one)))  # the test as it is now
  vote <- voted(kept$sweep, "standard")
  fast <- voted(kept$sweep, "fast")
  all <- voted(kept$sweep, "all", list(method = methods[1]))
  own <- if ("mixture" %in% methods) voted(kept$sweep, "standard", list(method = "mixture"))
  list(suite = job$suite, number = job$number, k = kept$k, groups = vote$structure$groups,
       picks = all$ballots[all$ballots$rank == 1, c("index", "k", "prefers_one")],
       votes = rbind(vote_row("standard", vote), vote_row("fast", fast),
                     if (!is.null(own)) vote_row("mixture alone", own)))
}

# What a vote says, and with a mixture how it weighs.
vote_row <- function(set, vote) {
  mixed <- !is.null(vote$shape)
  data.frame(set = set, k = vote$k, verdict = vote$verdict, margin = vote$margin,
             kind = if (mixed) vote$situation else NA)
}

there <- which(vapply(seq_len(nrow(jobs)), function(i) all(file.exists(file_of(methods, jobs[i, ]))), NA))
found <- parallel::mclapply(there, function(i) look(jobs[i, ]), mc.cores = workers)
judged <- Filter(function(f) f$suite %in% known, found)
saveRDS(lapply(found, `[[`, "votes"), file.path(store, "votes.rds"))

# --- what was found

sets <- c("standard", "fast", if ("mixture" %in% methods) "mixture alone")
share <- function(hits) if (length(hits) == 0) "-" else sub("^0", "", formatC(mean(hits), digits = 2, format = "f"))
of_suite <- function(from, suite) Filter(function(f) f$suite %in% suite, from)
pick_of <- function(f, index) {
  if (index %in% sets) return(f$votes$k[f$votes$set == index])
  mine <- f$picks[f$picks$index == index, ]
  if (nrow(mine) == 0) NA else if (mine$prefers_one) 1 else mine$k
}
# A vote without a clear count, or against groups, claims none.
claim_of <- function(f, index) {
  if (!index %in% f$votes$set) return(pick_of(f, index))
  if (f$votes$verdict[f$votes$set == index] %in% c("clear", "weak")) pick_of(f, index) else NA
}
rows <- lapply(c(fl_indices()$key, sets), function(index) {
  by_suite <- vapply(known, function(suite) {
    mine <- of_suite(judged, suite)
    picks <- vapply(mine, function(f) as.numeric(pick_of(f, index)), 0)
    k <- vapply(mine, `[[`, 0, "k")
    paste0(share(!is.na(picks) & picks == k), " ", share(!is.na(picks) & abs(picks - k) <= 1), " ", share(is.na(picks)))
  }, "")
  claims <- vapply(of_suite(found, without), function(f) as.numeric(claim_of(f, index)), 0)
  c(if (index %in% sets) paste("the vote of the set", index) else index, by_suite,
    share(!is.na(claims) & claims > 1))
})
best <- vapply(known, function(suite) {
  mine <- of_suite(judged, suite)
  right <- vapply(fl_indices()$key, function(index) {
    mean(vapply(mine, function(f) pick_of(f, index) %in% f$k, NA))
  }, 0)
  paste(share(max(right)), names(right)[which.max(right)])
}, "")
table <- rbind(do.call(rbind, rows), c("the best single index", best, ""))
colnames(table) <- c("index", known, "claims in one cluster")
cat(side, "tables:", paste(vapply(known, function(s) length(of_suite(judged, s)), 0L), known, collapse = ", "), "\n",
    "share of tables with the known count found, found within one, abstained\n")
print(noquote(table), row.names = FALSE)

cat("\nthe gate: share of tables where it claims groups\n")
for (suite in c(known, without)) {
  mine <- of_suite(found, suite)
  cat(sprintf("  %-14s %s  (%d tables)\n", suite, share(vapply(mine, function(f) isTRUE(f$groups), NA)), length(mine)))
}
verdicts <- function(from, suite, set) {
  mine <- of_suite(from, suite)
  votes <- do.call(rbind, lapply(mine, function(f) cbind(f$votes[f$votes$set == set, ], known = f$k)))
  for (word in unique(votes$verdict)) {
    those <- votes[votes$verdict == word, ]
    cat(sprintf("  %-9s %-24s %-15s %s (%d)\n", set, paste(suite, collapse = ", "), word,
                share(those$k == those$known), nrow(those)))
  }
}
cat("\nverdicts,", side, "tables: share of right counts (tables)\n")
# The tables of the recipe count once, scaled as fl_prepare() does by itself.
for (set in c("standard", "fast")) {
  for (suite in c(as.list(known), list(known[2:4], known[5:6]))) verdicts(judged, suite, set)
}
cat("\nverdicts, tables without groups\n")
for (set in c("standard", "fast")) print(table(unlist(lapply(of_suite(found, without), function(f) {
  f$votes$verdict[f$votes$set == set]
}))))

if ("mixture" %in% methods) {
  cat("\nvotes with a mixture: how it weighs, the verdict, share of right counts (tables)\n")
  votes <- do.call(rbind, lapply(judged, function(f) cbind(f$votes, known = f$k)))
  for (set in sets) {
    mine <- votes[votes$set == set, ]
    for (kind in unique(mine$kind)) for (word in c("clear", "weak", "no clear count")) {
      those <- mine[mine$kind == kind & mine$verdict == word, ]
      cat(sprintf("  %-14s %-8s %-15s %s (%d)\n", set, kind, word, share(those$k == those$known), nrow(those)))
    }
  }
}
