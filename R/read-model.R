# A partition as a JSON file of our own form: enough to label new rows and to say what it is, without the old table.

model_form <- "fjordline-partition"
preparation_form <- "fjordline-preparation"
model_version <- 2L

#' Keep a partition or a preparation in a file
#'
#' `fl_save()` writes what is needed to label new rows next month: the recorded preparation, the centres, the
#' method and its settings, and the labels of the fitted rows by number and identifier. The table itself is not
#' in the file (a preparation that fills missing values from nearest rows keeps up to 2,000 complete rows of the columns
#' it uses). `fl_load()` reads it back; `predict()` then gives the same labels to the same rows, to the last bit.
#'
#' @section The file: JSON, UTF-8, numbers with 17 significant digits. Fields: `form` (`"fjordline-partition"` or
#'   `"fjordline-preparation"`), `version` (2), `made_with` (package version), `preparation` (`name`, `table`, `rows`,
#'   `columns`: name, type and levels of each, `units`, `steps`: `kind`, `columns` and what was learned, `prepared`: the
#'   names of the columns made, `left`: rows without a group by reason, `notes`). A partition also has: `name`, `table`
#'   (its name), `rows` (of the table), `method` (`key`, `settings`), `seed`, `k`, `centres` (one list of numbers a
#'   group, scaled units), `model` (what else placing rows needs, by method), `scatter`, `objective`, `minimises`
#'   (what the objective is), `total`, `converged`, `rounds`, `restarts`, `notes`, `groups` (label per row of the
#'   table, null where there is none), `ids` (identifier per row, or null), `decision` (how the count was chosen, in
#'   sentences), `names` (of the groups, where they have some), `reach` (of each group: quantiles of the distances of
#'   its rows, see [fl_place()]), `reach_broad` (the same without relations between columns, where there are such),
#'   `fitted` (what each column looked like).
#' @param x A partition from [fl_partition()], [fl_take()] or [fl_load()]; or a preparation from [fl_prepare()].
#' @param file Path ending in `.json`. It is written whole or not at all.
#' @return `fl_save()`: `file`, invisibly. `fl_load()`: a partition or preparation without rows: it takes new rows,
#'   prints and (a partition) gives its labels, but draws and scores nothing.
#' @section Files from others: A model is numbers and words; nothing in it is run. A file that was changed since it
#'   was written is refused, and every dimension and range is looked at. One that was made to mislead can still
#'   place rows wrongly: what it says is its maker's.
#' @section Errors: `fjordline_error_model` for a file that is not ours, is cut short, or comes from another version;
#'   `fjordline_error_method` when the file's method is not registered; `fjordline_error_file` for a path that cannot be
#'   read or written.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
#' file <- tempfile(fileext = ".json")
#' fl_save(groups, file)
#' again <- fl_load(file)
#' predict(again, head(as.data.frame(fl_demo("water_samples"))))
#' @export
fl_save <- function(x, file) {
  check_made_by(x, c("fl_partition", "fl_prepare"), "x")
  check_text(file, "file")
  file_form(file, "json")
  fields <- if (inherits(x, "fl_partition")) model_fields(x)
  else list(form = preparation_form, version = model_version, made_with = package_version_text(),
            preparation = preparation_fields(x))
  text <- jsonlite::toJSON(exact_json(c(fields, print = "")), auto_unbox = TRUE, null = "null", na = "null",
                           pretty = TRUE, json_verbatim = TRUE)
  lines <- with_print(enc2utf8(as.character(text)))
  write_whole(file, function(draft) writeLines(lines, draft, useBytes = TRUE))
}

model_fields <- function(x) {
  reach <- partition_reach(x)
  list(
    form = model_form, version = model_version, made_with = package_version_text(),
    name = x$name, table = x$ready$data$name %||% x$ready$table_name, rows = x$ready$total,
    method = list(key = x$method$key, settings = named_list(kept_settings(x$method$changed))), seed = x$seed, k = x$k,
    preparation = preparation_fields(x$ready),
    centres = lapply(seq_len(nrow(x$centres)), function(j) I(unname(x$centres[j, ]))), scatter = I(x$groups$scatter),
    model = named_list(lapply(x$model, boxed_part)),
    objective = x$objective, minimises = x$minimises, total = x$total, converged = x$converged, rounds = x$rounds,
      restarts = x$restarts,
    notes = I(as.character(x$notes)), groups = I(x$group), ids = if (!is.null(x$id)) I(x$id),
    decision = I(as.character(x$decision %||% decision_facts(x$vote))), names = if (has_names(x)) I(x$names),
    reach = matrix_rows(reach$all), reach_broad = matrix_rows(reach$broad), fitted = boxed_columns(partition_columns(x))
  )
}

