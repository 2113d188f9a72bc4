#' fjordline: find, count, score and read groups in tables
#'
#' The job in one line: `fl_data()` |> `fl_prepare()` |> `fl_sweep()` |> `fl_vote()` |> `fl_take()`, then `fl_agree()`,
#' `autoplot()`, `fl_export()`, `fl_save()` and `fl_report()` on what comes out. Every object prints its answer first;
#' `summary()` tells more, `as.data.frame()` gives the table behind it, `autoplot()` draws it, and [fl_steps()] gives
#' the script that makes it again.
#'
#' @section A table: [fl_data()] reads it and gives its columns roles; [fl_check()] says what may go wrong with it,
#'   [fl_sift()] which columns separate the rows; [fl_keep()], [fl_widen()], [fl_dates()], [fl_sample()] change it.
#'   [fl_demo()] has made-up tables. [fl_prepare()] scales, transforms and fills, [fl_outliers()] finds rows that lie
#'   apart.
#' @section How many groups: [fl_structure()] tests whether there are any. [fl_sweep()] fits methods over counts,
#'   [fl_vote()] weighs the evidence, [fl_settle()] overrules it with a reason, [fl_take()] takes the groups.
#'   [fl_choices()] and [fl_lineage()] show what depends on your choices and on the count. [indices] describes every
#'   index, [fl_new_index()] adds one.
#' @section In a browser: [fl_explore()] does all of this with the pointer, and writes the script of it.
#' @section Groups: [fl_partition()] makes them by one method; [fl_methods()] lists the methods, [fl_method()] sets one
#'   up, [fl_new_method()] adds one; [fl_adopt()] takes labels made elsewhere. Each method has a page:
#'   [`method-kmeans`], [`method-mixture`], [`method-linkage`] and so on.
#' @section Can they be trusted: [fl_reliability()], [fl_score()], [fl_agree()] with known classes, [fl_mismatches()],
#'   [fl_contrast()] with other groups.
#' @section What they are: [fl_profile()], [fl_name()], [fl_components()], [fl_paths()], [fl_rows()], [fl_outcome()].
#' @section Handing on: [fl_export()], [fl_save()] and [fl_load()], [fl_place()] for new rows, [fl_stream()] for tables
#'   that do not fit in memory, [fl_report()], [tidying].
#' @section Many tables: [fl_study()] describes a benchmark, [fl_run()] runs it, [fl_standings()], [fl_track_record()],
#'   [fl_weights()] and [fl_advise()] conclude from it, [fl_open()] opens one of its tables.
#' @seealso `vignette(package = "fjordline")`: which method, why this count, what are these groups, benchmarks.
#' @keywords internal
#' @useDynLib fjordline, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom data.table fread
#' @importFrom progressr progressor
"_PACKAGE"
