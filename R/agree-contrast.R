# Two partitions of the same rows.

#' Two partitions side by side
#'
#' Whatever made them differ (other columns, another count, method, preparation, outliers in or out): how far they
#' agree, which groups stay the same, join or split, which rows move, and which of the two is better by indices that
#' are computed for both on the same rows in the same space.
#'
#' @section Comparable values: Index values of different preparations, or of different rows, say nothing about each
#'   other. Here both partitions are judged on the rows that have a group in both, by Euclidean distances in one
#'   preparation: that of `space`, or else that of `a` and, where it differs, that of `b` as well. Each partition has an
#'   advantage in the space it was made in; only a partition that is better in both is called better.
#' @section Fates: A group stays the *same* when at least 0.9 of its rows lie in one group of `b` and make up at least
#'   0.9 of it; with the first only it *joins* others; else it *splits*, into the groups that hold at least 0.1 of it.
#' @param a,b Partitions of the same table ([fl_partition()], [fl_take()], [fl_adopt()]; also loaded ones, which have
#'   no space of their own).
#' @param space A preparation ([fl_prepare()]) of the table to judge both in.
#' @param indices Keys of the indices to judge by; left out, silhouette, Davies-Bouldin and Calinski-Harabasz.
#' @param reliability `TRUE` also tells which groups are stable under resampling ([fl_reliability()]), for partitions
#'   that can be fitted again.
#' @param seed Whole number for the resampling.
#' @return An object of class `fl_contrast`: `agreement` ([fl_agree()] of the two), `flows` (`from`, `to`, `rows`, and
#'   the shares of both groups), `fates` (`group`, `fate`, `into`, the shares, and `shared`: rows in both out of rows in
#'   either), `moved` (`row`, `id`, `from`, `to`: rows off the one-to-one matching), `judged` (`space`, `index`, `a`,
#'   `b`, `better`), `returns` (`side`, `group`, `rows`, `returns`). `as.data.frame()` gives `flows`.
#' @section Errors: `fjordline_error_argument` for partitions of different tables, `fjordline_error_index` for a
#'   misspelt key.
#' @references Hubert, L. and Arabie, P. (1985). Comparing partitions. \doi{10.1007/BF01908075}
#' @seealso [fl_lineage()] over many counts.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' plain <- fl_partition(ready, k = 5)
#' fl_contrast(plain, fl_partition(ready, k = 6))
#' without <- fl_prepare(fl_demo("water_samples"), use = c("temperature", "salinity", "oxygen"))
#' fl_contrast(plain, fl_partition(without, k = 5))
#' @export
fl_contrast <- function(a, b, space = NULL, indices = NULL, reliability = FALSE, seed = 1) {
  check_made_by(a, "fl_partition", "a")
  check_made_by(b, "fl_partition", "b")
  check_flag(reliability, "reliability")
  check_seed(seed)
  check_same_rows(a, b)
  agreement <- fl_agree(a, b)
  flows <- row_flows(a$group, b$group)
  structure(
    list(a = a, b = b, said = sides_said(a, b), agreement = agreement, flows = flows, fates = group_fates(flows),
         moved = moved_rows(agreement, a, b), judged = judged_together(a, b, contrast_spaces(a, b, space),
                                                                 indices %||% comparing_indices()),
         returns = if (reliability) both_returns(a, b, seed), seed = seed,
         call = code_call("fl_contrast", verbatim("groups"), verbatim("others"),
                          space = if (!is.null(space)) verbatim("space"),
                          indices = indices,
                          reliability = if (reliability) TRUE, seed = if (reliability) seed)),
    class = "fl_contrast"
  )
}

check_same_rows <- function(a, b) {
  same <- length(a$group) == length(b$group) && (is.null(a$id) || is.null(b$id) || identical(a$id, b$id))
  if (!same) {
    fl_abort("argument", "`a` and `b` must be partitions of the same table.",
             found = if (length(a$group) != length(b$group)) {
               paste0("a has ", counted(length(a$group), "row"), ", b has ", thousands(length(b$group)), ".")
             } else "Their identifiers differ.",
             advice = "predict() puts the rows of another table into groups.")
  }
}

