# The test for groups: is there more than one at all?

structure_most_rows <- 1000L
structure_most_axes <- 30L
structure_level <- 0.05  # measured in bench/suite-tests.R

#' Are there any groups at all?
#'
#' Any method finds as many groups as it is asked for, and a vote finds a count, in every table. This asks first whether
#' the table is anything but one cluster. Statistics are compared with those of tables without groups, of the same size
#' and spread:
#' * the **dip** (Hartigan & Hartigan 1985), the distance of a distribution from any with one mode: the largest over
#'   several directions, between the two centres of 2-means, the same after sphering, and each principal axis, and over
#'   the outer parts of the rows along them, from all down to an eighth at either end. A part of one cluster is one
#'   cluster, and a small group far from a large one is a large share of an outer part. The dip of a part counts by the
#'   root of its share of the rows;
#' * in tables of more than ten principal axes the dip along **discriminants**: for each number of groups from two to
#'   six, the largest along the directions that best tell two neighbouring groups of a k-means fit apart, of the rows
#'   of those two. Many columns that differ a little add up there; in few the other directions show groups as well,
#'   and looking at more would cost power. Along a bent band rows dip on the straight line from end to end but not
#'   where they lie, so the rows next to the middle must also have their neighbours farther away than others have;
#' * the **runt** (Hartigan & Mohanty 1992), the largest smaller side among the merges of single linkage, which sees
#'   rings and curved groups.
#'
#' Tables without groups are drawn uniformly from a box and from an ellipsoid, and from a Gaussian, each with the
#' table's own principal axes and variances; as one cluster with the skewness and the tails of the table along these
#' axes; as one bent band, where the table is bent along the direction of the dip; and for the runt from the box of its
#' ranges. Each statistic counts in standard deviations from that kind of table where it is least remarkable; the
#' largest of them is compared with the same of tables without groups (Westfall & Young 1993), and the p-value is the
#' largest over their kinds. Groups are claimed where it is at most 0.05.
#'
#' A band bent by more than half a circle, or both ways, is often claimed to have groups: no reference table is bent so.
#'
#' Above 1,000 rows an even sample of that many is tested (500 for discriminants), above 30 principal axes the first 30.
#' Columns of few different values are jittered within their rounding unit; columns with two values are left out; the
#' print-out lists both. How often it is right is measured in `bench/suite-tests.R` in the sources.
#'
#' @param ready From [fl_prepare()].
#' @param metric `"euclidean"`; `"cosine"` or `"correlation"` test the rows as these see them, as directions or shapes.
#' @param sets How many tables of each kind to draw at most. Drawing ends after 39, or 40 more at a time, once ten of a
#'   kind are as remarkable as the rows: then no others would bring p down to 0.05 (Besag & Clifford 1991).
#' @param seed Whole number; see [fl_partition()].
#' @return An object of class `fl_structure` with fields `groups` (`TRUE` where groups are claimed, `NA` where nothing
#'   could be tested), `p`, `p_dip`, `p_between`, `p_runt`, `dip`, `between`, `runt`, `fit` (the number of groups whose
#'   discriminants dip most), `direction` and `part` (in words), `along` (the tested
#'   rows along the direction), `rows` (how many were tested), `jittered`, `left_out` (columns), `sets`
#'   (how many were drawn).
#'   `as.data.frame()` has one row per statistic.
#' @section Progress: a bar after two seconds in an interactive session; else progress is signalled through the
#'   progressr package.
#' @section Errors: `fjordline_error_argument` for a bad `metric`, `sets` or `seed`.
#' @references
#' Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#'
#' Westfall, P. H. and Young, S. S. (1993). Resampling-Based Multiple Testing. Wiley.
#'
#' Hartigan, J. A. and Mohanty, S. (1992). The runt test for multimodality. \doi{10.1007/BF02618468}
#'
#' Besag, J. and Clifford, P. (1991). Sequential Monte Carlo p-values. \doi{10.1093/biomet/78.2.301}
#' @seealso [fl_vote()], which leads with it.
#' @examples
#' fl_structure(fl_prepare(fl_demo("still_water")))
#' fl_structure(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")))
#' @export
fl_structure <- function(ready, metric = "euclidean", sets = 199, seed = 1) {
  check_made_by(ready, "fl_prepare", "ready")
  check_choice(metric, c("euclidean", sphere_metrics), "metric")
  check_whole(sets, "sets", least = 39)
  check_seed(seed)
  x <- as_seen(ready$x, metric)
  call <- code_call("fl_structure", verbatim("ready"), metric = if (metric != "euclidean") metric,
                    sets = if (sets != 199) sets, seed = seed)
  test <- with_bar(test_structure(x[stats::complete.cases(x), , drop = FALSE], sets, seed))
  new_structure(c(test, list(metric = metric, seed = seed)), ready, call)
}

