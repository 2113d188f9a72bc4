# From a table to the numeric matrix that is clustered, by steps that are recorded and can be replayed.

#' Prepare a table for clustering
#'
#' Turns the features into the numeric matrix that is clustered. What was learned from the table (means, spreads,
#' levels, directions) is recorded, kept with every result, and applied to new rows as it stands: nothing is refitted by
#' `predict()`.
#'
#' The steps, in this order:
#' 1. missing values are filled, or their rows set aside (they keep their place and get `NA` for a group);
#' 2. ordered categories become the place of their level, 1 for the first;
#' 3. columns are transformed;
#' 4. far values are pulled in, if asked for;
#' 5. columns with one single value (or that vary by rounding only) are left out, and print() says so;
#' 6. number columns are scaled. Where the interquartile range is 0 and the standard deviation is not, `median_iqr` uses
#'    the latter, and says so;
#' 7. every other category becomes a column for each of its levels, multiplied so that its mean squared distance over
#'    pairs of rows is 2, what a `mean_sd` column has; under another scale, the median of the number columns' own;
#' 8. weights multiply;
#' 9. the columns are reduced to principal components, if asked for.
#'
#' A column that carries more than half of all spread, and three times its fair share (of few columns: nine tenths), is
#' named. `predict()` on the
#' result takes new rows through the same steps.
#'
#' @section New rows:
#' A column that is missing, or that holds text where the fit had numbers, is an error. A level never seen in the fit,
#' and a number that a transform cannot take (the logarithm of 0, say), count as missing values and are told by a
#' warning of class `fjordline_warning_values`: their rows are filled if the preparation fills, and get `NA` if it does
#' not. Numbers beyond those of the fit pass on as they are; `rank` gives them the first or last rank and
#' `outliers = "winsorise"` pulls them to the fitted fences. A row without any value is never filled.
#'
#' @param data From [fl_data()] or [fl_demo()].
#' @param use Names of the features to use (patterns such as `"oxygen_*"` too); left out, all of them.
#' @param scale `"mean_sd"` (subtract the mean, divide by the standard deviation, n - 1), `"median_iqr"`
#'   (median, interquartile range / 1.349), `"unit_range"` (to 0..1) or `"none"`.
#' @param missing `"drop"` sets rows with a missing feature aside; `"middle"` fills in the column's median or most
#'   frequent level; `"nearest"` fills in the mean, or most frequent level, of the five complete rows that are nearest
#'   in the other columns (of up to 2,000 complete rows, an even sample, which are kept with the preparation);
#'   `"stop"` makes a missing value an error.
#' @param categories `"indicators"`, `"ranks"` (for ordered columns) or `"drop"`; one word for all, or a named vector by
#'   column. Left out: ranks for ordered columns, indicators for the others.
#' @param transform Named text vector, e.g. `c(turbidity = "log")`, or one unnamed word for all number columns: `"log"`,
#'   `"log1p"` (logarithm of 1 + x), `"square_root"`, `"rank"` (the share of the fitted rows below) or `"power"` (the
#'   power under which the column looks most like a normal sample, -2 to 4).
#' @param outliers `"keep"`; `"winsorise"` pulls numbers beyond Tukey's outer fences (three interquartile ranges from
#'   the quartiles, after the transform) back to them; `"drop"` gives rows that [fl_outliers()] flags no group (`NA`)
#'   and learns the steps again without them; or the result of [fl_outliers()] itself. New rows are never dropped.
#' @param reduce Principal components: how many (a whole number), or the share of the spread they must hold (below 1).
#' @param weights Named numbers above 0, e.g. `c(density = 0.5)`: what a column counts; 1 for the others.
#' @param name What to call the preparation; by default a short summary of it.
#' @return An object of class `fl_prepare`: the matrix (`x`, rows × columns in scaled units), the original row of
#'   each (`rows`), and the recorded `steps`. `as.data.frame()` gives the matrix with row numbers.
#' @section Errors: `fjordline_error_column` for a misspelt column, `fjordline_error_values` for infinite or too large
#'   numbers and for logarithms of numbers that have none (with column and row), `fjordline_error_table` when fewer than
#'   two complete rows or no varying column is left.
#' @references Troyanskaya, O. et al. (2001). Missing value estimation methods for DNA microarrays.
#'   \doi{10.1093/bioinformatics/17.6.520}
#'
#'   Box, G. E. P. and Cox, D. R. (1964). An analysis of transformations. Journal of the Royal Statistical Society B 26,
#'   211-252.
#'
#'   Yeo, I.-K. and Johnson, R. A. (2000). A new family of power transformations to improve normality or symmetry.
#'   \doi{10.1093/biomet/87.4.954}
#'
#'   Tukey, J. W. (1977). Exploratory Data Analysis. Addison-Wesley.
#'
#'   Pearson, K. (1901). On lines and planes of closest fit to systems of points in space.
#'   \doi{10.1080/14786440109462720}
#' @seealso [fl_check()] for what a table asks for, [fl_outliers()], [fl_prepare_file()] for a preparation written down
#'   in a file, [fl_save()] to keep one.
#' @examples
#' water <- fl_demo("water_samples")
#' fl_prepare(water, scale = "median_iqr", transform = c(turbidity = "log"), missing = "nearest")
#' fl_prepare(water, weights = c(density = 0.5, salinity = 0.5), reduce = 0.9)
#' @export
fl_prepare <- function(data, use = NULL, scale = "mean_sd", missing = "drop", categories = NULL, transform = NULL,
                       outliers = "keep", reduce = NULL, weights = NULL, name = NULL) {
  check_made_by(data, "fl_data", "data")
  check_choice(scale, names(scales_known), "scale")
  check_choice(missing, c("drop", "middle", "nearest", "stop"), "missing")
  flagged <- check_outliers(outliers, data)
  features <- columns_of(data, "feature")
  used <- if (is.null(use)) features else check_use(use, data)
  handling <- category_handling(categories, used, data)
  used <- setdiff(used, names(handling)[handling == "drop"])
  check_any_left(used, data)
  columns <- column_forms(data, used)
  plan <- list(scale = scale, missing = missing, handling = handling, levels = lapply(columns, `[[`, "levels"),
               reduce = check_reduce(reduce),
               transform = as_transform(transform, columns, handling, data$name),
               weights = check_weights(weights, used, data$name), winsorise = identical(outliers, "winsorise"))
  learned <- learn_preparation(data, columns, plan, flagged, identical(outliers, "drop"))
  check_squarable(learned$x)
  call <- code_call(
    "fl_prepare", verbatim("data"), use = use, scale = if (scale != "mean_sd") scale,
    missing = if (missing != "drop") missing, categories = categories, transform = transform,
    outliers = if (inherits(outliers, "fl_outliers")) verbatim("outliers") else if (outliers != "keep") outliers,
    reduce = reduce, weights = weights, name = name
  )
  new_preparation(
    data, name %||% default_name(used, features, plan, outliers), used, columns, learned$steps, learned$x,
    learned$rows, nrow(data$table), learned$left, units = data$units, scale = scale,
    notes = as.character(c(learned$notes, deciding_column(learned, used))), call = call,
    outliers = if (inherits(outliers, "fl_outliers")) outliers
  )
}

