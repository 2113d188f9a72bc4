# Small studies on made-up heaps with known groups.

known_heaps <- function(seed = 1, k = 3, each = 20) {
  withr::with_seed(seed, {
    x <- do.call(rbind, lapply(seq_len(k), function(g) cbind(a = stats::rnorm(each, 6 * g), b = stats::rnorm(each, g %% 2 * 6))))
    fl_data(data.frame(x, kind = rep(letters[seq_len(k)], each = each)), truth = "kind", name = paste0("heaps", seed))
  })
}

quick_study <- function(...) {
  given <- list(...)
  usual <- list(datasets = list(one = known_heaps(1), two = known_heaps(2, k = 4)),
                methods = list(fl_method("kmeans", restarts = 2), linkage = list(join = "ward")), k = 2:4,
                preparations = list(plain = list(), ranks = list(scale = "median_iqr")), indices = "fast", repeats = 2,
                seed = 5)
  usual[names(given)] <- given
  do.call(fl_study, usual)
}

# The quick study, run once for the tests of a process.
quick_result <- local({
  held <- NULL
  function() held <<- if (is.null(held)) fl_run(quick_study()) else held
})

# What a run found, apart from how long it took, in an order of its own.
found_by <- function(result) {
  cells <- result$cells[setdiff(names(result$cells), "seconds")]
  in_order <- function(table) as.data.frame(table[do.call(order, unname(as.list(table[intersect(
    c("judgement", "cell", "measure", "voter", "k", "dataset", "preparation", "method", "repeat"), names(table)
  )]))), ])
  list(cells = in_order(cells), agreements = in_order(result$agreements), values = in_order(result$values),
       picks = in_order(result$picks))
}

# Puts another function or number of the package in the place of one of its own until the test ends.
replaced <- function(name, value, env = parent.frame()) {
  home <- asNamespace("fjordline")
  before <- get(name, home)
  utils::assignInNamespace(name, value, home)
  withr::defer(utils::assignInNamespace(name, before, home), env)
}
