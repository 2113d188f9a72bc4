# The kinds of steps a preparation is made of. A step is a plain list (so that it can be stored as JSON): `kind`,
# the columns it touches and the numbers it learned. It is learned once and then only applied or inverted.
#
# The matrix a step sees has one column a feature; cells are finite or NA.

step_kinds <- list()

step_kinds$transform <- list(
  learn = function(x, transform) list(kind = "transform", columns = names(transform), how = unname(transform)),
  apply = function(x, step) {
    for (i in seq_along(step$columns)) {
      x[, step$columns[i]] <- suppressWarnings(transforms[[step$how[i]]]$forward(x[, step$columns[i]]))
    }
    x
  },
  invert = function(x, step) {
    for (i in which(step$columns %in% colnames(x))) {
      x[, step$columns[i]] <- transforms[[step$how[i]]]$back(x[, step$columns[i]])
    }
    x
  },
  say = function(step) {
    how <- split(step$columns, factor(step$how, unique(step$how)))
    paste0("take the ", vapply(names(how), function(h) transforms[[h]]$said, ""), " of ", vapply(how, listed, ""))
  }
)

step_kinds$drop <- list(
  learn = function(x, columns) list(kind = "drop", columns = columns),
  apply = function(x, step) x[, setdiff(colnames(x), step$columns), drop = FALSE],
  invert = function(x, step) x,
  say = function(step) paste0("leave out ", listed(step$columns), ", which ",
                              if (length(step$columns) == 1L) "does" else "do",
                              " not vary")
)

step_kinds$scale <- list(
  learn = function(x, scale) {
    spread <- lapply(colnames(x), function(column) scales_known[[scale]](x[, column]))
    list(kind = "scale", columns = colnames(x), scale = scale, middle = vapply(spread, `[[`, 0, 1L),
         spread = vapply(spread, `[[`, 0, 2L))
  },
  apply = function(x, step) {
    x <- x[, step$columns, drop = FALSE]
    sweep(sweep(x, 2L, step$middle), 2L, step$spread, "/")
  },
  invert = function(x, step) {
    at <- match(colnames(x), step$columns)
    sweep(sweep(x, 2L, step$spread[at], "*"), 2L, step$middle[at], "+")
  },
  say = function(step) scale_words[[step$scale]]
)

# Monotone, so that they can be taken back.
transforms <- list(
  log = list(forward = log, back = exp, said = "logarithm", domain = "above 0"),
  log1p = list(forward = log1p, back = expm1, said = "logarithm of 1 + x", domain = "above -1"),
  square_root = list(forward = sqrt, back = function(x) x^2, said = "square root", domain = "0 or more")
)

# Middle and spread of a column.
scales_known <- list(
  mean_sd = function(v) c(mean(v), spread_of(v)),
  median_iqr = function(v) {
    spread <- stats::IQR(v, type = 7L) / 1.349
    c(stats::median(v), if (spread > 0) spread else spread_of(v))
  },
  unit_range = function(v) c(min(v), max(v) - min(v)),
  none = function(v) c(0, 1)
)

# The standard deviation, also of numbers whose squares would vanish.
spread_of <- function(v) {
  off <- v - mean(v)
  largest <- max(abs(off))
  if (largest == 0) 0 else largest * stats::sd(off / largest)
}

scale_words <- list(
  mean_sd = "subtract the mean, divide by the standard deviation (mean_sd)",
  median_iqr = "subtract the median, divide by the interquartile range / 1.349 (median_iqr)",
  unit_range = "bring every column to the range 0 to 1 (unit_range)",
  none = "leave the units as they are (none)"
)

apply_steps <- function(x, steps) {
  for (step in steps) x <- step_kinds[[step$kind]]$apply(x, step)
  x
}

invert_steps <- function(x, steps) {
  for (step in rev(steps)) x <- step_kinds[[step$kind]]$invert(x, step)
  x
}

say_steps <- function(steps) unlist(lapply(steps, function(step) step_kinds[[step$kind]]$say(step)))
