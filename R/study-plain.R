# Plain data as JSON text and back: tables, words, numbers and lists of those, with every digit. A store holds its study
# so, and nothing read from it can run: no function, no expression, no object that R would call.

plain_types <- c("logical", "integer", "double", "character", "list", "NULL")
plain_classes <- c("factor", "ordered", "Date", "POSIXct", "POSIXt", "difftime", "data.frame", "tbl", "tbl_df",
                   "fl_data")
plain_marks <- c("names", "levels", "tzone", "units")
plain_depth <- 12L

# NULL where something in it is more than data.
plain_text <- function(value) {
  boxed <- tryCatch(boxed_plain(value), fjordline_error_plain = function(e) NULL)
  if (!is.null(boxed)) as.character(jsonlite::toJSON(boxed, auto_unbox = TRUE, null = "null", na = "null"))
}

boxed_plain <- function(value, depth = 0L) {
  more <- setdiff(names(attributes(value)), c(plain_marks, "class", "row.names"))
  if (!typeof(value) %in% plain_types || isS4(value) || length(more) > 0L || depth > plain_depth ||
        !all(oldClass(value) %in% plain_classes)) {
    fl_abort("plain", "This is more than data.")
  }
  marks <- lapply(attributes(value)[intersect(plain_marks, names(attributes(value)))],
                  function(mark) I(as.character(mark)))
  values <- if (is.list(value)) lapply(unname(unclass(value)), boxed_plain, depth = depth + 1L)
  else I(plain_words(unclass(value)))
  c(list(type = typeof(value), values = values), if (length(marks) > 0L) list(marks = marks),
    if (!is.null(oldClass(value))) list(class = I(oldClass(value))),
    if (is.data.frame(value)) list(rows = nrow(value)))
}

plain_words <- function(value) {
  out <- if (is.double(value)) sprintf("%.17g", value) else as.character(value)
  out <- unname(out)
  # not a number is no missing value
  out[is.na(value) & !(is.double(value) & is.nan(value))] <- NA
  out
}

# What was written by plain_text(); an error where it is anything else. The library's other reader would open an address
# or a file that the text names.
plain_from <- function(text) {
  unboxed_plain(jsonlite::parse_json(text, simplifyVector = TRUE, simplifyDataFrame = FALSE, simplifyMatrix = FALSE))
}

unboxed_plain <- function(box, depth = 0L) {
  stopifnot(is.list(box), rlang::is_string(box$type), box$type %in% plain_types, depth <= plain_depth)
  if (box$type == "NULL") {
    return(NULL)
  }
  class <- as.character(unlist(box$class))
  stopifnot(all(class %in% plain_classes))
  if (box$type == "list") {
    stopifnot(is.list(box$values))
    value <- lapply(unname(box$values), unboxed_plain, depth = depth + 1L)
  } else {
    words <- if (length(box$values) == 0L) character() else as.character(box$values)
    stopifnot(is.atomic(box$values) || length(box$values) == 0L)
    value <- suppressWarnings(from_words[[box$type]](words))
    stopifnot(identical(is.na(value) & !(words %in% "NaN"), is.na(words)))
  }
  for (mark in intersect(plain_marks, names(box$marks))) {
    words <- as.character(unlist(box$marks[[mark]]))
    stopifnot(mark != "names" || length(words) == length(value))
    attr(value, mark) <- words
  }
  if ("factor" %in% class) {
    codes <- unclass(value)
    stopifnot(is.integer(codes), is.character(levels(value)), all(is.na(codes) | codes %in% seq_along(levels(value))))
  }
  if ("data.frame" %in% class) {
    stopifnot(is.list(value), is.character(names(value)), rlang::is_scalar_integerish(box$rows),
              all(vapply(value, NROW, 0L) == box$rows))
    value <- structure(value, row.names = seq_len(box$rows))
  }
  if (length(class) > 0L) class(value) <- class
  value
}

from_words <- list(logical = as.logical, integer = as.integer, double = as.double, character = identity)

# --- a study

# As what fl_study() takes. Algorithms and indices go by their keys; a reader's own also by what its functions are. NULL
# where something is more than data.
study_text <- function(study) {
  sets <- Map(function(data, name) list(data = data, noise = study$noise[names(study$noise) == name]),
              lapply(study$datasets, without_code), names(study$datasets))
  plain_text(list(
    datasets = sets, preparations = study$preparations,
    methods = lapply(study$methods, function(m) {
      list(key = m$key, changed = m$changed, own = own_print(own_methods, m$key))
    }),
    indices = lapply(study$indices, function(index) index$print %||% own_print(own_indices, index$key)),
    agreements = study$agreements, k = study$k, repeats = study$repeats, seed = as.double(study$seed),
    seconds = study$seconds, megabytes = study$megabytes, name = study$name
  ))
}

