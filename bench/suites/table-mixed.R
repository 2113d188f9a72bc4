# Two to four numbers and two to four categories; each group has its own place and its own usual categories.
mixed_table <- function(...) {
  k <- sample(2:5, 1)
  numbers <- sample(2:4, 1)
  categories <- sample(2:4, 1)
  made <- shaped_table(list(shape_gamma, shape_ball, shape_lognormal)[[sample(3, 1)]], 4.5, k, d = numbers,
                       n = sample(300:900, 1))
  out <- as.data.frame(made$x)
  names(out) <- paste0("number", seq_len(numbers))
  for (j in seq_len(categories)) {
    levels <- sample(3:5, 1)
    usual <- sample(levels, k, replace = k > levels)
    chance <- matrix(0.35 / (levels - 1), k, levels)
    chance[cbind(seq_len(k), usual)] <- 0.65
    out[[paste0("category", j)]] <- letters[vapply(made$group, function(g) sample(levels, 1, prob = chance[g, ]), 0L)]
  }
  list(x = out, k = k, group = made$group)
}

# Categories alone: 6 to 12 of them with 2 to 5 levels.
categories_table <- function(...) {
  k <- sample(2:4, 1)
  group <- rep(seq_len(k), pmax(40, round(sample(300:900, 1) * uneven_shares(k))))
  out <- lapply(seq_len(sample(6:12, 1)), function(j) {
    levels <- sample(2:5, 1)
    usual <- sample(levels, k, replace = k > levels)
    chance <- matrix(0.2 / (levels - 1), k, levels)
    chance[cbind(seq_len(k), usual)] <- 0.8
    letters[vapply(group, function(g) sample(levels, 1, prob = chance[g, ]), 0L)]
  })
  list(x = stats::setNames(as.data.frame(out), paste0("category", seq_along(out))), k = k, group = group)
}

# Groups of any shape far apart in the numbers, beside one or two categories and a yes or no that tell little of them.
weak_categories_table <- function(...) {
  k <- sample(2:5, 1)
  shape <- shapes[[sample(length(shapes), 1)]]
  made <- shaped_table(shape, runif(1, 6, 7.5), k, d = sample(2:4, 1), n = sample(300:900, 1))
  out <- as.data.frame(made$x)
  names(out) <- paste0("number", seq_along(out))
  for (j in seq_len(sample(2, 1))) {
    levels <- sample(2:5, 1)
    chance <- matrix(rgamma(k * levels, 6), k)
    out[[paste0("category", j)]] <- letters[vapply(made$group, function(g) sample(levels, 1, prob = chance[g, ]), 0L)]
  }
  out$flag <- as.integer(runif(nrow(out)) < runif(k, 0.2, 0.8)[made$group])
  list(x = out, k = k, group = made$group)
}
