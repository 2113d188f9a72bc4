# Groups joined two by two. The tree is grown in src/linkage.cpp, once for all counts.

method_linkage <- function() {
  declare_method(
    "linkage",
    fit = run_linkage,
    settings = list(join = "ward", metric = "euclidean", height = NULL, dissimilarity = NULL, gigabytes = 2),
    check = check_linkage,
    about = list(label = "linkage (Ward 1963; Sneath & Sokal 1973)",
                 when = "the whole tree from single rows to one group is wanted, or dissimilarities are all there is",
                 shape = paste("by join: ward round groups of like size, complete compact ones, single chains, average",
                               "between"),
                 needs = "numbers, or a dissimilarity of all pairs; k, or a height to cut at",
                 cost = paste("time n^2 d, single n log n in few columns; memory: ward, centroid, median, single the",
                              "table once more, the others all distances"),
                 source = "Ward 1963; Lance & Williams 1967; Sneath & Sokal 1973", minimises = "W"),
    counts = list(frees = function(settings) !is.null(settings$height)),
    placing = list(assign = assign_linkage, by_rows = TRUE),
    shortcuts = list(shared = linkage_tree),
    traits = list(views = function(partition) c(dendrogram = "The tree of merges, cut at the groups"))
  )
}

linkage_joins <- c("ward", "average", "complete", "single", "weighted", "centroid", "median")
centre_joins <- c("ward", "centroid", "median")

check_linkage <- function(settings) {
  check_choice(settings$join, linkage_joins, "join", what = "method")
  check_choice(settings$metric, medoid_metrics, "metric", what = "method")
  check_number(settings$gigabytes, "gigabytes", least = 0.001, finite = FALSE)
  if (!is.null(settings$height)) check_number(settings$height, "height", least = 0, finite = FALSE)
  if (settings$join %in% centre_joins && settings$metric != "euclidean") {
    fl_abort("method", paste0("Join ", settings$join, " goes by centres, which have Euclidean distances only."),
             found = paste0("metric = ", quoted(settings$metric), "."),
             advice = "Use join = \"average\", \"complete\", \"single\" or \"weighted\" with it.")
  }
}

# The tree: for each merge its `height`, the lowest rows of the two groups (`low`, `high`) and the `rows` in both.
linkage_tree <- function(x, settings) {
  given <- !is.null(settings$dissimilarity)
  check_all_directions(x, settings$metric)
  table <- settings$dissimilarity %||% x
  brief <- needs_matrix(settings) && kept_briefly(nrow(x), settings)
  # of few rows the rounds are so short that threads would only wait for each other
  threads <- if (nrow(x) < 1000L) 1L else thread_count()
  tree <- linkage_kernel(table, given, settings$metric, settings$join, brief, threads)
  list(tree = tibble::as_tibble(tree), brief = brief)
}

needs_matrix <- function(settings) {
  if (settings$join == "single") FALSE
  else !settings$join %in% centre_joins || !is.null(settings$dissimilarity)
}

# Whether distances must be kept in single precision to find room.
kept_briefly <- function(rows, settings) {
  room <- settings$gigabytes * 1e9
  if (8 * rows^2 <= room) {
    return(FALSE)
  }
  if (4 * rows^2 > room) {
    fl_abort("memory", paste0("Join ", settings$join, " keeps all distances: ", counted(rows, "row"), " need ",
                              digits3(4 * rows^2 / 1e9), " GB."),
             found = paste0("The setting gigabytes allows ", format(settings$gigabytes), "."),
             advice = paste("Joins ward and single keep none, nor do kmeans, mixture and hdbscan; or link a sample",
                            "(fl_sample()), or allow more."))
  }
  TRUE
}

# Rows without a direction have no cosine or correlation.
check_all_directions <- function(x, metric) {
  if (metric %in% sphere_metrics) {
    without <- which(!is.finite(rowSums(to_directions(x, metric))))
    check_directions(x, list(without_direction = c(without, nrow(x) + 1L)[1L]), metric)
  }
}

run_linkage <- function(x, k, settings, seed, about, shared) {
  tree <- shared$tree
  count <- if (is.null(settings$height)) k else count_at(tree, settings$height)
  if (count > nrow(x)) {
    fl_abort("count", paste0(count, " groups are impossible: the table has only ", counted(nrow(x), "row"), "."))
  }
  if (is.null(settings$dissimilarity)) check_distinct(count, distinct_kernel(x, as.integer(count), "euclidean"))
  group <- number_groups(cut_kernel(tree$low, tree$high, nrow(x), as.integer(count)), x)
  given <- !is.null(settings$dissimilarity)
  list(
    group = group,
    model = list(tree = tree, metric = if (given) "given" else settings$metric,
                 kept = if (!given) rows_with_group(x, group)),
    notes = linkage_notes(tree, count, nrow(x), settings, shared$brief)
  )
}

