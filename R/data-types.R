# What the cells of a table mean: which way round it lies, which spellings are missing, which type a column has.

# --- rows that are variables

# The first column holds the names of the new columns, the old column names become the first new column. Without a
# first column of text, row names do.
flip_table <- function(table, name) {
  first <- table[[1L]]
  if (is.character(first) || is.factor(first)) {
    labels <- as.character(first)
    rows <- names(table)[-1L]
    body <- table[-1L]
  } else {
    labels <- row_names_of(table) %||% paste0("column_", seq_len(nrow(table)))
    rows <- names(table)
    body <- table
  }
  if (length(rows) == 0L) {
    fl_abort("table", paste0(name, " cannot be flipped: it has one column."),
             advice = "With flip = TRUE each column of the file becomes a row.")
  }
  if (anyNA(labels) || any(!nzchar(trimws(labels)))) {
    bad <- which(is.na(labels) | !nzchar(trimws(labels)))[1L]
    fl_abort("table", paste0("Row ", bad, " of ", name, " has no name, and would become a column."),
             advice = "Name every variable in the first column.")
  }
  numbers <- all(vapply(body, is.numeric, NA))
  cells <- if (numbers) t(as.matrix(body)) else t(vapply(body, as.character, character(nrow(body))))
  out <- as.data.frame(matrix(cells, nrow = length(rows)), stringsAsFactors = FALSE)
  names(out) <- labels
  out <- with_first(if (numbers) out else plain_columns(utils::type.convert(out, as.is = TRUE,
                                                                           na.strings = missing_spellings)),
                    new_word("row", labels), rows)
  out
}

with_first <- function(table, name, values) {
  out <- c(stats::setNames(list(values), name), as.list(table))
  structure(out, class = "data.frame", row.names = .set_row_names(length(values)))
}

# A name that is not taken yet.
new_word <- function(word, taken) utils::tail(make.unique(c(taken, word), sep = "_"), 1L)

row_names_of <- function(table) {
  names <- if (is.matrix(table)) rownames(table)
  else if (.row_names_info(table) > 0L) as.character(attr(table, "row.names"))
  if (is.null(names) || identical(names, as.character(seq_along(names)))) NULL else names
}

# --- missing values

# Spellings the user gives hold for every column, text or number.
apply_blanks <- function(table, blanks, name) {
  if (is.null(blanks)) {
    return(list(table = table, said = NULL))
  }
  if (!is.atomic(blanks) || length(blanks) == 0L || anyNA(blanks)) {
    fl_abort("argument", "`blanks` must hold the spellings of a missing value, as in c(\"-999\", \"?\").",
             found = paste0("It is ", shape_of(blanks), "."))
  }
  words <- as.character(blanks)
  numbers <- as_number(words)
  cells <- 0L
  for (column in names(table)) {
    values <- table[[column]]
    hit <- if (is.numeric(values)) values %in% numbers[!is.na(numbers)] else as.character(values) %in% words
    hit <- hit & !is.na(values)
    if (any(hit)) {
      cells <- cells + sum(hit)
      values[hit] <- NA
      table[[column]] <- if (is.character(values)) freed_numbers(values) else values
    }
  }
  if (cells == 0L) {
    fl_abort("argument", paste0("None of the `blanks` stands in ", name, "."),
             found = paste0("Looked for: ", listed(quoted(words)), "."))
  }
  list(table = table, said = paste0(listed(quoted(words), "or"), " in ", counted(cells, "cell"), " counted as missing"))
}

# A column that holds numbers but for the missing values was meant to be one.
freed_numbers <- function(values) {
  present <- values[!is.na(values)]
  numbers <- as_number(present)
  if (length(present) == 0L || anyNA(numbers) || any(grepl("^-?0[0-9]", present))) values
  else as_number(values)
}

placeholder_words <- c("-", "--", "---", ".", "..", "?", "*", "#", "missing", "unknown", "none", "nil", "nd", "n.d.",
                       "na", "n.a.", "not available", "not measured", "#value!", "#div/0!", "#ref!", "#num!", "#null!",
                       "#name?")

