# Ballots: how each index ranks the counts of two and more, and how the ballots of a family become one vote.

tie_width <- 1e-9

# The counts in the order an index prefers them. Values within the tie width go to the smaller count.
preferred_counts <- function(index, k, value, error = rep(NA_real_, length(k)), asked = rep(TRUE, length(k))) {
  sees <- if (is.null(index$order)) 0L else length(formals(index$order))
  able <- !is.na(value) & (asked | sees > 3L)
  k <- k[able]
  value <- value[able]
  if (!is.null(index$order)) {
    more <- list(ifelse(is.na(error[able]), 0, error[able]), asked[able])
    ordered <- if (any(asked[able])) do.call(index$order, c(list(k, value), more[seq_len(sees - 2L)]))
    return(list(k = as.integer(ordered[ordered %in% k[asked[able]]]), tied = FALSE))
  }
  if (index$direction == "lower") value <- -value
  ordered <- integer()
  tied <- FALSE
  while (length(k) > 0L) {
    best <- which(value >= max(value) - tie_width)
    if (length(ordered) == 0L && length(best) > 1L) tied <- TRUE
    pick <- best[which.min(k[best])]
    ordered <- c(ordered, k[pick])
    k <- k[-pick]
    value <- value[-pick]
  }
  list(k = ordered, tied = tied)
}

# Ballots of all indices over one method on one preparation: a row for each index and count it ranks. `value` is
# the median over the repeats, of which at least half must be there. One group may be preferred even where only counts
# of two and more were asked for; it gets no points.
cast_ballots <- function(values, indices, weights, asked = unique(values$k)) {
  values$value[nzchar(values$reason)] <- NA_real_
  # plain vectors: votes are counted for every table and repeat of a study
  rows_of <- split(seq_along(values$index), values$index)
  ballots <- lapply(indices, function(judge) {
    rows <- rows_of[[judge$key]]
    by_count <- function(field) vapply(split(values[[field]][rows], values$k[rows]), middle_of, 0)
    middle <- by_count("value")
    k <- as.integer(names(middle))
    ranked <- preferred_counts(judge, k, middle, by_count("error"), k %in% c(1L, asked))
    voted <- ranked$k[ranked$k >= 2L]
    if (length(voted) == 0L) {
      return(NULL)
    }
    vctrs::data_frame(index = judge$key, family = judge$family, weight = weights$index[[judge$key]], k = voted,
                      rank = seq_along(voted), value = unname(middle[match(voted, k)]), tied = ranked$tied,
                      prefers_one = ranked$k[1L] == 1L)
  })
  vctrs::vec_rbind(no_ballots(), !!!unname(ballots))
}

middle_of <- function(values) {
  if (length(values) == 1L) as.double(values)
  else if (sum(!is.na(values)) * 2 < length(values)) NA_real_
  else stats::median(values, na.rm = TRUE)
}

# Values of partitions that cover other shares of the rows do not compare: noise makes groups look better. Only density
# counts noise.
coverage_apart <- 0.05

compared_coverage <- function(values, indices, what = "counts") {
  covered <- vapply(split(values$covered, values$k), middle_of, 0)
  covered <- covered[!is.na(covered) & (what != "counts" | as.integer(names(covered)) >= 2L)]
  if (length(covered) < 2L || diff(range(covered)) <= coverage_apart + tie_width) {
    return(values)
  }
  family <- vapply(indices, `[[`, "", "family")
  other <- !values$index %in% names(indices)[family == "density"] & !nzchar(values$reason)
  values$reason[other] <- paste0("the ", what, " cover from ", percent(min(covered)), " to ", percent(max(covered)),
                                 " of the rows, and only density indices count noise")
  values
}

no_ballots <- function() {
  tibble::tibble(index = character(), family = character(), weight = numeric(), k = integer(), rank = integer(),
                 value = numeric(), tied = logical(), prefers_one = logical())
}

# Points of a rank: 3, 2, 1 by default; plurality gives the first place everything.
rank_points <- function(rank, rule, depth) {
  if (rule == "plurality") as.numeric(rank == 1L) else pmax(0, depth + 1 - rank)
}

# One vote per family, shared by its members by weight.
family_points <- function(ballots, weights, rule, depth) {
  voting <- ballots[ballots$weight > 0, ]
  shares <- lapply(split(voting, factor(voting$family, unique(voting$family))), function(family) {
    share <- weights$family[[family$family[1L]]] / sum(family$weight[!duplicated(family$index)])
    points <- rowsum(family$weight * rank_points(family$rank, rule, depth) * share, family$k)
    vctrs::data_frame(family = family$family[1L], k = as.integer(rownames(points)), points = unname(points[, 1L]))
  })
  vctrs::vec_rbind(tibble::tibble(family = character(), k = integer(), points = numeric()), !!!unname(shares))
}

# Totals by count, most points first; equal totals go to the smaller count.
total_points <- function(shares, asked) {
  asked <- asked[asked >= 2L]
  points <- vapply(asked, function(k) sum(shares$points[shares$k == k]), 0)
  order <- order(-round(points / tie_width) * tie_width, asked)
  tibble::tibble(k = asked[order], points = points[order], rank = seq_along(asked))
}

# Weights by index and by family. A name of an index divides the vote within its family, a name of a family scales
# that family's vote.
vote_weights <- function(weights, indices) {
  keys <- vapply(indices, `[[`, "", "key")
  families <- unique(vapply(indices, `[[`, "", "family"))
  out <- list(index = stats::setNames(lapply(indices, `[[`, "weight"), keys),
              family = stats::setNames(as.list(rep(1, length(families))), families))
  if (is.null(weights)) {
    return(out)
  }
  if (!is.numeric(weights) || is.null(names(weights)) || anyNA(weights) || any(weights < 0) ||
      !all(is.finite(weights))) {
    fl_abort("argument", "`weights` must be named numbers of 0 or more, as in c(silhouette = 2, curve = 0.5).",
             found = paste0("It is ", shape_of(weights), "."))
  }
  for (name in names(weights)) {
    check_choice(name, c(keys, families), "weights", what = "index")
    if (name %in% keys) out$index[[name]] <- weights[[name]]
    if (name %in% families) out$family[[name]] <- weights[[name]]
  }
  out
}
