# What each column is for. Columns are named, numbered by position, or matched by a pattern with * and ?.

check_column <- function(column, columns, argument, name) {
  if (!column %in% columns) {
    fl_abort("column", paste0("There is no column ", quoted(column), "."),
             found = paste0(argument, " = ", quoted(column), " must name a column of ", name, "."),
             advice = did_you_mean(column, columns, "Its columns are"))
  }
}

# Names, positions or patterns as names of columns of the table.
check_columns <- function(columns, table, argument, name, one = FALSE) {
  if (is.null(columns)) {
    return(character())
  }
  if (is.numeric(columns)) columns <- columns_at(columns, names(table), argument, name)
  if (!is.character(columns) || anyNA(columns)) {
    fl_abort("column", paste0("`", argument, "` must be ", if (one) "the name of one column." else "names of columns."),
             found = paste0("It is ", shape_of(columns), "."))
  }
  found <- unique(unlist(lapply(columns, matching_columns, names(table), argument, name)))
  if (one && length(found) != 1L) {
    fl_abort("column", paste0("`", argument, "` must be the name of one column."),
             found = paste0("It is ", shape_of(found), "."))
  }
  found
}

columns_at <- function(places, columns, argument, name) {
  bad <- places[is.na(places) | places != round(places) | places < 1 | places > length(columns)]
  if (length(bad) > 0L) {
    fl_abort("column", paste0("There is no column ", bad[1L], "."),
             found = paste0(argument, ": ", name, " has columns 1 to ", length(columns), "."))
  }
  columns[places]
}

matching_columns <- function(column, columns, argument, name) {
  if (!column %in% columns && grepl("^[0-9]+(-[0-9]+)?$", column)) {
    ends <- as.numeric(strsplit(column, "-", fixed = TRUE)[[1L]])
    return(columns_at(ends[1L]:ends[length(ends)], columns, argument, name))
  }
  if (column %in% columns || !grepl("[*?]", column)) {
    check_column(column, columns, argument, name)
    return(column)
  }
  found <- grep(utils::glob2rx(column), columns, value = TRUE)
  if (length(found) == 0L) {
    fl_abort("column", paste0("No column matches the pattern ", quoted(column), "."),
             found = paste0(argument, " must match a column of ", name, "."),
             advice = paste0("Its columns are ", listed(quoted(columns)), "."))
  }
  found
}

# Exact names come before patterns: features = "*" takes what has no other role.
assign_roles <- function(table, truth, id, aside, features, name) {
  if (is.character(features) && every_number %in% features && !every_number %in% names(table)) {
    types <- vapply(table, column_type, "")
    features <- c(setdiff(names(table)[types == "number"], unlist(list(truth, id, aside))),
                  setdiff(features, every_number))
  }
  given <- list(
    truth = check_columns(truth, table, "truth", name, one = TRUE),
    id = check_columns(id, table, "id", name, one = TRUE),
    aside = check_columns(aside, table, "aside", name), feature = check_columns(features, table, "features", name)
  )
  given <- pattern_yields(given, list(aside = aside, feature = features))
  named <- unlist(given, use.names = FALSE)
  if (anyDuplicated(named)) {
    twice <- named[duplicated(named)][1L]
    fl_abort("column", paste0("Column ", quoted(twice), " is given two roles."),
             found = listed(rep(names(given), lengths(given))[named == twice]), advice = "A column has one role.")
  }
  if (length(given$truth) > 0L && all(is.na(table[[given$truth]]))) {
    fl_abort("column", paste0("The truth column ", quoted(given$truth), " of ", name, " holds no value."),
             advice = "Name another column, or leave truth out.")
  }
  roles <- tibble::tibble(column = names(table), role = NA_character_, type = vapply(table, column_type, "",
                                                                                     USE.NAMES = FALSE),
                          by = "you")
  for (role in names(given)) roles$role[roles$column %in% given[[role]]] <- role
  open <- is.na(roles$role)
  roles$by[open] <- "default"
  roles$role[open] <- ifelse(roles$type[open] == "number" & is.null(features), "feature", "aside")
  check_features(table, roles, name)
  roles
}

every_number <- "numbers"  # a word for all number columns, beside names in `features`

# A column caught by a pattern only keeps the role it was given by name.
pattern_yields <- function(given, asked) {
  for (role in names(asked)) {
    by_name <- if (is.character(asked[[role]])) intersect(asked[[role]], given[[role]]) else given[[role]]
    elsewhere <- unlist(given[setdiff(names(given), role)], use.names = FALSE)
    given[[role]] <- setdiff(given[[role]], setdiff(elsewhere, by_name))
  }
  given
}

feature_types <- c("number", "logical", "category", "ordered")

check_features <- function(table, roles, name) {
  chosen <- roles$column[roles$role == "feature"]
  wrong <- chosen[!roles$type[match(chosen, roles$column)] %in% feature_types]
  if (length(wrong) > 0L) refuse_feature(table[[wrong[1L]]], wrong[1L], roles$type[roles$column == wrong[1L]])
  for (column in chosen[roles$type[match(chosen, roles$column)] == "category"]) {
    if (is.character(table[[column]]) && mean(!is.na(as_number(table[[column]]))) > 0.5) {
      refuse_feature(table[[column]], column, "text")
    }
  }
  if (length(chosen) == 0L) {
    fl_abort("column", paste0(name, " has no number column to cluster."),
             found = paste0("Its columns: ", listed(paste0(roles$column, " (", roles$type, ", ", roles$role, ")")),
                            "."),
             advice = "Name the features, or correct columns whose numbers are stored as text.")
  }
}

refuse_feature <- function(values, column, type) {
  row <- if (type == "text") first_text(values) else NA
  fl_abort("column", paste0("Feature ", quoted(column), " is not a number column."),
           found = if (!is.na(row)) paste0("Row ", row, " holds ", quoted(as.character(values[row])), ".")
           else paste0("It holds ", if (type == "date") "dates." else "text."),
           advice = if (type == "date") "fl_dates() takes numbers such as the month out of dates; or keep it aside."
           else paste0("Correct the values or keep the column aside; if they are kinds of things, types = list(",
                       column,
                       " = \"category\")."))
}

columns_of <- function(data, role) data$roles$column[data$roles$role == role]

type_of <- function(data, columns) data$roles$type[match(columns, data$roles$column)]

truth_of <- function(data) {
  column <- columns_of(data, "truth")
  if (length(column) == 0L) NULL else as.character(data$table[[column]])
}

# A column whose values name the rows: text, or long codes, every one another.
suggested_id <- function(data) {
  if (length(columns_of(data, "id")) > 0L) {
    return(NULL)
  }
  open <- data$roles$column[data$roles$by == "default" & data$roles$type == "text"]
  found <- Filter(function(column) {
    values <- data$table[[column]]
    !anyNA(values) && !anyDuplicated(values) && max(nchar(values)) <= 60L
  }, open)
  if (length(found) > 0L) found[1L]
}

# The rows that take part: fl_keep() and fl_set_apart() leave the others in the table, without a group.
taking_part <- function(data) if (is.null(data$apart)) seq_len(nrow(data$table)) else which(is.na(data$apart))

rows_in <- function(data) if (is.null(data$apart)) data$table else data$table[taking_part(data), , drop = FALSE]

features_of <- function(data) rows_in(data)[columns_of(data, "feature")]

# "temperature (°C)", for axes.
with_unit <- function(columns, units) {
  known <- unname(units[columns])
  if (is.null(known)) known <- rep(NA_character_, length(columns))
  ifelse(is.na(known), columns, paste0(columns, " (", known, ")"))
}
