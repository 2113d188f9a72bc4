# How groups split as the count grows.

#' How groups split as the count grows
#'
#' Follows the groups of one method over the counts of a sweep: which group each comes from, which stay whole over many
#' counts, and which fall apart. Groups that stay whole are the ones to rely on; a group that falls apart at one more is
#' the place where the count is arguable. Names given to the groups of one count are carried to all others.
#'
#' @section Rules: The parent of a group is the group one count before that holds most of its rows. A group lives on
#'   where its rows and those of its best successor overlap by at least 0.9 (rows in both out of rows in either).
#'   Names: going to larger counts a single child keeps its parent's name and several are told apart by letters, the
#'   largest first ("basin a", "basin b", then "basin ba"); going to smaller counts a group is called by the groups it
#'   joins ("basin + shelf").
#' @param sweep From [fl_sweep()], or a vote ([fl_vote()], [fl_settle()]).
#' @param k The counts to follow; left out, all of the sweep.
#' @param method,preparation,turn Which fits of the sweep, as in [fl_take()].
#' @param names A partition taken from the sweep and given names ([fl_name()]), whose names are carried.
#' @return An object of class `fl_lineage`: `groups` (`k`, `group`, `name`, `rows`, `share`, `parent`, `from_parent`:
#'   the share of its rows that come from there, `successor`: the group one count on that it shares most with, `shared`:
#'   rows in both out of rows in either, `branch`: number of the run of groups it belongs to), `branches` (`branch`,
#'   `name`, `from`, `to`: counts, `counts`: how many, `rows`), `flows` (`k`, `from`, `to`, `rows`, shares),
#'   `partitions`. `as.data.frame()` gives `groups`.
#' @section Errors: `fjordline_error_argument` for fewer than two counts, a count that the sweep does not hold, a
#'   method that finds the count itself, or `names` of a partition that is not one of its fits.
#' @seealso [fl_contrast()] for any two partitions.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' sweep <- fl_sweep(ready, "kmeans", k = 1:7, indices = "fast")
#' five <- fl_name(fl_take(sweep, k = 5))
#' fl_lineage(sweep, names = five)
#' @export
fl_lineage <- function(sweep, k = NULL, method = NULL, preparation = NULL, turn = 1, names = NULL) {
  if (inherits(sweep, "fl_vote")) {
    method <- method %||% sweep$method
    preparation <- preparation %||% sweep$preparation
    sweep <- sweep$sweep
  }
  check_made_by(sweep, c("fl_sweep", "fl_vote"), "sweep")
  held <- sweep$methods[[method_held(sweep, method %||% names(sweep$methods)[1L])]]
  if (held$free_count) {
    fl_abort("argument", paste0(capital(method_said(held)), " finds the count itself: there are no counts to follow."))
  }
  counts <- lineage_counts(sweep, k)
  partitions <- lapply(counts, function(one) {
    tryCatch(fl_take(sweep, method, one, preparation, turn), fjordline_error_count = function(e) NULL)
  })
  fitted <- !vapply(partitions, is.null, NA)
  if (sum(fitted) < 2L) {
    fl_abort("argument", "A lineage needs fits of two counts or more.")
  }
  partitions <- partitions[fitted]
  flows <- lapply(seq_along(partitions)[-1L], function(i) row_flows(partitions[[i - 1L]]$group, partitions[[i]]$group))
  groups <- lineage_groups(partitions, flows)
  groups$name <- lineage_names(groups, partitions, names)
  structure(
    list(groups = groups, branches = lineage_branches(groups), flows = bind_flows(flows, partitions),
         partitions = partitions, missed = counts[!fitted], named = names,
         call = code_call("fl_lineage", verbatim("sweep"), k = if (!is.null(k)) k, method = method,
                          preparation = preparation, turn = if (turn > 1) turn,
                          names = if (!is.null(names)) verbatim("named"))),
    class = "fl_lineage"
  )
}

