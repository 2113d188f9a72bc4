# The contract every index meets. A built-in one is a function index_<key>() in the file of its family that
# returns declare_index(); a user's own is registered for the session.
#
# An index sees a *set*: the fits of one method on one preparation over several counts, so that rules which need
# neighbouring counts and measures which share one pass over the distances are written the same way.

own_indices <- new.env(parent = emptyenv())

#' Add an index of your own
#'
#' A registered index works everywhere a built-in one does: in [fl_score()], [fl_sweep()], ballots, figures and the
#' shell. It names a family, which has one vote in [fl_vote()], or gets a family of its own. The registration
#' lasts for the R session.
#'
#' @param key Short name: lower-case letters, digits and `_`.
#' @param value Function `(x, groups)` giving one number for one partition: `x` a numeric matrix in prepared
#'   units, `groups` whole numbers 1 to k, one a row. `NA` abstains.
#' @param across Instead of `value`, for rules over neighbouring counts: function `(set)` giving a number for every
#'   partition of the set. `set` has `x` (matrix), `k` (counts, ascending), `groups` (list of group vectors),
#'   and for each partition `n` (clustered rows), `covered` (their share), `scatter` (W), `total` (T); `widths()` gives
#'   the silhouette widths, rows × partitions.
#' @param direction `"higher"` or `"lower"`: which value is better.
#' @param family Its family; by default one of its own, named as the index.
#' @param range The smallest and the largest value it can have.
#' @param rule What it picks, in words, e.g. `"largest value"`.
#' @param from The smallest count it can judge.
#' @param order For a rule that is not simply the best value: function `(k, value)`, or `(k, value, error)` where the
#'   index gives standard errors, that returns the counts in order of preference, without those it does not want at all.
#'   A function `(k, value, error, asked)` also sees the counts that were fitted beside the asked ones; `asked` says
#'   which may be picked.
#' @param tier The smallest set it belongs to: `"fast"`, `"standard"` or `"all"`, see [fl_sweep()].
#' @param weight Its weight in a vote; 0 shows it without a vote.
#' @param label What people call it, with author and year.
#' @param cost How its time grows, in words.
#' @param source The paper.
#' @return The index, a list of class `fl_index`, invisibly.
#' @section Errors: `fjordline_error_index` when the key is taken by a built-in index or malformed, or when not
#'   exactly one of `value` and `across` is given.
#' @examples
#' # the smallest group's share, the higher the better
#' fl_new_index("evenness", direction = "higher", rule = "largest smallest share",
#'              value = function(x, groups) min(table(groups)) / length(groups))
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' fl_score(fl_partition(ready, "kmeans", k = 3), "evenness")
#' @export
fl_new_index <- function(key, value = NULL, across = NULL, direction, family = key, range = c(-Inf, Inf), rule = NULL,
                         from = 2L, order = NULL, weight = 1, tier = "fast", label = key, cost = "not stated",
                         source = "not stated") {
  index <- declare_index(key, value, across, direction, family, range, rule, from, order, weight, tier, label, cost,
                         source)
  if (key %in% names(built_in("index"))) {
    fl_abort("index", paste0("There is a built-in index ", quoted(key), "."), advice = "Choose another key.")
  }
  assign(key, index, envir = own_indices)
  invisible(index)
}

# Sets of indices, each within the next. fast: no reference sets, no resampling. standard: every index but those that
# find the count too rarely.
index_tiers <- c("fast", "standard", "all")

declare_index <- function(key, value = NULL, across = NULL, direction, family = key, range = c(-Inf, Inf), rule = NULL,
                          from = 2L, order = NULL, weight = 1, tier = "fast", label = key, cost = "not stated",
                          source = "not stated", silent = NULL) {
  check_key(key, "index")
  check_choice(tier, index_tiers, "tier", what = "index")
  check_choice(direction, c("higher", "lower"), "direction", what = "index")
  if (!is.numeric(range) || length(range) != 2L || anyNA(range) || range[1L] >= range[2L]) {
    fl_abort("index", "`range` must be two numbers, the smallest and the largest value.",
             found = paste0("It is ", shape_of(range), "."))
  }
  if (is.function(value) == is.function(across)) {
    fl_abort("index", "Give `value`, a function of (x, groups), or `across`, a function of (set); not both, not none.")
  }
  across <- across %||% function(set) vapply(set$groups, function(g) each_value(value, set$x, g), 0)
  rule <- rule %||% (if (direction == "higher") "largest value" else "smallest value")
  structure(
    list(key = key, label = label, family = family, direction = direction, range = as.double(range), rule = rule,
         from = as.integer(from),
         across = across, order = order, weight = weight, tier = tier, cost = cost, source = source, silent = silent),
    class = "fl_index"
  )
}

