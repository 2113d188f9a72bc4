# How often the groups and rows of a partition come back.

#' Are the groups stable under resampling?
#'
#' Fits the method again, to bootstrap samples of the rows and from other seeds, labels all rows by each fit, and looks
#' for every group of the partition in it: the largest share of rows in common, those in both out of those in either
#' (Hennig 2007). A row stays when it falls into that most similar group.
#'
#' Groups with a mean overlap of 0.95 or more are called stable, those below 0.75 unstable. On simulated tables with
#' known groups, cut by k-means at counts around the known one, 9 in 10 stable groups were groups of the table, nearly
#' half of those between, and 1 in 15 unstable ones (`bench/defaults.R` in the sources). A stable group need not be
#' real: a table without groups can be cut at the same place every time, see [fl_structure()].
#'
#' Methods that go by density (dbscan, hdbscan) are fitted to samples of eight in ten rows, each drawn once: a row drawn
#' twice would make its place dense.
#'
#' A mixture that chose its model (structure and tails) chooses anew in every sample, as it would in another table: with
#' the model held, groups that overlap or differ in size would look more stable than they are. That takes longer, so
#' there are fewer samples by default: 8, and up to 20 as long as a group's mean is within two standard errors of a
#' limit.
#'
#' Where the method gives probabilities, rows that were not drawn are asked as well: how sure a fit that had not seen
#' them was of their group, and how often that is the group they have here (`said`). Probabilities hold if the model
#' does; where rows of a component are skewed or have other tails than it says (the test of [fl_vote()]), the print-out
#' tells it.
#'
#' Above 2,000 rows the samples are drawn from an even sample of that many, and only those rows are judged.
#'
#' @param partition From [fl_partition()] or [fl_take()].
#' @param samples How many bootstrap samples; left out, 50, or 8 to 20 where each chooses its model.
#' @param reseeds How many fits of all rows from other seeds; left out, 20, or 5 where each chooses its model.
#' @param seed Whole number; see [fl_partition()].
#' @return An object of class `fl_reliability`: `groups` (`group`, `rows`, `returns` under resampling, `reseeded` the
#'   same from other seeds, `stays` the mean over its rows), `rows` (`row`, `id`, `group`, `stays`: the share of samples
#'   in which it stays, `NA` for rows that were not judged), `said` (where the method gives probabilities: `least` and
#'   `below`, of the probability a fit gave to rows it had not seen, their number `rows`, its mean `probability`, and
#'   the share `same` of them that have the same group here), `samples`, `reseeds`. `as.data.frame()` gives `groups`.
#' @section Errors: `fjordline_error_method` for a method that cannot be fitted to a part of the rows, or where fewer
#'   than half of the samples could be fitted; `fjordline_error_model` for a partition loaded from a file.
#' @section Progress: a bar after two seconds in an interactive session; else progress is signalled through the
#'   progressr package.
#' @references Hennig, C. (2007). Cluster-wise assessment of cluster stability. \doi{10.1016/j.csda.2006.11.025}
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_reliability(fl_partition(ready, fl_method("kmeans", restarts = 5), k = 5), samples = 20, reseeds = 5)
#' @export
fl_reliability <- function(partition, samples = NULL, reseeds = NULL, seed = 1) {
  check_made_by(partition, "fl_partition", "partition")
  need_rows(partition)
  need_groups(partition)
  anew <- chose_model(partition)
  asked <- list(samples = samples, reseeds = reseeds)
  samples <- samples %||% if (anew) 20L else 50L
  reseeds <- reseeds %||% if (anew) 5L else 20L
  check_whole(samples, "samples", least = 2)
  check_whole(reseeds, "reseeds", least = 2)
  check_seed(seed)
  ready <- partition$ready
  if (partition$method$key == adopted_key || speaks_of_rows(partition$method)) {
    adopted <- partition$method$key == adopted_key
    fl_abort("method", if (adopted) "Labels made elsewhere cannot be made again from a part of the rows."
             else paste0(partition$method$label, " with these settings cannot be fitted to a part of the rows."),
             found = if (!adopted) "Row weights, starts and given dissimilarities speak of single rows.")
  }
  method <- bind_method(partition$method, ready)
  if (anew) method$settings <- method$contending(method$settings, partition$model, nrow(ready$x))
  again <- again_by(if (anew) method else as_settled(method, partition$model), about_columns(ready))
  judged <- sampled_rows(nrow(ready$x), resample_most_rows, seed)
  x <- ready$x[judged, , drop = FALSE]
  group <- partition$group[ready$rows][judged]
  again$by_samples <- function(...) NULL  # one by one, so that progress shows
  if (gives_probabilities(method)) again$label <- function(fit, x) labels_with_probability(method, fit, x)
  at_once <- if (anew && is.null(asked$samples)) c(few_samples, seq(few_samples + 4L, samples, 4L)) else samples
  refits <- with_bar(fit_again(partition, x, group, again, at_once, reseeds, seed))
  drawn <- refits$drawn
  samples <- length(drawn)
  said <- said_unseen(drawn, group, seed)
  drawn <- Filter(Negate(is.null), drawn)
  # The few samples that have rows enough for so many groups would make them look firm.
  if (2L * length(drawn) < samples) {
    fl_abort("method", paste0("With ", counted(partition$k, "group"), ", too few bootstrap samples could be fitted."),
             found = paste0(length(drawn), " of ", samples, ": the others had fewer different rows than groups."),
             advice = "Ask for fewer groups.")
  }
  stays <- rowMeans(vapply(drawn, function(labels) best_matches(group, labels)$stays, logical(length(group))))
  by_group <- mean_returns(group, drawn)[c("group", "returns", "stays")]
  by_group$reseeded <- mean_returns(group, refits$other)$returns
  by_group$rows <- partition$groups$rows
  rows <- tibble::tibble(row = seq_along(partition$group), id = row_ids(ready$data) %||% NA, group = partition$group,
                         stays = NA_real_)
  rows$stays[ready$rows[judged]] <- ifelse(group > 0L, stays, NA_real_)
  structure(list(partition = partition, groups = by_group[c("group", "rows", "returns", "reseeded", "stays")],
                 rows = rows, said = said, misfit = if (!is.null(said)) partition_misfit(partition, x, group, seed),
                 samples = length(drawn), reseeds = reseeds, judged = length(judged), anew = anew,
                 call = code_call("fl_reliability", verbatim("groups"), samples = asked$samples,
                                  reseeds = asked$reseeds, seed = seed)),
            class = "fl_reliability")
}

