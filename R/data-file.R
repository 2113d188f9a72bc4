# Roles and preparations written down in YAML, so that the same steps run again on next month's table.

#' Read and prepare as a file says
#'
#' A YAML file names what [fl_data()] and [fl_prepare()] would be given: the same words, the same values. Such a file,
#' or its parts, also stands in a study file.
#'
#' @section The file:
#' ```
#' table:
#'   file: water.csv            # may be left out and given by the call
#'   truth: water_mass
#'   id: sample
#'   aside: [station, date, longitude, latitude, depth]
#'   units: {temperature: C, salinity: g/kg}
#' prepare:
#'   scale: median_iqr
#'   transform: {turbidity: log}
#'   missing: nearest
#' ```
#' Both parts may be left out. A relative `file` lies beside the YAML file.
#' @param file Path of a `.yml` or `.yaml` file.
#' @param table The table to read instead of the one the file names: anything [fl_data()] takes.
#' @return `fl_prepare_file()`: what [fl_prepare()] gives. `fl_data_file()`: what [fl_data()] gives.
#' @section Errors: `fjordline_error_file` for a file that is not YAML (with the line) or a word that is not known in
#'   its place (naming the nearest one); and the errors of [fl_data()] and [fl_prepare()].
#' @examples
#' file <- tempfile(fileext = ".yml")
#' writeLines(c("table: {truth: water_mass, id: sample}", "prepare: {scale: median_iqr, transform: {turbidity: log}}"),
#'            file)
#' fl_prepare_file(file, table = as.data.frame(fl_demo("water_samples")))
#' @export
fl_prepare_file <- function(file, table = NULL) {
  asked <- read_setup(file)
  prepare_as(data_as(asked$table, file, table), asked$prepare)
}

#' @rdname fl_prepare_file
#' @export
fl_data_file <- function(file, table = NULL) data_as(read_setup(file)$table, file, table)

read_setup <- function(file) {
  check_file(file)
  file_form(file, c("yml", "yaml"))
  asked <- tryCatch(yaml_of(file), error = function(e) {
    refuse_setup(file, gsub("\\s+", " ", conditionMessage(e)))
  })
  check_words(asked, c("table", "prepare"), file, "the file")
  check_words(asked$table, c("file", setdiff(names(formals(fl_data)), "table")), file, quoted("table"))
  check_words(asked$prepare, setdiff(names(formals(fl_prepare)), "data"), file, quoted("prepare"))
  if (is.list(asked$prepare$outliers)) refuse_setup(file, "`outliers` must be keep, winsorise or drop.")
  asked
}

refuse_setup <- function(file, why, advice = NULL) {
  fl_abort("file", paste0(quoted(file), " cannot be used."), found = why, advice = advice)
}

check_words <- function(part, words, file, where) {
  if (is.null(part)) {
    return(invisible())
  }
  if (!is.list(part) || is.null(names(part))) refuse_setup(file, paste0("In ", where, " names with values are needed."))
  for (word in setdiff(names(part), words)) {
    refuse_setup(file, paste0(capital(where), " has a word that is not known: ", quoted(word), "."),
                 did_you_mean(word, words, "The words are"))
  }
}

data_as <- function(asked, file, table, reader = fl_data) {
  if (is.null(table) && is.null(asked$file)) {
    refuse_setup(file, "It names no table.", "Add `file:` to its part `table`, or give the table with the call.")
  }
  source <- table %||% path_beside(asked$file, file)
  if (is.character(asked$columns) && identical(asked$columns, "none")) asked$columns <- FALSE
  asked$units <- as_words(asked$units)
  asked$reading <- as_words(asked$reading)
  do.call(reader, c(list(source), asked[setdiff(names(asked), "file")]))
}

path_beside <- function(path, file) {
  absolute <- grepl("^(/|~|[A-Za-z]:)", path)
  if (absolute) path else file.path(dirname(file), path)
}

prepare_as <- function(data, asked) {
  for (word in c("transform", "categories", "weights")) asked[[word]] <- as_words(asked[[word]])
  do.call(fl_prepare, c(list(data), asked))
}

# A YAML map of single values is a named vector.
as_words <- function(part) if (is.list(part)) unlist(part) else part

# A YAML file as lists; nothing in it is run. What looks like a number and is none becomes NA, which its reader refuses.
# A set-up is short and flat: the parser would work for minutes on what is neither.
yaml_of <- function(file) {
  if (file.size(file) > 2^20) stop("It is larger than a megabyte.")
  lines <- readLines(file, warn = FALSE, encoding = "UTF-8")
  if (!all(validUTF8(lines))) stop(paste0("Line ", which(!validUTF8(lines))[1L], " is not UTF-8."))
  opened <- nchar(gsub("[^[{]", "", lines)) - nchar(gsub("[^]}]", "", lines))
  nested <- max(0, cumsum(opened), nchar(gsub("[^[{]", "", lines)))
  dashes <- max(0, nchar(regmatches(lines, regexpr("^[- ?]*", lines))))
  if (nested > most_nested || dashes > 4L * most_nested) stop("Its parts are nested too deeply.")
  suppressWarnings(yaml::yaml.load(paste(lines, collapse = "\n"), eval.expr = FALSE))
}

most_nested <- 64L