# What sentences call the two sides: the names given to them, or what tells them apart.
sides_said <- function(a, b) {
  said <- vapply(list(a, b), partition_said, "")
  if (said[1L] == said[2L]) said <- paste0(said, " on ", quoted(c(a$ready$name, b$ready$name)))
  if (said[1L] == said[2L]) c("the first", "the second") else said
}

partition_said <- function(x) {
  if (x$name != default_partition_name(x$method, x$k)) x$name
  else paste(counted(x$k, "group"), "by", method_said(x$method))
}

moved_rows <- function(agreement, a, b) {
  rows <- agreement$disagree
  ids <- a$id %||% b$id
  tibble::tibble(row = rows, id = if (is.null(ids)) NA_character_ else as.character(ids[rows]), from = a$group[rows],
                 to = b$group[rows])
}

# The spaces to judge in, by name.
contrast_spaces <- function(a, b, space) {
  if (!is.null(space)) {
    check_made_by(space, "fl_prepare", "space")
    return(stats::setNames(list(space), space$name))
  }
  spaces <- Filter(function(ready) !is.null(ready$x), list(a$ready, b$ready))
  if (length(spaces) == 2L && identical(spaces[[1L]]$x, spaces[[2L]]$x)) spaces <- spaces[1L]
  stats::setNames(spaces, make.unique(vapply(spaces, `[[`, "", "name"), sep = " "))
}

judged_together <- function(a, b, spaces, indices) {
  keys <- names(as_indices(indices))
  common <- !is.na(a$group) & !is.na(b$group)
  scores <- lapply(names(spaces), function(name) {
    score <- function(partition) {
      partition$group[!common] <- NA
      if (all(partition$group %in% c(0L, NA))) {
        return(rep(NA_real_, length(keys)))
      }
      scored <- fl_score(partition, keys, spaces[[name]])
      scored$value[match(keys, scored$index)]
    }
    tibble::tibble(space = name, index = keys, a = score(a), b = score(b))
  })
  out <- vctrs::vec_rbind(!!!scores)
  if (NROW(out) == 0L) {
    return(tibble::tibble(space = character(), index = character(), a = double(), b = double(), better = character()))
  }
  higher <- vapply(as_indices(indices)[out$index], function(i) i$direction == "higher", NA)
  gain <- ifelse(higher, out$b - out$a, out$a - out$b)
  out$better <- ifelse(is.na(gain), NA, ifelse(abs(gain) <= 1e-9 * abs(out$a), "neither", ifelse(gain > 0, "b", "a")))
  out
}

both_returns <- function(a, b, seed) {
  sides <- list(a = a, b = b)
  found <- lapply(names(sides), function(side) {
    one <- tryCatch(fl_reliability(sides[[side]], seed = seed), fjordline_error_method = function(e) NULL,
                    fjordline_error_model = function(e) NULL)
    if (!is.null(one)) tibble::tibble(side = side, one$groups[c("group", "rows", "returns")])
  })
  vctrs::vec_rbind(!!!found)
}

#' @export
as.data.frame.fl_contrast <- function(x, ...) x$flows

# --- sentences

#' @export
fl_facts.fl_contrast <- function(x) {
  agreement <- x$agreement
  moved <- nrow(x$moved)
  c(
    paste0(capital(x$said[1L]), " and ", x$said[2L], " agree ",
           agreement_word(agreement), ": adjusted Rand ",
           with_interval(agreement, "adjusted_rand"), "; ", thousands(moved), " of ", counted(agreement$rows, "row"),
           " (", percent(moved / agreement$rows), ") ", if (moved == 1L) "is" else "are", " not in matching groups."),
    fate_facts(x$fates, x$flows, x$a, x$b),
    only_one_fact(x), judged_facts(x), returns_facts(x)
  )
}

