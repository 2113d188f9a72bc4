# Votes with a mixture on more judging tables, kept in bench/judged-votes.csv: k-means is fitted only where it has a
# voice, which takes half the time of bench/recovery.R. Tables already in the file are left out.
# usage: Rscript bench/judged-votes.R   (FJORDLINE_BENCH_NUMBERS=134:400 even numbers of the tables,
# FJORDLINE_BENCH_SUITES=separated,overlapping,elongated,heavy, FJORDLINE_BENCH_WORKERS=2)
library(fjordline)
source("bench/recovery-tables.R")
source("bench/recovery-joined.R")
ours <- function(name) getFromNamespace(name, "fjordline")
file <- "bench/judged-votes.csv"
numbers <- eval(parse(text = Sys.getenv("FJORDLINE_BENCH_NUMBERS", "134:400")))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
known <- if (file.exists(file)) read.csv(file) else NULL
chosen <- strsplit(Sys.getenv("FJORDLINE_BENCH_SUITES", "separated,overlapping,elongated,heavy"), ",")[[1]]
jobs <- expand.grid(suite = chosen, number = numbers[numbers %% 2 == 0], stringsAsFactors = FALSE)
jobs <- jobs[!paste(jobs$suite, jobs$number) %in% paste(known$suite, known$number), ]

made_for <- function(job) {
  drawn <- setdiff(c(names(suites), names(heaps)), "recipe scaled")
  set.seed(1000 * match(sub(" scaled", "", job$suite), drawn) + job$number)
  suites[[job$suite]]()
}

swept <- function(ready, method, indices) {
  chosen <- if (method == "kmeans") fl_method(method, restarts = 10) else fl_method(method)
  fl_sweep(ready, chosen, k = 1:10, indices = indices)
}

voted <- function(sweep, set) {
  sweep <- with_indices(sweep, set)
  if (set == "fast") {
    sweep$structure <- list(list(euclidean = fl_structure(sweep$ready[[1]], sets = 39)))
    names(sweep$structure) <- names(sweep$ready)
    sweep$values$reason[sweep$values$index == "elbow" & !is.na(sweep$values$value)] <- ""
  }
  fl_vote(sweep)
}

row_of <- function(set, vote) {
  data.frame(set = set, k = vote$points$k[1], margin = vote$margin, lead = vote$lead, class = vote$class$class,
             kind = ours("mixture_kind")(vote), groups = vote$structure$groups)
}

votes_on <- function(job) {
  made <- made_for(job)
  ready <- fl_prepare(fl_data(as.data.frame(made$x), name = job$suite), scale = scale_of(job$suite))
  mixture <- swept(ready, "mixture", "standard")
  rows <- row_of("mixture alone", fl_vote(mixture))
  n <- nrow(ready$x)
  if (is.finite(ours("mixture_votes")(rows$class, n))) {
    both <- joined(list(swept(ready, "kmeans", "standard"), mixture))
    rows <- rbind(rows, row_of("standard", voted(both, "standard")), row_of("fast", voted(both, "fast")))
  } else {
    rows <- rbind(rows, transform(rows, set = "standard", kind = "alone"),
                  transform(rows, set = "fast", kind = "alone"))
  }
  cbind(suite = job$suite, number = job$number, known = made$k, rows = n, rows)
}

options(fjordline.threads = 1L)
done <- parallel::mclapply(seq_len(nrow(jobs)), function(i) votes_on(jobs[i, ]), mc.cores = workers,
                           mc.preschedule = FALSE)
all <- rbind(known, do.call(rbind, Filter(is.data.frame, done)))
write.csv(all, file, row.names = FALSE)

# --- what was found

all$right <- !is.na(all$k) & all$k == all$known
cat("share of tables with the known count, by suite\n")
print(with(all, tapply(right, list(suite, set), function(v) sprintf("%.2f (%d)", mean(v), length(v)))), quote = FALSE)
cat("\nvotes of several, by margin\n")
beside <- all[grepl("^beside", all$kind), ]
print(with(beside, tapply(right, list(paste(set, class), cut(margin, c(-Inf, 0.05, 0.1, 0.15, 0.2, 1))),
                          function(v) sprintf("%.2f (%d)", mean(v), length(v)))), quote = FALSE)
cat("\nvotes of BIC alone, by its lead\n")
alone <- all[grepl("alone|only", all$kind) & all$set != "fast", ]
print(with(alone, tapply(right, list(paste(set, suite), cut(lead, c(-Inf, 0, 5, 10, Inf))),
                         function(v) sprintf("%.2f (%d)", mean(v), length(v)))), quote = FALSE)
