# print() writes what format() says.

print_now <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

# A table-like result some of whose columns are gone prints as the table that is left.
print_table_now <- function(x, ...) {
  if (!still_prints(x)) {
    print(as_plain(x), ...)
    return(invisible(x))
  }
  print_now(x)
}

#' @export
print.fl_agree <- print_now

#' @export
print.fl_check <- print_table_now

#' @export
print.fl_contrast <- print_now

#' @export
print.fl_data <- print_now

#' @export
print.fl_index <- print_now

#' @export
print.fl_lineage <- print_now

#' @export
print.fl_method <- print_now

#' @export
print.fl_mismatches <- print_now

#' @export
print.fl_outcome <- print_now

#' @export
print.fl_outliers <- print_now

#' @export
print.fl_partition <- print_now

#' @export
print.fl_paths <- print_now

#' @export
print.fl_place <- print_now

#' @export
print.fl_prepare <- print_now

#' @export
print.fl_profile <- print_now

#' @export
print.fl_reliability <- print_now

#' @export
print.fl_score <- print_table_now

#' @export
print.fl_sift <- print_table_now

#' @export
print.fl_structure <- print_now

#' @export
print.fl_sweep <- print_now

#' @export
print.fl_vote <- print_now

#' @export
print.fl_choices <- print_now

#' @export
print.fl_weights <- print_now

#' @export
print.fl_advice <- print_now

#' @export
print.fl_study <- print_now

#' @export
print.fl_run <- print_now

#' @export
print.fl_standings <- print_now

#' @export
print.fl_track_record <- print_now

#' @export
print.fl_methods <- print_table_now
