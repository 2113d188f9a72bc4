# Tables of one cluster with the columns' own shapes: each column as a distribution with one peak that is near its own,
# tied together as a Gaussian copula with the columns' rank correlations ties them.

modes_tried <- 12L  # places of a peak, and as many again around the best of them

# What such tables need to know of `x`.
shapes_for_tables <- function(x) {
  spread <- spread_ties(x, fewest = 1L)
  scores <- apply(spread, 2L, function(v) stats::qnorm((rank(v) - 0.5) / length(v)))
  related <- suppressWarnings(stats::cor(matrix(scores, nrow(x))))
  related[is.na(related)] <- 0
  diag(related) <- 1
  axes <- eigen(related, symmetric = TRUE)
  list(n = nrow(x), names = colnames(x), turn = axes$vectors %*% diag(sqrt(pmax(0, axes$values)), ncol(x)),
       one_peak = lapply(seq_len(ncol(x)), function(j) one_peak(spread[, j])),
       steps = lapply(seq_len(ncol(x)), function(j) if (anyDuplicated(x[, j]) > 0L) sort(unique(x[, j]))))
}

shaped_table <- function(shapes, seed) {
  d <- length(shapes$one_peak)
  scores <- matrix(normal_numbers(shapes$n * d, seed), shapes$n) %*% t(shapes$turn)
  x <- vapply(seq_len(d), function(j) {
    peak <- shapes$one_peak[[j]]
    values <- if (length(peak$at) < 2L) rep(peak$at, shapes$n)
    else stats::approx(peak$share, peak$at, stats::pnorm(scores[, j]), rule = 2, ties = "ordered")$y
    steps <- shapes$steps[[j]]
    if (length(steps) > 1L) steps[findInterval(values, (steps[-1L] + steps[-length(steps)]) / 2) + 1L] else values
  }, double(shapes$n))
  x <- matrix(x, shapes$n)
  colnames(x) <- shapes$names
  x
}

# A distribution with one peak near that of the values, as the corners of its distribution function: the greatest convex
# function below theirs up to the peak, the least concave one above theirs from it on (Hartigan & Hartigan 1985), with
# the peak where that is nearest of those tried.
one_peak <- function(values) {
  values <- sort(values)
  at <- unique(values)
  n <- length(at)
  if (n < 3L) {
    return(list(at = at, share = (seq_len(n) - 0.5) / max(1, n)))
  }
  share <- (cumsum(tabulate(match(values, at))) - 0.5) / length(values)
  peaked <- function(mode) {
    corners <- unique(c(hull_side(at[seq_len(mode)], share[seq_len(mode)], lower = TRUE),
                        mode - 1L + hull_side(at[mode:n], share[mode:n], lower = FALSE)))
    list(corners = corners, far = max(abs(stats::approx(at[corners], share[corners], at)$y - share)))
  }
  nearest <- function(from, to) {
    modes <- unique(round(seq(from, to, length.out = modes_tried)))
    tried <- lapply(modes, peaked)
    best <- which.min(vapply(tried, `[[`, 0, "far"))
    c(tried[[best]], mode = modes[best])
  }
  rough <- nearest(1, n)
  step <- ceiling(n / modes_tried)
  fine <- nearest(max(1, rough$mode - step), min(n, rough$mode + step))
  corners <- (if (fine$far < rough$far) fine else rough)$corners
  list(at = at[corners], share = share[corners])
}

# Which points are corners of the greatest convex line below, or of the least concave line above.
hull_side <- function(x, y, lower) {
  n <- length(x)
  if (n < 3L) {
    return(seq_len(n))
  }
  corners <- sort(grDevices::chull(x, y))
  chord <- y[1L] + (y[n] - y[1L]) * (x - x[1L]) / (x[n] - x[1L])
  beyond <- if (lower) y[corners] <= chord[corners] else y[corners] >= chord[corners]
  sort(unique(c(1L, corners[beyond], n)))
}
