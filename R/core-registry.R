# What a declaration in a registry may say. Each field has a test, what it must be in words, and what stands where it is
# left out.

field <- function(test, must_be, default) list(test = test, must_be = must_be, default = default)

text_field <- function(default) {
  field(function(v) rlang::is_string(v) && nzchar(trimws(v)), "one text that is not empty", default)
}

word_field <- function(choices, default = choices[1L]) {
  field(function(v) rlang::is_string(v) && v %in% choices, paste("one of", listed(quoted(choices), "or")), default)
}

flag_field <- function() field(rlang::is_bool, "TRUE or FALSE", FALSE)

number_field <- function(default, least = -Inf, whole = FALSE) {
  field(function(v) is.numeric(v) && length(v) == 1L && !is.na(v) && v >= least && (!whole || v == round(v)),
        paste0("one ", if (whole) "whole ", "number", if (is.finite(least)) paste(" of at least", least)), default)
}

# NULL, or a function that takes so many arguments.
function_field <- function(counts) {
  field(function(v) is.null(v) || takes(v, counts),
        paste0("a function of ", listed(counts, "or"), if (identical(counts, 1)) " argument" else " arguments"), NULL)
}

takes <- function(f, counts) {
  if (!is.function(f)) {
    return(FALSE)
  }
  known <- names(formals(args(f)))
  "..." %in% known || length(known) %in% counts
}

# The fields given, held against the known ones; what is left out gets its default. `what`: "method" or "index", the
# class of the error and the word in it.
declared_fields <- function(given, known, what) {
  names <- rlang::names2(given)
  for (name in setdiff(names, names(known))) {
    fl_abort(what, paste0("The declaration of ", if (what == "index") "an " else "a ", what, " has no field ",
                          quoted(name), "."),
             advice = did_you_mean(name, names(known), "Its fields are"))
  }
  for (name in names) {
    if (!isTRUE(known[[name]]$test(given[[name]]))) {
      fl_abort(what, paste0("`", name, "` must be ", known[[name]]$must_be, "."),
               found = paste0("It is ", shape_of(given[[name]]), "."))
    }
  }
  out <- lapply(known, `[[`, "default")
  out[names] <- given[names]
  out
}

is_key <- function(v) rlang::is_string(v) && grepl("^[a-z][a-z0-9_]*$", v)

# `taken`: for keys that mean something else, what that is.
check_key <- function(key, what, taken = character()) {
  if (!is_key(key)) {
    fl_abort(what, "`key` must be one word of lower-case letters, digits and _, beginning with a letter.",
             found = paste0("It is ", shape_of(key), "."))
  }
  if (key %in% names(taken)) {
    fl_abort(what, paste0("The key ", quoted(key), " is taken: it is ", taken[[key]], "."),
             advice = "Choose another key.")
  }
  key
}
