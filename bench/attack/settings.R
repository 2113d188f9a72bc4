# Values that no argument wants.
odd_values <- list(-1, 0, NaN, Inf, -Inf, NA, NULL, "x", "", TRUE, 1e308, 1e-320, 1e9, 0.5, 1:3, list(), c(a = 1),
                   "ward", -1e15, .Machine$integer.max, 2^53, data.frame(), c(NA, 1))

attack("settings", function(number) {
  ready <- once("ready", function() {
    set.seed(2)
    fl_prepare(fl_data(data.frame(a = rnorm(40) + 6 * rep(1:2, 20), b = rnorm(40), c = rexp(40))))
  })
  keys <- names(getFromNamespace("built_in", "fjordline")("method"))
  key <- sample(keys, 1)
  known <- getFromNamespace("built_in", "fjordline")("method")[[key]]$settings
  value <- sample(odd_values, 1)
  outcome_of({
    switch(
      sample(5, 1),
      {
        asked <- if (length(known) > 0L) stats::setNames(value, sample(names(known), 1)) else list()
        format(fl_partition(ready, do.call(fl_method, c(list(key), asked)), k = 2))
      },
      format(fl_partition(ready, key, k = value[[1]])),
      {
        arguments <- setdiff(names(formals(fl_prepare)), "data")
        format(do.call(fl_prepare, c(list(ready$data), stats::setNames(value, sample(arguments, 1)))))
      },
      {
        asked <- stats::setNames(value, sample(c("k", "indices", "repeats", "seed", "methods"), 1))
        usual <- list(ready, methods = "kmeans", k = 1:3, indices = "fast")
        usual[names(asked)] <- asked
        if (identical(usual$repeats, 1e9) || identical(usual$repeats, .Machine$integer.max)) usual$repeats <- 2
        format(do.call(fl_sweep, usual))
      },
      {
        calls <- list(fl_outliers, fl_profile, fl_reliability, fl_rows, fl_paths)
        which <- sample(length(calls), 1)
        object <- if (which == 1L) ready else fl_partition(ready, fl_method("kmeans", restarts = 2), k = 2)
        arguments <- setdiff(names(formals(calls[[which]])), c("x", "ready", "partition", "..."))
        large <- is.numeric(value[[1]]) && length(value[[1]]) == 1L && isTRUE(value[[1]] >= 1e6)
        # as many samples as asked for are drawn: that takes its time, and can be stopped
        if (large) value <- list(-5)
        format(do.call(calls[[which]], c(list(object), stats::setNames(value, sample(arguments, 1)))))
      }
    )
    TRUE
  })
}, 1000, seconds = 60)
