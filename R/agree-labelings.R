# How far two labelings of the same rows agree.

#' Agreement of groups with known classes
#'
#' Cross-tabulates groups and classes over the rows that have both, matches them, and gives every measure of agreement
#' of two labelings. Rows with a missing value on either side are left out, and their number is reported. What the
#' groups are called does not matter.
#'
#' Noise (label 0 of a partition) counts as one group of its own, which is matched only with the class that `noise`
#' names (of another partition: its own noise), and that class with no other group.
#'
#' @param a A partition, or a vector of labels.
#' @param b What to compare with: another partition, the name of a column of the table, or a vector with a value per
#'   row. Left out, the truth of the partition's table.
#' @param match `"one_to_one"`: each group to one class so that most rows agree (equal matchings go to the larger
#'   overlap in the lower-numbered group; groups without a class count as wrong). `"majority"`: each group to the
#'   class that holds most of its rows, for classes coarser than the groups.
#' @param noise The class of `b` that is noise, where there is one.
#' @param without_noise `TRUE` leaves out rows that either side calls noise.
#' @param samples How many bootstrap samples of the rows to draw for intervals: 0 for none, 1,000 is plenty.
#' @param seed Whole number for the samples.
#' @return An object of class `fl_agree`: `measures` (`measure`, `value`, `better`, and with samples `low` and `high`,
#'   the ends of the 95% interval, see *Intervals*), `p_chance` (how often labels dealt out anew
#'   agree as well by adjusted Rand: 999 permutations, of an even sample where there are over 5,000 rows), `table`
#'   (groups × classes, ordered so that matches lie on the diagonal), `matched` (`group`, `class`, `rows`, `of`),
#'   `classes` (`class`, `rows`, `precision`, `recall`, `f1`), `compared` and `disagree` (row numbers), `rows`,
#'   `left_out`. `as.data.frame()` gives the measures.
#' @section Measures:
#' Of pairs of rows: `rand` (Rand 1971), the share of pairs on which the two agree; `adjusted_rand` (Hubert and Arabie
#' 1985), the same less what chance gives: 1 for identical labelings, about 0 for unrelated ones; `jaccard`, pairs both
#' put together among those either does; `fowlkes_mallows` (1983), the geometric mean of the two shares of such pairs.
#'
#' Of information, in nats: `mutual_information`; `adjusted_mutual_information` (Vinh, Epps and Bailey 2010), less what
#' chance gives, exactly; `homogeneity`, near 1 when groups hold one class each; `completeness`, near 1 when classes lie
#' in one group each; `v_measure`, their harmonic mean (Rosenberg and Hirschberg 2007), which is also the mutual
#' information over the mean of the two entropies; `variation_of_information` (Meila 2007), a distance: 0 for identical
#' labelings.
#'
#' Of the matching: `accuracy`, the share of rows on it; `purity`, the share of rows in their group's majority class; by
#' class precision, recall and F1 (missing, 0 and 0 for a class without a group).
#'
#' Only the adjusted measures can be read without knowing how many groups and classes there are. One group against
#' several classes scores 0 on them; identical labelings score 1, also with one group.
#' @section Intervals:
#' Percentiles of a smoothed bootstrap (Efron 1979): cross-tables of as many rows are drawn from the table's shares, to
#' which half a row per group is added, spread over its classes, so that rows which agree without exception in a small
#' sample are not taken for certain to do so. The matching is not made anew. In simulations with 20 to 400 rows they
#' held the value of all rows there could be in 94 to 97 of 100 tables. Measures of information are too large where
#' rows are few, and get no interval (missing).
#' @section Errors: `fjordline_error_argument` when lengths differ, there is nothing to compare with, or `noise` is no
#'   class, `fjordline_error_column` for a misspelt column.
#' @references
#' Rand, W. M. (1971). Objective criteria for the evaluation of clustering methods. \doi{10.1080/01621459.1971.10482356}
#'
#' Hubert, L. and Arabie, P. (1985). Comparing partitions. \doi{10.1007/BF01908075}
#'
#' Fowlkes, E. B. and Mallows, C. L. (1983). A method for comparing two hierarchical clusterings.
#' \doi{10.1080/01621459.1983.10478008}
#'
#' Vinh, N. X., Epps, J. and Bailey, J. (2010). Information theoretic measures for clusterings comparison. Journal of
#' Machine Learning Research 11, 2837-2854.
#'
#' Rosenberg, A. and Hirschberg, J. (2007). V-measure: a conditional entropy-based external cluster evaluation measure.
#' EMNLP-CoNLL, 410-420.
#'
#' Efron, B. (1979). Bootstrap methods: another look at the jackknife. \doi{10.1214/aos/1176344552}
#'
#' Meila, M. (2007). Comparing clusterings: an information based distance. \doi{10.1016/j.jmva.2006.11.013}
#' @seealso [fl_mismatches()] for the rows that disagree.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' fl_agree(groups, samples = 200)
#' fl_agree(groups, "station", match = "majority")
#' fl_agree(groups)$classes
#' @export
fl_agree <- function(a, b = NULL, match = "one_to_one", noise = NULL, without_noise = FALSE, samples = 0, seed = 1) {
  check_choice(match, c("one_to_one", "majority"), "match")
  check_flag(without_noise, "without_noise")
  check_whole(samples, "samples", least = 0)
  check_seed(seed)
  groups <- labels_of(a, "a")
  classes <- other_labels(a, b)
  if (length(groups$label) != length(classes$label)) {
    fl_abort("argument", "`a` and `b` must label the same rows.",
             found = paste0("a has ", length(groups$label), " rows, b has ", length(classes$label), "."))
  }
  if (!is.null(noise)) classes$noise <- check_noise(noise, classes$label)
  both <- !is.na(groups$label) & !is.na(classes$label)
  if (without_noise) both <- both & !groups$label %in% groups$noise & !classes$label %in% classes$noise
  if (!any(both)) {
    fl_abort("argument", "There is no row with a value in both labelings.")
  }
  table <- unclass(base::table(group = in_order(groups$label[both]), class = in_order(classes$label[both])))
  matched <- match_groups(table, match, groups$noise, classes$noise)
  out <- new_agreement(table, matched, groups, classes, both, match, a, samples, seed)
  other <- if (rlang::is_string(b)) b else if (!is.null(b)) verbatim(if (inherits(b, "fl_partition")) "others" else "b")
  out$call <- code_call("fl_agree", verbatim("groups"), other, match = if (match != "one_to_one") match, noise = noise,
                        without_noise = if (without_noise) TRUE, samples = if (samples > 0) samples,
                        seed = if (samples > 0) seed)
  out
}

