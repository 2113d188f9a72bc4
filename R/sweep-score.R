#' Index values of one partition
#'
#' How good a partition looks without knowing the classes, by every index that can judge one partition alone.
#'
#' @param partition From [fl_partition()] or [fl_take()].
#' @param indices A set of indices (`"fast"`, `"standard"` or `"all"`, see [fl_sweep()]), or keys of some
#'   ([fl_indices()]).
#' @param space A preparation ([fl_prepare()]) of the same table to judge in, by Euclidean distances; left out, the
#'   partition's own. Groups made on some columns are judged on others in this way. Rows without a place in `space` are
#'   left out.
#' @return An object of class `fl_score`, a data frame with one row per index: `index`, `family`, `k`, `value`,
#'   `error` (its standard error, where it has one), `covered` (the share of rows in groups), `direction` (which value
#'   is better), and the `reason` where there is no value. Indices that compare neighbouring counts, like the elbow,
#'   need a sweep and abstain here.
#' @section Errors: `fjordline_error_index` for a misspelt key, `fjordline_error_model` for a partition loaded from a
#'   file.
#' @examples
#' water <- fl_demo("water_samples")
#' physics <- fl_partition(fl_prepare(water, use = c("temperature", "salinity")), k = 5)
#' fl_score(physics)
#' fl_score(physics, space = fl_prepare(water))
#' @export
fl_score <- function(partition, indices = "fast", space = NULL) {
  check_made_by(partition, "fl_partition", "partition")
  if (is.null(space)) need_rows(partition) else partition <- in_space(partition, space)
  chosen <- as_indices(indices)
  ready <- partition$ready
  fit <- list(k = partition$k, group = partition$group[ready$rows], scatter = partition$groups$scatter,
              likelihood = partition$likelihood)
  judged <- judged_by(partition$method, ready, partition$seed)
  scored <- score_set(index_set(ready$x, list(fit), judged), chosen)
  known <- function(field) vapply(chosen[scored$index], `[[`, "", field, USE.NAMES = FALSE)
  out <- tibble::tibble(index = scored$index, family = known("family"), k = scored$k, value = scored$value,
                        error = scored$error, covered = scored$covered, direction = known("direction"),
                        reason = scored$reason)
  structure(out, class = c("fl_score", class(out)), name = partition$name, rows = nrow(ready$x))
}

# The same groups on the rows of another preparation.
in_space <- function(partition, space) {
  check_made_by(space, "fl_prepare", "space")
  if (space$total != length(partition$group)) {
    fl_abort("argument", "`space` must be a preparation of the same table.",
             found = paste0("It has ", counted(space$total, "row"), ", the partition has ",
                            thousands(length(partition$group)), "."))
  }
  need_prepared_rows(space)
  partition_by_labels(space, as.character(partition$group), noise = if (any(partition$group %in% 0L)) "0",
                      said = partition$name, name = paste0(partition$name, ", in the space of ", space$name))$partition
}

#' @export
as.data.frame.fl_score <- function(x, ...) as_plain(x)
