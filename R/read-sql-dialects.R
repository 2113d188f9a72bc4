# Formulas in SQL, and where databases differ.

# `read`: a column as a number or text whatever it is stored as, NULL where it is neither. `real`: a number that is not
# taken for a decimal fraction. `barrier`: keeps a stage from being written into the next one, where each of its columns
# would be computed as often as it is named.
sql_dialects <- function() {
  list(
    standard = sql_dialect("standard SQL (2008)", text = "VARCHAR(1000)", barrier = "OFFSET 0 ROWS"),
    postgresql = sql_dialect("PostgreSQL", text = "TEXT", barrier = "OFFSET 0"),
    sqlite = sql_dialect("SQLite", read = sqlite_column, real = identity, barrier = "LIMIT -1 OFFSET 0",
                         largest = function(terms) paste0("MAX(", paste(terms, collapse = ", "), ")"),
                         wants_functions = TRUE)
  )
}

sql_dialect <- function(label, text = "TEXT", read = NULL, real = as_double, barrier = "",
                        largest = function(terms) paste0("GREATEST(", paste(terms, collapse = ", "), ")"),
                        wants_functions = FALSE) {
  list(label = label, read = read %||% function(column, type) read_column(column, type, text), real = real,
       barrier = barrier, largest = largest, wants_functions = wants_functions)
}

as_double <- function(e) paste0("CAST(", e, " AS DOUBLE PRECISION)")

sql_truths <- list(`TRUE` = c("true", "TRUE", "t", "1", "1.0"), `FALSE` = c("false", "FALSE", "f", "0", "0.0"))

read_column <- function(column, type, text) {
  as_text <- paste0("CAST(", column, " AS ", text, ")")
  if (type %in% c("category", "ordered")) return(as_text)
  if (type == "logical") return(read_truth(as_text, as_double))
  as_double(column)
}

read_truth <- function(as_text, real) {
  of <- function(truth) paste0(as_text, " IN (", paste(sql_text(sql_truths[[truth]]), collapse = ", "), ")")
  real(paste0("CASE WHEN ", of("TRUE"), " THEN 1.0 WHEN ", of("FALSE"), " THEN 0.0 END"))
}

# A column of SQLite holds values of any type; whole numbers stored as others are categories without a point.
sqlite_column <- function(column, type) {
  integer <- paste0("CAST(", column, " AS INTEGER)")
  whole <- paste0("CASE WHEN typeof(", column, ") = 'real' AND ", column, " = ", integer, " THEN CAST(", integer,
                  " AS TEXT) ELSE CAST(", column, " AS TEXT) END")
  if (type %in% c("category", "ordered")) return(whole)
  if (type == "logical") return(read_truth(paste0("CAST(", column, " AS TEXT)"), identity))
  paste0("CASE WHEN typeof(", column, ") IN ('integer', 'real') OR ", sqlite_numeral(column), " THEN CAST(", column,
         " AS REAL) END")
}

# Text that is a number, as in a CSV file imported without types: digits with at most one point and a sign before them.
sqlite_numeral <- function(column) {
  bare <- paste0("LTRIM(TRIM(", column, "), '+-')")
  paste0("(", bare, " GLOB '*[0-9]*' AND ", bare, " NOT GLOB '*[^0-9.]*' AND ", bare, " NOT GLOB '*.*.*')")
}

sql_name <- function(name) paste0("\"", gsub("\"", "\"\"", name, fixed = TRUE), "\"")

sql_text <- function(text) paste0("'", gsub("'", "''", text, fixed = TRUE), "'")

sql_number <- function(v) {
  if (is.integer(v)) {
    return(as.character(v))
  }
  text <- exact_text(v)
  if (grepl("^-?[0-9]+$", text)) text <- paste(text, "0", sep = ".")
  if (v < 0) paste0("(", text, ")") else text
}

sql_constant <- function(v, dialect) {
  if (is.na(v)) "NULL"
  else if (is.character(v)) sql_text(v)
  else if (is.logical(v)) if (v) "(1 = 1)" else "(1 = 0)"
  else sql_number(v)
}

sql_operators <- c(`+` = "+", `-` = "-", `*` = "*", `/` = "/", `<` = "<", `<=` = "<=", `>` = ">", `>=` = ">=",
                   `==` = "=", `&` = "AND", `|` = "OR")
sql_functions <- c(log = "LN", sqrt = "SQRT", abs = "ABS", power = "POWER", exp = "EXP")

sql_of <- function(formula, dialect) {
  if (is.name(formula)) {
    return(as.character(formula))
  }
  if (!is.call(formula)) {
    return(sql_constant(formula, dialect))
  }
  what <- as.character(formula[[1L]])
  parts <- as.list(formula[-1L])
  if (what == "when") {
    return(sql_case(parts, dialect))
  }
  if (what == "between") {
    return(sql_of(between_formula(parts[[1L]], parts[[2L]], parts[[3L]]), dialect))
  }
  if (what == "among") {
    return(paste0("(", sql_of(parts[[1L]], dialect), " IN (", paste(sql_text(parts[[2L]]), collapse = ", "), "))"))
  }
  given <- vapply(parts, sql_of, "", dialect = dialect)
  if (what %in% names(sql_operators)) paste0("(", given[1L], " ", sql_operators[[what]], " ", given[2L], ")")
  else switch(what, `!` = paste0("(NOT ", given, ")"), is.na = paste0("(", given, " IS NULL)"),
              largest = dialect$largest(given), paste0(sql_functions[[what]], "(", paste(given, collapse = ", "), ")"))
}

sql_case <- function(parts, dialect) {
  n <- length(parts) %/% 2L
  tests <- vapply(parts[2L * seq_len(n) - 1L], sql_of, "", dialect = dialect)
  values <- parts[c(2L * seq_len(n), length(parts))]
  said <- vapply(values, sql_of, "", dialect = dialect)
  out <- paste0("CASE ", paste0("WHEN ", tests, " THEN ", said[seq_len(n)], collapse = " "),
                if (said[n + 1L] != "NULL") paste0(" ELSE ", said[n + 1L]), " END")
  constants <- !vapply(values, is.language, NA)
  if (all(constants) && any(vapply(values, is.double, NA))) dialect$real(out) else paste0("(", out, ")")
}
