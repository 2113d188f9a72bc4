# Options carry the names of the R arguments. Text with commas is a list; name=value pairs are a named list; JSON
# (["a,b"]) is for names that hold a comma.

option <- function(name, help, default = NULL, flag = FALSE) {
  list(name = name, help = help, default = default, flag = flag)
}

# How the table is read: for every verb that reads one.
options_reading <- list(
  option("sheet", "sheet of an Excel file, by name or number"),
  option("query", "table or SELECT, for an SQLite file"),
  option("columns", "names of all columns, for a file without a header line: a,b (or none)"),
  option("types", "station=category,ice=none<thin<thick,day=%d.%m.%Y"),
  option("flip", "rows are variables: turn the table over", flag = TRUE),
  option("widen", "one row per measurement: its subject, measure and value (cast,depth,salinity)"),
  option("blanks", "what means missing in this table: -999,?"),
  option("reading", "separator=semicolon,decimal=comma,encoding=latin1,skip=2")
)

options_roles <- list(
  option("truth", "column with known classes"),
  option("id", "column that identifies the rows"),
  option("aside", "columns to keep, not to fit: a,b or a pattern such as \"depth_*\""),
  option("features", "columns to cluster: a,b or 2-7; numbers,a: a beside all number columns (the default)"),
  option("units", "units for axes: temperature=C,salinity=g/kg"),
  option("keep", "rows that take part: \"depth < 50\"")
)

# The table of the examples; positions and depth would make groups of their own.
example_table <- "water_samples.csv --truth water_mass --id sample --aside longitude,latitude,depth"

options_table <- c(options_roles, options_reading,
                   list(option("prepare", "YAML file with roles and preparation; options given here come before it")))

options_prepare <- list(
  option("use", "features to use: a,b"),
  option("scale", "mean_sd (default), median_iqr, unit_range or none"),
  option("missing", "rows with a missing value: drop (default), middle, nearest or stop"),
  option("categories", "indicators, ranks or drop: cargo=drop,... or one for all"),
  option("transform", "log, log1p, square_root, rank or power: turbidity=log,... or one for all"),
  option("outliers", "keep (default), winsorise or drop"),
  option("reduce", "principal components: how many, or the share of spread to keep"),
  option("column_weights", "what a column counts: density=0.5,...")
)

option_seed <- option("seed", "whole number; the same seed gives the same result", "1")

options_fit <- list(
  option("restarts", "seeded starts; left out, the method's own number"),
  option("seeding", "where k-means begins: spread (default), rows, partition or splits"),
  option("metric", "euclidean (default), cosine or correlation; medoids also manhattan, chebyshev"),
  option("settings", "other settings of the method: search=evolution,max_rounds=500,..."),
  option_seed
)

methods_known <- function() listed(names(built_in("method")), "or", most = Inf)

table_endings <- "(.csv, .tsv, .xlsx, .parquet, .json)"

names_help <- "names of the groups: a,b,... or 2=basin,... or suggested, classes, or an earlier model (.json)"

option_decimal <- option("decimal", "of a CSV file: point, or comma with semicolons between the fields", "point")
sign_of <- function(options) {
  if (!options$decimal %in% c("point", "comma")) usage_error("--decimal must be point or comma.")
  if (options$decimal == "comma") "," else "."
}

export_by <- function(x, file, options, what = "rows") {
  sign <- if (tolower(tools::file_ext(file)) == "csv") sign_of(options) else "."
  fl_export(x, file, what, formulas = options$formulas, decimal = sign)
}

formulas_help <- "text a spreadsheet would run: neutralise, refuse or keep"

options_output <- list(option("json", "print JSON on standard output", flag = TRUE),
                       option("help", "show this", flag = TRUE))

parse_options <- function(verb, arguments) {
  parser <- optparse::OptionParser(option_list = lapply(c(verb$options, options_output), as_optparse),
                                   add_help_option = FALSE)
  check_known(verb, arguments)
  arguments <- with_underscores(arguments)
  parsed <- tryCatch(
    optparse::parse_args(parser, args = arguments, positional_arguments = TRUE, print_help_and_exit = FALSE),
    error = function(e) usage_error(paste0(capital(sub("^.*: ", "", conditionMessage(e))), ". See fjordline ",
                                           verb$name, " --help."))
  )
  list(files = parsed$args, options = parsed$options)
}

as_optparse <- function(o) {
  optparse::make_option(paste0("--", o$name), type = if (o$flag) "logical" else "character",
                        action = if (o$flag) "store_true" else "store",
                        default = if (o$flag) FALSE else o$default, help = o$help)
}

# Options are written with hyphens; underscores work as well.
with_underscores <- function(arguments) {
  long <- grepl("^--[a-z]", arguments)
  arguments[long] <- paste0("--", vapply(sub("^--", "", arguments[long]), function(one) {
    name <- sub("=.*$", "", one)
    paste0(gsub("-", "_", name, fixed = TRUE), substring(one, nchar(name) + 1L))
  }, ""))
  arguments
}

