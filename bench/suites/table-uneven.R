# One group holds a twentieth of the rows, another half of them.
uneven_table <- function(apart) {
  k <- sample(3:5, 1)
  share <- c(0.5, rep(0.45 / (k - 2), k - 2), 0.05)
  shape <- list(shape_ball, shape_gamma, shape_box, shape_laplace)[[sample(4, 1)]]
  shaped_table(shape, apart, k, n = sample(300:800, 1), share = share)
}

# Eight to twelve groups.
many_groups_table <- function(apart) {
  k <- sample(8:12, 1)
  shape <- list(shape_ball, shape_gamma, shape_box, shape_mixed_skew)[[sample(4, 1)]]
  shaped_table(shape, apart, k, d = sample(3:6, 1), n = sample(400:1000, 1))
}

# 50 to 100 rows.
few_rows_table <- function(apart) {
  shape <- list(shape_ball, shape_gamma, shape_box, shape_bent)[[sample(4, 1)]]
  shaped_table(shape, apart, sample(2:4, 1), n = sample(50:100, 1))
}

# 2,000 to 5,000 rows.
many_rows_table <- function(apart) {
  shape <- list(shape_ball, shape_gamma, shape_box, shape_bent, shape_lognormal)[[sample(5, 1)]]
  shaped_table(shape, apart, n = sample(2000:5000, 1))
}