# Settings that are tables or long vectors served the fit, and are not needed to place rows.
kept_settings <- function(settings) settings[vapply(settings, setting_text, "") != "given"]

# What assigning needs: a matrix is written as its rows, a data frame as its columns.
boxed_part <- function(part) {
  if (is.data.frame(part)) list(columns = named_list(lapply(part, I)))
  else if (is.matrix(part)) list(rows = matrix_rows(part))
  else I(part)
}

matrix_rows <- function(part) {
  if (!is.null(part)) lapply(seq_len(nrow(part)), function(i) I(unname(part[i, ])))
}

boxed_columns <- function(fitted) {
  arrays <- c("levels", "counts", "breaks")
  lapply(unname(fitted), function(was) {
    was[intersect(arrays, names(was))] <- lapply(was[intersect(arrays, names(was))], I)
    was
  })
}

# The same out of a file; one of an earlier version has none.
unboxed_columns <- function(fields) {
  if (length(fields) == 0L) {
    return(NULL)
  }
  out <- lapply(fields, function(was) {
    was$counts <- as.integer(unlist(was$counts))
    if (isTRUE(was$number)) was$breaks <- as.double(unlist(was$breaks))
    else was$levels <- as.character(unlist(was$levels))
    was
  })
  stats::setNames(out, vapply(out, `[[`, "", "column"))
}

unboxed_reach <- function(fields) {
  as_rows <- function(kept) if (length(kept) > 0L) do.call(rbind, lapply(kept, function(row) as.double(unlist(row))))
  if (length(fields$reach) > 0L) without_nulls(all = as_rows(fields$reach), broad = as_rows(fields$reach_broad))
}

unboxed_part <- function(part) {
  if (is.list(part) && "columns" %in% names(part)) {
    return(tibble::as_tibble(lapply(part$columns, function(column) {
      if (length(column) == 0L) double() else unlist(lapply(column, function(value) value %||% NA))
    })))
  }
  if (!is.list(part) || !"rows" %in% names(part)) {
    return(if (length(part) == 0L) double() else unlist(part))
  }
  rows <- lapply(part$rows, unlist)
  matrix(if (length(rows[[1L]]) > 0L) unlist(rows) else double(), nrow = length(rows), ncol = length(rows[[1L]]),
         byrow = TRUE)
}

package_version_text <- function() as.character(utils::packageVersion("fjordline"))

# What new rows need: the columns they must have, and the steps.
preparation_fields <- function(ready) {
  list(
    name = ready$name, table = ready$data$name %||% ready$table_name, rows = ready$total,
    columns = lapply(unname(ready$columns), function(form) list(name = form$name, type = form$type,
                                                                levels = I(as.character(form$levels)))),
    units = named_list(ready$units[intersect(ready$features, names(ready$units))]),
    steps = lapply(ready$steps, boxed_step), prepared = I(ready$prepared %||% colnames(ready$x)),
    left = as.list(ready$left), notes = I(as.character(ready$notes))
  )
}

# A list that is written as {} when it is empty.
named_list <- function(x) if (length(x) == 0L) stats::setNames(list(), character()) else as.list(x)

# Everything in a step but its name is an array, also where it has one element.
boxed_step <- function(step) {
  boxed <- function(value) if (is.list(value)) unname(lapply(value, boxed)) else I(value)
  out <- lapply(step, boxed)
  out$kind <- step$kind
  out
}

# Doubles as JSON with all their digits; the writer of the library stops at 15.
exact_json <- function(value) {
  if (is.list(value)) {
    return(lapply(value, exact_json))
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
                     error = function(e) {
                       refuse_model(file, "It is not a complete JSON file: it may have been cut short.")
                     })
  check_form_and_version(fields, file)
  out <- tryCatch(suppressWarnings(sound_object(fields, file)), error = function(e) {
    if (inherits(e, "fjordline_error")) stop(e)
    refuse_model(file, "Its fields do not fit together.")
  })
  check_unchanged(file)
  if (inherits(out, "fl_partition")) out$file <- file
  out
}