# The share of permutations of one labeling whose adjusted Rand index is as large.
chance_of_agreement <- function(a, b, seed, sets = 199L, most_rows = 5000L) {
  rows <- sampled_rows(length(a), most_rows, seed)
  a <- match(a[rows], unique(a[rows]))
  b <- match(b[rows], unique(b[rows]))
  if (max(a) < 2L || max(b) < 2L) {
    return(if (max(a) == max(b)) NA_real_ else 1)  # nothing to deal out, or dealt out it is the same
  }
  # with both labelings' sizes given, the index rises with the pairs that both put together
  sequential_chance(function(many, from) {
    dealt_pairs_kernel(a, b, max(a), max(b), many, from, derived_seed(seed, 61))
  }, pairs_of(cross_counts(a, b)), most = sets, enough = 20L)
}

check_noise <- function(noise, label) {
  known <- unique(label[!is.na(label)])
  if (length(noise) != 1L || !noise %in% known) {
    fl_abort("argument", "`noise` must be one of the classes.", found = paste0("It is ", shape_of(noise), "."),
             advice = paste0("The classes are ", listed(quoted(sort(known))), "."))
  }
  as.character(noise)
}

new_agreement <- function(table, matched, groups, classes, both, match, a, samples, seed) {
  known <- !is.na(matched)
  overlap <- integer(length(matched))
  overlap[known] <- table[cbind(which(known), matched[known])]
  right <- paste(rownames(table)[known], colnames(table)[matched[known]], sep = "\r")
  wrong <- which(both)[!paste(groups$label, classes$label, sep = "\r")[both] %in% right]
  measures <- tibble::tibble(
    measure = names(agreement_measures),
    value = unname(vapply(agreement_measures, function(measure) measure(table, matched), 0)),
    better = ifelse(names(agreement_measures) %in% lower_is_better, "lower", "higher")
  )
  if (samples > 0) measures[c("low", "high")] <- measure_intervals(table, matched, samples, seed)
  structure(
    list(
      measures = measures, p_chance = chance_of_agreement(groups$label[both], classes$label[both], seed),
      table = diagonal_order(table, matched),
      matched = tibble::tibble(group = rownames(table), class = colnames(table)[matched], rows = overlap,
                               of = rowSums(table)),
      classes = class_measures(table, matched),
      compared = which(both), disagree = wrong, rows = sum(both), left_out = sum(!both), match = match,
      a = groups$said, b = classes$said,
      labels = list(a = as.character(groups$label), b = as.character(classes$label)), samples = samples,
      partition = if (inherits(a, "fl_partition")) a
    ),
    class = "fl_agree"
  )
}

labels_of <- function(x, argument) {
  if (inherits(x, "fl_partition")) {
    return(list(label = x$group, noise = "0",
                said = if (argument == "a") "groups" else paste("the groups of", x$name)))
  }
  if (is.factor(x)) x <- as.character(x)
  if (!is.atomic(x) || is.null(x)) {
    fl_abort("argument", paste0("`", argument, "` must be a partition or a vector of labels."),
             found = paste0("It is ", shape_of(x), "."))
  }
  list(label = x, said = if (argument == "a") "labels" else "the classes")
}

other_labels <- function(a, b) {
  table <- if (inherits(a, "fl_partition")) a$ready$data$table
  if (is.null(b)) {
    truth <- if (!is.null(table)) columns_of(a$ready$data, "truth")
    if (length(truth) == 0L) {
      fl_abort("argument", "There are no known classes to compare with.",
               advice = "Name them in fl_data(truth = ), or give `b`: a column, a partition or a vector.")
    }
    return(list(label = as.character(table[[truth]]), said = truth))
  }
  if (rlang::is_string(b) && !is.null(table)) {
    check_column(b, names(table), "b", a$ready$data$name)
    return(list(label = as.character(table[[b]]), said = b))
  }
  labels_of(b, "b")
}

# Classes in the order of the groups they match, the unmatched last.
diagonal_order <- function(table, matched) {
  first <- unique(matched[!is.na(matched)])
  table[, c(first, setdiff(seq_len(ncol(table)), first)), drop = FALSE]
}

#' @export
as.data.frame.fl_agree <- function(x, ...) x$measures
