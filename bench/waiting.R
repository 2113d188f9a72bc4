# What people wait for, beside an older version installed in a library of its own: every call in turn in two processes,
# one a version, in one run. Seconds, and the ratio of the medians.
# usage: Rscript bench/waiting.R OLD_LIBRARY [word in the rows to run]
#   git archive 961a565 | tar -x -C old && R CMD INSTALL --library=OLD_LIBRARY old
arguments <- commandArgs(TRUE)
old_library <- normalizePath(arguments[1L])
only <- if (length(arguments) > 1L) arguments[2L] else ""

# What is laid out before; not timed.
tables <- "
  suppressMessages(library(fjordline))
  heaps <- function(n, d, k, seed = 1) {
    set.seed(seed)
    matrix(rnorm(k * d, sd = 3), k)[sample(k, n, TRUE), ] + rnorm(n * d)
  }
  table_of <- function(n, d, k) fl_data(as.data.frame(heaps(n, d, k)), name = 'table')
  prepared <- function(n, d, k = 4) fl_prepare(table_of(n, d, k))
  kinds <- function(n) {
    out <- as.data.frame(heaps(n, 12, 4))
    out$kind <- sample(c('a', 'b', 'c'), n, TRUE)
    out$place <- sample(letters[1:5], n, TRUE)
    fl_prepare(fl_data(out, features = names(out), name = 'table'))
  }
  wide <- function(n, d) {
    x <- heaps(n, 30, 10)
    set.seed(2)
    x <- x %*% matrix(rnorm(30 * d), 30) * 8 + rnorm(n * d, sd = 10) + 100
    fl_data(as.data.frame(round(pmin(pmax(x, 0), 255))), name = 'table')
  }
  draw <- function(plot) {
    grDevices::png(tempfile(), 700, 500)
    on.exit(grDevices::dev.off())
    suppressMessages(print(plot))
  }
  command <- function(...) {
    shell <- system.file('cli', 'fjordline', package = 'fjordline')
    Sys.setenv(R_LIBS = paste(.libPaths(), collapse = ':'))
    system2('Rscript', c(shell, ...), stdout = FALSE, stderr = FALSE)
  }
"

# work: wanted ratio, what is made before, the call, how often
rows <- list(
  list("default sweep and vote, 600 x 6", 1 / 3, "x <- prepared(600, 6)", "fl_vote(fl_sweep(x))", 3),
  list("fast set with mixtures, 600 x 6", 1 / 3, "x <- prepared(600, 6)",
       "fl_sweep(x, c('kmeans', 'mixture'), indices = 'fast')", 3),
  list("fast set with mixtures, 3,000 x 12", 1 / 8, "x <- prepared(3000, 12)",
       "fl_sweep(x, c('kmeans', 'mixture'), indices = 'fast')", 1),
  list("default sweep, 10,000 x 10", 1, "x <- prepared(10000, 10)", "fl_sweep(x)", 1),
  list("default sweep, 50,000 x 10 (under 60 s)", NA, "x <- prepared(50000, 10)", "fl_sweep(x)", 1),
  list("report of a vote, 600 x 6", 1 / 3, "v <- fl_vote(fl_sweep(prepared(600, 6)))",
       "fl_report(v, tempfile(fileext = '.html'))", 2),
  list("profile, 3,000 x 12 and two categories, mixture", 1 / 3,
       "p <- fl_partition(kinds(3000), 'mixture', k = 4)", "fl_profile(p)", 1),
  list("profile, 3,000 x 12, k-means", 1 / 3, "p <- fl_partition(prepared(3000, 12), k = 4)", "fl_profile(p)", 2),
  list("check, 10,000 x 784", 1 / 5, "d <- wide(10000, 784)", "fl_check(d)", 2),
  list("sift, 10,000 x 784", 1 / 5, "d <- wide(10000, 784)", "fl_sift(d)", 2),
  list("components (0.9), 10,000 x 784", 1 / 5, "d <- wide(10000, 784)",
       "fl_prepare(d, scale = 'none', reduce = 0.9)", 2),
  list("k-means, k = 10, 25 restarts, 10,000 x 784", 1 / 2, "x <- fl_prepare(wide(10000, 784), scale = 'none')",
       "fl_partition(x, fl_method('kmeans', restarts = 25), k = 10)", 2),
  list("fl_score() of a spectral fit, 600 rows", 1 / 10, "p <- fl_partition(prepared(600, 6), 'spectral', k = 4)",
       "fl_score(p)", 1),
  list("average linkage, 20,000 x 16", 1 / 2, "x <- prepared(20000, 16)",
       "fl_partition(x, fl_method('linkage', join = 'average'), k = 4)",
       1),
  list("complete linkage, 20,000 x 16", 1 / 2, "x <- prepared(20000, 16)",
       "fl_partition(x, fl_method('linkage', join = 'complete'), k = 4)", 1),
  list("fjordline --help", 1 / 2, "", "command('--help')", 5),
  list("figure of a vote", NA, "v <- fl_vote(fl_sweep(prepared(600, 6)))", "draw(ggplot2::autoplot(v))", 3),
  list("reliability of a mixture, 150 x 4 (1.5)", 1.5, "p <- fl_partition(prepared(150, 4, 3), 'mixture', k = 3)",
       "fl_reliability(p)", 3),
  list("reliability of a mixture, 600 x 4 (1.5)", 1.5, "p <- fl_partition(prepared(600, 4, 3), 'mixture', k = 3)",
       "fl_reliability(p)", 2),
  list("test for groups, 600 x 6", NA, "x <- prepared(600, 6)", "fl_structure(x)", 2)
)

in_library <- function(path) {
  session <- callr::r_session$new(callr::r_session_options(libpath = c(path, .libPaths())), wait_timeout = 60000)
  run(session, tables)
  session
}
run <- function(session, code) {
  session$run(function(code) {
    eval(parse(text = code), globalenv())
    NULL
  }, list(code))
}
timed <- function(session, call) {
  session$run(function(call) {
    gc()
    system.time(eval(parse(text = call), globalenv()))[["elapsed"]]
  }, list(call))
}

new_library <- dirname(find.package("fjordline"))
cat(sprintf("%-52s %9s %9s %7s %7s\n", "seconds", "before", "now", "ratio", "wanted"))
for (row in rows[grepl(only, vapply(rows, `[[`, "", 1L), fixed = TRUE)]) {
  sessions <- lapply(c(old_library, new_library), in_library)
  took <- tryCatch({
    for (session in sessions) run(session, row[[3L]])
    vapply(seq_len(row[[5L]]), function(turn) vapply(sessions, timed, 0, row[[4L]]), c(0, 0))
  }, error = function(e) {
    cat(row[[1L]], ": ", conditionMessage(if (is.null(e$parent)) e else e$parent), "\n", sep = "")
    NULL
  })
  for (session in sessions) session$close()
  if (is.null(took)) next
  middle <- apply(matrix(took, 2L), 1L, stats::median)
  cat(sprintf("%-52s %9.2f %9.2f %7.2f %7s\n", row[[1L]], middle[1L], middle[2L], middle[2L] / middle[1L],
              if (is.na(row[[2L]])) "" else format(row[[2L]], digits = 2)))
}