# What a test for groups holds; see fl_structure(). Of one that could not be made: the reason, and how many different
# rows there are.
structure_holds <- list(
  groups = is_flag_or_na, p = is_number, p_dip = is_number, p_between = is_number, p_runt = is_number,
  dip = is_number, runt = is_number, between = is_number, direction = or_none(is_text), part = or_none(is_text),
  fit = or_none(is_number), along = or_none(is.numeric), axes = or_none(is_number), sets = is_number, rows = is_number,
  jittered = is_any, left_out = is_any, metric = rlang::is_string, seed = is_number, reason = or_none(is_text),
  rows_apart = or_none(is_number), ready = made_by("fl_prepare"), call = or_none(is_text)
)

new_structure <- function(test, ready, call = NULL) {
  made <- structure(c(test, list(ready = ready, call = call)), class = "fl_structure")
  check_object(made, structure_holds, optional = setdiff(names(structure_holds), c("groups", "p", "sets", "ready")))
}

test_structure <- function(x, sets, seed) {
  x <- x[sampled_rows(nrow(x), structure_most_rows, seed), , drop = FALSE]
  rows_apart <- nrow(unique(x))
  different <- vapply(seq_len(ncol(x)), function(j) length(unique(x[, j])), 0L)
  left_out <- colnames(x)[different < 3L]
  kept <- which(different >= 3L)
  jittered <- kept[different[kept] < 0.9 * nrow(x)]
  for (j in jittered) x[, j] <- jitter_column(x[, j], derived_seed(seed, j))
  out <- list(sets = sets, rows = nrow(x), jittered = colnames(x)[jittered], left_out = left_out)
  if (length(kept) == 0L || rows_apart < 10L) {
    reason <- if (nrow(x) < 10L) "there are fewer than ten rows"
    else if (length(kept) == 0L) "all columns are levels of categories or hold two values"
    else paste("there are only", spelt(rows_apart), "different rows")
    untested <- list(groups = NA, p = NA_real_, p_dip = NA_real_, p_between = NA_real_, p_runt = NA_real_)
    return(c(untested, list(reason = reason, rows_apart = rows_apart), out))
  }
  x <- x[, kept, drop = FALSE]
  centred <- x - rep(colMeans(x), each = nrow(x))
  axes <- principal_axes(centred)
  used <- seq_len(min(axes$rank, structure_most_axes))
  scores <- centred %*% axes$turn[, used, drop = FALSE]
  # in few columns the plain directions show groups as well, and looking at more costs power
  test <- compared_with_heaps(scores, sets, seed, length(used) > wide_from)
  said <- test$said
  out$sets <- test$sets
  c(list(groups = said$p <= structure_level, p = said$p, p_dip = said$of[["dip"]], p_between = said$of[["between"]],
         p_runt = said$of[["runt"]], dip = test$dip, runt = test$runt,
         between = if (length(test$between) > 0L) max(test$between) else NA_real_,
         direction = direction_words(test$direction), part = part_words(test$share, test$upper),
         fit = said$deepest,
         along = if (isTRUE(said$of[["between"]] < said$of[["dip"]])) test$pairs[[said$deepest - 1L]]$along
         else test$along,
         axes = length(used)), out)
}

# The rows beside tables without groups, 39 of a kind and then 40 more, up to `sets`, or until ten are as remarkable.
compared_with_heaps <- function(scores, sets, seed, discriminants) {
  batch <- function(from, many) {
    structure_kernel(scores, as.integer(from), as.integer(many), as.double(seed), discriminants, thread_count())
  }
  step <- progressr::progressor(steps = sets)
  drawn <- min(sets, 39)
  test <- batch(0, drawn)
  step(amount = drawn)
  dense <- !vapply(test$pairs, sparse_between, NA, x = scores)
  test$between[dense] <- dense_counts * test$between[dense]
  repeat {
    test$said <- combined_chance(test, drawn)
    as_remarkable <- round(test$said$p * (drawn + 1)) - 1
    if (drawn >= sets || !isTRUE(as_remarkable < 10)) break
    more <- batch(drawn, min(40, sets - drawn))
    for (part in c("dips", "runts", "betweens")) test[[part]] <- rbind(test[[part]], more[[part]])
    step(amount = nrow(test$runts) - drawn)
    drawn <- nrow(test$runts)
  }
  test$sets <- drawn
  test
}

# Along a bent band the rows are rare in the middle of the straight line from end to end, but not where they lie. So a
# dip counts in full only where the rows next to the middle have their neighbours farther away than others have; else
# by a share, set on odd tables of bench/suites.R.
sparse_between <- function(pair, x) {
  n <- length(pair$rows)
  if (n < 20L) {
    return(FALSE)
  }
  far <- log(pmax(neighbour_distance(x[pair$rows, , drop = FALSE], 5L), 1e-300))
  near <- order(abs(pair$along - pair$middle))[seq_len(max(8L, n %/% 10L))]
  isTRUE(mean(far[near]) - mean(far) > sparse_from * stats::sd(far))
}

dense_counts <- 0.75
sparse_from <- 0.5  # standard deviations of the log distances

