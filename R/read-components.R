# The components of a mixture, told in original units.

#' The components of a mixture
#'
#' Where each component lies and how wide it is, in the units of the table, and how the columns go together within
#' it.
#'
#' @param partition From [fl_partition()] or [fl_take()], by the method `mixture`.
#' @return A data frame with a row a component and feature: `group`, `name`, `share` (of the mixture), `column`,
#'   `centre`, `low` and `high` (one standard deviation below and above the centre, brought to original units; under
#'   heavy tails that of the scale), and `spread` (half of that width). The attribute `correlation` is a list with a
#'   matrix a component: how columns go together within it, as prepared.
#' @section Errors: `fjordline_error_argument` for groups by another method.
#' @seealso [method-mixture]
#' @examples
#' water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_components(fl_partition(water, fl_method("mixture", tails = "normal"), k = 5))
#' @export
fl_components <- function(partition) {
  check_made_by(partition, "fl_partition", "partition")
  if (is.null(partition$model$covariance)) {
    fl_abort("argument", "Only a mixture has components.",
             found = paste0("These groups are by ", method_said(partition$method), "."))
  }
  centres <- partition$centres
  columns <- colnames(centres)
  covariances <- group_covariances(partition$model, ncol(centres))
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
  correlation <- lapply(covariances, function(s) {
    root <- sqrt(diag(s))
    matrix(s / outer(root, root), nrow(s), dimnames = list(columns, columns))
  })
  structure(out, correlation = correlation)
}
