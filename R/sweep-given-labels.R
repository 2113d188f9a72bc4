# A partition by labels that are there already, instead of by a method.

# `label`: one a row of the table, NA for none. `called`: the label of each group of the partition.
partition_by_labels <- function(ready, label, noise, said, name, call = NULL) {
  ready <- labelled_rows(ready, label)
  label <- label[ready$rows]
  levels <- levels(in_order(setdiff(label, noise)))
  if (length(levels) == 0L) {
    fl_abort("argument", "Every label means noise: there is no group.")
  }
  codes <- match(label, levels, nomatch = 0L)
  x <- ready$x
  centres <- group_means(x, codes, length(levels))
  order <- group_order(codes, centres)
  group <- renumber(codes, order)
  scatter <- group_scatter(x, group, length(levels))
  fit <- list(group = group, k = length(levels), centres = centres[order, , drop = FALSE], scatter = scatter,
              objective = sum(scatter), minimises = "W", converged = NA, rounds = NA_integer_, seconds = NA_real_)
  list(partition = partition_of_fit(ready, adopted_method(said), 1, fit, name %||% said, call),
       called = levels[order])
}

# The preparation without the rows that have no label.
labelled_rows <- function(ready, label) {
  kept <- !is.na(label[ready$rows])
  if (!any(kept)) {
    fl_abort("argument", "No row has both a label and prepared values.")
  }
  ready$left <- c(ready$left, unlabelled = sum(!kept))
  ready$x <- ready$x[kept, , drop = FALSE]
  ready$rows <- ready$rows[kept]
  ready
}

need_prepared_rows <- function(ready) {
  if (is.null(ready$x)) fl_abort("model", "This preparation was loaded from a file, which keeps no rows.")
}