# Each statistic in standard deviations from the same statistic of tables without groups, the least over their kinds;
# the largest of them against the same of the tables without groups, for having looked at several (Westfall & Young
# 1993).
combined_chance <- function(test, sets) {
  kinds <- ncol(test$runts)
  dipping <- setdiff(seq_len(kinds), ranges_kind)
  numbers <- length(test$between)
  of_kind <- function(kind) {
    between <- test$betweens[, (kind - 1L) * numbers + seq_len(numbers), drop = FALSE]
    cbind(if (kind %in% dipping) cbind(test$dips[, kind], between) else matrix(NA_real_, sets, numbers + 1L),
          log(test$runts[, kind]))
  }
  drawn <- lapply(seq_len(kinds), of_kind)
  observed <- rbind(c(test$dip, test$between, log(test$runt)))
  beyond <- function(values) {
    each <- lapply(drawn, function(reference) {
      middle <- colMeans(reference)
      spread <- pmax(apply(reference, 2L, stats::sd), 1e-9)
      (values - rep(middle, each = nrow(values))) / rep(spread, each = nrow(values))
    })
    do.call(pmin, c(each, list(na.rm = TRUE)))
  }
  own <- beyond(observed)
  p_of <- function(columns) {
    most <- function(values) do.call(pmax, lapply(columns, function(s) values[, s]))
    max(vapply(if (all(columns == ncol(observed))) seq_len(kinds) else dipping, function(kind) {
      (1 + sum(most(beyond(drawn[[kind]])) >= most(own))) / (1 + sets)
    }, 0))
  }
  between <- 1L + seq_len(numbers)
  list(p = p_of(c(1L, between, numbers + 2L)),
       of = c(dip = p_of(1L), between = if (numbers > 0L) p_of(between) else NA_real_, runt = p_of(numbers + 2L)),
       deepest = if (numbers > 0L) which.max(own[1L, between]) + 1L else NA_integer_)
}

ranges_kind <- 4L  # the box of the ranges serves the runt alone

direction_words <- function(direction) {
  if (direction == 0L) "between the two centres of 2-means"
  else if (direction == 1L) "between the two centres of 2-means after sphering"
  else paste("along principal axis", direction - 1L)
}

part_words <- function(share, upper) {
  if (share < 1) paste("among the", if (upper) "upper" else "lower", percent(share), "of the rows") else ""
}

# Values within half a rounding unit, the smallest step between different values.
jitter_column <- function(values, seed) {
  unit <- min(diff(sort(unique(values))))
  values + (uniform_numbers(length(values), seed) - 0.5) * unit
}

#' @export
as.data.frame.fl_structure <- function(x, ...) {
  tibble::tibble(statistic = c("dip", "between", "runt"),
                 value = c(x$dip %||% NA_real_, x$between %||% NA_real_, x$runt %||% NA_real_),
                 p = c(x$p_dip, x$p_between, x$p_runt))
}

#' @export
fl_facts.fl_structure <- function(x) {
  if (is.na(x$groups)) {
    return(paste0("Whether there are groups could not be tested: ", x$reason, "."))
  }
  c(
    structure_headline(x),
    paste0("Along the principal axes and between two centres the largest dip is ", digits3(x$dip), ", ", x$direction,
           if (nzchar(x$part)) paste0(" ", x$part), " (p = ", p_said(x$p_dip), ")."),
    if (!is.na(x$p_between)) {
      paste0("Along the discriminants of fits with two to six groups the most remarkable dip is that with ", x$fit,
             " (p = ", p_said(x$p_between), ").")
    },
    paste0("The largest chain of near rows that joins another late has ", counted(x$runt, "row"), " (p = ",
           p_said(x$p_runt), ")."),
    if (!x$groups) often_missed(),
    if (length(x$left_out) > 0L) paste0("Left out, for they have two values: ", listed(x$left_out), "."),
    if (length(x$jittered) > 0L) paste0("Jittered within their rounding: ", listed(x$jittered, most = 6L), "."),
    if (x$metric != "euclidean") paste0("Rows are tested as ", x$metric, " sees them."),
    if (x$rows < nrow(x$ready$x)) paste0("Tested on an even sample of ", counted(x$rows, "row"), ".")
  )
}

# As measured in bench/README.md.
often_missed <- function() {
  paste("This test often misses equal groups 4 sd apart or less, a fifth of the rows 5 sd away and a tenth 7 sd away.")
}

structure_headline <- function(x) {
  if (x$groups) paste0("There are groups: ", p_of_test(x), ".")
  else paste0("No evidence of groups: ", p_of_test(x), ".")
}

# A p-value at its floor says how low it could have come.
p_of_test <- function(test) {
  if (is.na(test$p)) "not tested"
  else if (test$p <= 1 / (test$sets + 1) + 1e-12) {
    paste0("p <= ", p_said(test$p), ", the smallest possible with ", test$sets, " reference tables of each kind")
  } else {
    paste0("p = ", p_said(test$p), ", against ", test$sets, " reference tables of each kind")
  }
}