# An index of one partition sees clustered rows only; noise is left out.
each_value <- function(value, x, group) {
  inside <- group > 0L
  if (!all(inside)) x <- x[inside, , drop = FALSE]
  out <- value(x, group[inside])
  if (length(out) != 1L || !(is.numeric(out) || is.logical(out))) {
    fl_abort("index", "`value` must return one number.", found = paste0("It returned ", shape_of(out), "."))
  }
  as.double(out)
}

all_indices <- function() c(built_in("index"), as.list(own_indices, sorted = TRUE))

# The indices of a set, or those named; the name of a set may stand among them.
as_indices <- function(indices = "standard") {
  known <- all_indices()
  if (!is.character(indices) || length(indices) == 0L) {
    fl_abort("index", "`indices` must be keys of indices, as text.", found = paste0("It is ", shape_of(indices), "."),
             advice = "fl_indices() lists them.")
  }
  # the sets are ours: what a reader registered is scored, and votes, where it is named
  shipped <- built_in("index")
  tier <- match(vapply(shipped, `[[`, "", "tier"), index_tiers)
  chosen <- lapply(indices, function(key) {
    check_choice(key, c(names(known), index_tiers), "indices", what = "index")
    if (key %in% index_tiers) names(shipped)[tier <= match(key, index_tiers)] else key
  })
  known[unique(unlist(chosen))]
}

#' The catalogue of indices
#'
#' What each index judges, which value is better, by which rule it picks a count, whether it votes, and the paper it
#' comes from.
#'
#' @return A data frame with a row an index: `key`, `label`, `family`, `direction` (which value is better), `lowest` and
#'   `highest` (the range of its values), `rule` (what it picks), `from` (the smallest count it judges), `weight` (0:
#'   shown, does not vote), `tier` (the smallest set it is in), `cost`, `source`, and `yours` (`TRUE` for one you
#'   registered).
#' @seealso [fl_score()] for one partition, [fl_sweep()] for many, [fl_new_index()] to add one.
#' @examples
#' fl_indices()[, c("key", "family", "direction", "rule")]
#' @export
fl_indices <- function() {
  indices <- all_indices()
  get <- function(field, type = "") vapply(indices, `[[`, type, field, USE.NAMES = FALSE)
  tibble::tibble(
    key = names(indices), label = get("label"), family = get("family"), direction = get("direction"),
    lowest = vapply(indices, function(i) i$range[1L], 0, USE.NAMES = FALSE),
    highest = vapply(indices, function(i) i$range[2L], 0, USE.NAMES = FALSE),
    rule = get("rule"), from = get("from", 0L), weight = get("weight", 0), tier = get("tier"), cost = get("cost"),
    source = get("source"), yours = names(indices) %in% ls(own_indices)
  )
}

