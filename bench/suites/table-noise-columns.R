# Two to four columns tell the groups apart, as many or twice as many do not, and are skewed or flat themselves.
noise_columns_table <- function(apart) {
  made <- shaped_table(list(shape_ball, shape_gamma, shape_mixed_skew)[[sample(3, 1)]], apart * 1.2, sample(2:4, 1),
                       d = sample(2:4, 1))
  n <- nrow(made$x)
  many <- ncol(made$x) * sample(2, 1)
  one <- function(j) switch(sample(3, 1), runif(n, -1.7, 1.7), rexp(n) - 1, rnorm(n))
  noise <- vapply(seq_len(many), one, numeric(n))
  made$x <- cbind(made$x, noise)
  made
}
