# What a sweep holds, and how to find one of its cells.

values_table <- table_with("preparation", "method", "k", "repeat", "index", "value", "error", "covered", "reason")

sweep_holds <- list(
  ready = list_of("fl_prepare"), methods = list_of("fl_method"), k = is.integer, indices = list_of("fl_index"),
  repeats = is_count, seed = is_number,
  # one row per fit
  cells = table_with("preparation", "method", "k", "repeat", "asked", "seed", "parameter", "stands"),
  # in the order of the cells: a fit, or the error that ended it
  fits = is.list,
  # values of the indices at the counts asked for, and at those beside that some need
  values = or_none(values_table), beside = or_none(values_table),
  returns = or_none(table_with("k", "group", "returns")), gaps = or_none(table_with("k", "observed", "expected")),
  values_tried = or_none(is_table),
  # by preparation and metric
  structure = is.list,
  # of a sweep out of a study's store: the counts its votes named; its fits hold labels only
  stored = is_flag_or_na, voted = or_none(is.integer), call = or_none(is_text)
)

sweep_rules <- list(
  `a fit or an error for every cell` = function(x) length(x$fits) == nrow(x$cells),
  `every cell is of a preparation and a method of the sweep` = function(x) {
    all(x$cells$preparation %in% names(x$ready)) && all(x$cells$method %in% names(x$methods))
  },
  `every value is of an index of the sweep` = function(x) all(x$values$index %in% names(x$indices))
)

new_sweep <- function(ready, methods, k, indices, repeats, seed, cells, fits, values = NULL, beside = NULL,
                      returns = NULL, gaps = NULL, values_tried = NULL, structure = list(), stored = FALSE,
                      voted = NULL, call = NULL) {
  sweep <- list(ready = ready, methods = methods, k = k, indices = indices, repeats = as.integer(repeats), seed = seed,
                cells = cells, fits = fits, values = values, beside = beside, returns = returns, gaps = gaps,
                values_tried = values_tried, structure = structure, stored = stored, voted = voted, call = call)
  check_object(structure(sweep, class = "fl_sweep"), sweep_holds, sweep_rules)
}

# Which cells are of this preparation and method, and of this repeat where one is named; `asked`: of a count that was
# asked for; `fitted`: without those whose fit failed.
cells_of <- function(sweep, preparation, method, turn = NULL, asked = FALSE, fitted = FALSE) {
  cells <- sweep$cells
  mine <- cells$preparation == preparation & cells$method == method
  if (!is.null(turn)) mine <- mine & cells$`repeat` == turn
  if (asked) mine <- mine & cells$asked
  at <- which(mine)
  if (fitted) at <- at[!vapply(sweep$fits[at], inherits, NA, "error")]
  at
}

# The rows of one of its tables (values, gaps, …) of this preparation and method.
part_of <- function(table, preparation, method) table[table$preparation == preparation & table$method == method, ]