#' The indices, and what each one computes
#'
#' Notation: n clustered rows in prepared units, d columns, k groups of sizes n_j with means m_j; W the within-group sum
#' of squares, T the total one, B = T - W. An index without a value for a partition (one group, a zero denominator) is
#' `NA` with a reason: it abstains. Noise rows are left out. Pairwise indices follow the metric of the partition,
#' centre-based ones are Euclidean. Better is higher unless said; those marked * are in the set `"all"` only, because
#' they find the count too rarely. `hartigan`, `stability` and the likelihood indices are shown, and vote only where you
#' give them a weight: on simulated tables votes were right more often without them.
#'
#' **curve**, the course of W over the counts:
#' * `elbow`: the bend b(k) = s(k+1) - s(k) with the slopes s(k) = (log W(k) - log W(k-1)) / log(k / (k-1)). Only
#'   positive bends are ranked, and only where the largest is sharper than 95 % of the largest bends of tables without
#'   groups (boxes and Gaussians; not tested in the set `"fast"`).
#' * `hartigan` (lower): (W(k) / W(k+1) - 1)(n - k - 1); picks the smallest count with 10 or less, one allowed.
#' * `krzanowski_lai`: |D(k) / D(k+1)|, D(k) = (k-1)^(2/d) W(k-1) - k^(2/d) W(k), d the rank of the table.
#' * `jump`: D(k)^(-d/2) - D(k-1)^(-d/2), D(k) = W / (n d); abstains where its pick is the last count.
#' * `ball_hall`* (lower): the mean over groups of their mean squared distance to the mean; picks the sharpest levelling
#'   off.
#'
#' **separation**, means against scatter:
#' * `calinski_harabasz`: (B / (k-1)) / (W / (n-k)).
#' * `davies_bouldin` (lower): the mean over groups of the largest (S_j + S_l) / |m_j - m_l|, S the mean distance to the
#'   mean.
#' * `xie_beni` (lower): W / (n min |m_j - m_l|^2).
#' * `pbm`: ((1/k)(E_1 / E_k) D)^2, E the sum of distances to the means, D the largest distance between means.
#' * `generalized_dunn`: the smallest mean distance between the rows of two groups / the largest 2 S_j.
#' * `ratkowsky_lance`*: the mean over columns of sqrt(B_v / T_v), divided by sqrt(k).
#'
#' **pairs**, distances between rows:
#' * `silhouette`: the mean of (b - a) / max(a, b) over rows, a the mean distance to the other rows of the own group, b
#'   the smallest mean distance to another group; 0 in a group of one. Exact up to 30,000 rows, above by distances to
#'   means.
#' * `dunn`: the smallest distance between groups / the largest within one; up to 10,000 rows.
#' * `c_index` (lower): (S_w - S_min) / (S_max - S_min), S_w the sum of the distances within groups, the others the sums
#'   of as many smallest and largest distances.
#' * `gamma`: (s+ - s-) / (s+ + s-) over pairs of a distance within and one between groups, s+ where within is smaller.
#' * `point_biserial`*: the correlation of distance and being in different groups.
#' * `mcclain_rao`* (lower): the mean distance within groups / between.
#'
#' **reference**, **resampling** and **density**:
#' * `gap`: E*\[log W(k)\] - log W(k) over 100 tables drawn uniformly in the box of the principal axes and clustered
#'   alike; picks the smallest count whose gap is no smaller than the next one less its error s(k) = sd sqrt(1 + 1/100),
#'   one allowed. Not a test of one group.
#' * `prediction_strength`: rows are halved ten times; the share of the pairs of a half's group that the fit of the
#'   other half puts together too, in the worst group; picks the largest count with 0.8 within one standard error.
#' * `stability`: the mean adjusted Rand index between fits to 50 pairs of bootstrap samples, extended to all rows.
#' * `dbcv`: how dense groups are within against how sparse it is between them, along minimum spanning trees.
#'
#' **likelihood** (lower, one group allowed):
#' * `bic`: -2 log L + p log n. A method that fits a mixture gives its own likelihood. For the others rows are taken to
#'   come from round groups of one variance W / (d (n-k)): log L = sum n_j log(n_j / n) - (nd/2) log(2 pi variance) -
#'   d (n-k)/2, p = k - 1 + kd + 1; this over-counts elongated groups.
#' * `aic`*: -2 log L + 2 p. `icl`: for mixtures, BIC less twice the sum of the log probabilities of the rows' groups.
#'
#' `c_index`, `gamma`, `point_biserial` and `dbcv` look at an even sample of 3,000 rows where there are more, reference
#' tables at 1,000, resampling at 2,000; results say so. Bootstrap samples, halves and the Gaussians of the elbow are
#' fitted with at most ten restarts, the boxes of the gap with as many as the table.
#'
#' @references
#' Baker, F. B. and Hubert, L. J. (1975). Measuring the power of hierarchical cluster analysis.
#' \doi{10.1080/01621459.1975.10480256}
#'
#' Ball, G. H. and Hall, D. J. (1965). A novel method of data analysis and pattern classification. Stanford Research
#' Institute.
#'
#' Ben-Hur, A., Elisseeff, A. and Guyon, I. (2002). A stability based method for discovering structure in clustered
#' data. Pacific Symposium on Biocomputing 7, 6--17.
#'
#' Bezdek, J. C. and Pal, N. R. (1998). Some new indexes of cluster validity. \doi{10.1109/3477.678624}
#'
#' Biernacki, C., Celeux, G. and Govaert, G. (2000). Assessing a mixture model for clustering with the integrated
#' completed likelihood. \doi{10.1109/34.865189}
#'
#' Calinski, T. and Harabasz, J. (1974). A dendrite method for cluster analysis. \doi{10.1080/03610927408827101}
#'
#' Davies, D. L. and Bouldin, D. W. (1979). A cluster separation measure. \doi{10.1109/TPAMI.1979.4766909}
#'
#' Dunn, J. C. (1974). Well-separated clusters and optimal fuzzy partitions. \doi{10.1080/01969727408546059}
#'
#' Fang, Y. and Wang, J. (2012). Selection of the number of clusters via the bootstrap method.
#' \doi{10.1016/j.csda.2011.09.003}
#'
#' Hartigan, J. A. (1975). Clustering Algorithms. Wiley.
#'
#' Hubert, L. J. and Levin, J. R. (1976). A general statistical framework for assessing categorical clustering in free
#' recall. \doi{10.1037/0033-2909.83.6.1072}
#'
#' Krzanowski, W. J. and Lai, Y. T. (1988). A criterion for determining the number of groups in a data set using
#' sum-of-squares clustering. \doi{10.2307/2531893}
#'
#' McClain, J. O. and Rao, V. R. (1975). A program to test for the quality of clustering of a set of objects.
#' Journal of Marketing Research 12, 456--460. \doi{10.1177/002224377501200410}
#'
#' Milligan, G. W. (1981). A Monte Carlo study of thirty internal criterion measures for cluster analysis.
#' \doi{10.1007/BF02293899}
#'
#' Moulavi, D., Jaskowiak, P. A., Campello, R. J. G. B., Zimek, A. and Sander, J. (2014). Density-based clustering
#' validation. \doi{10.1137/1.9781611973440.96}
#'
#' Pakhira, M. K., Bandyopadhyay, S. and Maulik, U. (2004). Validity index for crisp and fuzzy clusters.
#' \doi{10.1016/j.patcog.2003.06.005}
#'
#' Pelleg, D. and Moore, A. (2000). Extending k-means with efficient estimation of the number of clusters. ICML,
#' 727--734.
#'
#' Ratkowsky, D. A. and Lance, G. N. (1978). A criterion for determining the number of groups in a classification.
#' Australian Computer Journal 10, 115--117.
#'
#' Rousseeuw, P. J. (1987). Silhouettes: a graphical aid to the interpretation and validation of cluster analysis.
#' \doi{10.1016/0377-0427(87)90125-7}
#'
#' Schwarz, G. (1978). Estimating the dimension of a model. \doi{10.1214/aos/1176344136}
#'
#' Sugar, C. A. and James, G. M. (2003). Finding the number of clusters in a dataset. \doi{10.1198/016214503000000666}
#'
#' Thorndike, R. L. (1953). Who belongs in the family? \doi{10.1007/BF02289263}
#'
#' Tibshirani, R., Walther, G. and Hastie, T. (2001). Estimating the number of clusters in a data set via the gap
#' statistic. \doi{10.1111/1467-9868.00293}
#'
#' Tibshirani, R. and Walther, G. (2005). Cluster validation by prediction strength. \doi{10.1198/106186005X59243}
#'
#' Xie, X. L. and Beni, G. (1991). A validity measure for fuzzy clustering. \doi{10.1109/34.85677}
#' @seealso [fl_indices()] for the catalogue, [fl_new_index()] to add one, [fl_vote()] for how they are weighed.
#' @examples
#' fl_score(fl_partition(fl_prepare(fl_demo("icequakes"), transform = "log"), k = 4))
#' @name indices
NULL

