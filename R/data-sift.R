# Which columns set the rows apart at all, before anything is fitted.

#' How much each column separates the rows
#'
#' A look at single columns and at pairs of them: which could make groups, which only repeat another. It looks at
#' columns one by one; groups that show only in several columns together are not seen here.
#'
#' @section Columns of the result:
#' * `separation`: how far two rows drawn at random lie apart, as a share of the furthest such a column could put them:
#'   for numbers the mean absolute difference (Gini 1912) over half the range, for categories the share of pairs that
#'   differ, over its largest value for that many levels. A two-valued column gets the same number either way.
#' * `multimodality`: how clearly the values gather in two places or more: 4 times the dip of Hartigan & Hartigan
#'   (1985), 0 to 1; for a category how evenly its levels can be put on two sides. 1: two equal halves.
#' * `beyond_chance`: whether the dip exceeds what one flat hump reaches in 999 of 1,000 samples of that size; `NA` for
#'   categories and for numbers with fewer than 20 different values.
#' * `share_of_spread`: the column's variance over the sum of all, unscaled: near 1, it would decide everything without
#'   scaling. Numbers only.
#' * `related_to`, `relation`: the other feature it goes with most: the correlation of two numbers, Cramér's V (1946) of
#'   two categories, the correlation ratio (Fisher 1925) of a category and a number.
#' @param data From [fl_data()].
#' @return An object of class `fl_sift`, a data frame with one row per feature: `column`, `type` and the columns above.
#'   First come numbers with several peaks beyond chance, the deepest dip first; then columns that go with another
#'   beyond chance (p up to 0.001, multiplied by the number of other columns), the surest first; then the others. The
#'   order leaves out how evenly the rows fall on the levels of a category: that tells nothing of groups.
#' @references Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#'
#'   Gower, J. C. (1971). A general coefficient of similarity and some of its properties. \doi{10.2307/2528823}
#' @section Errors: `fjordline_error_argument` where `data` did not come from [fl_data()] or [fl_demo()].
#' @seealso [fl_check()]
#' @examples
#' fl_sift(fl_demo("water_samples"))
#' @export
fl_sift <- function(data) {
  check_made_by(data, "fl_data", "data")
  look <- first_look(data)
  columns <- names(look$values)
  number <- columns %in% names(look$shapes)
  of_shape <- function(part) vapply(look$shapes, function(s) as.double(s[[part]] %||% NA), 0)
  separation <- multimodality <- share <- rep(NA_real_, length(columns))
  separation[number] <- of_shape("apart")
  multimodality[number] <- 4 * of_shape("dip")
  separation[!number] <- vapply(look$values[!number], qualitative_variation, 0)
  multimodality[!number] <- vapply(look$values[!number], two_sides, 0)
  spread <- of_shape("sd")^2
  share[number] <- spread / sum(spread[is.finite(spread)])
  beyond <- rep(NA, length(columns))
  beyond[number] <- vapply(look$shapes, beyond_chance, NA)
  related <- strongest_relation(look)
  out <- tibble::tibble(column = columns, type = type_of(data, columns), separation = separation,
                        multimodality = multimodality,
                        beyond_chance = beyond, share_of_spread = share, related_to = related$column,
                        relation = related$strength)
  out <- out[sift_order(look, out), ]
  structure(out, class = c("fl_sift", class(out)), name = data$name)
}

# Columns with several peaks beyond chance first, by how far beyond; then those that go with another beyond chance; last
# the others, numbers by their dip. That a category is even says nothing of groups.
sift_order <- function(look, sift) {
  beyond <- sift$beyond_chance %in% TRUE
  dip <- ifelse(is.na(sift$beyond_chance), 0, sift$multimodality / 4)
  p <- relation_chance(look, sift)
  related <- p <= 0.001
  order(!beyond, ifelse(beyond, -dip, 0), !related, ifelse(related, p, 1), -dip, p, -sift$separation)
}

# How often unrelated columns go together so closely, times the columns that were looked at.
relation_chance <- function(look, sift) {
  levels <- function(column) length(unique(stats::na.omit(look$values[[column]])))
  n <- min(look$n, relation_most_rows)
  p <- vapply(seq_len(nrow(sift)), function(i) {
    other <- sift$related_to[i]
    if (is.na(other)) {
      return(1)
    }
    pair <- c(sift$column[i], other)
    kinds <- pair[!pair %in% names(look$shapes)]
    share <- min(sift$relation[i]^2, 1 - 1e-12)
    if (length(kinds) == 2L) {
      sides <- c(levels(pair[1L]), levels(pair[2L])) - 1
      stats::pchisq(share * n * min(sides), prod(sides), lower.tail = FALSE)
    } else {
      between <- if (length(kinds) == 0L) 1 else levels(kinds) - 1
      within <- max(1, n - between - 1)
      stats::pf(share / between / ((1 - share) / within), between, within, lower.tail = FALSE)
    }
  }, 0)
  pmin(1, p * max(1, nrow(sift) - 1))
}

# The share of pairs that differ over the largest it could be (Wilcox 1967).
qualitative_variation <- function(values) {
  levels <- length(unique(values[!is.na(values)]))
  if (levels < 2L) 0 else share_apart(values) * (1 - 1 / sum(!is.na(values))) / (1 - 1 / levels)
}

