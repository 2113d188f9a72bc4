# Distances, densities and the nearest group, as stages of formulas. With a second rule, rows out of reach by the first
# are tried again by that: without the directions in which all rows hardly differ.

rule_stages <- function(rules, limits, made, k) {
  x <- formula_names("x", made)
  tags <- c("", "b")[seq_along(rules)]
  whole <- list(whole = quote(whole))
  of_rules <- function(make) do.call(c, unname(Map(make, rules, tags)))
  stages <- sphere_stages(rules[[1L]], x)
  stages$seen <- c(list(whole = sum_of(x)), of_rules(function(rule, tag) seen_formulas(rule, tag, x)))
  stages$away <- c(whole, of_rules(distance_formulas), of_rules(carried_levels))
  stages$scored <- c(whole, of_rules(score_formulas))
  stages$compared <- c(whole, of_rules(best_formulas))
  stages$reached <- c(whole, of_rules(function(rule, tag) {
    reached_formulas(rule, tag, limits[[if (tag == "") "all" else "broad"]], k)
  }))
  stages$chosen <- chosen_formulas(tags)
  stages
}

named_formulas <- function(letter, tag, formulas) {
  if (length(formulas) > 0L) stats::setNames(formulas, paste0(letter, tag, seq_along(formulas)))
}

# Under cosine and correlation rows are directions: `x` over its own length. A row of zeros has none.
sphere_stages <- function(rule, x) {
  if (!rule$metric %in% sphere_metrics) {
    return(list())
  }
  names <- as.character(x)
  stages <- list()
  if (rule$metric == "correlation") {
    stages$row_mean <- keep_others(list(m = call("/", sum_of(x), as.double(length(x)))), c("m", names))
    stages$levelled <- stats::setNames(lapply(x, function(v) call("-", v, quote(m))), names)
  }
  square <- sum_of(lapply(x, square_of))
  length_of <- call("when", call(">", square, 0), call("sqrt", square), NA_real_)
  stages$row_length <- keep_others(list(m = length_of), c("m", names))
  stages$directions <- stats::setNames(lapply(x, function(v) call("/", v, quote(m))), names)
  stages
}

# The numbers as the rule sees them, along its axes where it has any, and what each part makes of the levels.
seen_formulas <- function(rule, tag, x) {
  numbers <- x[rule$numbers]
  if (!is.null(rule$axes)) {
    turn <- as.matrix(rule$axes[-1L])
    numbers <- lapply(seq_len(ncol(turn)), function(j) along_formula(numbers, rule$axes$middle, turn[, j]))
  }
  levels <- if (length(rule$levels) > 0L) lapply(rule$parts, function(part) {
    sum_of(unname(Map(function(known, worth) level_worth(known, worth, x), rule$levels, part$levels)))
  })
  c(named_formulas("n", tag, numbers), named_formulas("l", tag, levels))
}

level_worth <- function(known, worth, x) {
  when_of(level_tests(known, x), as.list(utils::head(worth, -1L)), utils::tail(worth, 1L))
}

level_tests <- function(known, x) {
  lapply(seq_len(nrow(known)), function(l) {
    v <- x[[known$column[l]]]
    if (is.na(known$within[l])) call(">", v, 0)
    else call("<", call("abs", minus(v, known$value[l])), known$within[l])
  })
}

# Squared under the Euclidean metric.
distance_formulas <- function(rule, tag) {
  n <- formula_names(paste0("n", tag), length(rule$parts[[1L]]$middle))
  named_formulas("q", tag, lapply(rule$parts, function(part) metric_formula(rule$metric, n, part)))
}

metric_formula <- function(metric, n, part) {
  gaps <- Map(minus, n, part$middle)
  if (metric == "euclidean") {
    return(sum_of(lapply(apply_width(gaps, part$width), square_of)))
  }
  if (metric %in% sphere_metrics) {
    return(call("-", 1, sum_of(Map(times, n, part$middle))))
  }
  sizes <- lapply(gaps, function(gap) call("abs", gap))
  if (metric == "manhattan") sum_of(sizes) else largest_of(sizes)
}

