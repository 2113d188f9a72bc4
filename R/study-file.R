# A study written down in YAML.

#' Read a study from a file
#'
#' A YAML file that says what [fl_study()] would be given.
#'
#' @section The file:
#' ```
#' study: fjord-types                # its name; default: the name of the file
#' seed: 7319                        # default: 1
#' datasets:                         # at least one; each a demo table or what fl_data() takes, with a name
#'   - water_samples
#'   - {name: quakes, file: quakes.csv, truth: source, id: event}
#'   - {name: station, file: station.sqlite, query: SELECT * FROM casts, truth: regime}
#'   - {name: seals, demo: seal_haulouts}
#' preparations:                     # default: one, plain; each what fl_prepare() takes, with a name
#'   - {name: plain, scale: mean_sd}
#'   - {name: physics, scale: median_iqr, use: [salinity, temperature], datasets: [water_samples]}
#' methods:                          # default: kmeans and mixture; settings in a list are tried one by one
#'   - kmeans
#'   - linkage: {join: [ward, average]}
#'   - {name: quick, kmeans: {restarts: 3}}
#' counts: 1-12                      # default: 1-10; also 2,4,8 or [2, 4, 8]
#' repeats: 5                        # default: 1
#' indices: standard                 # default; also fast, all, none or a list of keys
#' agreements: [adjusted_rand]       # default: that and adjusted_mutual_information
#' limits: {seconds: 60, megabytes: 2000}    # of one fit; default: none
#' ```
#' Text with a comma or a colon, such as a query, stands in quotes. A relative `file` lies beside the YAML file.
#' `noise`, of a dataset, names the class of rows that belong to no group; `datasets`, of a preparation, those it is
#' for (default: all).
#' @param path Path of a `.yml` or `.yaml` file.
#' @return What [fl_study()] gives.
#' @section Files from others: Nothing in the file is run; counts, size and depth have bounds. The tables it names
#'   are read from where it says, so look at its paths.
#' @section Errors: `fjordline_error_file` for a file that is not YAML (with the line) or a word that is not known in
#'   its place (naming the nearest one); and the errors of [fl_study()].
#' @examples
#' file <- tempfile(fileext = ".yml")
#' writeLines(c("study: two-tables", "datasets: [water_samples, icequakes]", "methods: [kmeans]", "counts: 2-6",
#'              "indices: fast"), file)
#' fl_study_file(file)
#' @export
fl_study_file <- function(path) {
  check_file(path)
  file_form(path, c("yml", "yaml"))
  asked <- tryCatch(yaml_of(path), error = function(e) {
    refuse_setup(path, gsub("\\s+", " ", conditionMessage(e)))
  })
  check_words(asked, c("study", "seed", "datasets", "preparations", "methods", "counts", "repeats", "indices",
                       "agreements", "limits"), path, "the file")
  if (is.null(asked$datasets)) refuse_setup(path, "It names no datasets.", "As in: datasets: [water_samples]")
  check_words(asked$limits, c("seconds", "megabytes"), path, quoted("limits"))
  if (!is.null(asked$study) && !rlang::is_string(asked$study)) refuse_setup(path, "\"study\" must be one name.")
  if (!is.null(asked$methods) && length(asked$methods) == 0L) refuse_setup(path, "\"methods\" names none.",
                                                                            "As in: methods: [kmeans]")
  parts <- list(
    datasets = lapply(listed_parts(asked$datasets, path, "datasets"), dataset_in_file, path = path),
    preparations = if (!is.null(asked$preparations)) {
      lapply(listed_parts(asked$preparations, path, "preparations"), preparation_in_file, path = path)
    },
    methods = if (!is.null(asked$methods)) methods_in_file(asked$methods, path),
    k = if (!is.null(asked$counts)) counts_in_file(asked$counts, path),
    indices = asked$indices, agreements = asked$agreements, repeats = asked$repeats, seed = asked$seed,
    seconds = asked$limits$seconds, megabytes = asked$limits$megabytes,
    name = asked$study %||% tools::file_path_sans_ext(basename(path))
  )
  do.call(fl_study, parts[!vapply(parts, is.null, NA)])
}