# --- arguments

check_use <- function(use, data) {
  use <- check_columns(use, data$table, "use", data$name)
  for (column in use) {
    role <- data$roles$role[data$roles$column == column]
    if (role != "feature") {
      fl_abort("column", paste0(quoted(column), " is not a feature."), found = paste0("Its role is ", role, "."),
               advice = "Give it to fl_data(features = ) first if it is to be clustered.")
    }
  }
  use
}

check_any_left <- function(used, data) {
  if (length(used) == 0L) {
    fl_abort("column", paste0("No column of ", data$name, " is left to cluster."),
             advice = paste0("Its features are ", listed(columns_of(data, "feature")), "."))
  }
}

# How each feature that is no number becomes one.
category_handling <- function(categories, used, data) {
  type <- stats::setNames(type_of(data, used), used)
  kinds <- names(type)[type %in% c("category", "ordered")]
  how <- stats::setNames(ifelse(type[kinds] == "ordered", "ranks", "indicators"), kinds)
  if (is.null(categories)) {
    return(how)
  }
  if (!is.character(categories)) {
    fl_abort("argument", "`categories` must be text, as in \"indicators\" or c(cargo = \"drop\").",
             found = paste0("It is ", shape_of(categories), "."))
  }
  for (word in categories) check_choice(word, c("indicators", "ranks", "drop"), "categories")
  if (is.null(names(categories))) {
    how[] <- rep_len(categories, length(how))
  } else {
    for (column in names(categories)) check_column(column, kinds, "categories", paste0("the categories of ", data$name))
    how[names(categories)] <- categories
  }
  unordered <- names(how)[how == "ranks" & type[names(how)] != "ordered"]
  if (length(unordered) > 0L) {
    fl_abort("argument", paste0("The levels of ", quoted(unordered[1L]), " have no order, so they have no ranks."),
             advice = paste0("Give the order: fl_data(types = list(", unordered[1L], " = c(\"low\", \"high\")))."))
  }
  how
}

