# What attacks share: damage to bytes and text, and how a case ends.
suppressPackageStartupMessages(library(fjordline))
attacks <- list()
# `draw(number)` does one case and returns its outcome; `seconds`: when it counts as hanging; `cases`: its share of all.
attack <- function(kind, draw, cases, seconds = 30) {
  attacks[[kind]] <<- list(draw = draw, cases = cases, seconds = seconds)
}

outcome_of <- function(code) {
  tryCatch(
    withCallingHandlers({
      if (isFALSE(code)) "other" else "read"
    }, warning = function(w) invokeRestart("muffleWarning")),
    fjordline_error = function(e) "classed",
    error = function(e) paste("unclassed:", gsub("\\s+", " ", substr(conditionMessage(e), 1, 160)))
  )
}

seed_of_case <- function(kind, number, seed) strtoi(substr(rlang::hash(list(kind, number, seed)), 1, 7), 16L)

outcome_of_case <- function(kind, number, seed) {
  set.seed(seed_of_case(kind, number, seed))
  attacks[[kind]]$draw(number)
}

# --- damage

odd_bytes <- as.raw(c(0x00, 0x0a, 0x0d, 0x09, 0x22, 0x27, 0x2c, 0x3b, 0x5b, 0x5d, 0x7b, 0x7d, 0x2d, 0x1b, 0x7f, 0x80,
                      0xc3, 0xef, 0xfe, 0xff))
odd_words <- c("1e309", "-1e309", "NaN", "Inf", "1e-320", "99999999999999999999", "=1+1", "\u001b[2J", "\"", "\"\"",
               "NA", "null", "[]", "{}", "-", "0x10", "1,5", "\u202e", "..1", "", " ", "true", "2031-02-30", "1e15",
               "-0")

damaged_bytes <- function(bytes) {
  for (turn in seq_len(sample(3, 1))) {
    n <- length(bytes)
    if (n < 2L) return(bytes)
    at <- sample(n, 1)
    some <- min(n - at, sample(c(1, 4, 30), 1))
    bytes <- switch(sample(7, 1),
                    replace(bytes, at, xor(bytes[at], as.raw(2^sample(0:7, 1)))),
                    replace(bytes, at, sample(odd_bytes, 1)),
                    c(bytes[seq_len(at)], sample(odd_bytes, 1), bytes[-seq_len(at)]),
                    bytes[-(at:(at + some))],
                    c(bytes[seq_len(at + some)], bytes[at:(at + some)], bytes[-seq_len(at + some)]),
                    bytes[seq_len(at)],
                    c(bytes[seq_len(at)], charToRaw(sample(odd_words, 1)), bytes[-seq_len(at)]))
  }
  bytes
}

# A number of the text, or a whole line, becomes something else.
damaged_text <- function(lines) {
  for (turn in seq_len(sample(3, 1))) {
    at <- sample(length(lines), 1)
    numbers <- gregexpr("-?[0-9][0-9.e+-]*", lines[at])
    found <- regmatches(lines[at], numbers)[[1]]
    kind <- sample(5, 1)
    if (kind <= 3 && length(found) > 0L) {
      found[sample(length(found), 1)] <- sample(c(odd_words, "0", "-1", "7", "1e308"), 1)
      regmatches(lines[at], numbers) <- list(found)
    } else if (kind == 4 && length(lines) > 1L) {
      lines <- lines[-at]
    } else {
      lines <- append(lines, lines[sample(length(lines), 1)], at)
    }
  }
  lines
}

# A value of a JSON text becomes another, is lost, or stands twice: what comes is JSON still.
damaged_json <- function(text) {
  tree <- jsonlite::parse_json(text)
  for (turn in seq_len(sample(2, 1))) tree <- damaged_tree(tree)
  as.character(jsonlite::toJSON(tree, auto_unbox = TRUE, null = "null", digits = NA, pretty = TRUE))
}

damaged_tree <- function(tree) {
  if (is.list(tree) && length(tree) > 0L && (runif(1) < 0.95 || !is.list(tree))) {
    at <- sample(length(tree), 1)
    kind <- runif(1)
    if (kind < 0.05) return(tree[-at])
    if (kind < 0.1) return(tree[c(seq_along(tree), at)])
    tree[at] <- list(damaged_tree(tree[[at]]))
    return(tree)
  }
  odd <- list(0, -1, NULL, 7, 1e308, -1e-308, "x", "", TRUE, list(), list(1, 2), 1e9, 0.5)
  sample(c(odd, if (is.numeric(tree)) list(tree * 1.01)), 1)[[1]]
}

read_bytes <- function(file) readBin(file, "raw", file.size(file))
put_bytes <- function(bytes, ending) {
  file <- tempfile(fileext = paste0(".", ending))
  writeBin(bytes, file)
  file
}

# Made once in a process, whatever case comes first: the case goes on with its own random numbers.
once <- local({
  held <- list()
  function(name, make) {
    if (is.null(held[[name]])) held[[name]] <<- withr::with_preserve_seed(make())
    held[[name]]
  }
})

some_table <- function(n = 60) {
  group <- rep(1:3, length.out = n)
  data.frame(cast = paste0("c", seq_len(n)), salinity = round(30 + 2 * group + stats::rnorm(n, sd = 0.3), 3),
             depth = round(stats::rexp(n, 0.02), 1), ice = c("thin", "none", "thick")[group],
             day = as.character(as.Date("2031-01-01") + seq_len(n)),
             note = rep(c("a, \"b\"", "c\nd", "\u00e9"), length.out = n))
}

# What a reader does with a table that was sent.
used <- function(file, ...) {
  data <- fl_data(file, ...)
  format(data)
  format(fl_check(data))
  format(fl_partition(fl_prepare(data), fl_method("kmeans", restarts = 2), k = 2))
  TRUE
}
