#' Index values of one partition
#'
#' @param partition From [fl_partition()] or [fl_take()].
#' @param indices A set of indices (`"fast"`, `"standard"` or `"all"`, see [fl_sweep()]), or keys of some
#'   ([fl_indices()]).
#' @return An object of class `fl_score`, a data frame with a row an index: `index`, `family`, `k`, `value`,
#'   `error` (its standard error, where it has one), `covered` (the share of rows in groups), `direction` (which value
#'   is better), and the `reason` where there is no value. Indices that compare neighbouring counts, like the elbow,
#'   need a sweep and abstain here.
#' @section Errors: `fjordline_error_index` for a misspelt key, `_model` for a partition loaded from a file.
#' @examples
#' fl_score(fl_partition(fl_prepare(fl_demo("water_samples")), k = 5))
#' @export
fl_score <- function(partition, indices = "fast") {
  check_made_by(partition, "fl_partition", "partition")
  need_rows(partition)
  chosen <- as_indices(indices)
  ready <- partition$ready
  fit <- list(k = partition$k, group = partition$group[ready$rows], scatter = partition$groups$scatter)
  judged <- judged_by(partition$method, ready, partition$seed)
  scored <- score_set(index_set(ready$x, list(fit), judged), chosen)
  known <- function(field) vapply(chosen[scored$index], `[[`, "", field, USE.NAMES = FALSE)
  out <- tibble::tibble(index = scored$index, family = known("family"), k = scored$k, value = scored$value,
                        error = scored$error, covered = scored$covered, direction = known("direction"),
                        reason = scored$reason)
  structure(out, class = c("fl_score", class(out)), name = partition$name, rows = nrow(ready$x))
}