# A word for all number columns, or one for each column named.
as_transform <- function(transform, columns, handling, name) {
  if (is.null(transform)) {
    return(NULL)
  }
  if (!is.character(transform)) {
    fl_abort("argument", "`transform` must be text, as in c(turbidity = \"log\").",
             found = paste0("It is ", shape_of(transform), "."))
  }
  for (how in transform) check_choice(how, names(transforms), "transform")
  number <- names(columns)[vapply(columns, function(c) c$type == "number", NA)]
  if (is.null(names(transform))) {
    return(stats::setNames(rep_len(transform, length(number)), number))
  }
  for (column in names(transform)) {
    check_column(column, names(columns), "transform", name)
    if (!column %in% number) {
      fl_abort("column", paste0("Column ", quoted(column), " cannot be transformed: it holds no numbers."))
    }
  }
  transform
}

check_weights <- function(weights, used, name) {
  if (is.null(weights)) {
    return(NULL)
  }
  if (!is.numeric(weights) || is.null(names(weights)) || !all(is.finite(weights)) || any(weights <= 0)) {
    fl_abort("argument", "`weights` must be named numbers above 0, as in c(density = 0.5).",
             found = paste0("It is ", shape_of(weights), "."),
             advice = if (is.numeric(weights) &&
                          any(weights %in% 0)) "To leave a column out, name the others in `use`.")
  }
  for (column in names(weights)) check_column(column, used, "weights", name)
  weights
}

check_reduce <- function(reduce) {
  if (is.null(reduce)) {
    return(NULL)
  }
  if (is.numeric(reduce) && length(reduce) == 1L && !is.na(reduce) && reduce > 0 && reduce < 1) {
    return(reduce)
  }
  tryCatch(check_whole(reduce, "reduce"), fjordline_error = function(e) {
    fl_abort("argument", "`reduce` must be a number of components, or the share of spread to keep (below 1).",
             found = paste0("It is ", shape_of(reduce), "."))
  })
}

# The rows an earlier look flagged.
check_outliers <- function(outliers, data) {
  if (!inherits(outliers, "fl_outliers")) {
    check_choice(outliers, c("keep", "winsorise", "drop"), "outliers")
    return(integer())
  }
  if (outliers$ready$total != nrow(data$table)) {
    fl_abort("argument", "`outliers` was made from another table.",
             found = paste0("It scores ", outliers$ready$total, " rows; ", data$name, " has ", nrow(data$table), "."))
  }
  which(outliers$rows$flagged %in% TRUE)
}

# --- the form of the columns: what the fit had, and new rows must have

column_forms <- function(data, used) {
  rows <- rows_in(data)[used]
  stats::setNames(lapply(used, function(column) {
    values <- rows[[column]]
    type <- type_of(data, column)
    list(name = column, type = type, levels = switch(
      type, ordered = intersect(levels(values), as.character(values)),
      category = sort(unique(as.character(values[!is.na(values)])), method = "radix"), character()
    ))
  }), used)
}

# The columns as a frame of numbers and text; NA where there is no value.
as_frame <- function(table, columns) {
  lapply(columns, function(form) {
    values <- table[[form$name]]
    if (form$type %in% c("category", "ordered")) as.character(values) else as.double(values)
  })
}

