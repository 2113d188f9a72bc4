# Votes on the sweeps that bench/suite-sweeps.R keeps: how often each kind of vote names the known count, by suite.
# usage: Rscript bench/suite-votes.R   (FJORDLINE_BENCH_STORE=build/sweeps, FJORDLINE_BENCH_SIDE=judging or tuning,
# FJORDLINE_BENCH_WORKERS=2). Adds to bench/votes-<side>.csv, in place of what was said there of the same tables, so
# that the sweeps, which take hours, need not be kept; bench/suite-judge.R makes the tables and the record of it.
library(fjordline)
ours <- function(name) getFromNamespace(name, "fjordline")
store <- Sys.getenv("FJORDLINE_BENCH_STORE", "build/sweeps")
side <- match.arg(Sys.getenv("FJORDLINE_BENCH_SIDE", "judging"), c("judging", "tuning"))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
options(fjordline.threads = 1L)

files <- list.files(store, "[.]rds$", full.names = TRUE)
number <- as.integer(sub("^.*-([0-9]+)[.]rds$", "\\1", files))
files <- files[number %% 2 == (side == "tuning")]

# The vote whatever the test for groups says; that has a table of its own.
asked <- function(sweep, by = NULL) {
  open <- sweep
  open$structure <- lapply(sweep$structure, function(tests) lapply(tests, function(test) {
    test$groups <- TRUE
    test
  }))
  tryCatch(fl_vote(open, by = by), error = function(e) e)
}

of_vote <- function(kept, vote, methods, set) {
  failed <- inherits(vote, "error")
  row <- data.frame(set = set, methods = methods, suite = kept$suite, number = kept$number,
                    known = paste(kept$known, collapse = "/"), seconds = kept$seconds,
                    error = if (failed) conditionMessage(vote) else "")
  if (failed) {
    return(row)
  }
  x <- vote$sweep$ready[[1]]
  or_none <- function(value) if (is.null(value)) NA else value
  class <- kept$group[x$rows]
  agree <- function(group) ours("adjusted_rand")(table(group[class > 0], class[class > 0]))
  at <- vote$sweep$cells$k %in% vote$k & !vapply(vote$sweep$fits, inherits, NA, "error")
  each <- vapply(vote$sweep$fits[at], function(fit) agree(fit$group), 0)
  mine <- vote$sweep$cells$method[at] == vote$method
  cbind(row, data.frame(
    rows = nrow(x$x), columns = ncol(x$x), k = vote$k, verdict = vote$verdict, by = vote$by,
    situation = vote$situation, margin = vote$margin, indices = vote$indices_say,
    components = or_none(vote$found$components), groups = or_none(vote$found$groups), method = vote$method,
    levels = paste(vote$levels, collapse = "/"), far = length(vote$far),
    agree = if (any(mine)) each[mine][1] else NA, best = if (length(each) > 0L) max(each) else NA
  ))
}

# A standard sweep holds the fast set as well, in which the elbow is not tested.
as_fast <- function(kept) {
  sweep <- kept$sweep
  sweep$indices <- ours("as_indices")("fast")
  keys <- names(sweep$indices)
  for (field in c("values", "beside")) sweep[[field]] <- sweep[[field]][sweep[[field]]$index %in% keys, ]
  sweep$values$reason[sweep$values$index == "elbow" & !is.na(sweep$values$value)] <- ""
  kept$sweep <- sweep
  kept
}

votes_of <- function(file) {
  kept <- readRDS(file)
  set <- sub("^.*-(fast|standard)-[0-9]+[.]rds$", "\\1", file)
  if (inherits(kept$sweep, "error")) return(of_vote(kept, kept$sweep, "both", set))
  if (set == "standard") return(vctrs::vec_rbind(votes_by(kept, set), votes_by(as_fast(kept), "fast")))
  votes_by(kept, set)
}

votes_by <- function(kept, set) {
  vctrs::vec_rbind(of_vote(kept, asked(kept$sweep), "both", set),
                   of_vote(kept, asked(kept$sweep, list(method = "kmeans")), "kmeans", set),
                   of_vote(kept, asked(kept$sweep, list(method = "mixture")), "mixture", set))
}
done <- parallel::mclapply(files, votes_of, mc.cores = workers)
bad <- !vapply(done, is.data.frame, NA)
if (any(bad)) print(unique(unlist(done[bad])))
out <- vctrs::vec_rbind(!!!done[!bad])
kept_fields <- c("set", "methods", "suite", "number", "known", "k", "verdict", "situation", "agree", "best", "seconds",
                 "error")
out <- out[kept_fields]
out[c("agree", "best", "seconds")] <- lapply(out[c("agree", "best", "seconds")], round, 3)
kept <- paste0("bench/votes-", side, ".csv")
of <- function(votes) do.call(paste, votes[c("set", "methods", "suite", "number")])
if (file.exists(kept)) {
  before <- read.csv(kept)
  out <- rbind(before[!of(before) %in% of(out), ], out)
}
out <- out[order(out$set, out$suite, out$number, out$methods), ]
write.csv(out, kept, row.names = FALSE)
