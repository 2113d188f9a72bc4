# First looks at a table: one view a function, in figure-data*.R. (Panels are put together with the operators of
# patchwork, which must be loaded with this package: hence the import.)

#' Draw a table
#'
#' * `view = "columns"`: the distribution of every column (numbers as bars over their range, categories as bars by
#'   level), up to 20.
#' * `"scatter"`: two columns against each other.
#' * `"pairs"`: all pairs of up to seven number columns.
#' * `"correlations"`: how columns go together, ordered so that blocks stand side by side (Atkins, Boman & Hendrickson
#'   1998).
#' * `"missing"`: which cells are missing together, and how many rows are complete.
#' * `"profiles"`: every row as a line across the columns in their order, with the middle half of the rows.
#' * `"components"`: the rows on their first two principal components, with the directions of the columns.
#' * `"pull"`: the rows in the plane that shows most of their spread under the weights given, how strongly each column
#'   pulls them apart there, and how much of the picture stays when a column is turned off or doubled (the RV
#'   coefficient of Robert & Escoufier 1976, 1: the distances between rows keep their pattern). Below, the map without
#'   the column whose loss changes most. Try your own mix: `weights = c(salinity = 2, oxygen = 0)`.
#' * `"map"`: two columns are coordinates, the area of a point is the amount in a third.
#'
#' Above 20,000 rows scatters and maps count rows in cells instead of drawing points; lines and pairs draw an even
#' sample. The caption says which.
#'
#' @param object From [fl_data()], or [fl_prepare()] for the same looks at scaled units (`columns`, `pairs`,
#'   `correlations`, `profiles`, `components`).
#' @param view One of the views above.
#' @param columns Names of the columns to draw (two for `scatter` and `map`). Left out: the features.
#' @param colour Name of a column with up to eight values to colour by; left out, the truth, if it has up to eight;
#'   `FALSE` for none.
#' @param amount For `map`: name of the number column that points are sized by.
#' @param weights For `pull`: named numbers of 0 and more; columns left out count 1. 0 turns a column off.
#' @param ... Not used.
#' @return A ggplot (several panels: put together by patchwork).
#' @section Errors: `fjordline_error_column` for a misspelt column or one that holds no numbers where they are needed,
#'   `fjordline_error_argument` for a view or a number of columns that does not fit.
#' @references Atkins, J. E., Boman, E. G. and Hendrickson, B. (1998). A spectral algorithm for seriation and the
#'   consecutive ones problem. \doi{10.1137/S0097539795285771}
#'
#'   Robert, P. and Escoufier, Y. (1976). A unifying tool for linear multivariate statistical methods: the
#'   RV-coefficient. \doi{10.2307/2347233}
#' @examples
#' \donttest{
#' water <- fl_demo("water_samples")
#' autoplot(water)
#' autoplot(water, view = "pull", weights = c(density = 0))
#' autoplot(fl_demo("mooring_casts"), view = "profiles")
#' autoplot(water, view = "map", columns = c("longitude", "latitude"), amount = "turbidity")
#' }
#' @importFrom patchwork wrap_plots
#' @export
autoplot.fl_data <- function(object, view = "columns", columns = NULL, colour = NULL, amount = NULL, weights = NULL,
                             ...) {
  check_no_dots(...)
  check_choice(view, names(data_views()), "view")
  if (!is.null(columns)) columns <- check_columns(columns, object$table, "columns", object$name)
  class <- colour_classes(object, colour)
  data_views()[[view]](object, columns, list(class = class$values, class_name = class$name, amount = amount,
                                             weights = weights))
}

data_views <- function() {
  list(columns = draw_columns, scatter = draw_scatter, pairs = draw_pairs, correlations = draw_correlations,
       missing = draw_missing, profiles = draw_profiles, components = draw_components, pull = draw_pull, map = draw_map)
}

#' @rdname autoplot.fl_data
#' @export
autoplot.fl_prepare <- function(object, view = "columns", columns = NULL, colour = NULL, ...) {
  check_no_dots(...)
  check_choice(view, c("columns", "pairs", "correlations", "profiles", "components"), "view")
  check_prepared_rows(object)
  autoplot(prepared_table(object), view = view, columns = columns, colour = colour)
}

check_prepared_rows <- function(ready) {
  if (is.null(ready$x)) {
    fl_abort("model", "This preparation was loaded from a file, which keeps the steps but not the rows.",
             advice = "predict() takes new rows through it.")
  }
}

# The prepared matrix as a table of its own, the truth beside it.
prepared_table <- function(ready) {
  table <- as.data.frame(ready$x, optional = TRUE)
  truth <- truth_of(ready$data)
  data <- fl_data(table, name = paste0(ready$data$name, ", prepared (", ready$name, ")"))
  if (!is.null(truth)) {
    name <- columns_of(ready$data, "truth")
    if (name %in% names(table)) name <- new_word(name, names(table))
    data$table[[name]] <- truth[ready$rows]
    data$roles <- vctrs::vec_rbind(data$roles, tibble::tibble(column = name, role = "truth", type = "category",
                                                              by = "you"))
  }
  data
}

# --- what the views share

# The values rows are coloured by, or NULL.
colour_classes <- function(data, colour) {
  if (isFALSE(colour)) {
    return(NULL)
  }
  asked <- !is.null(colour)
  column <- if (asked) check_columns(colour, data$table, "colour", data$name, one = TRUE) else columns_of(data, "truth")
  if (length(column) == 0L) {
    return(NULL)
  }
  values <- as.character(data$table[[column]][taking_part(data)])
  levels <- if (is.factor(data$table[[column]])) levels(data$table[[column]]) else sort(unique(values))
  if (length(unique(values[!is.na(values)])) > length(group_shapes)) {
    if (!asked) {
      return(NULL)
    }
    fl_abort("argument", paste0("Colours are told apart up to ", length(group_shapes), " values."),
             found = paste0(column, " has ", length(unique(values)), "."))
  }
  list(values = factor(values, intersect(levels, values)), name = column)
}
