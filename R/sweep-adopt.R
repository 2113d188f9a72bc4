# Labels made elsewhere, as a partition.

#' Take over labels made elsewhere
#'
#' Groups made by another program, by hand or by an expert, or the known classes themselves, become a partition: it is
#' scored, compared, profiled, drawn and reported like any other. Rows are never moved: the labels stay as they are.
#'
#' @param ready From [fl_prepare()]: the columns the groups are read and judged on. Or new rows placed by [fl_place()],
#'   which need no `labels`: they become a partition of their own table, with the numbers and names of the groups they
#'   were placed into, so that next month's rows can be profiled and reported without the old table.
#' @param labels A label for every row of the table, in its order (text, a factor or numbers; `NA` for none), or the
#'   name of a column that holds them.
#' @param noise The label that means "in no group", where there is one.
#' @param name What to call the result; by default where the labels came from.
#' @return A partition, as from [fl_partition()]. Groups are numbered by decreasing size as everywhere; labels that
#'   are text become the names of the groups ([fl_name()]), and so do numbers that do not run in that order. New rows
#'   go to the nearest mean, which need not be where the maker of the labels would put them. What needs to fit again
#'   (reliability, tests against heaps) is left out.
#' @section Errors: `fjordline_error_argument` when there is not one label a row, or no row with both a label and
#'   prepared values; `_column` for a misspelt column.
#' @seealso [fl_agree()], [fl_contrast()].
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' stations <- fl_adopt(ready, "station")
#' stations
#' fl_score(stations)
#' # next month's rows in this month's groups
#' groups <- fl_partition(ready, k = 5)
#' fl_adopt(fl_place(groups, head(as.data.frame(fl_demo("water_samples")), 100)))
#' @export
fl_adopt <- function(ready, labels = NULL, noise = NULL, name = NULL) {
  if (inherits(ready, "fl_place")) {
    if (!is.null(labels) || !is.null(noise)) {
      fl_abort("argument", "Placed rows have their labels: `labels` and `noise` are for preparations.")
    }
    return(placed_partition(ready, name))
  }
  check_made_by(ready, "fl_prepare", "ready")
  if (is.null(ready$x)) fl_abort("model", "This preparation was loaded from a file, which keeps no rows.")
  given <- adopted_labels(ready, labels)
  if (!is.null(noise)) noise <- check_noise(noise, given$label)
  ready <- labelled_rows(ready, given$label)
  label <- given$label[ready$rows]
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
  call <- code_call("fl_adopt", verbatim("ready"), if (rlang::is_string(labels)) labels else verbatim("labels"),
                    noise = noise, name = name)
  out <- new_partition(ready, adopted_method(given$said), 1, fit, name %||% given$said, call)
  if (rlang::is_string(labels)) out$labelled_by <- labels
  called <- levels[order]
  if (!identical(called, as.character(seq_along(called)))) out$names <- check_names(tidy_names(called))
  out
}

adopted_labels <- function(ready, labels) {
  table <- ready$data$table
  said <- "the labels given"
  if (rlang::is_string(labels) && nrow(table) != 1L) {
    check_column(labels, names(table), "labels", ready$data$name)
    said <- paste("the column", labels)
    labels <- table[[labels]]
  }
  if (!is.atomic(labels) || is.null(labels) || length(labels) != nrow(table)) {
    fl_abort("argument", paste0("`labels` must hold one label for each of the ", counted(nrow(table), "row"),
                                " of the table, or name a column."),
             found = paste0("It is ", shape_of(labels), "."),
             advice = "Rows without a label are NA.")
  }
  list(label = tidy_names(as.character(labels)), said = said)
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

# Stands where a method stands, and cannot be run.
adopted_key <- "adopted"

adopted_method <- function(label = "the labels given") {
  declare_method(
    adopted_key, label = label, shape = "nothing", needs = "labels", cost = "nothing", minimises = "W",
    source = "whoever made the labels", free_count = TRUE, centre = "mean",
    fit = function(x, k, settings, seed) {
      fl_abort("method", "Labels made elsewhere cannot be made again from other rows.")
    }
  )
}
