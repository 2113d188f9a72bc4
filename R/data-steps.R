# The steps a preparation is made of. A step is a plain list (so that it can be stored as JSON): `kind`, the columns it
# touches and what it learned. It is learned once and then only applied or inverted.
#
# Steps are applied to a frame: a plain named list of columns of one length, numbers or text, NA where missing. Columns
# that a step leaves alone are not copied. They are inverted on a matrix in prepared units with named columns (centres,
# say): columns that were left out stay out.

step_kinds <- function() {
  list(fill = step_fill, order = step_order, transform = step_transform, winsorise = step_winsorise, drop = step_drop,
       scale = step_scale, indicators = step_indicators, weights = step_weights, components = step_components)
}

apply_steps <- function(frame, steps) {
  kinds <- step_kinds()
  for (step in steps) frame <- kinds[[step$kind]]$apply(frame, step)
  frame
}

invert_steps <- function(x, steps) {
  kinds <- step_kinds()
  for (step in rev(steps)) x <- kinds[[step$kind]]$invert(x, step)
  x
}

say_steps <- function(steps) {
  kinds <- step_kinds()
  unlist(lapply(steps, function(step) kinds[[step$kind]]$say(step)))
}

steps_of_kind <- function(steps, kind) Filter(function(step) step$kind == kind, steps)

# --- frames

frame_rows <- function(frame, rows) lapply(frame, `[`, rows)

frame_length <- function(frame) if (length(frame) == 0L) 0L else length(frame[[1L]])

# One column at a time, so that at most one copy of the numbers is made.
frame_matrix <- function(frame) {
  out <- matrix(0, nrow = frame_length(frame), ncol = length(frame), dimnames = list(NULL, names(frame)))
  for (j in seq_along(frame)) out[, j] <- frame[[j]]
  out
}

complete_rows <- function(frame) {
  missing <- rep(FALSE, frame_length(frame))
  for (column in frame) if (anyNA(column)) missing <- missing | is.na(column)
  !missing
}

# Changes the columns named, one by one; `how` gets a column and its place in the step.
change_columns <- function(frame, columns, how) {
  for (i in seq_along(columns)) frame[[columns[i]]] <- how(frame[[columns[i]]], i)
  frame
}

change_matrix <- function(x, columns, how) {
  for (i in which(columns %in% colnames(x))) x[, columns[i]] <- how(x[, columns[i]], i)
  x
}
