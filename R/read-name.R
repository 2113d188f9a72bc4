# Names for groups.

#' Give the groups names
#'
#' From then on every table, sentence, figure, report and export calls the groups by name. Nothing else changes: the
#' numbers, the rows and the fit stay as they are, and nothing is named unless you ask for it.
#'
#' @param partition From [fl_partition()], [fl_take()], [fl_adopt()] or [fl_load()].
#' @param names What to call the groups:
#'   * left out: names suggested from what stands out ("high salinity, low oxygen"), by the rule of [fl_profile()];
#'   * text, one per group in their order, or named by group: `c("3" = "basin water")` leaves the others as they are.
#'     `NA` or `""` takes a name away;
#'   * an agreement ([fl_agree()]) of this partition: each group is called as the class matched to it;
#'   * another partition with names: each group is called as the group there that holds most of its rows, also where
#'     that one was split (its parts are numbered) and also for next month's table, whose rows are then placed into
#'     the other partition's groups first. A group of which no other holds more than half keeps its number.
#' @return The partition, with the names. `as.data.frame()` has them in `name`, `augment()` and [fl_export()] in
#'   `group_name`; [fl_save()] keeps them.
#' @section Errors: `fjordline_error_argument` for a wrong number of names, two groups of the same name, a group that
#'   does not exist, an agreement of another partition.
#' @seealso [fl_profile()] for what stands out.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' fl_name(groups)
#' groups <- fl_name(groups, c("3" = "deep basin", "5" = "melt water"))
#' fl_name(groups, fl_agree(groups))
#' @export
fl_name <- function(partition, names = NULL) {
  check_made_by(partition, "fl_partition", "partition")
  given <- if (is.null(names)) suggested_names(partition)
  else if (inherits(names, "fl_agree")) class_names(partition, names)
  else if (inherits(names, "fl_partition")) inherited_names(partition, names)
  else written_names(partition, names)
  partition$names <- if (!all(is.na(given))) check_names(given)
  partition
}

check_names <- function(given) {
  twice <- which(duplicated(given) & !is.na(given))
  if (length(twice) > 0L) {
    same <- which(given == given[twice[1L]])
    fl_abort("argument", "Two groups cannot have the same name.",
             found = paste0("Groups ", listed(same), " would both be called ", quoted(given[twice[1L]]), "."))
  }
  given
}

written_names <- function(partition, names) {
  k <- partition$k
  if (!is.character(names) && !all(is.na(names)) || length(names) == 0L) {
    fl_abort("argument", "`names` must be text, an agreement or a partition.",
             found = paste0("It is ", shape_of(names), "."))
  }
  numbers <- rlang::names2(names)
  clean <- tidy_names(unname(as.character(names)))
  if (all(numbers == "")) {
    if (length(clean) != k) {
      fl_abort("argument", paste0("`names` must hold a name for each of the ", counted(k, "group"), "."),
               found = paste0("It holds ", length(clean), "."),
               advice = "To name only some groups, use their numbers: c(\"3\" = \"basin water\").")
    }
    return(clean)
  }
  unknown <- setdiff(numbers, as.character(seq_len(k)))
  if (length(unknown) > 0L) {
    fl_abort("argument", paste0("There is no group ", quoted(unknown[1L]), "."),
             found = paste0("The groups are 1 to ", k, "."))
  }
  out <- partition$names %||% rep(NA_character_, k)
  out[as.integer(numbers)] <- clean
  out
}

# On one line, without blanks around; an empty name is none.
tidy_names <- function(names) {
  names <- trimws(gsub("[[:space:][:cntrl:]\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]+", " ", names))
  ifelse(!nzchar(names), NA_character_, names)
}

class_names <- function(partition, agreement) {
  if (!identical(agreement$partition$group, partition$group)) {
    fl_abort("argument", "`names` is an agreement of another partition.",
             advice = "fl_agree(groups) makes one of this.")
  }
  class <- agreement$matched$class[match(seq_len(partition$k), agreement$matched$group)]
  numbered_names(tidy_names(class), partition$groups$rows)
}

# Every group takes the name of the old group that holds most of its rows, by more than half of them.
inherited_names <- function(partition, from) {
  if (!has_names(from)) {
    fl_abort("argument", "The partition to take names from has none.", advice = "fl_name() gives it some.")
  }
  old <- labels_elsewhere(from, partition)
  found <- vapply(seq_len(partition$k), function(g) {
    mine <- old[partition$group %in% g & !is.na(old)]
    counts <- tabulate(mine[mine > 0L], from$k)
    if (length(mine) > 0L && max(counts) > length(mine) / 2) which.max(counts) else NA_integer_
  }, 0L)
  numbered_names(from$names[found], partition$groups$rows)
}

# The groups of another partition for the rows of this one: its own labels where both are of the same table, else the
# rows are placed.
labels_elsewhere <- function(from, partition) {
  need_rows(partition)
  if (!is.null(from$ready$data) && identical(from$ready$data$table, partition$ready$data$table)) {
    return(from$group)
  }
  place_rows(from, replay(from$ready, partition$ready$data$table))$group
}

# Parts that share a name are told apart by number, the largest first.
numbered_names <- function(names, rows) {
  for (name in unique(names[duplicated(names) & !is.na(names)])) {
    mine <- which(names %in% name)
    names[mine[order(-rows[mine])]] <- paste(name, seq_along(mine))
  }
  names
}

# --- suggestions

name_words <- c("much higher" = "very high ", higher = "high ", lower = "low ", "much lower" = "very low ",
                "much more often" = "", "more often" = "", "less often" = "rarely ", "much less often" = "hardly ")

suggested_names <- function(partition) {
  need_rows(partition)
  features <- Filter(function(one) one$role == "feature", described_columns(partition$ready))
  group <- partition$group[partition$ready$rows]
  columns <- vctrs::vec_rbind(!!!lapply(features, describe_column, group = group, k = partition$k))
  words <- lapply(seq_len(partition$k), function(g) standout_names(columns[columns$group %in% g, ]))
  numbered_names(shortest_apart(words), partition$groups$rows)
}

standout_names <- function(mine) {
  mine <- mine[nzchar(mine$standout), ]
  mine <- mine[order(-abs(mine$difference)), ]
  mine <- mine[!duplicated(mine$column), ]
  paste0(name_words[mine$standout], ifelse(is.na(mine$level) | mine$level %in% "TRUE", mine$column,
                                           paste(mine$column, mine$level)))
}

# Two words a group; more, up to four, where two groups would be called the same.
shortest_apart <- function(words) {
  said <- function(i, most) {
    if (length(words[[i]]) == 0L) "near the average" else paste(utils::head(words[[i]], most), collapse = ", ")
  }
  names <- vapply(seq_along(words), said, "", most = 2L)
  for (most in 3:4) {
    again <- names %in% names[duplicated(names)]
    names[again] <- vapply(which(again), said, "", most = most)
  }
  names
}
