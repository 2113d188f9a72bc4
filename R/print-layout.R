# How results are laid out as text. Every print method makes plain lines with format() and writes them here; colour is
# added only when the terminal has it.

write_lines <- function(lines) {
  lines <- visible(lines)
  if (length(lines) > 0L) {
    headline <- wrapped(lines[1L], indent = 2L, width = print_width())
    lines <- c(cli::style_bold(headline), lines[-1L])
  }
  hint <- startsWith(lines, "Next: ")
  lines[hint] <- cli::col_cyan(lines[hint])
  cat(lines, sep = "\n")
}

print_width <- function() max(60L, min(cli::console_width(), 130L))

# Sentences as wrapped lines, later lines of a sentence indented.
sentence_lines <- function(sentences) unlist(lapply(sentences, wrapped, indent = 2L, width = print_width()))

next_line <- function(...) wrapped(paste0("Next: ", paste(c(...), collapse = ", ")), indent = 6L, width = print_width())

# Columns side by side: text to the left, numbers to the right.
table_lines <- function(columns, right = character(), header = TRUE, indent = 2L) {
  cells <- Map(function(values, name) {
    values <- c(if (header) name, as.character(values))
    values[is.na(values)] <- "-"
    cli::ansi_align(values, max(cli::ansi_nchar(values)), align = if (name %in% right) "right" else "left")
  }, unname(columns), rlang::names2(columns))
  body <- do.call(paste, c(cells, sep = "  "))
  sub("\\s+$", "", paste0(strrep(" ", indent), body))
}

# The last column wraps below itself.
hanging_lines <- function(label, text, indent = 2L) {
  width <- max(nchar(label))
  unlist(use.names = FALSE, Map(function(one, said) {
    lines <- strwrap(said, width = max(30L, print_width() - width - indent - 2L))
    if (length(lines) == 0L) lines <- ""
    paste0(strrep(" ", indent), formatC(c(one, rep("", length(lines) - 1L)), width = -width), "  ", lines)
  }, label, text))
}
