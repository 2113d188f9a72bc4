# New rows through a recorded preparation. Nothing is learned here.

#' New rows through a preparation
#'
#' The steps recorded by [fl_prepare()], applied as they stand. The same rows give the same matrix to the last bit, also
#' after [fl_save()] and [fl_load()] in another R process. See the section "New rows" of [fl_prepare()] for what happens
#' to values the fit never saw.
#'
#' @param object From [fl_prepare()] or [fl_load()].
#' @param newdata A data frame, or an `fl_data` object, with the columns the preparation was made from.
#' @param ... Not used.
#' @return A numeric matrix with a row per row of `newdata`, in scaled units; all `NA` where a value is missing.
#' @section Errors: `fjordline_error_column` when a column is missing or does not hold what it did in the fit,
#'   `fjordline_error_values` for infinite values.
#' @examples
#' water <- fl_demo("water_samples")
#' ready <- fl_prepare(water, reduce = 2)
#' predict(ready, head(as.data.frame(water)))
#' @export
predict.fl_prepare <- function(object, newdata, ...) {
  check_no_dots(...)
  if (inherits(newdata, "fl_data")) newdata <- newdata$table
  replay(object, as_table(newdata)$table)
}

replay <- function(ready, table) {
  frame <- new_frame(table, ready$columns)
  check_finite(frame, "the new rows")
  known <- known_values(frame, ready)
  if (length(known$said) > 0L) {
    fl_warn("values", "Some new rows hold values the preparation cannot take; they count as missing.",
            advice = known$said)
  }
  x <- run_steps(known$frame, ready$steps)
  if (anyNA(x)) x[rowSums(is.na(x)) > 0, ] <- NA
  x
}

new_frame <- function(table, columns) {
  missing <- setdiff(names(columns), names(table))
  if (length(missing) > 0L) {
    fl_abort("column", paste0("The new rows lack ", if (length(missing) == 1L) "column " else "columns ",
                              listed(quoted(missing)), "."),
             found = paste0("The groups were made from ", listed(names(columns)), "."),
             advice = did_you_mean(missing[1L], names(table), "The columns given are"))
  }
  for (form in columns) check_form(table[[form$name]], form)
  as_frame(table, columns)
}

check_form <- function(values, form) {
  if (form$type %in% c("category", "ordered") || all(is.na(values))) {
    return(invisible())
  }
  if (!is.numeric(values) && !is.logical(values)) {
    row <- first_text(values)
    fl_abort("column", paste0("Column ", quoted(form$name), " of the new rows must hold ",
                              if (form$type == "number") "numbers" else "true and false", ", as it did in the fit."),
             found = if (!is.na(row)) paste0("Row ", row, " holds ", quoted(as.character(values[row])), ".")
             else paste0("It is stored as ", column_type(values), "."))
  }
}

# Levels never seen and numbers outside a transform's domain become missing.
known_values <- function(frame, ready) {
  said <- character()
  forget <- function(column, wrong, what) {
    if (any(wrong, na.rm = TRUE)) {
      at <- which(wrong)
      said <<- c(said, paste0(what, " in ", counted(length(at), "row"), " of ", column, " (row ", at[1L], ": ",
                              format(frame[[column]][at[1L]]), ")."))
      frame[[column]][at] <<- NA
    }
  }
  for (form in ready$columns) {
    if (form$type %in% c("category", "ordered")) {
      v <- frame[[form$name]]
      forget(form$name, !is.na(v) & !v %in% unlist(form$levels), "a level the fit never saw")
    }
  }
  for (step in steps_of_kind(ready$steps, "transform")) {
    for (i in seq_along(step$columns)) {
      v <- frame[[step$columns[i]]]
      forget(step$columns[i], !transform_takes(v, step$how[i], step$learned[[i]]),
             paste0("a number without a ", transforms[[step$how[i]]]$said))
    }
  }
  list(frame = frame, said = said)
}

# A matrix in scaled units, taken back to original units (columns left out stay out). Indicator columns of a category
# become shares of its levels; components are seen through the directions that were kept.
original_units <- function(ready, x) invert_steps(x, ready$steps)

# The fitted rows before any reduction to components: a column for each feature, or level of a feature.
before_components <- function(ready) {
  if (length(steps_of_kind(ready$steps, "components")) == 0L) {
    return(ready$x)
  }
  frame <- frame_rows(as_frame(ready$data$table, ready$columns), ready$rows)
  run_steps(frame, unreducing_steps(ready))
}

unreducing_steps <- function(ready) Filter(function(step) step$kind != "components", ready$steps)