# New rows go with the nearest of those that were linked.
assign_linkage <- function(fit, x) {
  check_placeable(fit$model$metric)
  if (fit$model$metric == "euclidean") {
    return(assign_nearest_kept(fit, x))
  }
  kept <- fit$model$kept
  near <- nearest_kernel(x, as.matrix(kept[setdiff(names(kept), "group")]), fit$model$metric, thread_count())
  list(group = kept$group[near$group], distance = near$distance)
}

# Groups there are below a height.
count_at <- function(tree, height) 1L + sum(cummax(tree$height) > height)

linkage_notes <- function(tree, count, rows, settings, brief) {
  made <- rows - count
  heights <- tree$height
  last <- if (made > 0L) heights[made] else 0
  c(
    if (!is.null(settings$height)) paste0("Cut at height ", format(settings$height), "."),
    if (count > 1L) {
      paste0("The last merge kept was at height ", digits3(last), ", the next would be at ",
             digits3(heights[made + 1L]),
             if (last > 0) paste0(" (", digits3(heights[made + 1L] / last), " times)"), ".")
    },
    if (made > 0L && count > 1L && heights[made + 1L] <= last) {
      "These merges are equally high: the row numbers decided between this cut and others."
    },
    if (is.unsorted(heights)) "Some merges lie lower than the ones before: a height cuts the tree in several places.",
    if (brief) "Distances were kept in single precision: heights are right to six digits."
  )
}

#' Linkage
#'
#' Begins with every row by itself and joins the two nearest groups again and again, until one is left. The tree of
#' merges is grown once; every count is a cut of it, so the groups of a smaller count are unions of those of a larger
#' one.
#'
#' How far two groups are apart is the join: `ward` (Ward 1963), the root of twice the growth of W, for round groups;
#' `average`, the mean distance between their rows; `complete`, the largest; `single`, the smallest, which follows
#' chains of any shape and is thrown off by a few rows in between; `weighted`, the mean of the distances of the two
#' parts last merged; `centroid`, the distance of the means; `median`, that of points half way between the parts'
#' points. Single rows merge at their distance under each.
#'
#' Single linkage is a minimal spanning tree (Gower & Ross 1969), ward merges mutual nearest neighbours from the groups'
#' means, neither keeping distances; the others keep them all in one matrix, in double precision where that has room in
#' `gigabytes`, else in single. Merges of equal height: the pair with the lowest row numbers first, a group known by its
#' lowest row; under single linkage the two rows that meet.
#'
#' `partition$model$tree` has one row per merge, in order: `height`, `low` and `high` (the lowest rows, among those
#' clustered, of the two groups that merge) and `rows` in both. New rows go with the nearest row that was linked.
#'
#' @section Settings:
#' * `join` (`"ward"`): see above.
#' * `metric` (`"euclidean"`): for average, complete, single and weighted also `"manhattan"`, `"chebyshev"`, `"cosine"`
#'   and `"correlation"`, in scaled units.
#' * `height`: cut the tree here instead of asking for a count: groups that merge above it stay apart.
#' * `dissimilarity`: a square symmetric matrix (or an object that [as.matrix()] makes one of) with a row for each row
#'   of the table, used instead of the columns.
#' * `gigabytes` (2): memory the distances may take; more is refused.
#'
#' @references
#' Ward, J. H. (1963). Hierarchical grouping to optimize an objective function. \doi{10.1080/01621459.1963.10500845}
#'
#' Lance, G. N. and Williams, W. T. (1967). A general theory of classificatory sorting strategies.
#' \doi{10.1093/comjnl/9.4.373}
#'
#' Gower, J. C. and Ross, G. J. S. (1969). Minimum spanning trees and single linkage cluster analysis.
#' \doi{10.2307/2346439}
#'
#' Sneath, P. H. A. and Sokal, R. R. (1973). Numerical Taxonomy. Freeman.
#'
#' Bruynooghe, M. (1977). Methodes nouvelles en classification automatique de donnees taxinomiques nombreuses.
#' Statistique et Analyse des Donnees 3, 24--42.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_partition(ready, "linkage", k = 5)
#' fl_partition(ready, fl_method("linkage", join = "average", height = 3))
#' @name method-linkage
NULL
