# The components of a mixture, told in original units.

#' The components of a mixture
#'
#' Where each component lies and how wide it is, in the units of the table, how the columns go together within it, and
#' how likely the levels of categories are.
#'
#' @param partition From [fl_partition()] or [fl_take()], by the method `mixture`.
#' @return A data frame with one row per component and feature, or level of a category: `group`, `name`, `share` (of the
#'   mixture), `column`, `level` (where there are categories; `NA` for numbers), `centre` (for a level how likely it
#'   is), `low` and `high` (one standard deviation below and above the centre, brought to original units; under heavy
#'   tails that of the scale; `NA` for levels and columns of few values), and `spread` (half of that width). The
#'   attribute `correlation` is a list with one matrix per component: how number columns go together within it, as
#'   prepared.
#' @section Errors: `fjordline_error_argument` for groups by another method.
#' @seealso [method-mixture]
#' @examples
#' water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_components(fl_partition(water, fl_method("mixture", tails = "normal"), k = 5))
#' @export
fl_components <- function(partition) {
  check_made_by(partition, "fl_partition", "partition")
  if (is.null(partition$model$tried)) {
    fl_abort("argument", "Only a mixture has components.",
             found = paste0("These groups are by ", method_said(partition$method), "."))
  }
  centres <- partition$centres
  columns <- colnames(centres)
  covariances <- group_covariances(partition$model, ncol(centres))
  if (length(covariances) == 0L) covariances <- rep(list(matrix(0, length(columns), length(columns))), partition$k)
  spread <- sqrt(t(vapply(covariances, diag, numeric(ncol(centres)))))
  if (ncol(centres) == 1L) spread <- t(spread)
  told <- lapply(c(0, -1, 1), function(way) as.data.frame(original_units(partition$ready, centres + way * spread)))
  shown <- names(told[[1L]])[vapply(told[[1L]], is.numeric, NA)]
  rows <- expand.grid(column = shown, group = seq_len(partition$k), stringsAsFactors = FALSE)
  at <- function(values) vapply(seq_len(nrow(rows)), function(i) values[[rows$column[i]]][rows$group[i]], 0)
  sides <- cbind(at(told[[2L]]), at(told[[3L]]))
  out <- tibble::tibble(
    group = rows$group, name = group_names(partition, rows$group), share = partition$model$share[rows$group, 1L],
    column = rows$column, centre = at(told[[1L]]), low = pmin(sides[, 1L], sides[, 2L]),
    high = pmax(sides[, 1L], sides[, 2L]), spread = abs(sides[, 2L] - sides[, 1L]) / 2
  )
  numbers <- columns_of_numbers(partition$model, length(columns))
  of_levels <- !out$column %in% columns[numbers]
  out[of_levels, c("low", "high", "spread")] <- NA_real_
  out$centre[of_levels & abs(out$centre) < 1e-9] <- 0  # a level that no row of the component has
  made <- level_columns_of(partition$ready)
  if (length(made) > 0L) {
    of <- made[out$column]
    told_by <- function(field) vapply(of, function(level) level[[field]] %||% NA_character_, "", USE.NAMES = FALSE)
    out$level <- told_by("level")
    out$column <- ifelse(is.na(out$level), out$column, told_by("column"))
    out <- out[c("group", "name", "share", "column", "level", "centre", "low", "high", "spread")]
  }
  correlation <- lapply(covariances, function(s) {
    s <- s[numbers, numbers, drop = FALSE]
    root <- sqrt(diag(s))
    matrix(s / outer(root, root), nrow(s), dimnames = list(columns[numbers], columns[numbers]))
  })
  structure(out, correlation = correlation)
}

# What each indicator column shows; nothing where there are none.
level_columns_of <- function(ready) {
  step <- steps_of_kind(ready$steps, "indicators")
  if (length(step) > 0L) level_columns(step[[1L]])
}
