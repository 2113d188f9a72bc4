# Principal components of the prepared columns (Pearson 1901), by number or by share of the spread.

step_components <- list(
  make = function(x, reduce) {
    middle <- unname(colMeans(x))
    axes <- if (ncol(x) > nrow(x)) principal_axes(x - rep(middle, each = nrow(x)))
    else axes_of(centred_products(x, middle))
    kept <- if (reduce < 1) which(cumsum(axes$share) >= reduce - 1e-12)[1L] else min(reduce, axes$rank)
    list(kind = "components", columns = colnames(x), middle = middle, share = axes$share[seq_len(kept)],
         turn = as.double(axes$turn[, seq_len(kept)]))
  },
  apply = function(x, step) {
    turn <- turn_matrix(step)
    out <- matrix(NA_real_, nrow(x), ncol(turn), dimnames = list(NULL, component_names(step)))
    for (rows in row_blocks(nrow(x))) {
      gaps <- t(x[rows, step$columns, drop = FALSE]) - step$middle
      whole <- is.finite(colSums(gaps))  # a row with a gap lies nowhere
      out[rows[whole], ] <- column_products(if (all(whole)) gaps else gaps[, whole, drop = FALSE], turn)
    }
    out
  },
  invert = function(x, step) {
    out <- x %*% t(turn_matrix(step)) + rep(step$middle, each = nrow(x))
    colnames(out) <- step$columns
    out
  },
  say = function(step) {
    paste0("reduce ", length(step$columns), " columns to ", counted(length(step$share), "principal component"),
           ", which hold ", percent(sum(step$share)), " of their spread")
  }
)

# Sums of products about the middle, in blocks of rows, so that no second copy of the table is made.
centred_products <- function(x, middle) {
  sums <- matrix(0, ncol(x), ncol(x))
  for (rows in row_blocks(nrow(x))) {
    sums <- sums + column_products(x[rows, , drop = FALSE] - rep(middle, each = length(rows)))
  }
  sums
}

row_blocks <- function(n, size = 50000L) {
  lapply(seq(1, max(n, 1), by = size), function(from) from + seq_len(min(size, n - from + 1L)) - 1L)
}

turn_matrix <- function(step) matrix(step$turn, nrow = length(step$columns))

component_names <- function(step) paste0("component_", seq_along(step$share))
