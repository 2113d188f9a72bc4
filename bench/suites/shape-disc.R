# Uniform in a turned ellipsoid whose axes differ by up to three times.
shape_disc <- function(n, d) {
  axes <- exp(runif(d, log(0.6), log(1.8)))
  axes <- axes / sqrt(mean(axes^2))
  shape_ball(n, d) %*% diag(axes, d) %*% random_turn(d)
}
