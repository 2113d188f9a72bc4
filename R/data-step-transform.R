# Monotone changes of one column. Each can be taken back; rank and power learn a few numbers from the column.

step_transform <- list(
  make = function(columns, how, learned) {
    list(kind = "transform", columns = columns, how = unname(how), learned = unname(learned))
  },
  forward = function(v, step, i) {
    suppressWarnings(transforms[[step$how[i]]]$forward(v, as.double(unlist(step$learned[[i]]))))
  },
  formula = function(v, step, i) transforms[[step$how[i]]]$formula(v, as.double(unlist(step$learned[[i]]))),
  invert = function(x, step) {
    change_matrix(x, step$columns, function(v, i) {
      transforms[[step$how[i]]]$back(v, as.double(unlist(step$learned[[i]])))
    })
  },
  say = function(step) {
    powers <- step$how == "power"
    how <- split(step$columns[!powers], factor(step$how[!powers], unique(step$how[!powers])))
    c(if (any(!powers)) {
      paste0("take the ", vapply(names(how), function(h) transforms[[h]]$said, ""), " of ", vapply(how, listed, ""))
    }, vapply(which(powers), function(i) {
      power <- as.double(unlist(step$learned[[i]]))
      paste0("take the power ", digits3(power[1L]), " of ", step$columns[i], " (",
             if (power[2L] == 1) "Box-Cox" else "Yeo-Johnson", ", chosen by likelihood)")
    }, ""))
  }
)

learns_nothing <- function(v) numeric()

transforms <- list(
  log = list(learn = learns_nothing, forward = function(v, p) log(v), back = function(v, p) exp(v),
             formula = function(v, p) call("log", v),
             said = "logarithm", domain = "above 0", takes = function(v) v > 0),
  log1p = list(learn = learns_nothing, forward = function(v, p) log1p(v), back = function(v, p) expm1(v),
               formula = function(v, p) call("log", call("+", 1, v)), said = "logarithm of 1 + x",
               domain = "above -1", takes = function(v) v > -1),
  square_root = list(learn = learns_nothing, forward = function(v, p) sqrt(v), back = function(v, p) v^2,
                     formula = function(v, p) call("sqrt", v), said = "square root", domain = "0 or more",
                     takes = function(v) v >= 0),
  rank = list(learn = function(v) learn_ranks(v), forward = function(v, p) between_knots(v, p, 1L),
              back = function(v, p) between_knots(v, p, 2L), formula = function(v, p) rank_formula(v, p),
              said = "rank (as a share of the rows)", domain = "any", takes = function(v) rep(TRUE, length(v))),
  power = list(learn = function(v) learn_power(v), forward = function(v, p) power_forward(v, p),
               back = function(v, p) power_back(v, p), formula = function(v, p) power_formula(v, p),
               said = "power chosen by likelihood", domain = "above 0", takes = function(v, p) rep(TRUE, length(v)))
)

# The same as a test in a formula; NULL where any number will do.
transform_test <- function(v, how, learned) {
  least <- c(log = 0, log1p = -1, power = 0)
  if (how == "square_root") call(">=", v, 0)
  else if (how %in% names(least) && (how != "power" || as.double(unlist(learned))[2L] == 1)) call(">", v, least[[how]])
}

# Which values a learned transform can take: a power learned on positive numbers takes positive numbers.
transform_takes <- function(v, how, learned) {
  if (how != "power") transforms[[how]]$takes(v)
  else if (as.double(unlist(learned))[2L] == 1) v > 0
  else rep(TRUE, length(v))
}

# --- ranks: the share of the fitted rows below a value, half of the ties counted; beyond the fitted values the first
# and the last share hold. More than 1,001 values are kept as 1,001 quantiles and read between them.

rank_most_knots <- 1001L

learn_ranks <- function(v) {
  v <- sort(v)
  values <- unique(v)
  if (length(values) > rank_most_knots) {
    values <- unique(stats::quantile(v, seq(0, 1, length.out = rank_most_knots), names = FALSE, type = 1L))
  }
  below <- findInterval(values, v, left.open = TRUE)
  upto <- findInterval(values, v)
  c(values, (below + upto) / 2 / length(v))
}

between_knots <- function(v, p, from) {
  half <- length(p) / 2
  knots <- list(p[seq_len(half)], p[half + seq_len(half)])
  if (half == 1L) {
    return(ifelse(is.na(v), NA_real_, knots[[3L - from]]))
  }
  stats::approx(knots[[from]], knots[[3L - from]], xout = v, rule = 2, ties = "ordered")$y
}

rank_formula <- function(v, p) {
  knots <- seq_len(length(p) / 2)
  call("between", v, p[knots], p[-knots])
}

# --- powers: Box & Cox (1964) where all values are above 0 and span a factor of three or more; else Yeo & Johnson
# (2000) about the median, in standard deviations (in a narrow range far from 0 no power changes the shape). Learned:
# the power, 1 for Box-Cox or 2, the unit the values are divided by, and what is subtracted before.

learn_power <- function(v) {
  if (is_constant(v)) {
    return(c(1, 2, 1, 0))
  }
  positive <- all(v > 0) && max(v) >= 3 * min(v)
  middle <- if (positive) 0 else stats::median(v)
  unit <- if (positive) exp(mean(log(v))) else spread_of(v)
  scaled <- (v - middle) / unit
  # the log of the Jacobian, up to the power
  stretch <- if (positive) sum(log(scaled)) else sum(sign(scaled) * log1p(abs(scaled)))
  likelihood <- function(power) {
    y <- power_forward(scaled, c(power, if (positive) 1 else 2, 1, 0))
    -length(y) / 2 * log(mean((y - mean(y))^2)) + (power - 1) * stretch
  }
  best <- stats::optimize(likelihood, c(-2, 4), maximum = TRUE)$maximum
  c(round(best, 2), if (positive) 1 else 2, unit, middle)
}

power_forward <- function(v, p) {
  v <- (v - p[4L]) / p[3L]
  if (p[2L] == 1) power_of(v, p[1L])
  else ifelse(v >= 0, power_of(pmax(v, 0) + 1, p[1L]), -power_of(1 - pmin(v, 0), 2 - p[1L]))
}

power_formula <- function(v, p) {
  v <- minus(v, p[4L])
  if (p[3L] != 1) v <- call("/", v, p[3L])
  of <- function(v, power) {
    if (abs(power) < 1e-8) call("log", v) else call("/", call("-", call("power", v, power), 1), power)
  }
  if (p[2L] == 1) of(v, p[1L])
  else call("when", call(">=", v, 0), of(call("+", v, 1), p[1L]), call("-", 0, of(call("-", 1, v), 2 - p[1L])))
}

power_back <- function(y, p) {
  v <- if (p[2L] == 1) undo_power(y, p[1L])
  else ifelse(y >= 0, undo_power(pmax(y, 0), p[1L]) - 1, 1 - undo_power(pmax(-y, 0), 2 - p[1L]))
  v * p[3L] + p[4L]
}

# (v^power - 1) / power, the logarithm at 0.
power_of <- function(v, power) if (abs(power) < 1e-8) log(v) else (v^power - 1) / power

undo_power <- function(y, power) if (abs(power) < 1e-8) exp(y) else pmax(power * y + 1, 0)^(1 / power)
