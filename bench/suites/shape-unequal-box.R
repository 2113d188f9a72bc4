# Uniform in a box whose sides differ by up to four times, turned at random.
shape_unequal_box <- function(n, d) {
  sides <- exp(runif(d, log(0.5), log(2)))
  sides <- sides / sqrt(mean(sides^2))
  (matrix(runif(n * d, -1, 1) * sqrt(3), n) %*% diag(sides, d)) %*% random_turn(d)
}
