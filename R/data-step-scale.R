# Steps on number columns: pulling in far values, leaving out columns that do not vary, scaling, weighing.

# Tukey's outer fences (1977): three interquartile ranges beyond the quartiles.
step_winsorise <- list(
  make = function(columns, fences) {
    list(kind = "winsorise", columns = columns, low = vapply(fences, `[`, 0, 1L, USE.NAMES = FALSE),
         high = vapply(fences, `[`, 0, 2L, USE.NAMES = FALSE))
  },
  forward = function(v, step, i) pmin(pmax(v, step$low[i]), step$high[i]),
  formula = function(v, step, i) {
    call("when", call("<", v, step$low[i]), step$low[i], call(">", v, step$high[i]), step$high[i], v)
  },
  invert = function(x, step) x,
  say = function(step) paste0("pull values beyond three interquartile ranges from the quartiles back to there: ",
                              "limits, after the steps above, ", listed(paste0(step$columns, " (", digits3(step$low),
                                                                               " to ", digits3(step$high), ")"),
                                     most = 6L))
)

outer_fences <- function(v) {
  quarters <- stats::quantile(v, c(0.25, 0.75), names = FALSE, type = 7L, na.rm = TRUE)
  quarters + c(-3, 3) * (quarters[2L] - quarters[1L])
}

step_drop <- list(
  make = function(columns) list(kind = "drop", columns = columns),
  invert = function(x, step) x,
  say = function(step) paste0("leave out ", listed(step$columns), ", which ",
                              if (length(step$columns) == 1L) "does" else "do", " not vary")
)

step_scale <- list(
  make = function(columns, scale, spread) {
    list(kind = "scale", columns = columns, scale = scale, middle = vapply(spread, `[[`, 0, 1L, USE.NAMES = FALSE),
         spread = vapply(spread, `[[`, 0, 2L, USE.NAMES = FALSE))
  },
  forward = function(v, step, i) (v - step$middle[i]) / step$spread[i],
  formula = function(v, step, i) {
    v <- minus(v, step$middle[i])
    if (step$spread[i] == 1) v else call("/", v, step$spread[i])
  },
  invert = function(x, step) {
    change_matrix(x, step$columns, function(v, i) v * step$spread[i] + step$middle[i])
  },
  say = function(step) scale_words[[step$scale]]
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

scale_words <- list(
  mean_sd = "subtract the mean, divide by the standard deviation (mean_sd)",
  median_iqr = "subtract the median, divide by the interquartile range / 1.349 (median_iqr)",
  unit_range = "bring every number column to the range 0 to 1 (unit_range)",
  none = "leave the units as they are (none)"
)

# One value, or values that differ by no more than the rounding of numbers of their size.
is_constant <- function(v) {
  ends <- range(v)
  ends[2L] - ends[1L] <= 1e-13 * max(abs(ends))
}

step_weights <- list(
  make = function(weights) list(kind = "weights", columns = names(weights), weight = unname(weights)),
  forward = function(v, step, i) v * step$weight[i],
  formula = function(v, step, i) times(v, step$weight[i]),
  invert = function(x, step) {
    for (i in seq_along(step$columns)) {
      x <- change_matrix(x, weighed_columns(colnames(x), step$columns[i]), function(v, j) v / step$weight[i])
    }
    x
  },
  say = function(step) paste0("multiply ", listed(paste0(step$columns, " by ", digits3(step$weight))), " (weights)")
)

# A number column itself, or the indicator columns of a category.
weighed_columns <- function(columns, column) {
  if (column %in% columns) column else columns[startsWith(columns, indicator_name(column, ""))]
}

weight_of <- function(column, steps) {
  for (step in steps_of_kind(steps, "weights")) {
    if (column %in% step$columns) {
      return(step$weight[match(column, step$columns)])
    }
  }
  1
}
