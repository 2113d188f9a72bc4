# Weights for the votes of indices: as fl_vote() is given them, and those that come with the package.

# As named numbers.
named_weights <- function(weights, sweep) UseMethod("named_weights")

#' @export
named_weights.default <- function(weights, sweep) weights

#' @export
named_weights.character <- function(weights, sweep) {
  check_choice(weights, "earned", "weights")
  named_weights(shipped_weights(), sweep)
}

shipped_file <- function() system.file("records", "earned-weights.csv", package = "fjordline", mustWork = TRUE)

# Made by bench/earned.R. The first line says on what, the table below what came out.
shipped_weights <- function() {
  rows <- utils::read.csv(shipped_file(), comment.char = "#", stringsAsFactors = FALSE)
  rules <- rows[rows$family == "", ]
  table <- tibble::as_tibble(rows[rows$family != "", c("index", "family", "found", "weight")])
  table$index[is.na(table$index)] <- ""
  new_weights(table, stats::setNames(table$weight, ifelse(nzchar(table$index), table$index, table$family)),
              rows$tables[1L], 9L, usual_method(),
              validation = tibble::tibble(rule = rules$index, found = rules$found, tables = rules$tables))
}

weights_hold <- list(
  # one row per index, and a family with `index` empty
  table = table_with("index", "family", "found", "weight"), weights = function(v) is.numeric(v) && rlang::is_named(v),
  tables = is_count, counts = is_count, method = rlang::is_string, validation = or_none(table_with("rule", "found")),
  without = or_none(is_text), record = or_none(made_by("fl_track_record"))
)

new_weights <- function(table, weights, tables, counts, method, validation = NULL, without = NULL, record = NULL) {
  made <- list(table = table, weights = weights, tables = tables, counts = counts, method = method,
               validation = validation, without = without, record = record)
  check_object(structure(made, class = "fl_weights"), weights_hold)
}