lineage_counts <- function(sweep, k) {
  counts <- if (is.null(k)) sweep$k else check_whole(k, "k", many = TRUE)
  unknown <- setdiff(counts, sweep$k)
  if (length(unknown) > 0L) {
    fl_abort("argument", paste0("The sweep holds no fit at k = ", unknown[1L], "."),
             advice = paste0("It holds k = ", listed(sweep$k), "."))
  }
  counts <- sort(unique(as.integer(counts)))
  if (length(counts) < 2L) {
    fl_abort("argument", "A lineage needs two counts or more.", found = paste0("k is ", shape_of(k), "."))
  }
  counts
}

bind_flows <- function(flows, partitions) {
  vctrs::vec_rbind(!!!lapply(seq_along(flows), function(i) {
    tibble::tibble(k = partitions[[i]]$k, next_k = partitions[[i + 1L]]$k, flows[[i]])
  }))
}

lineage_groups <- function(partitions, flows) {
  rows <- lapply(seq_along(partitions), function(i) {
    here <- partitions[[i]]
    g <- seq_len(here$k)
    before <- if (i > 1L) flows[[i - 1L]]
    after <- if (i < length(partitions)) group_fates(flows[[i]])
    parent <- from_parent <- rep(NA_real_, here$k)
    if (!is.null(before)) {
      best <- before[order(-before$rows, before$from), ]
      best <- best[match(g, best$to), ]
      parent <- best$from
      from_parent <- best$of_to
    }
    tibble::tibble(
      k = here$k, group = g, rows = here$groups$rows, share = here$groups$share, parent = as.integer(parent),
      from_parent = from_parent,
      successor = if (is.null(after)) NA_integer_ else after$into[match(g, after$group)],
      shared = if (is.null(after)) NA_real_ else after$shared[match(g, after$group)]
    )
  })
  out <- vctrs::vec_rbind(!!!rows)
  out$branch <- branch_numbers(out)
  out
}

# A branch is a run of groups that live on from count to count.
branch_numbers <- function(groups) {
  branch <- rep(NA_integer_, nrow(groups))
  at <- function(k, group) which(groups$k == k & groups$group == group)
  counts <- unique(groups$k)
  for (i in seq_len(nrow(groups))) {
    if (is.na(branch[i])) branch[i] <- max(0L, branch, na.rm = TRUE) + 1L
    lives <- !is.na(groups$shared[i]) && groups$shared[i] >= whole_share && groups$successor[i] > 0L
    if (lives) branch[at(counts[match(groups$k[i], counts) + 1L], groups$successor[i])] <- branch[i]
  }
  branch
}

# Every run by the name it ends with.
lineage_branches <- function(groups) {
  parts <- split(groups, groups$branch)
  out <- vctrs::vec_rbind(!!!lapply(parts, function(run) {
    tibble::tibble(branch = run$branch[1L], name = run$name[nrow(run)], from = min(run$k), to = max(run$k),
                   counts = nrow(run), rows = run$rows[nrow(run)], group = run$group[nrow(run)])
  }))
  out[order(-out$counts, -out$rows, out$branch), ]
}

# --- names

lineage_names <- function(groups, partitions, from) {
  out <- rep(NA_character_, nrow(groups))
  if (is.null(from)) {
    return(out)
  }
  counts <- unique(groups$k)
  at <- named_count(partitions, from)
  roots <- list(root = group_names(from), letters = rep("", counts[at]))
  out[groups$k == counts[at]] <- roots$root
  for (i in seq_along(counts)[seq_along(counts) > at]) {
    mine <- groups$k == counts[i]
    roots <- child_roots(groups[mine, ], roots)
    out[mine] <- trimws(paste(roots$root, roots$letters))
  }
  for (i in rev(seq_len(at - 1L))) {
    below <- which(groups$k == counts[i + 1L])
    out[groups$k == counts[i]] <- vapply(seq_len(counts[i]), function(g) {
      children <- out[below[groups$parent[below] %in% g]]
      children <- children[!is.na(children)]
      if (length(children) > 0L) paste(children, collapse = " + ") else NA_character_
    }, "")
  }
  out
}

