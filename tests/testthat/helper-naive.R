# Definitions written out the slow way, to check the fast ones against.

naive_distance <- function(a, b) sqrt(sum((a - b)^2))

distances_of <- function(x) as.matrix(stats::dist(x))

naive_scatter <- function(x, group) {
  sum(vapply(unique(group), function(g) {
    rows <- x[group == g, , drop = FALSE]
    sum(apply(rows, 1, function(r) sum((r - colMeans(rows))^2)))
  }, 0))
}

naive_silhouette <- function(x, group) {
  vapply(seq_len(nrow(x)), function(i) {
    mean_to <- function(rows) mean(vapply(rows, function(l) naive_distance(x[i, ], x[l, ]), 0))
    own <- setdiff(which(group == group[i]), i)
    if (length(own) == 0) return(0)
    a <- mean_to(own)
    b <- min(vapply(setdiff(unique(group), group[i]), function(g) mean_to(which(group == g)), 0))
    if (max(a, b) == 0) 0 else (b - a) / max(a, b)
  }, 0)
}

# Adjusted Rand from the pairs of rows themselves.
naive_adjusted_rand <- function(a, b) {
  pairs <- utils::combn(length(a), 2)
  same_a <- a[pairs[1, ]] == a[pairs[2, ]]
  same_b <- b[pairs[1, ]] == b[pairs[2, ]]
  both <- sum(same_a & same_b)
  expected <- sum(same_a) * sum(same_b) / ncol(pairs)
  (both - expected) / ((sum(same_a) + sum(same_b)) / 2 - expected)
}

# Every way to put n rows into exactly k groups, numbered by first appearance.
all_partitions <- function(n, k) {
  grow <- function(labels) {
    if (length(labels) == n) {
      return(if (max(labels) == k) list(labels) else list())
    }
    unlist(lapply(seq_len(min(max(labels) + 1, k)), function(g) grow(c(labels, g))), recursive = FALSE)
  }
  grow(1)
}

# Every one-to-one matching, as vectors of classes.
all_orders <- function(n) {
  if (n == 1) return(list(1))
  unlist(lapply(all_orders(n - 1), function(o) lapply(0:(n - 1), function(at) append(o, n, after = at))),
         recursive = FALSE)
}

same_grouping <- function(a, b) {
  shared <- table(a, b) > 0
  all(rowSums(shared) == 1) && all(colSums(shared) == 1)
}

random_table <- function(n, d, seed) withr::with_seed(seed, matrix(rnorm(n * d), n, dimnames = list(NULL, paste0("v", seq_len(d)))))

# Three tidy heaps of 20 rows, far apart, in a triangle.
heaps <- function(seed = 1, gap = 10) {
  x <- random_table(60, 2, seed) + cbind(rep(c(0, 1, 0.5), each = 20), rep(c(0, 0, 0.87), each = 20)) * gap
  data.frame(row = sprintf("r%02d", 1:60), east = x[, 1], north = x[, 2], kind = rep(c("a", "b", "c"), each = 20))
}

heap_data <- function(...) fl_data(heaps(...), truth = "kind", id = "row", name = "heaps")

ready_from <- function(x, scale = "none") fl_prepare(fl_data(as.data.frame(x), name = "x"), scale = scale)

water_ready <- function() fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))

# The message of an error as its reader sees it, whatever the version of the tools that print it.
message_of <- function(code) {
  caught <- tryCatch(code, error = identity)
  text <- gsub("\u2716", "x", gsub("\u2139", "i", rlang::cnd_message(caught)))
  paste0("Error in `", as.character(caught$call[[1]]), "()`: ", text, "\n")
}

# A file of given bytes: text and numbers.
bytes_file <- function(...) {
  file <- tempfile(fileext = ".csv")
  writeBin(do.call(c, lapply(list(...), function(part) if (is.character(part)) charToRaw(part) else as.raw(part))), file)
  file
}

# Rows around k random centres that lie `sd` apart per column, one sd of noise.
random_heaps <- function(n, d, k, sd, seed) {
  withr::with_seed(seed, {
    centres <- matrix(rnorm(k * d, sd = sd), k)
    x <- centres[sample(k, n, TRUE), , drop = FALSE] + matrix(rnorm(n * d), n)
  })
  colnames(x) <- paste0("v", seq_len(d))
  x
}

# The labels that the script of a partition of demo data makes when it is run again.
eval_steps <- function(partition) {
  room <- new.env(parent = asNamespace("fjordline"))
  for (line in fl_steps(partition)) eval(parse(text = line), room)
  fl_labels(room$groups)
}

# A sweep without reference tables, resampling and gate, where those are not what is tested.
quick_sweep <- function(ready, methods = "kmeans", ...) fl_sweep(ready, methods, ..., indices = "fast")
