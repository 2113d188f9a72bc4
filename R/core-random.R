# Random numbers that depend on a seed alone, never on the state of the session.

# A seed derived from a seed and whole-number coordinates (a repeat, a cell).
derived_seed <- function(seed, ...) seed_kernel(as.double(seed), as.double(c(...)))

repeat_seed <- function(seed, turn) if (turn == 1L) seed else derived_seed(seed, turn)

uniform_numbers <- function(n, seed) row_keys_kernel(0, n, seed)

normal_numbers <- function(n, seed) stats::qnorm(uniform_numbers(n, seed) + 2^-54)

# Rows drawn with replacement, and a random half.
drawn_again <- function(n, seed) 1L + as.integer(floor(n * uniform_numbers(n, seed)))

random_half <- function(n, seed) sort(order(uniform_numbers(n, seed))[seq_len(n %/% 2L)])