# Number columns spoilt by a usual word for "missing" are numbers; print() tells what was done.
detect_blanks <- function(table) {
  said <- character()
  for (column in names(table)[vapply(table, is.character, NA)]) {
    values <- table[[column]]
    words <- unique(values[!is.na(values) & is.na(as_number(values))])
    if (length(words) %in% 1:3 && all(tolower(trimws(words)) %in% placeholder_words)) {
      wanting <- values %in% words
      if (sum(wanting) < sum(!is.na(values)) / 2) {
        freed <- freed_numbers(ifelse(wanting, NA, values))
        if (is.numeric(freed)) {
          table[[column]] <- freed
          said <- c(said, paste0(listed(quoted(words)), " in ", counted(sum(wanting), "cell"), " of ", column,
                                 " counted as missing"))
        }
      }
    }
  }
  list(table = table, said = said)
}

# Columns of numbers with signs between the thousands, where some value shows which sign is which: "1.234,50" does,
# "1,234" does not, and "123 456" may be a code. Left alone are columns that were given another type (`typed`).
detect_grouped <- function(table, typed = character()) {
  said <- character()
  for (column in setdiff(names(table)[vapply(table, is.character, NA)], typed)) {
    plain <- ungrouped(table[[column]])
    if (!is.null(plain)) {
      said <- c(said, paste0("numbers such as ", quoted(plain$shown), " in ", column))
      table[[column]] <- plain$values
    }
  }
  list(table = table, said = said)
}

ungrouped <- function(values) {
  present <- trimws(values[!is.na(values)])
  blank <- "[ '\u00a0\u202f\u2019]"
  for (way in list(c("[.]", ","), c(",", "[.]"), c(blank, "[.]"), c(blank, ","))) {
    grouped <- paste0("^[-+]?[0-9]{1,3}(", way[1L], "[0-9]{3})+", way[2L])
    every <- paste0("^[-+]?([0-9]{1,3}(", way[1L], "[0-9]{3})+|[0-9]+)(", way[2L], "[0-9]+)?$")
    shows <- grepl(grouped, present, perl = TRUE)
    if (any(shows) && all(grepl(every, present, perl = TRUE)) && !any(grepl("^[-+]?0[0-9]", present))) {
      plain <- sub(way[2L], ".", gsub(way[1L], "", trimws(values), perl = TRUE))
      return(list(values = as_number(plain), shown = present[shows][1L]))
    }
  }
}

# --- types

type_words <- c("number", "category", "ordered", "logical", "date", "text")

# What a column holds. Text with few different values is a category.
column_type <- function(values) {
  if (is.numeric(values)) "number"
  else if (inherits(values, c("Date", "POSIXt", "difftime"))) "date"
  else if (is.logical(values)) "logical"
  else if (is.ordered(values)) "ordered"
  else if (is.factor(values)) "category"
  else if (is.character(values) && is_category(values)) "category"
  else "text"
}

category_most_levels <- 50L

is_category <- function(values) {
  values <- as.character(values)
  present <- values[!is.na(values)]
  if (length(present) == 0L) {
    return(FALSE)
  }
  levels <- unique(present)
  length(levels) <= category_most_levels && length(levels) <= max(2L, length(present) / 2) && max(nchar(levels)) <= 60L
}

apply_types <- function(table, types, name) {
  if (is.null(types)) {
    return(table)
  }
  if (!(is.character(types) || is.list(types)) || is.null(names(types))) {
    fl_abort("argument", "`types` must be named, as in list(station = \"category\", ice = c(\"thin\", \"thick\")).",
             found = paste0("It is ", shape_of(types), "."))
  }
  for (column in names(types)) {
    check_column(column, names(table), "types", name)
    table[[column]] <- as_type(table[[column]], types[[column]], column, name)
  }
  table
}