with_hyphens <- function(name) gsub("_", "-", name, fixed = TRUE)

check_known <- function(verb, arguments) {
  known <- paste0("--", with_hyphens(vapply(c(verb$options, options_output), `[[`, "", "name")))
  given <- with_hyphens(sub("=.*$", "", grep("^--", arguments, value = TRUE)))
  for (one in setdiff(given, known)) {
    usage_error(paste0("fjordline ", verb$name, " has no option ", one, ". ",
                       did_you_mean(one, known, "Its options are")))
  }
}

cli_help <- function(verb) {
  all <- c(verb$options, options_output)
  key <- vapply(all, `[[`, "", "name")
  name <- vapply(all, function(o) paste0("--", with_hyphens(o$name), if (!o$flag) paste0(" ", taken_by(o$name))), "")
  help <- vapply(all, function(o) paste0(o$help, if (!is.null(o$default)) paste0(" [", o$default, "]")), "")
  lines <- table_lines(list(name, help), header = FALSE)
  heading <- option_heading(key)
  sections <- lapply(intersect(c("this verb", names(option_headings)), heading), function(one) {
    c(paste0(one, ":"), lines[heading == one], "")
  })
  c(paste0("fjordline ", verb$name, ": ", verb$summary), "",
    paste0("usage: fjordline ", paste(c(verb$name, verb$files), collapse = " "), " [options]"), "",
    unlist(sections), "example:", paste0("  ", verb$example))
}

# Under which heading an option stands in the help; what is not here belongs to its verb.
option_headings <- list(
  `the table` = function() names_of_options(options_table), preparation = function() names_of_options(options_prepare),
  method = function() c("method", "methods", names_of_options(options_fit)),
  output = function() c("out", "model", "figures", "report", "export", "centres", "formulas", "decimal", "title",
                        names_of_options(options_output))
)

names_of_options <- function(options) vapply(options, `[[`, "", "name")

option_heading <- function(keys) {
  out <- rep("this verb", length(keys))
  for (heading in names(option_headings)) out[keys %in% option_headings[[heading]]()] <- heading
  out
}

# What an option takes, in one word.
taken_by <- function(key) {
  words <- list(
    FILE = c("out", "model", "report", "export", "centres", "prepare", "store", "saved"),
    FOLDER = "figures",
    NUMBER = c("seed", "restarts", "repeats", "workers", "sets", "samples", "sample_rows", "most", "port", "most_rules",
               "level", "reach"),
    COLUMN = c("truth", "id", "column", "groups"), COUNTS = c("k", "named_k"),
    LIST = c("aside", "features", "use", "methods", "indices", "columns", "rule_columns", "ids", "group", "blanks",
             "widen", "beside"),
    PAIRS = c("types", "reading", "units", "categories", "transform", "column_weights", "weights", "settings", "other"),
    CONDITION = c("keep", "where")
  )
  hit <- names(words)[vapply(words, function(of) key %in% of, NA)]
  if (length(hit) > 0L) hit else "WORD"
}

# --- values

split_list <- function(text) {
  if (is.null(text)) {
    return(NULL)
  }
  if (startsWith(text, "[")) {
    return(tryCatch(as.character(jsonlite::fromJSON(text)),
                    error = function(e) usage_error(paste0(text, " is not a JSON list."))))
  }
  trimws(strsplit(text, ",", fixed = TRUE)[[1L]])
}

split_pairs <- function(text) {
  parts <- split_list(text)
  if (is.null(parts) || !any(grepl("=", parts, fixed = TRUE))) {
    return(parts)
  }
  stats::setNames(sub("^[^=]*=", "", parts), sub("=.*$", "", parts))
}

split_counts <- function(text, name = "k") {
  counts_in(text) %||%
    usage_error(paste0("--", name, " must be a count, a list or a range, as in 5, 2,3,5 or 1-10; it is ", quoted(text),
                       "."))
}

split_numbers <- function(text, name, example) {
  pairs <- split_pairs(text)
  if (is.null(pairs)) {
    return(NULL)
  }
  numbers <- stats::setNames(suppressWarnings(as.numeric(pairs)), names(pairs))
  if (is.null(names(pairs)) || anyNA(numbers)) usage_error(paste0("--", name, " must be name=number pairs, as in ",
                                                                  example, "."))
  numbers
}

split_number <- function(text, name) {
  number <- suppressWarnings(as.numeric(text))
  if (is.na(number)) usage_error(paste0("--", name, " must be a number; it is ", quoted(text), "."))
  number
}

yes_or_no <- function(text, name) {
  if (!text %in% c("yes", "no")) usage_error(paste0("--", name, " must be yes or no; it is ", quoted(text), "."))
  text == "yes"
}

# --- from options to objects

