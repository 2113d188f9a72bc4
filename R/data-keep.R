# Rows that take no part. They stay in the table, so that labels always line up with it.

#' Leave rows out of the fit
#'
#' `fl_keep()` keeps the rows a condition names, `fl_set_apart()` leaves out the rows it is given. The others stay in
#' the table and in every export, in their place, without a group (`NA`): labels line up with the table as it came.
#' `print()` tells what was done, with the counts before and after; [fl_steps()] has the call.
#'
#' @param data From [fl_data()].
#' @param where A condition on the columns, e.g. `depth < 50 & station != "narrows"`. Rows where it is neither true nor
#'   false (a missing value) are not kept, and print() says so.
#' @param rows Row numbers, values of the id column, or the result of [fl_outliers()] (its flagged rows).
#' @param reason Why; a few words that reports repeat. It is needed.
#' @return The `fl_data` object with fewer rows taking part.
#' @section Errors: `fjordline_error_argument` for a condition that cannot be worked out or is not a condition, unknown
#'   rows, or when fewer than one row would be left; `fjordline_error_column` for a misspelt column in the condition.
#' @seealso [fl_rows()] to look at rows.
#' @examples
#' water <- fl_demo("water_samples")
#' fl_keep(water, depth < 50)
#' fl_set_apart(water, c("WS-1003", "WS-1010"), reason = "bottle leaked")
#' @export
fl_keep <- function(data, where) {
  check_made_by(data, "fl_data", "data")
  asked <- rlang::enquo(where)
  text <- rlang::as_label(asked)
  hit <- row_condition(data, asked, text)
  unclear <- sum(is.na(hit))
  set_apart(data, which(!(hit %in% TRUE)), paste0("not ", text),
            paste0("kept ", text, if (unclear > 0L) paste0(" (", counted(unclear, "row"), " without a value for it)")),
            code_call("fl_keep", verbatim("data"), verbatim(text)))
}

row_condition <- function(data, asked, text) {
  hit <- tryCatch(rlang::eval_tidy(asked, data$table), error = function(e) {
    unknown <- sub("^object '(.*)' not found$", "\\1", conditionMessage(e))
    if (unknown != conditionMessage(e)) check_column(unknown, names(data$table), "where", data$name)
    fl_abort("argument", "`where` could not be worked out.", found = conditionMessage(e),
             advice = paste0("It was: ", text))
  })
  if (!is.logical(hit) || length(hit) != nrow(data$table)) {
    fl_abort("argument", "`where` must be true or false for every row.", found = paste0("It is ", shape_of(hit), "."),
             advice = "Write a condition, as in depth < 50.")
  }
  hit
}

#' @rdname fl_keep
#' @export
fl_set_apart <- function(data, rows, reason = NULL) {
  check_made_by(data, "fl_data", "data")
  check_text(reason, "reason")
  given <- if (inherits(rows, "fl_outliers")) verbatim("outliers") else rows
  rows <- row_numbers(data, rows)
  set_apart(data, rows, reason, paste0(counted(length(rows), "row"), " set apart: ", reason),
            code_call("fl_set_apart", verbatim("data"), given, reason = reason))
}

# Row numbers out of numbers, ids or flags.
row_numbers <- function(data, rows) {
  if (inherits(rows, "fl_outliers")) {
    return(check_outliers(rows, data))
  }
  if (is.numeric(rows) && !anyNA(rows) && all(rows == round(rows)) && all(rows %in% seq_len(nrow(data$table)))) {
    return(as.integer(rows))
  }
  ids <- row_ids(data)
  if (is.character(rows) && !is.null(ids)) {
    return(rows_of_ids(rows, ids, columns_of(data, "id")))
  }
  fl_abort("argument", "`rows` must hold row numbers, ids or the result of fl_outliers().",
           found = if (is.character(rows)) paste0(data$name, " has no id column.")
           else paste0("It is ", shape_of(rows), "; the rows are 1 to ", nrow(data$table), "."))
}

rows_of_ids <- function(wanted, ids, column) {
  unknown <- setdiff(wanted, ids)
  if (length(unknown) > 0L) {
    fl_abort("argument", paste0("There is no row ", quoted(unknown[1L]), "."),
             found = paste0("It must be a value of the id column", if (length(column) == 1L) paste0(" ",
                                                                                                    quoted(column)),
                            "."),
             advice = did_you_mean(unknown[1L], utils::head(ids, 5000L), "The first are"))
  }
  which(ids %in% wanted)
}

set_apart <- function(data, rows, reason, said, call) {
  before <- length(taking_part(data))
  apart <- data$apart %||% rep(NA_character_, nrow(data$table))
  apart[rows] <- ifelse(is.na(apart[rows]), reason, apart[rows])
  data$apart <- apart
  left <- length(taking_part(data))
  if (left == 0L) {
    fl_abort("argument", "No row would be left.", found = paste0(counted(before, "row"), " before; ", said, "."))
  }
  data$history <- c(data$history, paste0(left, " of ", before, " rows left: ", said))
  data$call <- c(data$call, call)
  data
}

row_ids <- function(data) {
  column <- columns_of(data, "id")
  if (length(column) == 0L) NULL else as.character(data$table[[column]])
}