numeric_matrix <- function(table, columns) {
  frame_matrix(stats::setNames(lapply(columns, function(column) as.double(table[[column]])), columns))
}

check_finite <- function(frame, name, rows = NULL) {
  for (column in names(frame)) {
    v <- frame[[column]]
    if (!is.numeric(v)) next
    ends <- suppressWarnings(range(v, na.rm = TRUE))
    if (all(is.na(v)) || max(abs(ends)) <= 1e150) next
    wrong <- which(is.infinite(v) | abs(v) > 1e150)
    fl_abort("values", paste0("Column ", quoted(column), " of ", name, " holds ",
                              if (is.infinite(v[wrong[1L]])) "an infinite value" else "a number too large to square",
                                "."),
             found = paste0("Row ", (rows %||% seq_along(v))[wrong[1L]], ": ", format(v[wrong[1L]]),
                            if (length(wrong) > 1L) paste0(" (", counted(length(wrong), "such cell"), ")"), "."),
             advice = "Correct it, or make it missing.")
  }
}

check_complete <- function(frame, complete, rows, missing, name) {
  if (missing == "stop" && !all(complete)) {
    gap <- which(!complete)[1L]
    column <- names(frame)[vapply(frame, function(v) is.na(v[gap]), NA)][1L]
    fl_abort("values", paste0(name, " has missing values in ", counted(sum(!complete), "row"), "."),
             found = paste0("The first: ", column, " in row ", rows[gap], "."),
             advice = "missing = \"drop\" sets these rows aside, \"middle\" and \"nearest\" fill them.")
  }
  if (sum(complete) < 2L) {
    fl_abort("table", paste0("At least two complete rows are needed to look for groups in ", name, "."),
             found = paste0(counted(length(complete), "row"), ", ", sum(complete), " without a missing value."),
             advice = if (length(complete) > 1L) "missing = \"middle\" fills the gaps.")
  }
}

# --- learning

# Flagged rows are out from the start; with `drop`, rows flagged in a first round are out of a second one.
learn_preparation <- function(data, columns, plan, flagged, drop) {
  rows <- setdiff(taking_part(data), flagged)
  frame <- as_frame(data$table, columns)
  if (length(rows) < nrow(data$table)) frame <- frame_rows(frame, rows)
  check_finite(frame, data$name, rows)
  if (drop) {
    first <- learn_steps(frame, plan, rows, data$name)
    flagged <- first$rows[far_rows(first$x)]
    kept <- !rows %in% flagged
    frame <- frame_rows(frame, kept)
    rows <- rows[kept]
  }
  out <- learn_steps(frame, plan, rows, data$name)
  out$left <- c(`set apart` = nrow(data$table) - length(taking_part(data)),
                outlier = length(intersect(flagged, taking_part(data))), missing = length(rows) - length(out$rows))
  out
}

far_rows <- function(x) {
  if (nrow(x) < 12L) {
    return(integer())
  }
  score <- neighbour_distance(x, 10L)
  which(score > outlier_limit(score))
}

learn_steps <- function(frame, plan, rows, name) {
  filled <- learn_fill(frame, plan$missing, name)
  frame <- filled$frame
  complete <- complete_rows(frame)
  check_complete(frame, complete, rows, plan$missing, name)
  # the frame itself is not cut to its complete rows: that would be a copy of the table
  kept <- if (!all(complete)) which(complete)
  ordered <- names(plan$handling)[plan$handling == "ranks"]
  order <- if (length(ordered) > 0L) step_order$make(ordered, plan$levels)
  if (!is.null(order)) frame <- step_order$apply(frame, order)
  check_domain(frame, plan$transform, name, kept)
  learned <- learn_columns(frame, plan, name, kept)
  steps <- c(list(filled$step, order), learned$steps)
  steps <- steps[lengths(steps) > 0L]
  before <- steps_of_kind(steps, c("transform", "winsorise", "drop", "scale", "indicators", "weights"))
  x <- column_matrix(frame, before, kept)
  if (!is.null(kept)) rows <- rows[kept]
  check_distinct_names(colnames(x), name)
  if (is.null(plan$reduce)) {
    return(list(steps = steps, x = x, rows = rows, notes = learned$notes))
  }
  reduced <- step_components$make(x, plan$reduce)
  list(steps = c(steps, list(reduced)), x = step_components$apply(x, reduced), rows = rows, notes = learned$notes)
}

