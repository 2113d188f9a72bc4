# A partition as a JSON file of our own form: enough to label new rows and to say what it is, without the old table.

model_form <- "fjordline-partition"
model_version <- 1L

#' Keep a partition in a file
#'
#' `fl_save()` writes what is needed to label new rows next month: the recorded preparation, the centres, the
#' method and its settings, and the labels of the fitted rows by number and identifier. The table itself is not
#' in the file. `fl_load()` reads it back; `predict()` then gives the same labels to the same rows, to the last bit.
#'
#' @section The file: JSON, UTF-8, numbers with 17 significant digits. Fields: `form` (`"fjordline-partition"`),
#'   `version` (1), `made_with` (package version), `name`, `table` (its name), `rows` (of the table), `method` (`key`,
#'   `settings`), `seed`, `k`, `features`, `units`, `steps` (the preparation: `kind`, `columns` and the numbers
#'   learned), `centres` (one list of numbers a group, prepared units), `scatter`, `objective`, `total`, `converged`,
#'   `rounds`, `restarts`, `notes`, `groups` (label per row of the table, null where there is none), `ids` (identifier
#'   per row, or null), `decision` (how the count was chosen, in sentences).
#' @param partition From [fl_partition()], [fl_take()] or [fl_load()].
#' @param file Path ending in `.json`. It is written whole or not at all.
#' @return `fl_save()`: `file`, invisibly. `fl_load()`: a partition without rows: it predicts, prints and gives its
#'   labels, but draws and scores nothing.
#' @section Errors: `fjordline_error_model` for a file that is not ours, is cut short, or comes from a newer version;
#'   `_method` when the file's method is not registered; `_file` for a path that cannot be read or written.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' file <- tempfile(fileext = ".json")
#' fl_save(groups, file)
#' again <- fl_load(file)
#' predict(again, head(as.data.frame(fl_demo("water_samples"))))
#' @export
fl_save <- function(partition, file) {
  check_made_by(partition, "fl_partition", "partition")
  check_text(file, "file")
  file_form(file, "json")
  text <- jsonlite::toJSON(exact(model_fields(partition)), auto_unbox = TRUE, null = "null", na = "null", pretty = TRUE,
                           json_verbatim = TRUE)
  write_whole(file, function(draft) writeLines(enc2utf8(text), draft, useBytes = TRUE))
}

model_fields <- function(x) {
  list(
    form = model_form, version = model_version, made_with = as.character(utils::packageVersion("fjordline")),
    name = x$name, table = x$ready$data$name %||% x$ready$table_name, rows = x$ready$total,
    method = list(key = x$method$key, settings = named_list(x$method$changed)), seed = x$seed, k = x$k,
    features = I(x$ready$features), preparation = x$ready$name,
    units = named_list(x$ready$units[intersect(x$ready$features, names(x$ready$units))]),
    steps = lapply(x$ready$steps, boxed_step),
    centres = lapply(seq_len(nrow(x$centres)), function(j) I(unname(x$centres[j, ]))), scatter = I(x$groups$scatter),
    objective = x$objective, total = x$total, converged = x$converged, rounds = x$rounds, restarts = x$restarts,
    notes = I(as.character(x$notes)), groups = I(x$group), ids = if (!is.null(x$id)) I(x$id),
    decision = I(as.character(x$decision %||% decision_facts(x$vote)))
  )
}

# A list that is written as {} when it is empty.
named_list <- function(x) if (length(x) == 0L) stats::setNames(list(), character()) else as.list(x)

# Everything in a step but its name is an array, also where it has one element.
boxed_step <- function(step) {
  words <- intersect(names(step), c("kind", "scale"))
  utils::modifyList(lapply(step, I), step[words])
}

# Doubles as JSON with all their digits; the writer of the library stops at 15.
exact <- function(value) {
  if (is.list(value)) {
    return(lapply(value, exact))
  }
  if (!is.double(value)) {
    return(value)
  }
  text <- ifelse(is.na(value), "null", sprintf("%.17g", value))
  single <- length(value) == 1L && !inherits(value, "AsIs")
  structure(if (single) text else paste0("[", paste(text, collapse = ", "), "]"), class = "json")
}

#' @rdname fl_save
#' @export
fl_load <- function(file) {
  check_file(file)
  fields <- tryCatch(jsonlite::fromJSON(file, simplifyVector = TRUE, simplifyDataFrame = FALSE, simplifyMatrix = FALSE),
                     error = function(e) refuse_model(file, "It is no complete JSON file: it may have been cut short."))
  check_model(fields, file)
  method <- do.call(fl_method, c(fields$method$key, fields$method$settings))
  tryCatch(model_partition(fields, method), error = function(e) refuse_model(file, "Its fields do not fit together."))
}

refuse_model <- function(file, why) {
  fl_abort("model", paste0(quoted(file), " is not a model this can use."), found = why,
           advice = "Models are written by fl_save(), or by the shell's group --model.")
}

model_needs <- c("name", "table", "rows", "method", "seed", "k", "features", "steps", "centres", "scatter", "objective",
                 "total", "groups")

check_model <- function(fields, file) {
  if (!is.list(fields) || !identical(fields$form, model_form)) {
    refuse_model(file, paste0("Its form is not ", quoted(model_form), "."))
  }
  if (!is.numeric(fields$version) || fields$version > model_version) {
    refuse_model(file, paste0("Its version is ", shape_of(fields$version), "; this package knows up to ", model_version,
                              "."))
  }
  lacking <- setdiff(model_needs, names(fields))
  if (length(lacking) > 0L) {
    refuse_model(file, paste0("It lacks ", listed(lacking), "."))
  }
  kinds <- vapply(fields$steps, function(step) as.character(step$kind %||% ""), "")
  if (!all(kinds %in% names(step_kinds)) || length(fields$centres) != fields$k ||
      length(fields$groups) != fields$rows) {
    refuse_model(file, "Its fields do not fit together.")
  }
}

model_partition <- function(fields, method) {
  columns <- fields$features
  for (step in fields$steps) if (step$kind == "drop") columns <- setdiff(columns, step$columns)
  centres <- matrix(as.double(unlist(fields$centres)), nrow = fields$k, byrow = TRUE, dimnames = list(NULL, columns))
  units <- if (length(fields$units) > 0L) unlist(fields$units)
  ready <- structure(
    list(data = NULL, table_name = fields$table, name = fields$preparation, features = fields$features,
         steps = fields$steps, x = NULL,
         rows = which(!is.na(fields$groups)), total = as.integer(fields$rows), units = units, notes = character()),
    class = "fl_prepare"
  )
  group <- as.integer(fields$groups)
  fit <- list(group = group[!is.na(group)], k = as.integer(fields$k), centres = centres,
              scatter = as.double(fields$scatter))
  stopifnot(all(is.finite(centres)), length(fit$scatter) == fit$k, max(fit$group) <= fit$k)
  structure(
    list(ready = ready, method = method, k = fit$k, seed = fields$seed, name = fields$name, group = group,
         centres = centres,
         groups = group_table(ready,
                              fit), objective = fields$objective, scatter = sum(fit$scatter), total = fields$total,
         converged = fields$converged %||% NA, rounds = fields$rounds %||% NA_integer_, restarts = fields$restarts,
         notes = as.character(unlist(fields$notes)), seconds = NA_real_, vote = NULL, id = fields$ids,
         decision = as.character(unlist(fields$decision)), call = NULL),
    class = "fl_partition"
  )
}