# Values of the indices over a set: index, k, value, its standard error where it has one, and the reason where an index
# has no value, or does not vote with it.
score_set <- function(set, indices) {
  scored <- lapply(indices, function(index) {
    given <- tryCatch(index$across(set), error = function(e) e)
    failed <- inherits(given, "error")
    reason <- rep(if (failed) paste0("it stopped: ", first_line(given)) else "", length(set$k))
    value <- if (failed) rep(NA_real_, length(set$k)) else as.double(given)
    error <- if (failed) NULL else attr(given, "error")
    value[!is.finite(value) | set$k < index$from] <- NA_real_
    silent <- is.na(value) & !nzchar(reason)
    reason[silent] <- why_silent(index, set, silent)
    # Silent where W is zero, an index would prefer the counts beside.
    zero <- set$scatter == 0 & set$k > 1
    if (any(zero & is.na(value) & set$k >= index$from) || index$family %in% c("curve", "reference") && any(zero)) {
      reason[!is.na(value)] <- paste0("W is zero at k = ", min(set$k[zero]),
                                      ", where the rows of every group are equal")
      value[] <- NA_real_
    }
    abstains <- if (failed) NULL else attr(given, "abstains")
    if (!is.null(abstains)) reason[!is.na(value)] <- abstains
    tibble::tibble(index = index$key, k = as.integer(set$k), value = value,
                   error = ifelse(is.na(value), NA_real_, error %||% NA_real_), covered = set$covered, reason = reason)
  })
  vctrs::vec_rbind(!!!scored)
}

why_silent <- function(index, set, silent) {
  reason <- rep("its formula has no value here (a zero or an overflow)", length(set$k))
  if (!is.null(index$silent)) reason <- index$silent(set)
  reason[set$k < index$from] <- paste("it judges counts of", spelt(index$from), "and more")
  reason[silent]
}
