# The catalogue of methods as the README shows it.

readme_methods <- function() {
  methods <- fl_methods()
  methods <- methods[!methods$yours, ]
  c("| key | groups it sees | use it when |", "|---|---|---|",
    paste0("| `", methods$key, "` | ", methods$shape, " | ", methods$when, " |"))
}
