# How labelings of the same rows differ, and by which of the choices that led to them.

# The share of pairs of rows that one labeling puts together and the other apart (Mirkin 1996, Mathematical
# Classification and Clustering). Rows without a group (0) are together with none. Rows that all labelings treat alike
# are counted once, with their number.
label_distances <- function(labels) {
  alike <- vctrs::vec_count(as_label_table(labels), sort = "none")
  member <- lapply(alike$key, function(group) outer(group, seq_len(max(group, 1L)), `==`) + 0)
  of <- rep(seq_along(member), vapply(member, ncol, 0L))
  member <- do.call(cbind, unname(member))
  together <- choose(crossprod(member * alike$count, member), 2)
  together <- t(rowsum(t(rowsum(together, of)), of))
  within <- diag(together)
  unname(outer(within, within, `+`) - 2 * together) / choose(length(labels[[1L]]), 2)
}

as_label_table <- function(labels) vctrs::new_data_frame(stats::setNames(labels, paste0("l", seq_along(labels))))

# Products of the points that have these squared distances, about their mean (Gower 1966, Biometrika 53, 325-338).
gram_of <- function(distances) {
  centred <- diag(nrow(distances)) - 1 / nrow(distances)
  -0.5 * centred %*% distances %*% centred
}

# The share is the squared distance between two tables of who is together with whom, so that what separates labelings
# divides between their choices as in an analysis of variance (McArdle & Anderson 2001, Ecology 82, 290-297). `alone`:
# by the choice itself; `involved`: what stays open when all others are held, so with its part in combinations (Homma &
# Saltelli 1996, Reliability Engineering & System Safety 52, 1-17); `single`: all choices, each by itself. `choices`: a
# named list, a value per labeling. Labelings that differ by the choice `chance` alone tell how much each choice gets by
# chance: that is taken off, as omega squared does (Hays 1963, Statistics for Psychologists).
choice_shares <- function(distances, choices, chance = "seed") {
  gram <- gram_of(distances)
  total <- sum(diag(gram))
  levels_of <- function(choice) outer(as.integer(factor(choice)), seq_along(unique(choice))[-1L], `==`) + 0
  explained <- function(...) {
    basis <- qr(cbind(1, ...))
    q <- qr.Q(basis)[, seq_len(basis$rank), drop = FALSE]
    list(share = if (total > 0) sum(q * (gram %*% q)) / total else 0, free = basis$rank - 1L)
  }
  held <- function(name) {
    others <- choices[setdiff(names(choices), name)]
    if (length(others) > 0L) explained(levels_of(do.call(paste, others))) else list(share = 0, free = 0L)
  }
  all_free <- nrow(distances) - 1L
  by_chance <- 0  # of each degree of freedom
  if (chance %in% names(choices)) {
    within <- held(chance)
    if (within$free < all_free) by_chance <- (1 - within$share) / (all_free - within$free)
  }
  parts <- lapply(names(choices), function(name) {
    alone <- explained(levels_of(choices[[name]]))
    others <- held(name)
    # of chance itself nothing is taken off
    off <- if (name == chance) 0 else by_chance
    c(alone = alone$share - off * alone$free,
      involved = if (total > 0) 1 - others$share - off * (all_free - others$free) else 0)
  })
  of <- function(part) stats::setNames(pmax(0, vapply(parts, `[[`, 0, part)), names(choices))
  list(alone = of("alone"), involved = of("involved"),
       single = explained(do.call(cbind, lapply(choices, levels_of)))$share)
}

# Rows that no labeling divides have one number, the most frequent first; 0 where a row is alone, or somewhere without a
# group.
undivided_blocks <- function(labels) {
  block <- as.integer(vctrs::vec_group_id(as_label_table(labels)))
  block[Reduce(`|`, lapply(labels, function(group) group == 0L))] <- 0L
  sizes <- tabulate(block)
  order <- order(-sizes)
  match(block, order[sizes[order] > 1L], nomatch = 0L)
}