# Labels by fits to bootstrap samples, as many as `at_once` says in turn; where every sample is dear they end once no
# group's word can be expected to change. Then labels from other seeds.
fit_again <- function(partition, x, group, again, at_once, reseeds, seed) {
  step <- progressr::progressor(steps = max(at_once) + reseeds)
  again$fit <- step_each_call(again$fit, step)  # one count only: as many restarts as the method has
  drawn <- list()
  for (most in at_once) {
    if (length(drawn) > 0L && returns_decided(group, drawn)) break
    more <- bootstrap_labels(x, partition$k, again, seed, most, partition$method$guards, after = length(drawn))
    drawn <- c(drawn, more)
  }
  other <- lapply(seq_len(reseeds), function(r) again$fit(x, partition$k, derived_seed(seed, 17, r))$group)
  list(drawn = drawn, other = other)
}

few_samples <- 8L

# Every group's mean overlap is two standard errors or more from the limits that decide its word.
returns_decided <- function(group, drawn) {
  share <- vapply(Filter(Negate(is.null), drawn), function(labels) best_matches(group, as.integer(labels))$share,
                  double(max(group)))
  share <- matrix(share, max(group))
  if (ncol(share) < few_samples) {
    return(FALSE)
  }
  middle <- rowMeans(share)
  error <- sqrt(rowSums((share - middle)^2) / (ncol(share) - 1) / ncol(share))
  all(abs(middle - stable_from) >= 2 * error & abs(middle - unstable_below) >= 2 * error)
}

# --- probabilities of rows that a fit had not seen

# Memberships are probabilities where they come from a density.
gives_probabilities <- function(method) is.function(method$membership) && is.function(method$density)

labels_with_probability <- function(method, fit, x) {
  structure(assign_rows(method, fit, x)$group, probability = row_most(method$membership(fit, x)))
}

said_from <- c(0, 0.8, 0.95, 0.99)

# By what was said: how often rows that were not drawn have the group here that the fit gave them.
said_unseen <- function(drawn, group, seed) {
  each <- lapply(seq_along(drawn), function(b) {
    probability <- attr(drawn[[b]], "probability")
    unseen <- setdiff(which(group > 0L), sample_of_rows(length(group), FALSE, derived_seed(seed, 11, b)))
    if (!is.null(probability)) data.frame(probability = probability[unseen],
                                          same = best_matches(group, as.integer(drawn[[b]]))$stays[unseen])
  })
  each <- vctrs::vec_rbind(!!!each)
  if (nrow(each) == 0L) {
    return(NULL)
  }
  class <- findInterval(each$probability, said_from)
  mean_of <- function(values) vapply(seq_along(said_from), function(c) mean(values[class == c]), 0)
  tibble::tibble(least = said_from, below = c(said_from[-1L], 1), rows = tabulate(class, length(said_from)),
                 probability = mean_of(each$probability), same = mean_of(each$same))
}

