# Random tables over all methods: ties, constants, gaps, numbers of any size; the same labels with one thread and two.
random_cells <- function(n, d) {
  x <- vapply(seq_len(d), function(j) {
    v <- switch(sample(7, 1), rnorm(n), round(rnorm(n)), rep(sample(9, 1), n), rexp(n) * 10^sample(-140:130, 1),
                rnorm(n) * 1e-300, sample(c(-1, 1), n, TRUE) * 10^runif(n, -20, 20), as.double(sample(3, n, TRUE)))
    if (runif(1) < 0.1) v[sample(n, 1)] <- sample(c(NA, Inf, -Inf, NaN, 1e15), 1)
    v
  }, double(n))
  x <- as.data.frame(matrix(x, n))
  if (runif(1) < 0.2 && n > 1L) x <- x[sample(n, n, TRUE), , drop = FALSE]
  if (runif(1) < 0.2) x$kind <- sample(letters[1:3], n, TRUE)
  rownames(x) <- NULL
  x
}

attack("random tables", function(number) {
  n <- sample(c(1:5, 20, 60, 300), 1)
  x <- random_cells(n, sample(1:5, 1))
  keys <- names(getFromNamespace("built_in", "fjordline")("method"))
  key <- sample(keys, 1)
  k <- sample(c(1, 2, 3, 7, n), 1)
  outcome_of({
    scale <- sample(c("mean_sd", "median_iqr", "unit_range", "none"), 1)
    ready <- fl_prepare(fl_data(x, features = names(x)), scale = scale)
    fit <- function(threads) {
      old <- options(fjordline.threads = threads)
      on.exit(options(old))
      fl_partition(ready, key, k = k)
    }
    one <- fit(1L)
    two <- fit(2L)
    format(one)
    format(fl_score(one, "fast"))
    identical(fl_labels(one), fl_labels(two)) && length(fl_labels(one)) == nrow(x)
  })
}, 1200, seconds = 60)

attack("random sweeps", function(number) {
  n <- sample(c(3:8, 30, 80), 1)
  x <- random_cells(n, sample(1:4, 1))
  outcome_of({
    ready <- fl_prepare(fl_data(x, features = names(x)))
    sweep <- fl_sweep(ready, c("kmeans", "mixture"), k = 1:4, indices = "fast")
    vote <- fl_vote(sweep)
    c(format(sweep), format(vote), fl_facts(vote))
    TRUE
  })
}, 250, seconds = 90)
