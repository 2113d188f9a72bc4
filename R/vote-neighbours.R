# What one group fewer, and one more, would change: which groups join, which split.

neighbour_changes <- function(vote) {
  sizes <- c(fewer = vote$k - 1L, more = vote$k + 1L)
  lapply(sizes, function(k) {
    here <- fit_at(vote, vote$k)
    there <- fit_at(vote, k)
    if (is.null(here) || is.null(there)) NULL
    else c(list(k = k), split_story(here, there), list(unstable = unstable_groups(vote, k)))
  })
}

# Groups that come back badly under resampling, at a count of the vote's fits: their numbers and shares.
unstable_groups <- function(vote, k) {
  returns <- returns_at(vote, k)
  returns[returns$returns < unstable_below, ]
}

returns_at <- function(vote, k) {
  all <- vote$sweep$returns
  if (NROW(all) == 0L) {
    return(tibble::tibble(group = integer(), returns = double(), stays = double()))
  }
  all[all$preparation == vote$preparation & all$method == vote$method & all$`repeat` == 1L & all$k %in% k,
      c("group", "returns", "stays")]
}

fit_at <- function(vote, k) {
  at <- cells_of(vote$sweep, vote$preparation, vote$method, turn = 1L)
  cells <- vote$sweep$cells[at, ]
  at <- at[cells$stands & (cells$k %in% k | is.na(cells$k))]
  fits <- Filter(function(fit) !inherits(fit, "error") && fit$k %in% k, vote$sweep$fits[at])
  if (length(fits) > 0L) fits[[1L]]$group
}

# Each group of the finer labeling comes from the coarser group that holds most of its rows.
split_story <- function(here, there) {
  finer <- max(there) > max(here)
  fine <- if (finer) there else here
  coarse <- if (finer) here else there
  shared <- cross_counts(fine, coarse)
  parent <- apply(shared, 1L, which.max)
  moved <- sum(shared) - sum(shared[cbind(seq_along(parent), parent)])
  children <- split(seq_along(parent), parent)
  children <- children[lengths(children) > 1L]
  changes <- if (finer) {
    vapply(names(children), function(p) {
      sizes <- format(rowSums(shared)[children[[p]]], big.mark = ",", trim = TRUE)
      paste0("splits group ", p, " into ", paste(sizes, collapse = " + "))
    }, "")
  } else {
    vapply(children, function(group) paste0("joins groups ", listed(group)), "")
  }
  list(changes = unname(changes), moved = moved)
}