# Values that are spread out enough to have humps, more clearly than one flat hump has them by chance.
beyond_chance <- function(shape) {
  if (shape$distinct < 20L) NA else shape$dip > dip_limit(shape$n)
}

#' @export
as.data.frame.fl_sift <- function(x, ...) as_plain(x)

#' @export
fl_facts.fl_sift <- function(x) {
  clear <- x$column[x$beyond_chance %in% TRUE]
  c(
    if (length(clear) == 0L) {
      paste0("No number column of ", attr(x, "name"), " has several peaks beyond chance.")
    } else {
      paste0(listed(clear), if (length(clear) == 1L) " has" else " have", " several peaks, beyond chance.")
    },
    "Columns were looked at one by one: groups that show only in several together are not seen here."
  )
}

# --- what the looks at a table share

first_look <- function(data) {
  values <- features_of(data)
  shapes <- column_shapes(values[vapply(values, is.numeric, NA)])
  list(data = data, values = values, shapes = shapes, rows = taking_part(data), n = nrow(values),
       truth = if (!is.null(truth_of(data))) truth_of(data)[taking_part(data)],
       pairs = number_pairs(values, shapes))
}

relation_most_rows <- 20000L

# For each number column its strongest partner, and all pairs nearly one column. Many columns: fewer rows, in blocks.
number_pairs <- function(values, shapes, limit = 0.95) {
  usable <- names(shapes)[vapply(shapes, function(s) isTRUE(s$sd > 0) && s$distinct > 2L, NA)]
  none <- list(columns = usable, best = stats::setNames(rep(NA_character_, length(usable)), usable),
               strength = stats::setNames(rep(NA_real_, length(usable)), usable), close = NULL)
  if (length(usable) < 2L) {
    return(none)
  }
  most <- min(relation_most_rows, max(200, 4e9 / length(usable)^2))
  rows <- sampled_rows(nrow(values), as.integer(most))
  sample <- as.list(values[rows, usable, drop = FALSE])
  z <- standardised(sample, shapes[usable])
  known <- if (any(vapply(sample, function(v) !all(is.finite(v)), NA))) {
    vapply(sample, function(v) is.finite(v) + 0, numeric(length(rows)))
  }
  close <- NULL
  for (block in split(seq_along(usable), ceiling(seq_along(usable) / 500))) {
    r <- block_correlation(z, known, block)
    r[cbind(seq_along(block), block)] <- 0
    at <- max.col(abs(r), ties.method = "first")
    none$best[block] <- usable[at]
    none$strength[block] <- r[cbind(seq_along(block), at)]
    found <- which(abs(r) > limit, arr.ind = TRUE)
    found <- cbind(block[found[, 1L]], found[, 2L], r[found])
    close <- rbind(close, found[found[, 1L] < found[, 2L], , drop = FALSE])
  }
  none$close <- close
  none
}

# The feature each goes with most. Categories are compared on a sample of rows, and up to 100 columns.
strongest_relation <- function(look) {
  columns <- names(look$values)
  out <- data.frame(column = rep(NA_character_, length(columns)), strength = rep(NA_real_, length(columns)))
  at <- match(look$pairs$columns, columns)
  out$column[at] <- look$pairs$best
  out$strength[at] <- look$pairs$strength
  kinds <- setdiff(columns, names(look$shapes))
  if (length(kinds) == 0L || length(columns) > 100L) {
    return(out)
  }
  sample <- look$values[sampled_rows(look$n, relation_most_rows), , drop = FALSE]
  for (kind in kinds) {
    for (other in setdiff(columns, kind)) {
      strength <- if (other %in% kinds) cramers_v(sample[[kind]], sample[[other]])
      else correlation_ratio(sample[[other]], sample[[kind]])
      for (pair in list(c(kind, other), c(other, kind))) {
        i <- match(pair[1L], columns)
        if (is.finite(strength) && !(abs(out$strength[i]) >= strength) %in% TRUE) {
          out$column[i] <- pair[2L]
          out$strength[i] <- strength
        }
      }
    }
  }
  out
}

# Cramer (1946).
cramers_v <- function(a, b) {
  both <- !is.na(a) & !is.na(b)
  counts <- table(as.character(a[both]), as.character(b[both]))
  if (min(dim(counts)) < 2L) {
    return(NA_real_)
  }
  expected <- outer(rowSums(counts), colSums(counts)) / sum(counts)
  sqrt(sum((counts - expected)^2 / expected) / sum(counts) / (min(dim(counts)) - 1))
}

# Fisher (1925): the root of the share of a number's spread that lies between the levels.
correlation_ratio <- function(number, level) {
  both <- is.finite(number) & !is.na(level)
  number <- number[both]
  level <- as.character(level[both])
  total <- sum((number - mean(number))^2)
  if (length(number) < 2L || total == 0) {
    return(NA_real_)
  }
  means <- rowsum(number, level) / as.double(table(level)[sort(unique(level))])
  inside <- sum((number - means[match(level, rownames(means))])^2)
  sqrt(max(0, 1 - inside / total))
}
