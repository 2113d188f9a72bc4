# Generics that every floor uses. Prints, figure titles, the shell and reports all take their words from the methods of
# fl_facts(), which stand in the rooms of their objects: data-facts.R, sweep-facts.R, vote-facts.R, agree-facts.R.

#' What an object says, in plain sentences
#'
#' The first sentence is the answer; the rest is evidence and doubt. They can be pasted into a message.
#'
#' @param x Any object this package makes.
#' @return Text, one sentence per element.
#' @section Errors: `fjordline_error_argument` for an object that this package did not make.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_facts(fl_partition(ready, k = 5))
#' @export
fl_facts <- function(x) UseMethod("fl_facts")

#' @export
fl_facts.default <- function(x) {
  fl_abort("argument", "`x` must be an object this package makes.", found = paste0("It is ", shape_of(x), "."))
}

#' The script that reproduces an object
#'
#' Every object knows the calls that made it: to keep with a result, or to run again on next month's table.
#'
#' @param x Any object on the way from a table to a partition, or made of one: agreement, mismatches, profile, outcome,
#'   paths, reliability, contrast, lineage. Of a contrast the second partition is called `others`.
#' @return R code, one call per element, beginning at the table. A table that came as a data frame is called by the
#'   name it had.
#' @section Errors: `fjordline_error_argument` for an object that is not on the way from a table to a partition.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' cat(fl_steps(fl_partition(ready, k = 5)), sep = "\n")
#' @export
fl_steps <- function(x) UseMethod("fl_steps")

#' @export
fl_steps.default <- function(x) {
  fl_abort("argument", "`x` must be an object on the way from a table to a partition.",
           found = paste0("It is ", shape_of(x), "."))
}
