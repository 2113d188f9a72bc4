# Components with categories: which of them are groups. Beside numbers the rows dip between two groups, or not, along
# what tells the two apart, levels included; of categories alone, whether rows of one component are taken for rows of
# another (Hennig 2010, doi:10.1007/s11634-010-0058-3; Baudry et al. 2010, doi:10.1198/jcgs.2010.08111).

overlap_most <- 0.07  # set on the odd tables of bench/suites.R: pieces of one group are mistaken by 9% and more

# The larger of two shares: of the memberships of one part, how much lies in rows that go to the other.
overlap_between <- function(membership, part, a, b) {
  parts <- sort(unique(part))
  each <- vapply(parts, function(p) rowSums(membership[, part == p, drop = FALSE]), numeric(nrow(membership)))
  to <- parts[max.col(matrix(each, nrow(membership)), "first")]
  mistaken <- function(from, other) {
    own <- each[, match(from, parts)]
    sum(own[to == other]) / max(sum(own), 1e-300)
  }
  max(mistaken(a, b), mistaken(b, a))
}

# How much likelier each row's levels are in part `a` than in part `b`, as a logarithm. A level no row of a part has
# counts as one row spread over the category.
level_odds <- function(levels, part, a, b, rows) {
  chance <- vapply(c(a, b), function(p) {
    share <- levels$share * (part == p)
    own <- colSums(levels$chance * share) / sum(share)
    (own * rows[p] + 1 / rep(levels$many, levels$many)) / (rows[p] + 1)
  }, numeric(ncol(levels$chance)))
  logs <- log_chances(levels$codes, t(chance), levels$many)
  logs[, 1L] - logs[, 2L]
}

# What the levels alone say of the component a row belongs to.
level_memberships <- function(levels) {
  chance <- log_chances(levels$codes, levels$chance, levels$many) + rep(log(levels$share), each = nrow(levels$codes))
  share <- exp(chance - row_most(chance))
  share / rowSums(share)
}

# As component_evidence(), for components with categories. `numbers`: what the rows hold beside them, may have no
# columns; `levels`: their `codes`, how `many` a category has, and of the components `share` and `chance`. On odd tables
# components of which all were apart were right against clear indices of k-means on indicator columns, so they count as
# fitting.
level_evidence <- function(numbers, levels, group) {
  alone <- ncol(numbers) == 0L
  needed <- dip_needed(ncol(numbers) + 1L)
  numbers <- spread_ties(numbers)
  membership <- if (alone) level_memberships(levels)
  apart <- function(now, part, a, b) {
    if (alone) {
      return(overlap_most / max(overlap_between(membership, part, a, b), 1e-6))
    }
    odds <- level_odds(levels, part, a, b, tabulate(now, max(part)))
    dip_between(cbind(numbers, spread_ties(cbind(odds), fewest = 1L)), now, a, b) / needed
  }
  merged <- merge_least_apart(group, apart)
  components <- max(group)
  groups <- components
  while (groups > 1L && merged$apart[groups] < 1) groups <- groups - 1L
  list(components = components, groups = groups, of = merged$of[[groups]], levels = groups, dips = merged$apart,
       needed = 1, beyond = merged$apart[groups],
       misfit = c(skewness = NA_real_, kurtosis = NA_real_, peak = NA_real_), fits = TRUE, saddle = NA_real_,
       valleys = FALSE, apart_by = if (alone) "levels" else "dips", with_levels = TRUE)
}