as_type <- function(values, type, column, name) {
  if (length(type) > 1L) {
    return(as_ordered(values, as.character(type), column, name))
  }
  if (rlang::is_string(type) && grepl("%", type, fixed = TRUE)) {
    return(as_day(values, type, column, name))
  }
  check_choice(type, type_words, paste0("types: ", column))
  switch(type,
    number = as_numbers(values, column, name),
    category = factor(as.character(values)),
    ordered = as_ordered(values, natural_order(values, column), column, name),
    logical = as_truth_values(values, column, name),
    date = as_day(values, "%Y-%m-%d", column, name),
    text = as.character(values)
  )
}

refuse_type <- function(column, name, wanted, row, value, advice = NULL) {
  fl_abort("column", paste0("Column ", quoted(column), " of ", name, " cannot be read as ", wanted, "."),
           found = paste0("Row ", row, " holds ", quoted(as.character(value)), "."), advice = advice)
}

decimal_comma <- "^[-+]?[0-9]*,[0-9]+$"

# Decimal commas are understood where the user says that these are numbers, unless all may be commas between thousands.
as_numbers <- function(values, column, name) {
  numbers <- if (is.numeric(values) || is.logical(values)) as.double(values) else as_number(values)
  commas <- is.na(numbers) & !is.na(values)
  unclear <- all(grepl("^-?[1-9][0-9]{0,2}(,[0-9]{3})+$", trimws(values[commas])))
  if (any(commas) && !unclear && all(grepl(decimal_comma, trimws(values[commas])))) {
    numbers[commas] <- as_number(sub(",", ".", values[commas], fixed = TRUE))
  }
  bad <- which(is.na(numbers) & !is.na(values))[1L]
  if (!is.na(bad)) refuse_type(column, name, "numbers", bad, values[bad], "Correct it, or give it as one of `blanks`.")
  numbers
}

natural_order <- function(values, column) {
  if (is.factor(values)) {
    return(levels(values))
  }
  present <- unique(values[!is.na(values)])
  if (!is.numeric(present)) {
    fl_abort("argument", paste0("The order of the values of ", quoted(column), " is not known."),
             found = paste0("They are ", listed(quoted(utils::head(sort(as.character(present)), 12L))), "."),
             advice = paste0("Give them in their order: types = list(", column, " = c(\"low\", \"high\"))."))
  }
  as.character(sort(present))
}

as_ordered <- function(values, levels, column, name) {
  bad <- which(!is.na(values) & !as.character(values) %in% levels)[1L]
  if (!is.na(bad)) {
    refuse_type(column, name, paste("one of", listed(quoted(levels))), bad, values[bad], "Name every value in `types`.")
  }
  factor(as.character(values), levels = levels, ordered = TRUE)
}

as_truth_values <- function(values, column, name) {
  if (is.logical(values)) {
    return(values)
  }
  present <- unique(values[!is.na(values)])
  yes <- c("true", "t", "yes", "y", "1")
  no <- c("false", "f", "no", "n", "0")
  words <- tolower(as.character(values))
  bad <- which(!is.na(values) & !words %in% c(yes, no))[1L]
  if (!is.na(bad)) {
    refuse_type(column, name, "true and false", bad, values[bad],
                if (length(present) == 2L) "For two other values use \"category\".")
  }
  ifelse(is.na(values), NA, words %in% yes)
}

as_day <- function(values, format, column, name) {
  if (inherits(values, c("Date", "POSIXt"))) {
    return(values)
  }
  timed <- grepl("%[HIMSTRp]", format)
  days <- if (timed) as.POSIXct(as.character(values), format = format, tz = "UTC")
  else as.Date(as.character(values), format = format)
  bad <- which(is.na(days) & !is.na(values))[1L]
  if (!is.na(bad)) {
    refuse_type(column, name, paste0("a date of the form ", format), bad, values[bad],
                paste0("Give its form, as in types = list(", column, " = \"%d.%m.%Y\")."))
  }
  days
}

as_number <- function(values) suppressWarnings(as.numeric(as.character(values)))

# The first row whose value is no number.
first_text <- function(values) which(!is.na(values) & is.na(as_number(values)))[1L]
