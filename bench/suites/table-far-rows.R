# Groups with t tails, and three rows in a hundred very far away in any direction: no group of their own.
far_rows_table <- function(apart) {
  made <- shaped_table(shape_far_tails, apart * 1.3)
  n <- nrow(made$x)
  d <- ncol(made$x)
  far <- sample(n, ceiling(0.03 * n))
  way <- matrix(rnorm(length(far) * d), length(far))
  made$x[far, ] <- matrix(colMeans(made$x), length(far), d, byrow = TRUE) +
    way / sqrt(rowSums(way^2)) * runif(length(far), 3, 10) * max(apply(made$x, 2, sd)) * 2
  made$group[far] <- 0
  made
}

# One row in twenty to one in ten lies anywhere in the box of the table.
noise_rows_table <- function(apart) {
  made <- shaped_table(list(shape_ball, shape_gamma, shape_box)[[sample(3, 1)]], apart * 1.2)
  n <- nrow(made$x)
  noise <- sample(n, ceiling(runif(1, 0.05, 0.1) * n))
  made$x[noise, ] <- apply(made$x, 2, function(v) runif(length(noise), min(v), max(v)))
  made$group[noise] <- 0
  made
}