# What the fields make, once they were looked through.
sound_object <- function(fields, file) {
  if (fields$form == preparation_form) {
    check_preparation(fields$preparation, file)
    return(model_preparation(fields$preparation))
  }
  check_model(fields, file)
  method <- if (identical(fields$method$key, adopted_key)) adopted_method()
  else do.call(fl_method, c(fields$method$key, fields$method$settings))
  out <- model_partition(fields, method)
  check_sound(out, fields, file)
  out
}

# Every dimension and range of what placing will use; then its own centres are placed once, so that what does not go
# together shows here.
check_sound <- function(model, fields, file) {
  refuse_if <- function(wrong, what) if (!isFALSE(wrong)) refuse_model(file, paste0("Its ", what, " cannot be right."))
  k <- model$k
  columns <- length(model$ready$prepared)
  known <- model$group[!is.na(model$group)]
  refuse_if(any(known < 0 | known > k | known != unlist(fields$groups[!is.na(model$group)])), "groups")
  if (k == 0L) {
    return(invisible())  # every row is noise, and places none
  }
  refuse_if(any(lengths(fields$centres) != columns), "centres")
  refuse_if(!all(is.finite(fields$scatter)) || any(fields$scatter < 0), "scatter")
  for (part in names(model$model)) {
    one <- model$model[[part]]
    refuse_if(by_group(one) && nrow(one) != k, paste("part", quoted(part)))
    refuse_if(is.numeric(one) && anyNA(one), paste("part", quoted(part)))
    of <- if (is.data.frame(one)) one[["group"]]
    refuse_if(!all(of %in% c(NA, 0:k)), paste("part", quoted(part)))
  }
  for (step in model$ready$steps) {
    touched <- unlist(step$columns)
    what <- paste("step", quoted(step$kind))
    refuse_if(length(touched) > 0L && (!is.character(touched) || anyNA(touched)), what)
    if (step$kind != "components") refuse_if(!all(touched %in% names(model$ready$columns)), what)
    if (!is.null(step$levels)) refuse_if(length(step$levels) != length(touched), what)
  }
  for (quantiles in model$reach) {
    refuse_if(!identical(dim(quantiles), c(k, length(reach_grid))), "reach")
    refuse_if(anyNA(quantiles) || any(quantiles < 0) || any(apply(quantiles, 1L, is.unsorted)), "reach")
  }
  for (was in model$fitted) {
    what <- paste("column", quoted(was$column))
    refuse_if(!was$column %in% names(model$ready$columns) || !rlang::is_bool(was$number), what)
    for (field in c("missing", if (was$number) c("mean", "sd", "low", "high"))) {
      refuse_if(!rlang::is_bare_numeric(was[[field]], 1L) || !is.finite(was[[field]]), what)
    }
    refuse_if(was$missing < 0 || was$missing > 1 || was$number && (was$low > was$high || was$sd < 0), what)
    refuse_if(anyNA(was$counts) || any(was$counts < 0), what)
    refuse_if(was$number && (is.unsorted(was$breaks) || length(was$counts) != length(was$breaks) + 1L), what)
    refuse_if(!was$number && length(was$counts) != length(was$levels), what)
  }
  if (columns > 0L && all(is.finite(model$centres))) {
    tryCatch(assign_rows(model$method, model, unname(model$centres)), error = function(e) {
      if (inherits(e, "fjordline_error")) return(NULL)
      refuse_model(file, paste0("Its model places no row: ", conditionMessage(e), "."))
    })
  }
}

# The last line but one holds a print of all the others.
print_line <- "^ *\"print\":"

with_print <- function(text) {
  lines <- strsplit(text, "\n", fixed = TRUE)[[1L]]
  at <- grep(print_line, lines)
  lines[at] <- print_written(lines[-at])
  lines
}

print_written <- function(lines) {
  paste0("  \"print\": \"", rlang::hash(charToRaw(paste(lines, collapse = "\n"))), "\"")
}

# A file of before prints were kept has none.
check_unchanged <- function(file) {
  lines <- readLines(file, encoding = "UTF-8", warn = FALSE)
  at <- grep(print_line, lines)
  if (length(at) > 0L && !identical(lines[at], print_written(lines[-at]))) {
    refuse_model(file, "It was changed since it was written, or damaged.")
  }
}

