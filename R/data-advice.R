# Advice of the check is R that can be run as it stands. Here it is taken apart.

# The first `name = value` of a text: the value as an expression, by its name; NULL where there is none.
first_setting <- function(text) {
  at <- regexpr("\\b([a-z_]+) = ", text, perl = TRUE)
  if (at < 0L) {
    return(NULL)
  }
  name <- sub(" = $", "", regmatches(text, at))
  value <- leading_value(substring(text, at + attr(at, "match.length")))
  parsed <- tryCatch(rlang::parse_expr(value), error = function(e) NULL)
  if (!is.null(parsed)) stats::setNames(list(parsed), name)
}

# The R value at the head of a text: the longest stretch up to a comma, semicolon or blank that R can read.
leading_value <- function(text) {
  quoted <- "\"(?:[^\"\\\\]|\\\\.)*\""
  call <- paste0("[a-z]*(\\((?:[^()\"]|", quoted, "|(?1))*\\))")
  pattern <- paste0("^(?:", quoted, "|", call, "|[A-Za-z0-9_.:-]*[A-Za-z0-9])")
  found <- regmatches(text, regexpr(pattern, text, perl = TRUE))
  if (length(found) == 1L) found else ""
}