# A single child keeps its parent's name; several get letters, the largest first.
child_roots <- function(children, above) {
  parent <- ifelse(children$parent %in% 0L, NA_integer_, children$parent)
  root <- ifelse(is.na(parent), paste("new", children$group), above$root[parent])
  letters_so_far <- ifelse(is.na(parent), "", above$letters[parent])
  for (one in unique(parent[duplicated(parent) & !is.na(parent)])) {
    ranked <- which(parent %in% one)
    ranked <- ranked[order(-children$rows[ranked])]
    letters_so_far[ranked] <- paste0(letters_so_far[ranked], letters[(seq_along(ranked) - 1L) %% 26L + 1L])
  }
  list(root = root, letters = letters_so_far)
}

named_count <- function(partitions, from) {
  check_made_by(from, "fl_partition", "names")
  if (!has_names(from)) {
    fl_abort("argument", "`names` is a partition without names.", advice = "fl_name() gives it some.")
  }
  same <- vapply(partitions, function(one) identical(one$group, from$group), NA)
  if (!any(same)) {
    fl_abort("argument", "`names` must be one of the fits that are followed.",
             advice = "fl_name(fl_take(sweep, k = ), ...) makes one.")
  }
  which(same)[1L]
}

#' @export
as.data.frame.fl_lineage <- function(x, ...) x$groups

# --- sentences

#' @export
fl_facts.fl_lineage <- function(x) {
  counts <- unique(x$groups$k)
  lasting <- x$branches[x$branches$counts >= 3L & x$branches$from > 1L, ]
  c(
    if (nrow(lasting) == 0L) paste0("No group stays whole over three counts or more, from ", counts[1L], " to ",
                                    counts[length(counts)], ".")
    else paste0(capital(spelt(nrow(lasting))), if (nrow(lasting) == 1L) " group stays" else " groups stay",
                " whole over three counts or more, of counts ", counts[1L], " to ", counts[length(counts)], "."),
    vapply(seq_len(min(nrow(lasting), 8L)), function(i) branch_fact(lasting[i, ]), ""),
    vapply(seq_along(counts)[-1L], function(i) step_fact(x, i), ""),
    if (length(x$missed) > 0L) paste0("Not followed, because the fit had failed: k = ", listed(x$missed), ".")
  )
}

branch_fact <- function(branch) {
  paste0("From ", branch$from, " to ", branch$to, ": ", if (is.na(branch$name)) {
    paste0("group ", branch$group, " of the ", branch$to)
  } else quoted(branch$name), ", ", counted(branch$rows, "row"), ".")
}

# What happens from one count to the next.
step_fact <- function(x, i) {
  before <- x$partitions[[i - 1L]]
  after <- x$partitions[[i]]
  flows <- x$flows[x$flows$k == before$k & x$flows$from > 0L, ]
  fates <- group_fates(flows[c("from", "to", "rows", "of_from", "of_to")])
  changed <- fates$group[fates$fate == "splits"]
  said <- function(partition, g) {
    mine <- x$groups[x$groups$k == partition$k, ]
    ifelse(is.na(mine$name[g]), paste("group", g), quoted(mine$name[g]))
  }
  parts <- vapply(changed, function(g) {
    told <- flows[flows$from == g & flows$of_from >= part_share & flows$to > 0L, ]
    paste0(said(before, g), " into ", listed(paste0(said(after, told$to), " (", vapply(told$rows, thousands, ""), ")")))
  }, "")
  paste0(before$k, " to ", after$k, ": ",
         if (length(parts) == 0L) "no group splits" else paste0("splits ", paste(parts, collapse = "; ")), ".")
}
