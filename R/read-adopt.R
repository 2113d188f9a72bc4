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
#'   (reliability, tests against a single cluster) is left out.
#' @section Errors: `fjordline_error_argument` when there is not one label per row, or no row with both a label and
#'   prepared values; `fjordline_error_column` for a misspelt column.
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
  need_prepared_rows(ready)
  given <- adopted_labels(ready, labels)
  if (!is.null(noise)) noise <- check_noise(noise, given$label)
  call <- code_call("fl_adopt", verbatim("ready"), if (rlang::is_string(labels)) labels else verbatim("labels"),
                    noise = noise, name = name)
  made <- partition_by_labels(ready, given$label, noise, given$said, name, call)
  out <- made$partition
  if (rlang::is_string(labels)) out$labelled_by <- labels
  if (!identical(made$called, as.character(seq_along(made$called)))) out$names <- check_names(tidy_names(made$called))
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
