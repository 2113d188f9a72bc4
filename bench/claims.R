# How often what the program prints as certain is true: every claim of bench/claims.md, on tables made for it.
# usage: Rscript bench/claims.R   (FJORDLINE_BENCH_CLAIMS a pattern, FJORDLINE_BENCH_REPEATS=200,
# FJORDLINE_BENCH_SEED=1, FJORDLINE_BENCH_WORKERS=2, FJORDLINE_BENCH_OUT=bench/claims.csv). Writes that file and, when
# it is this one, the table between the markers of bench/README.md.
library(fjordline)
ours <- function(name) getFromNamespace(name, "fjordline")
# A claim: what is printed; `cases`, a name each; draw(case), the named shares (0 or 1, or a number) of one table;
# `least` and `most`, what is wanted of their means; `more`, repeats as a multiple of the usual number.
claims <- list()
claim <- function(name, cases, draw, least = NULL, most = NULL, more = 1) {
  claims[[name]] <<- list(name = name, cases = cases, draw = draw, least = least, most = most, more = more)
}
for (file in list.files("bench/claims", "[.]R$", full.names = TRUE)) source(file)

repeats <- as.integer(Sys.getenv("FJORDLINE_BENCH_REPEATS", "200"))
seed <- as.integer(Sys.getenv("FJORDLINE_BENCH_SEED", "1"))
workers <- as.integer(Sys.getenv("FJORDLINE_BENCH_WORKERS", parallel::detectCores()))
options(fjordline.threads = 1L)

measured <- function(one, case) {
  drawn <- parallel::mclapply(seq_len(ceiling(repeats * one$more)), function(number) {
    set.seed(strtoi(substr(rlang::hash(list(one$name, case, seed, number)), 1, 7), 16L))
    tryCatch(one$draw(case), error = function(e) conditionMessage(e))
  }, mc.cores = workers)
  failed <- Filter(is.character, drawn)
  if (length(failed) > 0L) message(one$name, ", ", case, ": ", length(failed), " failed: ", failed[[1]])
  values <- do.call(rbind, Filter(Negate(is.character), drawn))
  said <- colnames(values)
  share <- unname(colMeans(values, na.rm = TRUE))
  known <- unname(colSums(!is.na(values)))
  limit <- function(limits) {
    if (is.null(limits)) NA_real_ else if (is.null(names(limits))) limits else unname(limits[said])
  }
  data.frame(claim = one$name, case = case, measure = said, tables = known, share = share,
             error = unname(apply(values, 2L, sd, na.rm = TRUE)) / sqrt(known), least = limit(one$least),
             most = limit(one$most))
}

chosen <- grep(Sys.getenv("FJORDLINE_BENCH_CLAIMS", "."), names(claims), value = TRUE)
found <- do.call(rbind, lapply(claims[chosen], function(one) {
  out <- do.call(rbind, lapply(one$cases, function(case) measured(one, case)))
  # two standard errors on the wrong side are a miss
  out$holds <- !(out$share - 2 * out$error > out$most) %in% TRUE & !(out$share + 2 * out$error < out$least) %in% TRUE
  print(format(out[setdiff(names(out), "claim")], digits = 2), row.names = FALSE)
  out
}))
file <- Sys.getenv("FJORDLINE_BENCH_OUT", "bench/claims.csv")
if (file.exists(file)) {
  before <- read.csv(file)
  found <- rbind(before[!before$claim %in% found$claim & before$claim %in% names(claims), ], found)
}
found <- found[order(match(found$claim, names(claims))), ]
number <- vapply(found, is.double, NA)
found[number] <- lapply(found[number], round, digits = 3)
write.csv(found, file, row.names = FALSE)
if (file != "bench/claims.csv") quit("no")

wanted <- ifelse(is.na(found$least), paste("at most", found$most),
                 ifelse(is.na(found$most), paste("at least", found$least), paste(found$least, "to", found$most)))
rows <- sprintf("| %s | %s | %s | %.2f ± %.2f (%d) | %s |%s", found$claim, found$case, found$measure,
                round(found$share, 2) + 0,
                found$error, found$tables, ifelse(is.na(found$least) & is.na(found$most), "", wanted),
                ifelse(found$holds, "", " **missed** |"))
readme <- readLines("bench/README.md")
marks <- match(c("<!-- claims -->", "<!-- end of claims -->"), readme)
if (!anyNA(marks)) {
  head <- c("| claim | tables | measured | share | wanted |", "|---|---|---|---|---|")
  writeLines(c(readme[seq_len(marks[1])], "", head, rows, "", readme[marks[2]:length(readme)]), "bench/README.md")
}
