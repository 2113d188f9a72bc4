# Principal axes of a centred matrix: directions as columns of `turn`, the share of the spread each holds, and how many
# hold any. Each axis points to where its loadings are larger (the sum of their cubes is positive).
principal_axes <- function(centred) {
  if (ncol(centred) <= nrow(centred)) {
    return(axes_of(column_products(centred)))
  }
  fit <- eigen(column_products(t(centred)), symmetric = TRUE)
  values <- pmax(fit$values, 0)
  rank <- axes_rank(values)
  turn <- crossprod(centred, fit$vectors[, seq_len(rank), drop = FALSE])
  list(turn = signed_axes(turn / rep(sqrt(values[seq_len(rank)]), each = nrow(turn))), share = values / sum(values),
       rank = rank)
}

# The same from the sums of products of the columns.
axes_of <- function(products) {
  fit <- eigen(products, symmetric = TRUE)
  values <- pmax(fit$values, 0)
  list(turn = signed_axes(fit$vectors), share = values / sum(values), rank = axes_rank(values))
}

axes_rank <- function(values) max(1L, sum(values > 1e-12 * values[1L]))

signed_axes <- function(turn) {
  way <- sign(colSums(turn^3))
  turn * rep(ifelse(way == 0, 1, way), each = nrow(turn))
}

# How many principal axes hold more spread than those of the same columns shuffled, each by itself (Horn 1965,
# doi:10.1007/BF02289447; shuffled after Buja & Eyuboglu 1992): between `least` and `most`.
telling_axes <- function(x, least, most, sets = 9L, most_rows = 1000L) {
  x <- x[sampled_rows(nrow(x), most_rows), , drop = FALSE]
  n <- nrow(x)
  spreads <- function(x) {
    centred <- x - rep(colMeans(x), each = n)
    products <- column_products(if (ncol(x) <= n) centred else t(centred))
    eigen(products, symmetric = TRUE, only.values = TRUE)$values[seq_len(min(most, nrow(products)))]
  }
  shuffled <- vapply(seq_len(sets), function(set) {
    keys <- matrix(uniform_numbers(length(x), derived_seed(1, 41, set)), n)
    spreads(vapply(seq_len(ncol(x)), function(j) x[order(keys[, j]), j], numeric(n)))
  }, numeric(min(most, n, ncol(x))))
  beyond <- spreads(x) > apply(rbind(shuffled), 1L, max)
  telling <- if (all(beyond)) length(beyond) else which(!beyond)[1L] - 1L
  min(max(telling, least), length(beyond))
}

# Rows on kept axes and back. `axes`: a data frame with the `middle` and one column per axis.
on_axes <- function(x, axes) (x - rep(axes$middle, each = nrow(x))) %*% as.matrix(axes[-1L])

off_axes <- function(scores, axes) scores %*% t(as.matrix(axes[-1L])) + rep(axes$middle, each = nrow(scores))

# t(left) %*% right in several threads; of a table with itself where there is no `right`. Many times faster than R's own
# where the columns are many and R has only the plain linear algebra that it comes with.
column_products <- function(left, right = NULL) {
  out <- column_products_kernel(left, right %||% left, is.null(right), thread_count())
  if (!is.null(colnames(left))) dimnames(out) <- list(colnames(left), colnames(right %||% left))
  out
}