learn_fill <- function(frame, how, name) {
  if (!how %in% c("middle", "nearest")) {
    return(list(frame = frame))
  }
  check_some_values(frame, name)
  # learned also where nothing is missing yet: new rows may have gaps
  step <- step_fill$learn(frame, how)
  list(frame = step_fill$apply(frame, step), step = step)
}

# What each column needs, one column at a time, put together as steps.
learn_columns <- function(frame, plan, name, kept) {
  learned <- lapply(stats::setNames(nm = names(frame)), function(column) {
    learn_column(kept_rows(frame[[column]], kept), column, plan)
  })
  part <- function(what) Filter(Negate(is.null), lapply(learned, `[[`, what))
  constant <- names(frame)[vapply(learned, `[[`, NA, "constant")]
  if (length(constant) == length(frame)) {
    fl_abort("table", paste0("No column of ", name, " varies: all rows are the same."),
             found = paste0("Columns: ", listed(constant), "."))
  }
  transform <- part("transform")
  fences <- part("fences")
  scale <- part("scale")
  kinds <- setdiff(names(frame)[!vapply(frame, is.numeric, NA)], constant)
  weights <- plan$weights[setdiff(names(plan$weights), constant)]
  spreads <- unlist(part("spread"))
  steps <- list(
    if (length(transform) > 0L) step_transform$make(names(transform), plan$transform[names(transform)], transform),
    if (length(fences) > 0L) step_winsorise$make(names(fences), fences),
    if (length(constant) > 0L) step_drop$make(constant),
    if (length(scale) > 0L) step_scale$make(names(scale), plan$scale, scale),
    if (length(kinds) > 0L) {
      step_indicators$make(lapply(frame[kinds], kept_rows, kept), kinds,
                           if (length(spreads) == 0L) 2 else stats::median(2 * spreads^2))
    },
    if (length(weights) > 0L) step_weights$make(weights)
  )
  list(steps = steps[lengths(steps) > 0L],
       notes = c(constant_note(constant), flat_note(names(frame)[vapply(learned, function(l) isTRUE(l$flat), NA)])))
}

# The numbers one column's steps need. `spread`: its standard deviation once scaled.
learn_column <- function(v, column, plan) {
  if (!is.numeric(v)) {
    return(list(constant = all(v == v[1L])))
  }
  out <- list()
  how <- if (column %in% names(plan$transform)) plan$transform[[column]]
  if (!is.null(how)) {
    out$transform <- transforms[[how]]$learn(v)
    v <- suppressWarnings(transforms[[how]]$forward(v, out$transform))
  }
  if (plan$winsorise && can_winsorise(v)) {
    out$fences <- outer_fences(v)
    v <- pmin(pmax(v, out$fences[1L]), out$fences[2L])
  }
  out$constant <- is_constant(v)
  if (out$constant) {
    return(list(constant = TRUE))
  }
  out$flat <- plan$scale == "median_iqr" && stats::IQR(v, type = 7L) == 0
  if (plan$scale != "none") out$scale <- scales_known[[plan$scale]](v)
  out$spread <- if (plan$scale == "mean_sd") 1 else spread_of(v) / (out$scale[2L] %||% 1)
  out
}

constant_note <- function(constant) {
  if (length(constant) > 0L) {
    paste0(listed(constant), if (length(constant) == 1L) " holds" else " hold", " one single value and ",
           if (length(constant) == 1L) "is" else "are", " left out.")
  }
}

flat_note <- function(flat) {
  if (length(flat) > 0L) paste0("The interquartile range of ", listed(flat), " is 0: its standard deviation is used.")
}

check_distinct_names <- function(names, table) {
  twice <- names[duplicated(names)]
  if (length(twice) > 0L) {
    fl_abort("column", paste0("A level's column of ", table, " would be called ", quoted(twice[1L]),
                              ", as a feature is."),
             advice = "Rename the feature.")
  }
}

check_some_values <- function(frame, name) {
  empty <- names(frame)[vapply(frame, function(v) all(is.na(v)), NA)]
  if (length(empty) > 0L) {
    fl_abort("values", paste0("Column ", quoted(empty[1L]), " of ", name, " holds no value to fill its gaps with."),
             advice = "Leave it out with `use`.")
  }
}

