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
  structure(
    list(table = table, weights = stats::setNames(table$weight, ifelse(nzchar(table$index), table$index, table$family)),
         tables = rows$tables[1L], counts = 9L, method = usual_method(), without = NULL, record = NULL,
         validation = tibble::tibble(rule = rules$index, found = rules$found, tables = rules$tables)),
    class = "fl_weights"
  )
}
