# What may go wrong with a table, told before anything is fitted. One function a finding, in data-check-*.R; each gets
# what first_look() saw and returns the rows of the result it wants to add, or nothing.

#' What to look at before clustering
#'
#' Looks for what spoils a clustering without a word. Every finding comes with advice that can be followed as it stands.
#'
#' @section What is looked for:
#' * cells: infinite and too large numbers; numbers and dates stored as text; codes that stand for a missing value
#'   (-999); missing cells by column and the complete rows left; levels that differ in spelling only;
#' * columns: constant or nearly so; running numbers and identifiers; ids that do not name every row; columns that
#'   give the known class away, and codes of classes; long tails, with the transform that helps; values far beyond the
#'   rest; two-valued columns among others; rare levels; spreads that differ so much that one column would decide
#'   everything unscaled;
#' * the table: a lost header line, near-copies of a column, repeated rows, more columns than rows, one row per
#'   measurement where one per subject is wanted; and, as a note, which columns have several peaks (see [fl_sift()]).
#'
#' Only features are looked at, the truth, and text that was kept aside; only rows that take part ([fl_keep()]).
#'
#' @param data From [fl_data()] or [fl_demo()].
#' @return An object of class `fl_check`, a data frame with one row per finding: `severity` (`stop`: the preparation
#'   will refuse; `warn`: likely to spoil the groups; `note`: good to know), `column`, `finding`, `advice` and `kind` (a
#'   word for what was found, the same for all columns). It has no rows when there is nothing to say. `print()` shows
#'   three of a kind and names the other columns.
#' @references Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#' @section Errors: `fjordline_error_argument` where `data` did not come from [fl_data()] or [fl_demo()].
#' @examples
#' fl_check(fl_demo("water_samples"))
#' @export
fl_check <- function(data) {
  check_made_by(data, "fl_data", "data")
  look <- first_look(data)
  found <- lapply(check_functions(), function(find) find(look))
  findings <- vctrs::vec_rbind(no_finding(), !!!found)
  findings$kind <- rep(names(found), vapply(found, NROW, 0L))
  findings <- findings[order(match(findings$severity, c("stop", "warn", "note"))), ]
  structure(findings, class = c("fl_check", class(findings)), name = data$name)
}

# In the order in which findings of one severity are told.
check_functions <- function() {
  list(
    infinite = find_infinite, `no header` = find_no_header, `number as text` = find_text_numbers,
    `date as text` = find_text_dates, `missing code` = find_codes_for_missing, constant = find_constant,
    identifier = find_identifier, id = find_id, `gives truth away` = find_giveaway, code = find_class_codes,
      label = find_labels,
    `one class` = find_one_class, copies = find_copies, `long tail` = find_skew, outlying = find_outlying,
    `two values` = find_two_valued, `rare levels` = find_rare_levels, spelling = find_spelling, missing = find_missing,
    `repeated rows` = find_repeated_rows, wide = find_wide, long = find_long, spreads = find_spreads, humps = find_humps
  )
}

finding <- function(severity, column, finding, advice = "") {
  tibble::tibble(severity = severity, column = column, finding = finding, advice = advice)
}

no_finding <- function() finding(character(), character(), character(), character())

# Number columns for which a test of their shape holds.
columns_where <- function(look, test) names(look$shapes)[vapply(look$shapes, function(s) isTRUE(test(s)), NA)]

# R code for an argument that names a column, also an odd one.
named_code <- function(column, value) paste(name_code(column), "=", value)

#' @export
as.data.frame.fl_check <- function(x, ...) as_plain(x)
