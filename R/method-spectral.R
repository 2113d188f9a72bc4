# Groups from the eigenvectors of similarities between rows.

method_spectral <- function() {
  declare_method(
    "spectral",
    fit = run_spectral,
    settings = list(neighbours = 7L, most = 20L, restarts = 20L, sample_rows = 2000L),
    check = function(settings) {
      check_whole(settings$neighbours, "neighbours")
      check_whole(settings$most, "most", least = 2, most = 200)
      check_whole(settings$restarts, "restarts", most = 1e6)
      check_whole(settings$sample_rows, "sample_rows", least = 10)
    },
    about = list(label = "spectral (Ng, Jordan & Weiss 2002; Zelnik-Manor & Perona 2004)",
                 when = "groups of any shape hang together without noise between, and their number is asked for",
                 shape = "groups of any shape that hang together and are apart from others",
                 needs = "numbers in like units; k, up to most",
                 cost = "time s^2 (d + most) with samples of s rows; memory s^2 numbers",
                 source = "Ng, Jordan & Weiss 2002; Zelnik-Manor & Perona 2004", minimises = "W"),
    placing = list(assign = assign_nearest_kept, by_rows = TRUE),
    shortcuts = list(shared = spectral_axes)
  )
}

# Eigenvalues and eigenvectors of the normalised similarities, and the rows they are of.
spectral_axes <- function(x, settings) {
  rows <- sampled_rows(nrow(x), settings$sample_rows)
  part <- x[rows, , drop = FALSE]
  many <- min(settings$most + 1L, length(rows))
  c(leading_axes(normalised_similarity(part, settings$neighbours), many), list(rows = rows, part = part))
}

# exp(-d^2 / (s_i s_j)), s the distance to a row's seventh neighbour (Zelnik-Manor & Perona 2004), 0 on the diagonal;
# divided by the roots of the row sums.
normalised_similarity <- function(x, neighbours) {
  scale <- core_distance(x, neighbours + 1L)
  if (any(scale == 0)) scale[scale == 0] <- if (any(scale > 0)) min(scale[scale > 0]) else 1
  centred <- sweep(x, 2L, colMeans(x))
  lengths <- rowSums(centred^2)
  square <- pmax(outer(lengths, lengths, "+") - 2 * column_products(t(centred)), 0)
  similarity <- exp(-square / outer(scale, scale))
  diag(similarity) <- 0
  root <- sqrt(pmax(rowSums(similarity), .Machine$double.xmin))
  similarity / outer(root, root)
}

# The largest eigenvalues of a symmetric matrix and their vectors: all of a small one, else by block Lanczos (Golub &
# Underwood 1977), begun again from what it found until A v is `close` to value * v. Blocks are as wide as what is asked
# for: of groups far apart as many eigenvalues are equal.
leading_axes <- function(matrix, many, close = 1e-5) {
  n <- nrow(matrix)
  wanted <- seq_len(many)
  wide <- many + 4L
  steps <- min(10L, n %/% (2L * wide))
  if (n <= 300L || steps < 4L) {
    fit <- eigen(matrix, symmetric = TRUE)
    return(list(values = fit$values[wanted], vectors = fit$vectors[, wanted, drop = FALSE]))
  }
  times <- function(block) symmetric_product_kernel(matrix, block, thread_count())
  block <- matrix(normal_numbers(n * wide, 1), n)
  for (round in seq_len(50L)) {
    space <- krylov_space(times, block, steps)
    found <- eigen(space$inner, symmetric = TRUE)
    turn <- found$vectors[, seq_len(wide)]
    block <- space$basis %*% turn
    left <- space$images %*% turn[, wanted] - block[, wanted] * rep(found$values[wanted], each = n)
    if (max(colSums(left^2)) < close^2) break
    steps <- 4L
  }
  list(values = found$values[wanted], vectors = block[, wanted, drop = FALSE])
}

# An orthonormal `basis` of block, A block ... A^(steps - 1) block; its `images` under A, and A as seen in it, `inner`:
# zero but for neighbouring blocks. `times`: gives A times a block.
krylov_space <- function(times, block, steps) {
  wide <- ncol(block)
  basis <- orthonormal(block)
  images <- NULL
  inner <- matrix(0, steps * wide, steps * wide)
  for (step in seq_len(steps)) {
    own <- (step - 1L) * wide + seq_len(wide)
    near <- max(1L, own[1L] - wide):own[wide]
    image <- times(basis[, own])
    images <- cbind(images, image)
    inner[near, own] <- crossprod(basis[, near], image)
    inner[own, near] <- t(inner[near, own])
    if (step == steps) break
    fresh <- orthonormal(image - basis[, near] %*% inner[near, own])
    # rounding brings back what is there already; where little else is left, more than once takes away
    for (pass in 1:2) fresh <- fresh - basis %*% crossprod(basis, fresh)
    basis <- cbind(basis, orthonormal(fresh))
  }
  list(basis = basis, images = images, inner = inner)
}

