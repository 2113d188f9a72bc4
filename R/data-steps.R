# The steps a preparation is made of. A step is a plain list (so that it can be stored as JSON): `kind`, the columns it
# touches and what it learned. It is learned once and then only applied or inverted.
#
# Steps are applied to a frame: a plain named list of columns of one length, numbers or text, NA where missing. First
# come those that look at whole rows or change what a column holds (fill, order); then every number column goes through
# its own steps by itself and straight into its place in the matrix, so that one column is in work at a time; then
# categories get their columns; last come components. The fit and new rows go the same way.
#
# Steps are inverted on a matrix in scaled units with named columns (centres, say): columns that were left out stay
# out.

step_kinds <- function() {
  list(fill = step_fill, order = step_order, transform = step_transform, winsorise = step_winsorise, drop = step_drop,
       scale = step_scale, indicators = step_indicators, weights = step_weights, components = step_components)
}

run_steps <- function(frame, steps) {
  kinds <- step_kinds()
  for (step in steps_of_kind(steps, c("fill", "order"))) frame <- kinds[[step$kind]]$apply(frame, step)
  x <- column_matrix(frame, steps)
  for (step in steps_of_kind(steps, "components")) x <- step_components$apply(x, step)
  x
}

# `kept`: which rows of the frame, or NULL for all.
column_matrix <- function(frame, steps, kept = NULL) {
  dropped <- unlist(lapply(steps_of_kind(steps, "drop"), `[[`, "columns"))
  left <- setdiff(names(frame), dropped)
  numbers <- left[vapply(frame[left], is.numeric, NA)]
  indicators <- steps_of_kind(steps, "indicators")
  levels <- if (length(indicators) > 0L) level_columns(indicators[[1L]])
  x <- matrix(NA_real_, nrow = if (is.null(kept)) frame_length(frame) else length(kept),
              ncol = length(numbers) + length(levels),
              dimnames = list(NULL, c(numbers, names(levels))))
  for (j in seq_along(numbers)) x[, j] <- through_steps(kept_rows(frame[[numbers[j]]], kept), numbers[j], steps)
  for (j in seq_along(levels)) {
    level <- levels[[j]]
    x[, length(numbers) + j] <- (kept_rows(frame[[level$column]], kept) == level$level) * level$factor *
      weight_of(level$column, steps)
  }
  x
}

# A number column through the steps that touch it.
through_steps <- function(v, column, steps) {
  kinds <- step_kinds()
  for (step in steps_of_kind(steps, c("transform", "winsorise", "scale", "weights"))) {
    i <- match(column, step$columns)
    if (!is.na(i)) v <- kinds[[step$kind]]$forward(v, step, i)
  }
  v
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

steps_of_kind <- function(steps, kinds) Filter(function(step) step$kind %in% kinds, steps)

# --- frames

frame_rows <- function(frame, rows) lapply(frame, `[`, rows)

kept_rows <- function(v, kept) if (is.null(kept)) v else v[kept]

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
