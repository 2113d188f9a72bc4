# Plain sentences about an object. Prints, figure titles, the shell and reports all take their words from the methods of
# fl_facts(), which stand in the rooms of their objects: data-facts.R, sweep-facts.R, vote-facts.R, agree-facts.R.

#' What an object says, in plain sentences
#'
#' The first sentence is the answer; the rest is evidence and doubt. They can be pasted into a message.
#'
#' @param x Any object this package makes.
#' @return Text, one sentence an element.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_facts(fl_partition(ready, k = 5))
#' @export
fl_facts <- function(x) UseMethod("fl_facts")

#' @export
fl_facts.default <- function(x) {
  fl_abort("argument", "`x` must be an object this package makes.", found = paste0("It is ", shape_of(x), "."))
}
