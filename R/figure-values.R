# What figures of a table and of groups share: its numbers, captions, classes.

# The number columns to draw: those named, or the features.
number_columns <- function(data, columns, least = 1L, most = Inf, view = "this view") {
  chosen <- columns %||% columns_of(data, "feature")
  number <- chosen[type_of(data, chosen) %in% c("number", "logical")]
  if (!is.null(columns)) check_numbers(setdiff(chosen, number), data)
  # a column without any value has nothing to draw
  number <- number[vapply(rows_in(data)[number], function(v) any(is.finite(v)), NA)]
  if (length(number) < least) {
    fl_abort("column", paste0("View ", quoted(view), " needs at least ", least, " number columns."),
             found = paste0("There ", if (length(number) == 1L) "is " else "are ", length(number), "."))
  }
  if (length(number) > most && !is.null(columns)) {
    fl_abort("argument", paste0("View ", quoted(view), " draws up to ", most, " columns."),
             found = paste0(length(number), " were named."))
  }
  utils::head(number, most)
}

# Rows that take part, numbers as numbers.
number_values <- function(data, columns) {
  out <- as.data.frame(lapply(rows_in(data)[columns], function(v) ifelse(is.finite(as.double(v)), as.double(v), NA)),
                       optional = TRUE)
  stats::setNames(out, columns)
}

table_caption <- function(data, ...) {
  rows <- length(taking_part(data))
  paste(c(paste0("Data: ", data$name, ", ", counted(rows, "row"),
                 if (rows < nrow(data$table)) paste0(" of ", thousands(nrow(data$table))), "."), ...), collapse = " ")
}

class_colours <- function(levels, name) {
  scale_colour_manual(values = stats::setNames(fl_palette(length(levels)), levels), name = name, na.value = "#9AA5AC",
                      drop = FALSE)
}

check_numbers <- function(columns, data) {
  for (column in columns) {
    if (data$roles$type[data$roles$column == column] != "number") {
      fl_abort("column", paste0("Column ", quoted(column), " cannot be an axis: it holds no numbers."))
    }
  }
  columns
}
