#' fjordline: find, count, score and read groups in tables
#'
#' The job in one line: `fl_data()` |> `fl_prepare()` |> `fl_sweep()` |> `fl_vote()` |> `fl_take()`, then
#' `fl_agree()`, `autoplot()`, `fl_export()`, `fl_save()` and `fl_report()` on what comes out.
#' Every object prints its answer first; `summary()` tells more and `as.data.frame()` gives the table behind it.
#'
#' @keywords internal
#' @useDynLib fjordline, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom data.table fread
#' @importFrom progressr progressor
"_PACKAGE"