orthonormal <- function(block) qr.Q(qr(block))

run_spectral <- function(x, k, settings, seed, about, shared) {
  check_distinct(k, distinct_kernel(x, as.integer(k), "euclidean"))
  if (k > length(shared$values) || k > settings$most && k > 1L) {
    fl_abort("count", paste0("The method looks at ", settings$most, " eigenvectors, for as many groups at most."),
             found = paste0("k = ", k, "."), advice = "Give a larger `most`.")
  }
  axes <- shared$vectors[, seq_len(k), drop = FALSE]
  length <- sqrt(rowSums(axes^2))
  turned <- axes / ifelse(length > 0, length, 1)
  part <- if (k == 1L) rep(1L, nrow(axes)) else spectral_groups(turned, k, settings$restarts, seed)
  sampled <- nrow(axes) < nrow(x)
  all <- if (sampled) by_nearest_kept(x, rows_with_group(shared$part, part), rep(Inf, nrow(axes)))$group else part
  group <- number_groups(match(all, sort(unique(all))), x)
  list(
    group = group,
    model = list(eigenvalues = shared$values, kept = rows_with_group(shared$part, group[shared$rows])),
    notes = c(
      gap_note(shared$values, k),
      if (max(group) < k) paste0("Only ", max(group), " groups have rows: the others were empty."),
      if (sampled) paste0("The similarities are those of an even sample of ", counted(nrow(axes), "row"),
                          "; the others went with the nearest of those.")
    )
  )
}

spectral_groups <- function(turned, k, restarts, seed) {
  distinct <- distinct_kernel(turned, as.integer(k), "euclidean")
  least_scatter(turned, min(k, distinct), restarts, 200L, seed)$group
}

# The count after which eigenvalues fall most, as a random walk between the rows sees it: by the ratio of their
# logarithms (Azran & Ghahramani 2006). The first is 1 always, so one group is never found. And that ratio.
eigengap <- function(values) {
  rate <- -log(pmin(pmax(values, 1e-300), 1 - 1e-12))
  ratio <- rate[-1L] / rate[-length(rate)]
  at <- if (length(ratio) < 2L) NA_integer_ else which.max(ratio[-1L]) + 1L
  list(count = at, ratio = ratio[at])
}

gap_note <- function(values, k) {
  gap <- eigengap(values)
  if (is.na(gap$count)) NULL
  else paste0("The eigenvalues fall most after the ", ordinal_word(gap$count), " (", digits3(values[gap$count]), " to ",
              digits3(values[gap$count + 1L]), ", ", digits3(gap$ratio), " times as fast): they speak for ",
              if (gap$count == k) "this count." else paste0(counted(gap$count, "group"), "."))
}

ordinal_word <- function(n) {
  last <- n %% 10L
  paste0(n, if (n %% 100L %in% 11:13 || !last %in% 1:3) "th" else c("st", "nd", "rd")[last])
}

#' Spectral
#'
#' Turns distances into similarities, exp(-d^2 / (s_i s_j)), where s is each row's distance to its seventh nearest row,
#' so that dense and sparse places count equally (Zelnik-Manor & Perona 2004); divides them by the roots of their row
#' sums; and puts the rows of the leading k eigenvectors, brought to length 1, into k groups by k-means (Ng, Jordan &
#' Weiss 2002). Groups can have any shape if they hang together and nothing joins them.
#'
#' The eigenvalues are computed once for all counts (`partition$model$eigenvalues`). Where they fall most speaks for as
#' many groups as lie before, and is told with every fit: by the ratio of their logarithms, two groups or more (Azran &
#' Ghahramani 2006).
#'
#' Above `sample_rows` rows the similarities are those of an even sample; the others, and new rows, go with the nearest
#' row of it.
#'
#' @section Settings:
#' * `neighbours` (7): the neighbour whose distance sets a row's scale.
#' * `most` (20): eigenvectors computed, and the largest count.
#' * `restarts` (20): of k-means on the eigenvectors.
#' * `sample_rows` (2,000): rows above which a sample is used.
#' @references
#' Ng, A. Y., Jordan, M. I. and Weiss, Y. (2002). On spectral clustering: analysis and an algorithm. NIPS 14, 849--856.
#'
#' Zelnik-Manor, L. and Perona, P. (2004). Self-tuning spectral clustering. NIPS 17, 1601--1608.
#'
#' Azran, A. and Ghahramani, Z. (2006). Spectral methods for automatic multiscale data clustering. CVPR, 190--197.
#' \doi{10.1109/CVPR.2006.289}
#'
#' Golub, G. H. and Underwood, R. (1977). The block Lanczos method for computing eigenvalues. Mathematical Software III,
#' 361--377. \doi{10.1016/B978-0-12-587260-7.50018-2}
#' @examples
#' seals <- fl_prepare(fl_demo("seal_haulouts"))
#' fl_partition(seals, "spectral", k = 6)
#' @name method-spectral
NULL
