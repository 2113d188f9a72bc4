verb_rows <- function() {
  list(
    summary = "the rows of a group, of an identifier, the most typical, the least certain, those that disagree",
    files = "FILE",
    options = c(options_group(), list(
      option("group", "groups by number or name: 2,3"), option("ids", "identifiers: WS-1003,WS-1010"),
      option("where", "a condition: \"depth > 4\""), option("kind", "typical, boundary or mismatch"),
      option("most", "how many rows of a kind", "5"), option("out", paste("table of the rows", table_endings)),
      option("formulas", formulas_help, "neutralise")
    )),
    example = "fjordline rows water_samples.csv --id sample --truth water_mass --k 5 --kind typical",
    run = function(files, options) {
      if (!is.null(options$out)) file_form(options$out, table_forms)
      partition <- cli_partition(files, options)
      where <- if (!is.null(options$where)) condition_of(options$where, "where")
      rows <- fl_rows(partition, group = asked_groups(options$group), id = split_list(options$ids), where = !!where,
                      kind = options$kind, most = split_number(options$most, "most"))
      if (!is.null(options$out)) export_table(rows, options$out, options$formulas)
      if (options$json) cat_json(list(rows = rows))
      else write_lines(c(paste0(counted(nrow(rows), "row"), " of ", partition$ready$data$name, "."), row_lines(rows)))
      cli_written(c(table = options$out) %||% character(), options)
    }
  )
}

# Numbers where all are numbers, else names.
asked_groups <- function(text) {
  words <- split_list(text)
  numbers <- suppressWarnings(as.integer(words))
  if (length(words) == 0L) NULL else if (anyNA(numbers)) words else numbers
}

# The first rows and the columns that fit the terminal.
row_lines <- function(rows, most = 30L) {
  shown <- utils::head(rows, most)
  cells <- lapply(shown, function(v) if (is.numeric(v) && !is.integer(v)) digits3(v) else format(v))
  number <- names(rows)[vapply(rows, is.numeric, NA)]
  fits <- length(cells)
  repeat {
    lines <- table_lines(cells[seq_len(fits)], right = number)
    if (fits == 1L || max(nchar(lines)) <= print_width()) break
    fits <- fits - 1L
  }
  left <- c(if (nrow(rows) > most) counted(nrow(rows) - most, "more row"),
            if (length(cells) > fits) counted(length(cells) - fits, "more column"))
  c(lines, if (length(left) > 0L) paste0("  and ", listed(left), ": --out or --json has all"))
}