# A list of words and maps, as a list named by what each is called.
listed_parts <- function(part, path, where) {
  part <- as.list(part)
  if (!is.null(names(part))) {
    refuse_setup(path, paste0(capital(quoted(where)), " must be a list, an entry a line that begins with \"-\"."))
  }
  names <- vapply(part, function(one) {
    name <- if (is.list(one)) one$name %||% one$demo else one
    if (!rlang::is_string(name)) refuse_setup(path, paste0("An entry of ", quoted(where), " has no name."),
                                              "As in: - {name: water, file: water.csv}")
    name
  }, "")
  stats::setNames(part, names)
}

dataset_in_file <- function(one, path) {
  if (rlang::is_string(one)) {
    here <- if (one %in% names(demo_tables)) one else path_beside(one, path)
    if (here %in% names(demo_tables) || file.exists(here)) {
      return(here)
    }
    refuse_setup(path, paste0("The dataset ", quoted(one), " is neither a demo table nor a file beside it."),
                 did_you_mean(one, names(demo_tables), "The demo tables are"))
  }
  words <- c("name", "file", "demo", "noise", setdiff(names(formals(fl_data)), c("table", "name")))
  check_words(one, words, path, paste("dataset", quoted(one$name %||% one$demo)))
  if (!is.null(one$demo)) {
    check_words(one, c("name", "demo"), path, paste("demo dataset", quoted(one$name %||% one$demo)))
    return(check_choice(one$demo, names(demo_tables), "demo"))
  }
  if (is.null(one$file)) refuse_setup(path, paste0("The dataset ", quoted(one$name), " names no file."))
  data <- of_dataset(one$name, data_as(one[setdiff(names(one), "noise")], path, NULL))
  list(data, noise = one$noise)
}

preparation_in_file <- function(one, path) {
  if (!is.list(one)) {
    return(list())
  }
  words <- c("name", "datasets", setdiff(names(formals(fl_prepare)), c("data", "name")))
  check_words(one, words, path, paste("preparation", quoted(one$name)))
  for (word in c("transform", "categories", "weights")) one[[word]] <- as_words(one[[word]])
  one[setdiff(names(one), "name")]
}

# kmeans, or {linkage: {join: [ward, average]}}, or {quick: ...} with a name.
methods_in_file <- function(methods, path) {
  unlist(lapply(as.list(methods), function(one) {
    if (rlang::is_string(one)) {
      return(list(one))
    }
    keys <- setdiff(names(one), "name")
    if (!is.list(one) || length(keys) != 1L) refuse_setup(path, "One entry of `methods` is not a method.",
                                                          "As in: - linkage: {join: [ward, average]}")
    settings <- as.list(one[[keys]])
    if (is.null(one$name)) stats::setNames(list(settings), keys)
    else stats::setNames(list(do.call(fl_method, c(keys, settings))), one$name)
  }), recursive = FALSE)
}

counts_in_file <- function(counts, path) {
  read <- if (is.numeric(counts)) counts else counts_in(toString(counts))
  if (is.null(read) || !all(is.finite(read)) || any(read < 1 | read > largest_count) || length(read) > most_counts) {
    refuse_setup(path, paste0("\"counts\" cannot be read: ", toString(utils::head(unlist(counts), 20L)), "."),
                 paste0("As in: counts: 1-12, or counts: 2,4,8; at most ", thousands(most_counts), " counts up to ",
                        thousands(largest_count), "."))
  }
  read
}

# More would be work without an end, and before that a list without an end.
largest_count <- 1e5
most_counts <- 1000L

# 5, 2,3,5 or 1-10; NULL for anything else, and for what cannot be meant.
counts_in <- function(text) {
  text <- gsub("\\s", "", text)
  if (!grepl("^[0-9]+(-[0-9]+)?(,[0-9]+(-[0-9]+)?)*$", text)) {
    return(NULL)
  }
  ends <- lapply(strsplit(strsplit(text, ",", fixed = TRUE)[[1L]], "-", fixed = TRUE), as.numeric)
  if (max(unlist(ends)) > largest_count || sum(vapply(ends, function(e) abs(diff(range(e))) + 1, 0)) > most_counts) {
    return(NULL)
  }
  unlist(lapply(ends, function(e) e[1L]:e[length(e)]))
}
