# Where mixtures begin: the axes that wide tables are looked along, and partitions to start from.

# What all counts share: which columns are levels, of wide tables the axes that are looked along, and starting trees.
mixture_shared <- function(x, settings, about) {
  shared <- mixture_columns(x, about)
  numbers <- x[, columns_of_numbers(shared, ncol(x)), drop = FALSE]
  shared <- c(shared, list(axes = wanted_axes(numbers, settings$axes)))
  c(mixture_trees(mixture_rows(x, shared), settings), shared)
}

# Of tables with more than `wide_from` columns the principal axes that hold more spread than chance gives (Horn 1965): a
# general covariance of many columns has more parameters than there are rows to tell them from.
wide_from <- 10L

wanted_axes <- function(x, asked) {
  if (ncol(x) == 0L || identical(asked, "all") || identical(asked, "auto") && ncol(x) <= wide_from) {
    return(NULL)
  }
  middle <- colMeans(x)
  axes <- principal_axes(x - rep(middle, each = nrow(x)))
  many <- if (identical(asked, "auto")) telling_axes(x, 2L, wide_from) else asked
  turn <- axes$turn[, seq_len(min(many, axes$rank)), drop = FALSE]
  colnames(turn) <- paste0("axis_", seq_len(ncol(turn)))
  data.frame(middle = unname(middle), turn, row.names = NULL)
}

# The rows as they are, and with all directions of the numbers brought to one spread; levels stand beside as they are.
starting_tables <- function(seen) {
  stacked <- function(numbers) if (is.null(seen$beside)) numbers else cbind(numbers, seen$beside)
  list(plain = stacked(seen$x), even = stacked(if (ncol(seen$x) > 0L) sphere_columns(seen$x) else seen$x))
}

# Partitions to begin from, a column each: cuts of two ward trees, and k-means, each of the rows and of the rows with
# all directions brought to one spread; then k-means from single seeded starts by turns.
mixture_starts <- function(seen, k, restarts, seed, trees) {
  if (k == 1L) {
    return(matrix(1L, nrow(seen$x), 1L))
  }
  tables <- starting_tables(seen)
  x <- tables$plain
  even <- tables$even
  grouped <- function(table, restarts, turn) {
    least_scatter(table, k, restarts, 100L, derived_seed(seed, 23, turn))$group
  }
  cuts <- lapply(trees$trees, function(tree) {
    cut <- cut_kernel(tree$low, tree$high, length(trees$rows), as.integer(min(k, length(trees$rows))))
    if (length(trees$rows) == nrow(x)) return(cut)
    nearest_kernel(x, group_means(x[trees$rows, , drop = FALSE], cut), "euclidean", thread_count())$group
  })
  more <- lapply(seq_len(max(0L, restarts - 4L)), function(turn) {
    grouped(if (turn %% 2L == 0L) even else x, 1L, turn + 2)
  })
  starts <- unique(c(list(grouped(x, 5L, 1), grouped(even, 5L, 2)), cuts, more))
  matrix(unlist(starts), nrow(x))
}

tree_rows <- 2000L  # of larger tables the trees are those of an even sample

mixture_trees <- function(seen, settings) {
  if (settings$restarts == 0L) {
    return(list())
  }
  seen <- only_rows(seen, search_rows(nrow(seen$x), settings))
  rows <- sampled_rows(nrow(seen$x), tree_rows)
  tables <- starting_tables(only_rows(seen, rows))
  grown <- function(table) linkage_kernel(table, FALSE, "euclidean", "ward", FALSE, thread_count())
  scattered <- length(rows) > 1L && total_scatter(tables$plain) > 0
  list(rows = rows, trees = if (scattered) unname(lapply(tables, grown)))
}

# All directions in which the rows scatter brought to one spread.
sphere_columns <- function(x) {
  centred <- sweep(x, 2L, colMeans(x))
  axes <- principal_axes(centred)
  scores <- centred %*% axes$turn[, seq_len(axes$rank), drop = FALSE]
  sweep(scores, 2L, sqrt(colMeans(scores^2)), "/")
}