# How far the rows of the components are from what they say, see core-adequacy.R; of a mixture that is not merged.
partition_misfit <- function(partition, x, group, seed) {
  if (!is.null(partition$model$tails) && is.null(partition$model$parts) && is.null(partition$model$category)) {
    if (!is.null(partition$model$axes)) x <- on_axes(x, partition$model$axes)
    component_adequacy(x, group, partition$model$tails == "heavy", seed = seed)
  }
}

said_fact <- function(x) {
  said <- x$said
  last <- utils::tail(said, 1L)
  if (is.null(said) || last$rows < 50L) {
    return(NULL)
  }
  paste0("Of the rows that a resample left out and placed with a probability of 99% or more, ", percent(last$same),
         " are in the same group here", if (last$same < last$probability - 0.05) {
           ": the memberships of this mixture are overconfident"
         }, ".")
}

# Skewness, kurtosis and peak that a component does not allow.
misfit_fact <- function(x) {
  off <- x$misfit
  if (is.null(off) || anyNA(off)) {
    return(NULL)
  }
  far <- c(`more skewed` = off[["skewness"]] >= misfit_most[["skewness"]],
           `of other tails` = off[["kurtosis"]] >= misfit_most[["kurtosis"]] ||
             abs(off[["peak"]]) >= misfit_most[["peak"]])
  if (any(far)) {
    paste0("The rows of its components are ", listed(names(far)[far]), " than the model says: its probabilities hold ",
           "for the model only.")
  }
}

step_each_call <- function(work, step) {
  force(work)
  function(...) {
    step()
    work(...)
  }
}

#' @export
as.data.frame.fl_reliability <- function(x, ...) x$groups

#' @export
fl_facts.fl_reliability <- function(x) {
  if (nrow(x$groups) < 2L) {
    return("There is only one group, so resampling shows nothing.")
  }
  bad <- x$groups[x$groups$returns < unstable_below, ]
  middling <- x$groups[x$groups$returns >= unstable_below & x$groups$returns < stable_from, ]
  named <- function(groups) capital(groups_said(x$partition, groups$group))
  loose <- which(x$rows$stays < 0.5)
  c(
    if (nrow(bad) > 0L) {
      paste0(named(bad), if (nrow(bad) == 1L) " is unstable: its" else " are unstable: their",
             " mean Jaccard overlap under resampling is below ", unstable_below, ".")
    } else if (nrow(middling) > 0L) {
      paste0(named(middling), if (nrow(middling) == 1L) " is" else " are", " only partly stable under resampling; no ",
             "group is unstable.")
    } else {
      paste0("All groups are stable under resampling: their mean Jaccard overlap is ", stable_from, " or more.")
    },
    if (nrow(bad) > 0L && nrow(middling) > 0L) {
      paste0(named(middling), if (nrow(middling) == 1L) " is" else " are", " only partly stable.")
    },
    paste0(if (length(loose) == 0L) "None" else thousands(length(loose)), " of ",
           counted(sum(!is.na(x$rows$stays)), "row"), if (length(loose) < 2L) " changes" else " change",
           " group in more than half of the samples",
           if (length(loose) > 0L) paste0(": ", listed(shown_rows(x, loose), most = 6L)), "."),
    if (x$judged < sum(!is.na(x$partition$group))) paste0("Judged on an even sample of ", counted(x$judged, "row"),
                                                          "."),
    said_fact(x), misfit_fact(x),
    paste0(x$samples, " ", sample_words(x), if (x$anew) ", each choosing its own model", ", ", x$reseeds,
           " other seeds. Stable groups need not be real.")
  )
}

sample_words <- function(x) {
  if (x$partition$method$guards) "samples of eight in ten rows" else "bootstrap samples"
}

# Rows by their id where the table has one, the loosest first.
shown_rows <- function(x, rows) {
  rows <- rows[order(x$rows$stays[rows], rows)]
  if (all(is.na(x$rows$id))) paste("row", rows) else as.character(x$rows$id[rows])
}
