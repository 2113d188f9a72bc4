# Customers: two to four amounts and counts, skewed and of another level in each group, two or three categories with a
# usual level, and a yes or no. No column alone tells the groups apart.
customers_table <- function(...) {
  k <- sample(3:5, 1)
  group <- rep(seq_len(k), pmax(60, round(sample(600:2000, 1) * uneven_shares(k))))
  n <- length(group)
  out <- list()
  for (j in seq_len(sample(2:4, 1))) {
    level <- exp(sample(seq_len(k)) * runif(1, 0.9, 1.4))
    amount <- if (j %% 2 == 1) level[group] * rgamma(n, 6) / 6 else level[group] * exp(rnorm(n, sd = 0.4))
    out[[paste0("amount", j)]] <- if (runif(1) < 0.5) round(amount) else round(amount, 2)
  }
  for (j in seq_len(sample(2:3, 1))) {
    levels <- sample(3:5, 1)
    usual <- sample(levels, k, replace = k > levels)
    chance <- matrix(0.25 / (levels - 1), k, levels)
    chance[cbind(seq_len(k), usual)] <- 0.75
    out[[paste0("kind", j)]] <- letters[vapply(group, function(g) sample(levels, 1, prob = chance[g, ]), 0L)]
  }
  out$member <- as.integer(runif(n) < runif(k)[group])
  list(x = as.data.frame(out), k = k, group = group)
}
