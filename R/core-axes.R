# Principal axes of a centred matrix: directions as columns of `turn`, the share of the spread each holds, and how many
# hold any. Each axis points to where its loadings are larger (the sum of their cubes is positive).
principal_axes <- function(centred) {
  if (ncol(centred) <= nrow(centred)) {
    return(axes_of(crossprod(centred)))
  }
  fit <- eigen(tcrossprod(centred), symmetric = TRUE)
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