# Groups that stay, that join, and that split.
fate_facts <- function(fates, flows, a, b) {
  fates <- fates[fates$group > 0L, ]
  same <- fates[fates$fate == "same", ]
  joins <- fates[fates$fate == "joins", ]
  splits <- fates[fates$fate == "splits", ]
  c(
    if (nrow(same) > 0L) {
      paste0(capital(groups_said(a, same$group)), if (nrow(same) == 1L) " stays" else " stay", " the same",
             if (!identical(same$group, same$into) || has_names(b)) {
               paste0(" (there ", groups_said(b, same$into), if (nrow(same) > 1L) ", in this order", ")")
             }, ".")
    },
    vapply(unique(joins$into), function(into) joins_fact(joins$group[joins$into == into], into, flows, a, b), ""),
    vapply(splits$group, function(g) splits_fact(flows[flows$from == g, ], a, b), "")
  )
}

joins_fact <- function(groups, into, flows, a, b) {
  beside <- flows$from[flows$to == into & !flows$from %in% groups & flows$of_to >= part_share]
  paste0(capital(groups_said(a, groups)), if (length(groups) == 1L) " goes into " else " join in ",
         group_said(b, into),
         if (length(beside) > 0L) paste(", with parts of", groups_said(a, beside)), ".")
}

splits_fact <- function(parts, a, b) {
  told <- parts[parts$of_from >= part_share, ]
  if (nrow(told) == 0L) told <- parts[1L, ]
  paste0(capital(group_said(a, parts$from[1L])), " splits into ",
         listed(paste0(group_said(b, told$to), " (", vapply(told$rows, counted, "", thing = "row"), ", ",
                       percent(told$of_from), ")")),
         if (nrow(told) < nrow(parts)) paste0("; the rest, ", counted(sum(parts$rows) - sum(told$rows), "row"),
                                              ", elsewhere"), ".")
}

only_one_fact <- function(x) {
  only_a <- sum(!is.na(x$a$group) & is.na(x$b$group))
  only_b <- sum(is.na(x$a$group) & !is.na(x$b$group))
  only <- c(only_a, only_b)
  if (sum(only) > 0L) {
    said <- paste0(vapply(only, counted, "", thing = "row"), ifelse(only == 1L, " has", " have"), " a group in ",
                   x$said, " only")[only > 0L]
    paste0(listed(said), ": left out of every comparison.")
  }
}

judged_facts <- function(x) {
  judged <- x$judged[!is.na(x$judged$better), ]
  if (nrow(judged) == 0L) {
    return("Neither could be judged by indices.")
  }
  spaces <- unique(judged$space)
  values <- vapply(spaces, function(space) {
    mine <- judged[judged$space == space, ]
    paste0("In the space of ", quoted(space), " on the common rows: ",
           listed(paste0(mine$index, " ", digits3(mine$a), " and ", digits3(mine$b),
                         c(a = " (first better)", b = " (second better)", neither = "")[mine$better])), ".")
  }, "", USE.NAMES = FALSE)
  c(values, verdict_fact(judged, x$said, length(spaces)))
}

# Better means better by every index in every space looked at.
verdict_fact <- function(judged, said, spaces) {
  best <- setdiff(unique(judged$better), "neither")
  where <- if (spaces > 1L) "in both spaces" else "there"
  if (length(best) == 0L) {
    return(paste0("The two are equally good ", where, "."))
  }
  if (length(best) == 1L) {
    return(paste0("Better ", where, ", by all of these indices", if (any(judged$better == "neither")) {
      " that tell them apart"
    }, ": ", said[match(best, c("a", "b"))], "."))
  }
  own <- tapply(judged$better, judged$space, function(better) length(setdiff(unique(better), "neither")))
  if (spaces > 1L && all(own <= 1L)) "Each is better in one of the spaces only: indices cannot decide between them."
  else "The indices do not agree on which is better."
}

returns_facts <- function(x) {
  if (NROW(x$returns) == 0L) {
    return(NULL)
  }
  mean_of <- function(side) {
    mine <- x$returns[x$returns$side == side, ]
    if (nrow(mine) > 0L) paste0(x$said[match(side, c("a", "b"))], " ", fixed2(stats::weighted.mean(mine$returns,
                                                                                                   mine$rows)))
  }
  paste0("Mean Jaccard overlap of the groups under resampling, over all rows: ",
         listed(c(mean_of("a"), mean_of("b"))), ".")
}
