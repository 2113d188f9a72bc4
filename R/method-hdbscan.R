# Density-based groups of any density. The work is done in src/hdbscan.cpp.

method_hdbscan <- function() {
  declare_method(
    "hdbscan",
    fit = run_hdbscan,
    settings = list(min_size = NULL, min_rows = NULL),
    check = function(settings) {
      if (!is.null(settings$min_size)) check_whole(settings$min_size, "min_size", least = 2)
      if (!is.null(settings$min_rows)) check_whole(settings$min_rows, "min_rows")
    },
    about = list(label = "HDBSCAN (Campello, Moulavi & Sander 2013)",
                 when = "groups of any shape differ in density, and there is noise",
                 shape = "groups of any shape, each of its own density, with noise between",
                 needs = "numbers in like units; finds the count itself",
                 cost = "time n log n in few columns, n^2 d in many; memory: the table three times",
                 source = "Campello, Moulavi & Sander 2013", minimises = "W"),
    counts = list(free_count = TRUE, parameter = "min_size", grid = hdbscan_grid),
    placing = list(assign = assign_hdbscan, membership = hdbscan_memberships, by_rows = TRUE, guards = TRUE),
    traits = list(views = function(partition) c(tree = "The tree of branches, with those chosen as groups"),
                  untried = density_untried)
  )
}

run_hdbscan <- function(x, k, settings, seed) {
  min_rows <- as.integer(settings$min_rows %||% settings$min_size %||% usual_min_rows(x))
  min_size <- as.integer(settings$min_size %||% max(min_rows, ceiling(nrow(x) / 100)))
  core <- core_distance(x, min_rows)
  fit <- hdbscan_kernel(x, core, min_size, thread_count())
  group <- if (any(fit$group > 0L)) number_groups(fit$group, x) else fit$group
  branches <- tibble::tibble(branch = seq_along(fit$parent), parent = fit$parent, rows = fit$rows,
                             birth = replace(fit$birth, fit$parent == 0L, NA),
                             end = fit$end, stability = fit$stability, selected = fit$selected)
  branches$group <- selected_groups(branches, fit$branch, group)
  list(
    group = group,
    model = list(
      min_rows = min_rows, min_size = min_size, branches = branches,
      rows = tibble::tibble(branch = fit$branch, leaves = fit$leaves, hold = fit$hold),
      kept = tibble::tibble(rows_with_group(x, group), core = core, hold = fit$hold, leaves = fit$leaves)
    ),
    notes = c(
      paste0("A group has at least ", min_size, " rows. The density at a row is measured by the distance to its ",
             ordinal(min_rows), " nearest row, itself counted."),
      noise_note(group),
      if (!any(branches$parent > 0L)) "The rows never fall into two such groups: they are one.",
      paste0(counted(nrow(branches), "branch", "branches"), " in the branch tree, ", sum(branches$selected),
             " of them chosen as groups; stability ", listed(digits3(branches$stability[order(branches$group)][
               seq_len(sum(branches$selected))])), ".")
    )
  )
}

# The number of the group each selected branch became; NA for the others. Parents stand before their children.
selected_groups <- function(branches, last, group) {
  under <- ifelse(branches$selected, seq_len(nrow(branches)), NA_integer_)
  for (at in which(branches$parent > 0L & !branches$selected)) under[at] <- under[branches$parent[at]]
  out <- group[match(seq_len(nrow(branches)), under[last])]
  ifelse(branches$selected, out, NA_integer_)
}

# Minimum sizes that are tried where none is given.
hdbscan_grid <- function(x, settings) {
  usual <- max(usual_min_rows(x), ceiling(nrow(x) / 100))
  size <- unique(round(usual * c(0.5, 0.7, 1, 1.4, 2, 3, 4)))
  as.integer(size[size >= 2L & size <= nrow(x) / 2])
}

# A new row goes with the nearest row, into its group or into noise, if it is no farther from it than that row was from
# its group when it left.
assign_hdbscan <- function(fit, x) by_nearest_left(fit, x)[c("group", "distance")]

by_nearest_left <- function(fit, x) {
  kept <- fit$model$kept
  by_nearest_kept(x, kept[setdiff(names(kept), c("core", "hold", "leaves"))], kept$leaves)
}

# The hold of the nearest row on its group; the rest is noise.
hdbscan_memberships <- function(fit, x) {
  out <- matrix(0, nrow(x), fit$k)
  kept <- fit$model$kept
  found <- by_nearest_left(fit, x)
  inside <- which(found$group > 0L)
  hold <- kept[["hold"]] %||% kept[["strength"]]  # its name in older model files
  held <- pmin(1, kept$leaves[found$core] / pmax(kept$core[found$core], found$distance)) * hold[found$core]
  out[cbind(inside, found$group[inside])] <- held[inside]
  out
}

#' HDBSCAN
#'
#' Two rows are as far apart as the largest of their distance and the two core distances, each that within which a row
#' has `min_rows` rows, itself included. Under that distance the tree of single linkage is grown and cut downwards;
#' equally long edges are cut at once. A branch that falls into two parts of `min_size` rows and more ends there;
#' smaller parts are rows that leave it. The stability of a branch is the sum, over its rows, of the inverse distance at
#' which they leave it less that at which it began. From the leaves up, a branch is chosen where its stability is no
#' less than that of the chosen ones below it together; the root is chosen only where nothing splits off. Rows in no
#' chosen branch are noise, group 0.
#'
#' `partition$model$branches` is the branch tree (`branch`, `parent`, `rows`, `birth` and `end`, distances (the
#' root has no birth),
#' `stability`, `selected`, `group`), `model$rows` tells for each row clustered the last `branch` it was in, the
#' distance at which it `leaves` that, and its `hold` on the group from 0 to 1: the inverse of that distance over the
#' largest in its group. `autoplot(partition, "tree")` draws it. Rows at distance 0 from each other count as the
#' smallest positive distance apart. It finds the count itself: a `k` given is ignored. New rows go with the nearest
#' row, into its group or into noise; farther from it than that row was when it left its group, they are noise.
#' Memberships are that row's hold, the rest being noise.
#'
#' @section Settings:
#' * `min_size` (`NULL`): the fewest rows of a group; left out, `min_rows` or one in a hundred rows, the larger.
#' * `min_rows` (`NULL`): rows that make a place dense; left out, `min_size` or, without one, the larger of 4
#'   and the logarithm of the number of rows, one of the best rules among those compared by `bench/defaults.R` of the
#'   sources.
#' @references
#' Campello, R. J. G. B., Moulavi, D. and Sander, J. (2013). Density-based clustering based on hierarchical density
#' estimates. \doi{10.1007/978-3-642-37456-2_14}
#'
#' Campello, R. J. G. B., Moulavi, D., Zimek, A. and Sander, J. (2015). Hierarchical density estimates for data
#' clustering, visualization, and outlier detection. \doi{10.1145/2733381}
#' @examples
#' seals <- fl_prepare(fl_demo("seal_haulouts"))
#' groups <- fl_partition(seals, "hdbscan")
#' fl_agree(groups)
#' @name method-hdbscan
NULL
