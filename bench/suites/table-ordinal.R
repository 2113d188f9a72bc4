# Answers on scales of 5 to 7 steps: each group has its own typical answer to every one of 8 to 20 questions.
ordinal_table <- function(...) {
  k <- sample(2:5, 1)
  d <- sample(8:20, 1)
  steps <- sample(5:7, 1)
  group <- rep(seq_len(k), pmax(20, round(sample(200:800, 1) * uneven_shares(k))))
  repeat {
    typical <- matrix(rnorm(k * d), k)
    if (min(dist(typical)) > 4.2) break
  }
  latent <- typical[group, ] + matrix(rnorm(length(group) * d, sd = 0.8), ncol = d)
  cuts <- quantile(latent, seq_len(steps - 1) / steps)
  x <- matrix(findInterval(latent, cuts) + 1, ncol = d)
  list(x = x, k = k, group = group)
}
