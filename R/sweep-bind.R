# Settings that speak of the table: looked up in the prepared rows before a method is run.

# row_weights, starts and dissimilarity, as numbers for the rows that are clustered.
bind_method <- function(method, ready) {
  given <- method$settings
  if (!is.null(given$row_weights)) method$settings$row_weights <- bound_weights(given$row_weights, ready)
  if (!is.null(given$starts)) method$settings$starts <- bound_starts(given$starts, ready)
  if (!is.null(given$dissimilarity)) {
    method$settings$dissimilarity <- bound_dissimilarity(given$dissimilarity, ready)
  }
  method
}

bound_weights <- function(weights, ready) {
  if (rlang::is_string(weights)) {
    check_column(weights, names(ready$data$table), "row_weights", ready$data$name)
    weights <- ready$data$table[[weights]]
  }
  whole <- length(weights) == ready$total
  if (!is.numeric(weights) || !whole && length(weights) != length(ready$rows)) {
    fl_abort("argument", "`row_weights` must name a column of numbers, or hold one number per row.",
             found = paste0("It is ", shape_of(weights), "; the table has ", counted(ready$total, "row"), "."))
  }
  weights <- as.double(if (whole) weights[ready$rows] else weights)
  wrong <- which(!is.finite(weights) | weights < 0)
  if (length(wrong) > 0L) {
    fl_abort("values", "Row weights must be numbers of 0 or more.",
             found = paste0("Row ", ready$rows[wrong[1L]], " has ", format(weights[wrong[1L]]), "."))
  }
  if (sum(weights) == 0) {
    fl_abort("values", "Row weights must not all be 0.")
  }
  weights / max(weights)
}

bound_starts <- function(starts, ready) {
  if (inherits(starts, "fl_partition")) {
    starts <- stats::setNames(starts$groups[, -(1:4)], attr(starts$groups, "columns"))
  }
  if (is.matrix(starts)) starts <- as.data.frame(starts)
  if (!is.data.frame(starts) || nrow(starts) == 0L) {
    fl_abort("argument", "`starts` must be a data frame of centres in original units, or a partition.",
             found = paste0("It is ", shape_of(starts), "."))
  }
  x <- replay(ready, starts)
  if (anyNA(x)) {
    fl_abort("values", "`starts` must have no missing value.",
             found = paste0("Row ", which(rowSums(is.na(x)) > 0)[1L], " has one."))
  }
  x
}

bound_dissimilarity <- function(dissimilarity, ready) {
  matrix <- as.matrix(dissimilarity)
  size <- nrow(matrix)
  if (!is.numeric(matrix) || size != ncol(matrix) || !size %in% c(ready$total, length(ready$rows))) {
    fl_abort("argument", paste0("`dissimilarity` must be a square matrix with a row for each of the ", ready$total,
                                " rows."),
             found = paste0("It is ", shape_of(dissimilarity), "."))
  }
  if (size == ready$total) matrix <- matrix[ready$rows, ready$rows, drop = FALSE]
  wrong <- which(!is.finite(matrix) | matrix < 0, arr.ind = TRUE)
  if (nrow(wrong) > 0L) {
    fl_abort("values", "Dissimilarities must be numbers of 0 or more.",
             found = paste0("Row ", wrong[1L, 1L], ", column ", wrong[1L, 2L], " holds ",
                            format(matrix[wrong[1L, , drop = FALSE]]), "."))
  }
  if (any(diag(matrix) != 0) || max(abs(matrix - t(matrix))) > 1e-8 * max(matrix)) {
    fl_abort("values", "`dissimilarity` must be symmetric, with zeros on its diagonal.")
  }
  dimnames(matrix) <- NULL
  storage.mode(matrix) <- "double"
  matrix
}

# What a method may want to know of the prepared columns: which are levels of one category, and how far two levels are
# apart.
about_columns <- function(ready) {
  category <- rep(0L, ncol(ready$x))
  mismatch <- double()
  step <- steps_of_kind(ready$steps, "indicators")
  if (length(step) > 0L && length(steps_of_kind(ready$steps, "components")) == 0L) {
    made <- level_columns(step[[1L]])
    columns <- vapply(made, `[[`, "", "column")
    names <- unique(columns)
    at <- match(colnames(ready$x), names(made))
    category[!is.na(at)] <- match(columns[at[!is.na(at)]], names)
    factor <- vapply(made, `[[`, 0, "factor")[match(names, columns)]
    weight <- vapply(names, weight_of, 0, steps = ready$steps)
    mismatch <- unname(2 * (factor * weight)^2)
  }
  list(category = category, mismatch = mismatch)
}

# The same of some of the columns: categories that are left out leave no gap in the numbers.
about_kept <- function(about, kept) {
  category <- about$category[kept]
  left <- sort(unique(category[category > 0L]))
  list(category = match(category, left, nomatch = 0L), mismatch = about$mismatch[left])
}
