# Objects are lists with a class. One place says what each holds: a list with a test for every field, and rules that
# hold between fields. Constructors, new_<class>(), check what they make.

# `holds`: by field a function that is TRUE of what may stand there. `rules`: functions of the object, named by what
# they say. `optional`: fields that need not be there.
check_object <- function(x, holds, rules = list(), optional = character()) {
  what <- class(x)[1L]
  lacking <- setdiff(names(holds), c(names(x), optional))
  unknown <- setdiff(names(x), names(holds))
  for (field in intersect(names(holds), names(x))) {
    if (!isTRUE(holds[[field]](x[[field]]))) broken_object(what, paste0("`", field, "` is ", shape_of(x[[field]]), "."))
  }
  if (length(lacking) > 0L) broken_object(what, paste0("It lacks ", listed(lacking), "."))
  if (length(unknown) > 0L) broken_object(what, paste0("It has ", listed(unknown), " beside its fields."))
  for (rule in names(rules)) {
    if (!isTRUE(rules[[rule]](x))) broken_object(what, paste0("It breaks the rule: ", rule, "."))
  }
  x
}

broken_object <- function(what, found) {
  fl_abort("object", paste0("This ", what, " does not hold together."), found = found,
           advice = "Objects are not to be changed by hand: make it again.")
}

# Tests of fields.
is_any <- function(v) TRUE
is_number <- function(v) is.numeric(v) && length(v) == 1L
is_count <- function(v) is_number(v) && !is.na(v) && v >= 0 && v == round(v)
is_text <- function(v) is.character(v)
is_flag_or_na <- function(v) is.logical(v) && length(v) == 1L
is_table <- function(v) is.data.frame(v)
is_matrix_of_numbers <- function(v) is.matrix(v) && is.numeric(v)
made_by <- function(class) function(v) inherits(v, class)
or_none <- function(test) function(v) is.null(v) || test(v)
list_of <- function(class) function(v) is.list(v) && all(vapply(v, inherits, NA, class))
# A table with these columns, or an empty one.
table_with <- function(...) {
  columns <- c(...)
  function(v) is.data.frame(v) && (nrow(v) == 0L || all(columns %in% names(v)))
}

# A summary that shows one field.
showing_field <- function(field) {
  force(field)
  function(object, ...) {
    check_no_dots(...)
    object[[field]]
  }
}

# --- results that are tables

# The columns that the print of such a result needs. A part of it becomes a plain table: sentences about all rows would
# be wrong about some of them.
result_columns <- list(
  fl_check = c("kind", "column", "severity", "finding", "advice"),
  fl_sift = c("column", "type", "separation", "multimodality", "beyond_chance", "share_of_spread", "related_to",
              "relation"),
  fl_score = c("index", "family", "value", "direction", "reason"),
  fl_methods = c("key", "label", "when", "shape", "needs"),
  fl_vote_summary = c("index", "family", "pick")
)
of_whole <- setdiff(names(result_columns), "fl_methods")

as_plain <- function(x) {
  class(x) <- setdiff(class(x), names(result_columns))
  for (attribute in c("name", "rows", "vote")) attr(x, attribute) <- NULL
  x
}

still_prints <- function(x) all(result_columns[[intersect(class(x), names(result_columns))]] %in% names(x))

# A part of a table-like result, by `[`.
part_of_result <- function(x, ...) {
  out <- NextMethod()
  if (!is.data.frame(out)) {
    return(out)
  }
  rows_gone <- class(x)[1L] %in% of_whole && nrow(out) != nrow(x)
  if (rows_gone || !still_prints(out)) as_plain(out) else out
}

#' @export
`[.fl_check` <- part_of_result

#' @export
`[.fl_sift` <- part_of_result

#' @export
`[.fl_score` <- part_of_result

#' @export
`[.fl_methods` <- part_of_result

#' @export
`[.fl_vote_summary` <- part_of_result
