# Principal axes of a centred matrix: directions as columns of `turn`, the share of the spread each holds, and how many
# hold any. Each axis points to where its loadings are larger (the sum of their cubes is positive).
principal_axes <- function(centred) {
  wide <- ncol(centred) > nrow(centred)
  fit <- if (wide) eigen(tcrossprod(centred), symmetric = TRUE) else eigen(crossprod(centred), symmetric = TRUE)
  values <- pmax(fit$values, 0)
  rank <- max(1L, sum(values > 1e-12 * values[1L]))
  turn <- fit$vectors
  if (wide) {
    turn <- crossprod(centred, fit$vectors[, seq_len(rank), drop = FALSE])
    turn <- turn / rep(sqrt(values[seq_len(rank)]), each = nrow(turn))
  }
  way <- sign(colSums(turn^3))
  list(turn = turn * rep(ifelse(way == 0, 1, way), each = nrow(turn)), share = values / sum(values), rank = rank)
}
