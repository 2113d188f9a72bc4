# Verbs that read the groups: profile, outcome, paths, rows.

verb_profile <- function() {
  list(
    summary = "what the groups are like: column by column, which columns tell them apart, which decide", files = "FILE",
    options = c(options_group(), list(option("sets", "reference tables for the tests of features", "99"),
                                      option("figures", "folder for the figures"))),
    example = paste("fjordline profile", example_table, "--k 5 --transform turbidity=log"),
    run = function(files, options) {
      partition <- cli_partition(files, options)
      profile <- fl_profile(partition, sets = split_number(options$sets %||% "99", "sets"), seed = cli_seed(options))
      figures <- if (!is.null(options$figures)) profile_figures(profile)
      written <- write_figures(figures, options$figures)
      cli_show(profile, options, groups = profile$groups, columns = profile$columns, separation = profile$separation)
      if (!options$json) cat(sentence_lines(group_facts(profile)), sep = "\n")
      cli_written(written %||% character(), options)
    }
  )
}

# One group has no columns that tell it apart, and no neighbours.
profile_figures <- function(profile) {
  c(list(profile = autoplot(profile)),
    if (nrow(profile$groups) > 1L) {
      list(separation = autoplot(profile, "separation"), groups = autoplot(profile, "groups"))
    })
}

verb_outcome <- function() {
  list(
    summary = "how a column kept aside differs between the groups, or how they are mixed over time", files = "FILE",
    options = c(options_group(), list(
      option("column", "column kept aside: numbers, categories or dates"), option("level", "of the intervals", "0.95"),
      option("by", "of dates: hour, day, week, month, quarter or year"), option("figures", "folder for the figure")
    )),
    example = "fjordline outcome vessel_visits.csv --k 4 --aside overstay --column overstay",
    run = function(files, options) {
      if (is.null(options$column)) usage_error("--column, the column to compare, is needed.")
      outcome <- fl_outcome(cli_partition(files, options), options$column, split_number(options$level, "level"),
                            options$by)
      written <- write_figures(if (!is.null(options$figures)) list(outcome = autoplot(outcome)), options$figures)
      cli_show(outcome, options, groups = outcome$groups, overall = outcome$overall, test = outcome$test)
      cli_written(written %||% character(), options)
    }
  )
}

verb_paths <- function() {
  list(
    summary = "a few plain rules that say which rows fall into which group", files = "FILE",
    options = c(options_group(), list(
      option("rule_columns", "columns the rules may use: a,b (default: the features)"),
      option("most_rules", "how many rules at most"), option("figures", "folder for the figure")
    )),
    example = paste("fjordline paths", example_table, "--k 5 --transform turbidity=log"),
    run = function(files, options) {
      partition <- cli_partition(files, options)
      most <- if (is.null(options$most_rules)) max(8, 2 * partition$k) else split_number(options$most_rules,
                                                                                        "most_rules")
      paths <- fl_paths(partition, split_list(options$rule_columns), most, cli_seed(options))
      written <- write_figures(if (!is.null(options$figures)) list(paths = autoplot(paths)), options$figures)
      cli_show(paths, options, rules = paths$rules, fidelity = paths$fidelity)
      cli_written(written %||% character(), options)
    }
  )
}

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
    example = paste("fjordline rows", example_table, "--k 5 --kind typical"),
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