# The line of R that made a table would be put into scripts: only those of demo tables are kept.
without_code <- function(data) {
  data$file <- NULL
  if (!isTRUE(data$call %in% demo_calls())) data$call <- NULL
  data
}

demo_calls <- function() vapply(names(demo_tables), function(name) code_call("fl_demo", name), "")

study_from_text <- function(text, said) {
  held <- tryCatch(plain_from(text), error = function(e) NULL)
  sound <- is.list(held) && is.list(held$datasets) && is.list(held$methods) && is.list(held$preparations)
  if (!sound) refuse_held(said, "What it says of its study cannot be read.")
  methods <- lapply(held$methods, function(m) held_method(m$key, m$own, said, function() {
    do.call(fl_method, c(m$key, m$changed))
  }))
  indices <- tryCatch(Map(held_index, as.character(names(held$indices)), held$indices),
                      fjordline_error = function(e) refuse_held(said, first_line(e)))
  sets <- lapply(held$datasets, function(one) {
    c(list(held_data(one$data, said)), if (length(one$noise) > 0L) list(noise = unname(one$noise)))
  })
  recipes <- lapply(held$preparations, function(recipe) c(recipe$how, list(datasets = recipe$datasets)))
  here <- present_indices(list(indices = indices))
  study <- tryCatch(
    fl_study(sets, methods, held$k, recipes, if (length(here) > 0L) names(here) else "none", held$agreements,
             held$repeats, held$seed, held$seconds, held$megabytes, held$name),
    error = function(e) {
      refuse_held(said, paste("Its study cannot be made again:", sub("\n.*$", "", conditionMessage(e))))
    }
  )
  study$indices <- if (length(indices) > 0L) indices
  study
}

# The index of that key; where it was the maker's own and is not the same here, one that stands for it and abstains: the
# study goes on with the others.
held_index <- function(key, print) {
  index <- all_indices()[[key]]
  why <- if (is.null(index)) "not registered here"
  else if (!identical(own_print(own_indices, key), print)) "another here than the one that the study used"
  if (is.null(why)) index else absent_index(key, print, why)
}

absent_index <- function(key, print, why) {
  index <- declare_index(key, across = function(set) rep(NA_real_, length(set$k)), direction = "higher", weight = 0,
                         rule = "not known here", silent = function(set) rep(paste("it is", why), length(set$k)))
  index$print <- print %||% ""
  index$absent <- why
  index
}

is_absent <- function(index) !is.null(index$absent)

present_indices <- function(study) Filter(Negate(is_absent), study$indices %||% list())

refuse_held <- function(said, why) {
  fl_abort("store", paste0("The store ", said, " cannot be opened alone."), found = why,
           advice = "Give the study: fl_run(study, store).")
}

# Tables as fl_data() makes them, with the line of R that names them in scripts.
held_data <- function(data, said) {
  sound <- inherits(data, "fl_data") && tryCatch(is.list(check_data(data)), fjordline_error_object = function(e) FALSE)
  if (!sound) refuse_held(said, "One of its tables cannot be read as a table.")
  data <- without_code(data)
  data$call <- data$call %||% code_call("fl_data", verbatim("table"), name = data$name)
  data
}

# What functions a reader's own algorithm or index consists of, as a print of their text; NULL of ours.
own_print <- function(among, key) {
  own <- among[[key]]
  if (!is.null(own)) {
    rlang::hash(lapply(Filter(is.function, own), function(f) deparse(f, control = NULL)))
  }
}

held_method <- function(key, print, said, make) {
  known <- rlang::is_string(key) && (is.null(print) || !is.null(own_methods[[key]]))
  if (!known) {
    refuse_held(said, paste0("It uses the method ", quoted(toString(key)),
                             " of its maker, which is not registered here."))
  }
  if (!identical(own_print(own_methods, key), print)) {
    refuse_held(said, paste0("The method ", quoted(key), " registered here is another than the one it used."))
  }
  tryCatch(make(), fjordline_error = function(e) refuse_held(said, first_line(e)))
}
