# The catalogue of methods as the README shows it.

readme_methods <- function() {
  methods <- fl_methods()
  methods <- methods[!methods$yours, ]
  c("| key | groups it sees | use it when |", "|---|---|---|",
    paste0("| `", methods$key, "` | ", methods$shape, " | ", methods$when, " |"))
}

# The lines of a file with those between `<!-- name -->` and `<!-- end of name -->` replaced.
between_marks <- function(lines, name, new) {
  ends <- match(paste0("<!-- ", c("", "end of "), name, " -->"), lines)
  c(lines[seq_len(ends[1L])], "", new, "", lines[ends[2L]:length(lines)])
}
