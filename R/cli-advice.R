# Advice is written as R, which does what it says as it stands. In the shell the same advice is given in options.

advice_calls <- c("fl_sift(data)" = "--json", "fl_set_apart(data, rows, reason)" = "--keep", " in fl_prepare()" = "")

# `transform = c(depth = "log")` becomes --transform depth=log; other text stays as it is.
in_shell <- function(text) {
  for (call in names(advice_calls)) text <- gsub(call, advice_calls[[call]], text, fixed = TRUE)
  vapply(text, one_in_shell, "", USE.NAMES = FALSE)
}

one_in_shell <- function(text) {
  known <- shell_settings()
  text <- bare_settings(text, known)
  setting <- paste0("(?:fl_(?:data|prepare)\\()?\\b(", paste(names(known), collapse = "|"), ") = ")
  done <- ""
  repeat {
    at <- regexpr(setting, text, perl = TRUE)
    if (at < 0L) {
      return(paste0(done, text))
    }
    name <- substr(text, attr(at, "capture.start"), attr(at, "capture.start") + attr(at, "capture.length") - 1L)
    called <- grepl("^fl_", regmatches(text, at))
    rest <- substring(text, at + attr(at, "match.length"))
    value <- leading_value(rest)
    rest <- substring(rest, nchar(value) + 1L)
    if (called) rest <- sub("^\\s*\\)", "", rest)
    if (nzchar(value)) rest <- gsub("^( or )\"([a-z_]+)\"", "\\1\\2", rest)
    done <- paste0(done, substr(text, 1L, at - 1L), paste(c(known[[name]], shell_value(value)), collapse = " "))
    text <- rest
  }
}

# The arguments of fl_data() and fl_prepare() that the shell has, as options.
shell_settings <- function() {
  options <- vapply(c(options_table, options_prepare), `[[`, "", "name")
  said <- stats::setNames(paste0("--", with_hyphens(options)), options)
  c(said[names(said) != "column_weights"], weights = said[["column_weights"]])
}

# Settings named without a value: `columns`, "with use".
bare_settings <- function(text, known) {
  for (name in names(known)) text <- gsub(paste0("`", name, "`"), known[[name]], text, fixed = TRUE)
  for (name in c("features", "use", "truth")) {
    text <- gsub(paste0("\\b(with|in|or) ", name, "\\b(?! =)"), paste("\\1", known[[name]]), text, perl = TRUE)
  }
  text
}

# As it would be typed: the option alone means TRUE, and "none" means FALSE.
shell_value <- function(value) {
  parsed <- tryCatch(rlang::parse_expr(value), error = function(e) NULL)
  if (is.null(parsed) || isTRUE(parsed)) {
    return(NULL)
  }
  if (isFALSE(parsed)) {
    return("none")
  }
  words <- if (is.call(parsed)) vapply(as.list(parsed)[-1L], shell_piece, "") else shell_piece(parsed)
  named <- nzchar(rlang::names2(words))
  shell_word(paste0(ifelse(named, paste0(names(words), "="), ""), words, collapse = ","))
}

shell_piece <- function(piece) {
  if (is.call(piece)) paste(vapply(as.list(piece)[-1L], as.character, ""), collapse = "<") else as.character(piece)
}
