# Components with categories: which of them are groups. Rows do not dip between levels; whether components are apart is
# seen in how far rows of one are taken for rows of the other (Hennig 2010, doi:10.1007/s11634-010-0058-3; Baudry et al.
# 2010, doi:10.1198/jcgs.2010.08111).

overlap_most <- 0.07  # set on the odd tables of bench/suites.R: pieces of one group are mistaken by 9 % and more

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

# As component_evidence(), for components with categories. `numbers`: what the rows hold beside them, may have no
# columns; `membership`: of the rows in the components by their levels alone. Two components are apart where rows dip
# between them in the numbers, or where their levels tell them apart. On odd tables components of which all were apart
# were right against clear indices of k-means on indicator columns, so they count as fitting.
level_evidence <- function(numbers, membership, group) {
  needed <- dip_needed(ncol(numbers))
  apart <- function(now, part, a, b) {
    by_level <- overlap_most / max(overlap_between(membership, part, a, b), 1e-6)
    if (ncol(numbers) == 0L) by_level else max(by_level, dip_between(numbers, now, a, b) / needed)
  }
  merged <- merge_least_apart(group, apart)
  components <- max(group)
  groups <- components
  while (groups > 1L && merged$apart[groups] < 1) groups <- groups - 1L
  list(components = components, groups = groups, of = merged$of[[groups]], levels = groups, dips = merged$apart,
       needed = 1, beyond = merged$apart[groups],
       misfit = c(skewness = NA_real_, kurtosis = NA_real_, peak = NA_real_), fits = TRUE, saddle = NA_real_,
       valleys = FALSE, apart_by = "levels", numbers = ncol(numbers) > 0L)
}