apply_width <- function(gaps, width) {
  if (is.null(width)) {
    return(gaps)
  }
  lapply(seq_len(nrow(width)), function(i) {
    kept <- which(width[i, ] != 0)
    sum_of(Map(times, gaps[kept], width[i, kept]))
  })
}

carried_levels <- function(rule, tag) {
  named_formulas("l", tag, if (length(rule$levels) > 0L) formula_names(paste0("l", tag), length(rule$parts)))
}

# Distances with what levels cost, and scores: the larger, the nearer. Powers of densities are compared under heavy
# tails, and logs under normal ones, so that no logarithm of a row is needed.
score_formulas <- function(rule, tag) {
  q <- formula_names(paste0("q", tag), length(rule$parts))
  l <- if (length(rule$levels) > 0L) formula_names(paste0("l", tag), length(rule$parts))
  if (is.null(rule$tails)) {
    cost <- if (is.null(l)) q else Map(function(q, l) call("+", q, l), q, l)
    return(c(named_formulas("q", tag, cost), named_formulas("s", tag, lapply(cost, function(q) call("-", 0, q)))))
  }
  constant <- vapply(rule$parts, `[[`, 0, "constant")
  scores <- if (rule$tails == 0) lapply(seq_along(q), function(j) {
    sum_of(c(list(call("-", constant[j], times(q[[j]], 0.5))), l[j]))
  }) else heavy_scores(q, l, constant, rule$tails, length(rule$parts[[1L]]$middle))
  c(named_formulas("q", tag, q), named_formulas("s", tag, scores))
}

# A t density to the power of -2 / (freedom + columns) is 1 + q / freedom, times a number.
heavy_scores <- function(q, l, constant, freedom, columns) {
  power <- 2 / (freedom + columns)
  weight <- exp((constant - max(constant)) * power)
  lapply(seq_along(q), function(j) {
    top <- if (is.null(l)) weight[j] else call("*", weight[j], call("exp", times(l[[j]], power)))
    call("/", top, call("+", 1, call("/", q[[j]], freedom)))
  })
}

best_formulas <- function(rule, tag) {
  n <- length(rule$parts)
  kept <- c(formula_names(paste0("q", tag), n), formula_names(paste0("s", tag), n))
  c(stats::setNames(kept, as.character(kept)),
    stats::setNames(list(largest_of(utils::tail(kept, n))), paste0("best", tag)))
}

# The nearest group, and whether the row is within the reach of any.
reached_formulas <- function(rule, tag, limits, k) {
  q <- formula_names(paste0("q", tag), length(rule$parts))
  s <- formula_names(paste0("s", tag), length(rule$parts))
  of <- vapply(rule$parts, function(part) as.integer(part$group), 0L)
  nearest <- of_best(s, as.name(paste0("best", tag)), of)
  within <- if (is.null(limits)) 1L else {
    squared <- rule$metric == "euclidean"
    tests <- lapply(seq_len(k), function(g) {
      mine <- which(of == g)
      own <- if (length(mine) == 1L) q[[mine]] else of_best(s[mine], largest_of(s[mine]), q[mine])
      limit <- limits[g] * (1 + 1e-9)
      call("<=", own, if (squared) limit^2 else limit)
    })
    call("when", any_of(tests), 1L, 0L)
  }
  stats::setNames(list(nearest, within), paste0(c("nearest", "within"), tag))
}

# `group`: 0 for none of these, missing where a value is.
chosen_formulas <- function(tags) {
  unknown <- quote(is.na(whole))
  if (length(tags) == 1L) {
    return(list(nearest = quote(when(is.na(whole), NA_integer_, nearest)),
                placed = quote(when(is.na(whole), NA_integer_, within == 1L, nearest, 0L))))
  }
  list(nearest = quote(when(is.na(whole), NA_integer_, within == 1L, nearest, nearestb)),
       placed = quote(when(is.na(whole), NA_integer_, within == 1L, nearest, withinb == 1L, nearestb, 0L)))
}
