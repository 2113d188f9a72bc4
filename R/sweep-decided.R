# When enough tables without groups were drawn: as soon as what is read off them can hardly change any more.

reference_fewest <- 20L
decided_errors <- 5  # standard errors between what was found and what would change the answer

# Rows made by `make(number)` in batches of `reference_fewest`, until `decided(rows)` or there are `most`.
until_decided <- function(make, decided, most = reference_sets, fewest = reference_fewest) {
  rows <- NULL
  while (NROW(rows) < most) {
    next_ones <- NROW(rows) + seq_len(min(fewest, most - NROW(rows)))
    rows <- rbind(rows, do.call(rbind, shared_out(next_ones, make)))
    if (isTRUE(decided(rows))) break
  }
  rows
}

# Whether more tables would leave the gap's pick as it is: the smallest count no worse than the next, less its error.
# The gap of two counts is a mean over the same tables, so its error is that of their differences.
gap_decided <- function(k, observed, box) {
  following <- match(k + 1, k)
  many <- nrow(box)
  spread <- apply(box, 2L, stats::sd)
  margin <- colMeans(box) - observed - (colMeans(box) - observed)[following] + spread[following]
  error <- sqrt((apply(box - box[, following, drop = FALSE], 2L, stats::sd)^2 + spread[following]^2 / 2) / many)
  clear <- abs(margin) > decided_errors * error
  holds <- which(margin >= 0)
  upto <- if (length(holds) > 0L) seq_len(holds[1L]) else which(!is.na(margin))
  all(clear[upto] %in% TRUE)
}

# Whether more tables would leave the sharpest bend sharper, or no sharper, than chance. The error of a quantile is that
# of normal values.
bend_decided <- function(k, observed, curves) {
  sharpest <- sharpest_bend(k, observed)
  largest <- apply(curves, 1L, sharpest_bend, k = k)
  if (sharpest <= 0 || any(!is.finite(largest))) {
    return(sharpest <= 0)
  }
  error <- stats::sd(largest) * sqrt((1 + stats::qnorm(likely)^2 / 2) / nrow(curves))
  abs(sharpest - stats::quantile(largest, likely, names = FALSE)) > decided_errors * error
}