# Two-valued columns and columns whose middle half is one value have no fences.
can_winsorise <- function(v) {
  fences <- outer_fences(v)
  fences[1L] < fences[2L] && length(unique(v)) > 2L && (min(v) < fences[1L] || max(v) > fences[2L])
}

check_domain <- function(frame, transform, name, kept = NULL) {
  for (column in names(transform)) {
    v <- kept_rows(frame[[column]], kept)
    wrong <- which(!transforms[[transform[[column]]]]$takes(v))
    if (length(wrong) > 0L) {
      how <- transforms[[transform[[column]]]]
      fl_abort("values", paste0("The ", how$said, " of column ", quoted(column), " of ", name, " needs numbers ",
                                how$domain, "."),
               found = paste0(counted(length(wrong), "complete row"), if (length(wrong) == 1L) " has" else " have",
                              " another, for one ", digits3(v[wrong[1L]]), "."),
               advice = "Use \"log1p\", \"square_root\" or \"power\", or leave the column as it is.")
    }
  }
}

# A column with more than half of the spread, and three times its fair share (or nine tenths), is said aloud. The
# indicator columns of one category count together.
deciding_column <- function(learned, used) {
  if (length(steps_of_kind(learned$steps, "components")) > 0L) {
    return(NULL)
  }
  spread <- vapply(seq_len(ncol(learned$x)), function(j) spread_of(learned$x[, j])^2, 0)
  spread <- rowsum(spread, source_columns(colnames(learned$x), used), reorder = FALSE)[, 1L]
  share <- spread / sum(spread)
  most <- which.max(share)
  if (length(share) > 1L && share[most] > max(0.5, min(3 / length(share), 0.9))) {
    paste0(names(share)[most], " has ", percent(share[most]),
           " of all spread in these units: it will decide the groups.")
  }
}

# Differences whose squares vanish cannot be told apart, and those whose squares are beyond all numbers cannot be added
# up.
check_squarable <- function(x) {
  widest <- max(0, vapply(seq_len(ncol(x)), function(j) max(abs(range(x[, j], 0, na.rm = TRUE))), 0))
  if (widest > 0 && widest < 1e-150) {
    fl_abort("values", "The values in scaled units are too small to square.",
             found = paste0("The farthest from 0 is ", format(widest, digits = 3L), "."),
             advice = "Prepare with scale = \"mean_sd\", or give the columns in a smaller unit.")
  }
  if (!is.finite(widest) || widest > 1e140) {
    fl_abort("values", "The values in scaled units are too large to square.",
             found = paste0("The farthest from 0 is ", format(widest, digits = 3L), "."),
             advice = "Prepare with scale = \"mean_sd\", give the columns in a larger unit, or smaller weights.")
  }
}

# The feature each prepared column comes from.
source_columns <- function(prepared, features) {
  vapply(prepared, function(name) {
    if (name %in% features) name
    else features[startsWith(name, indicator_name(features, ""))][1L]
  }, "", USE.NAMES = FALSE)
}

default_name <- function(used, features, plan, outliers) {
  changed <- if (length(plan$transform) > 3L && length(unique(plan$transform)) == 1L) {
    paste0(plan$transform[1L], "(", length(plan$transform), " columns)")
  } else if (length(plan$transform) > 0L) {
    paste0(plan$transform, "(", names(plan$transform), ")")
  }
  paste(c(
    plan$scale, changed, if (plan$missing %in% c("middle", "nearest")) paste("gaps filled:", plan$missing),
    if (inherits(outliers, "fl_outliers") || outliers == "drop") "outliers dropped"
    else if (outliers == "winsorise") "winsorised",
    if (length(plan$weights) > 0L) paste0(names(plan$weights), " x ", digits3(plan$weights)),
    if (!is.null(plan$reduce)) "components", if (!setequal(used, features)) counted(length(used), "column")
  ), collapse = ", ")
}

#' @export
as.data.frame.fl_prepare <- function(x, ...) tibble::tibble(row = x$rows, tibble::as_tibble(x$x))
