# Gaussian groups that are hard to see, in 2 to 10 columns and 200 rows: two equal ones 3, 4 and 5 standard deviations
# apart, and a small one beside a large one.
near_table <- function(apart, share = 0.5) {
  d <- sample(2:10, 1)
  few <- round(200 * share)
  group <- rep(1:2, c(200 - few, few))
  way <- rnorm(d)
  x <- matrix(rnorm(200 * d), 200) + outer(group - 1, apart * way / sqrt(sum(way^2)))
  list(x = x, k = 2L, group = group)
}
