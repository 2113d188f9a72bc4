# A seed derived from a seed and whole-number coordinates (a repeat, a cell): never from the session's state.
derived_seed <- function(seed, ...) seed_kernel(as.double(seed), as.double(c(...)))

repeat_seed <- function(seed, turn) if (turn == 1L) seed else derived_seed(seed, turn)