refuse_model <- function(file, why) {
  fl_abort("model", paste0(quoted(file), " is not a model this can use."), found = why,
           advice = "Models are written by fl_save(), or by the shell's group --model.")
}

check_form_and_version <- function(fields, file) {
  if (!is.list(fields) || !rlang::is_string(fields$form) || !fields$form %in% c(model_form, preparation_form)) {
    refuse_model(file, paste0("Its form is neither ", quoted(model_form), " nor ", quoted(preparation_form), "."))
  }
  if (!is.numeric(fields$version) || fields$version != model_version) {
    refuse_model(file, paste0("Its version is ", shape_of(fields$version), "; this package reads version ",
                              model_version,
                              "."))
  }
}

model_needs <- c("name", "table", "rows", "method", "seed", "k", "preparation", "centres", "scatter", "objective",
                 "total", "groups")

preparation_needs <- c("name", "table", "rows", "columns", "steps", "prepared")

check_model <- function(fields, file) {
  lacking <- setdiff(model_needs, names(fields))
  if (length(lacking) > 0L) {
    refuse_model(file, paste0("It lacks ", listed(lacking), "."))
  }
  check_preparation(fields$preparation, file)
  if (length(fields$centres) != fields$k || length(fields$groups) != fields$rows) {
    refuse_model(file, "Its fields do not fit together.")
  }
}

check_preparation <- function(fields, file) {
  lacking <- setdiff(preparation_needs, names(fields))
  if (length(lacking) > 0L) {
    refuse_model(file, paste0("Its preparation lacks ", listed(lacking), "."))
  }
  named <- vapply(fields$columns, function(form) rlang::is_string(form$name) && rlang::is_string(form$type), NA)
  if (length(named) == 0L || !all(named)) refuse_model(file, "Its columns lack a name or a type.")
  kinds <- vapply(fields$steps, function(step) as.character(step$kind %||% ""), "")
  if (!all(kinds %in% names(step_kinds()))) {
    refuse_model(file, "Its preparation has a step that is not known.")
  }
}

# One name per group, or none; a group without one is null in the file.
saved_names <- function(fields) {
  if (is.null(fields$names)) {
    return(NULL)
  }
  names <- vapply(as.list(fields$names), function(name) if (is.null(name)) NA_character_ else as.character(name), "")
  stopifnot(length(names) == fields$k)
  tidy_names(names)
}

model_preparation <- function(fields, rows = integer()) {
  columns <- lapply(fields$columns, function(form) list(name = form$name, type = form$type,
                                                       levels = as.character(unlist(form$levels))))
  names(columns) <- vapply(columns, `[[`, "", "name")
  new_preparation(
    NULL, fields$name, names(columns), columns, fields$steps, NULL, rows, as.integer(fields$rows), unlist(fields$left),
    units = if (length(fields$units) > 0L) unlist(fields$units), notes = as.character(unlist(fields$notes)),
    table_name = fields$table, prepared = as.character(fields$prepared)
  )
}

model_partition <- function(fields, method) {
  ready <- model_preparation(fields$preparation, rows = which(!is.na(fields$groups)))
  centres <- matrix(as.double(unlist(fields$centres)), nrow = fields$k, ncol = length(ready$prepared), byrow = TRUE,
                    dimnames = list(NULL, ready$prepared))
  group <- as.integer(fields$groups)
  fit <- list(group = group[!is.na(group)], k = as.integer(fields$k), centres = centres,
              scatter = as.double(fields$scatter))
  stopifnot(all(is.finite(centres)), length(fit$scatter) == fit$k, max(fit$group) <= fit$k)
  new_partition(
    ready, method, fit$k, fields$seed, fields$name, group, centres, group_table(ready, fit), fields$objective,
    fields$minimises %||% "objective", sum(fit$scatter), fields$total, converged = fields$converged %||% NA,
    rounds = fields$rounds %||% NA_integer_, restarts = fields$restarts, notes = as.character(unlist(fields$notes)),
    model = lapply(fields$model, unboxed_part), id = fields$ids, decision = as.character(unlist(fields$decision)),
    names = saved_names(fields), reach = unboxed_reach(fields), fitted = unboxed_columns(fields$fitted)
  )
}