# The table with its roles: what the YAML file says, and over it what the options say.
cli_data <- function(file, options, reader = fl_data) {
  asked <- cli_setup(options)
  given <- list(truth = options$truth, id = options$id, aside = split_list(options$aside),
                features = split_list(options$features), units = split_pairs(options$units))
  given <- c(given, cli_reading(options))
  table <- c(asked$table[setdiff(names(asked$table), "file")], list())
  table[names(Filter(Negate(is.null), given))] <- Filter(Negate(is.null), given)
  data <- data_as(table, options$prepare, file, reader)
  if (!is.null(options$keep)) data <- keep_as_asked(data, options$keep)
  data
}

# What a verb that only reads gets: the table as a data frame.
cli_table <- function(file, options) {
  how <- cli_reading(options)
  read <- read_source(file, how)
  table <- shape_table(read, basename(file), how$columns, isTRUE(how$flip), how$widen, how$blanks, how$types)$table
  check_table(table, basename(file))
  table
}

cli_reading <- function(options) {
  columns <- split_list(options$columns)
  if (identical(columns, "none")) columns <- FALSE
  types <- split_pairs(options$types)
  if (!is.null(types)) types <- lapply(strsplit(types, "<", fixed = TRUE), trimws)
  Filter(Negate(is.null), list(
    sheet = options$sheet, query = options$query, columns = columns, types = types,
    flip = if (isTRUE(options$flip)) TRUE, widen = split_list(options$widen),
    blanks = split_list(options$blanks), reading = split_pairs(options$reading)
  ))
}

cli_setup <- function(options) if (is.null(options$prepare)) list() else read_setup(options$prepare)

keep_as_asked <- function(data, text) fl_keep(data, !!condition_of(text, "keep"))

condition_of <- function(text, name) {
  tryCatch(rlang::parse_expr(text), error = function(e) {
    usage_error(paste0("--", name, " must be a condition, as in \"depth < 50\"; it is ", quoted(text), "."))
  })
}

cli_ready <- function(data, options) {
  given <- list(
    use = split_list(options$use), scale = options$scale, missing = options$missing,
    categories = split_pairs(options$categories), transform = split_pairs(options$transform),
      outliers = options$outliers,
    reduce = if (!is.null(options$reduce)) split_number(options$reduce, "reduce"),
    weights = split_numbers(options$column_weights, "column_weights", "density=0.5,salinity=0.5")
  )
  asked <- as.list(cli_setup(options)$prepare)
  asked[names(Filter(Negate(is.null), given))] <- Filter(Negate(is.null), given)
  prepare_as(data, asked)
}

# Whether anything of a preparation was asked for.
asks_preparation <- function(options) {
  names <- vapply(options_prepare, `[[`, "", "name")
  !all(vapply(options[names], is.null, NA)) || !is.null(cli_setup(options)$prepare)
}

# The methods named, with the settings given where a method has them.
cli_methods <- function(options) {
  settings <- c(
    list(restarts = if (!is.null(options$restarts)) split_number(options$restarts, "restarts"),
         seeding = options$seeding, metric = options$metric),
    split_settings(options$settings)
  )
  settings <- Filter(Negate(is.null), settings)
  keys <- split_list(options$methods %||% options$method %||% usual_method())
  known <- unique(unlist(lapply(keys, function(key) names(fl_method(key)$settings))))
  for (name in names(settings)) check_choice(name, known, "settings", what = "method")
  lapply(keys, function(key) {
    own <- fl_method(key)$settings
    given <- settings[intersect(names(settings), names(own))]
    changed <- given[!mapply(function(a, b) isTRUE(all.equal(a, b)), given, own[names(given)])]
    do.call(fl_method, c(key, changed))
  })
}

split_settings <- function(text) {
  pairs <- split_pairs(text)
  if (!is.null(pairs) && is.null(names(pairs))) {
    usage_error("--settings must be name=value pairs, as in search=evolution,max_rounds=500.")
  }
  lapply(pairs, function(value) {
    number <- suppressWarnings(as.numeric(value))
    if (is.na(number)) value else number
  })
}

cli_seed <- function(options) split_number(options$seed, "seed")

# The options of a call as they would be typed again: those of the kinds named that differ from their defaults.
typed_again <- function(options, kinds) {
  said <- lapply(kinds, function(o) {
    value <- options[[o$name]]
    if (isTRUE(value)) paste0("--", o$name)
    else if (!is.null(value) && !isFALSE(value) && !identical(value, o$default)) paste0("--", o$name, " ",
                                                                                        shell_word(value))
  })
  paste(unlist(said), collapse = " ")
}

shell_word <- function(value) if (grepl("^[A-Za-z0-9_.,=/%:+@-]+$", value)) value else shQuote(value)

# The next command, with the roles and the preparation of this one.
next_command <- function(verb, file, options, kinds, ...) {
  words <- c("Next: fjordline", verb, shell_word(file), typed_again(options, kinds), ...)
  paste(words[nzchar(words)], collapse = " ")
}

usage_error <- function(message) {
  rlang::abort(message, class = "fjordline_usage", call = NULL, use_cli_format = FALSE)
}
