# Tables handed on as files.

#' Write a result as a table
#'
#' A partition becomes the original table, every row in its order, with a column `group` added: empty where a row
#' could not be clustered, 0 for noise. Where the table already has a column `group`, the new one is called
#' `fjordline_group`. A sweep, vote, agreement, check or score becomes the table of its `as.data.frame()`.
#'
#' The file is written whole or not at all.
#'
#' @param x The object.
#' @param file Path ending in `.csv` or `.tsv`.
#' @return `file`, invisibly.
#' @section Errors: `fjordline_error_file` for another ending, a folder that does not exist or cannot be written;
#'   `_model` for a partition loaded from a file, which has no table.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' file <- tempfile(fileext = ".csv")
#' fl_export(groups, file)
#' readLines(file, n = 2)
#' @export
fl_export <- function(x, file) {
  check_text(file, "file")
  file_form(file, c("csv", "tsv"))
  export_table(if (inherits(x, "fl_partition")) augment.fl_partition(x) else exported_table(x), file)
}

exported_table <- function(x) {
  if (!any(startsWith(class(x), "fl_"))) {
    fl_abort("argument", "`x` must be a result of this package.", found = paste0("It is ", shape_of(x), "."))
  }
  as.data.frame(x)
}

export_table <- function(table, file) {
  force(table)
  separator <- if (file_form(file, c("csv", "tsv")) == "tsv") "\t" else ","
  write_whole(file, function(draft) {
    data.table::fwrite(table, draft, sep = separator, na = "", quote = "auto", dateTimeAs = "write.csv")
  })
}
