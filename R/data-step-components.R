# Principal components of the prepared columns (Pearson 1901), by number or by share of the spread.

step_components <- list(
  learn = function(frame, reduce) {
    middle <- vapply(frame, mean, 0, USE.NAMES = FALSE)
    axes <- principal_axes(frame_matrix(Map(`-`, frame, middle)))
    kept <- if (reduce < 1) which(cumsum(axes$share) >= reduce - 1e-12)[1L] else min(reduce, axes$rank)
    list(kind = "components", columns = names(frame), middle = middle, share = axes$share[seq_len(kept)],
         turn = as.double(axes$turn[, seq_len(kept)]))
  },
  apply = function(frame, step) {
    x <- frame_matrix(Map(`-`, frame[step$columns], step$middle)) %*% turn_matrix(step)
    stats::setNames(lapply(seq_len(ncol(x)), function(j) x[, j]), component_names(step))
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

turn_matrix <- function(step) matrix(step$turn, nrow = length(step$columns))

component_names <- function(step) paste0("component_", seq_along(step$share))
