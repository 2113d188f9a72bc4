# The contract every algorithm meets. A built-in one is a function method_<key>() in its own file that returns
# fl_new_method(); a user's own is registered for the session. Nothing else in the package names an algorithm.

own_methods <- new.env(parent = emptyenv())

#' Add an algorithm of your own
#'
#' A registered algorithm works everywhere a built-in one does: in [fl_partition()], [fl_sweep()], votes, figures,
#' reports and the shell. The registration lasts for the R session.
#'
#' @param key Short name the algorithm is called by, e.g. `"halves"`: lower-case letters, digits and `_`.
#' @param fit Function `(x, k, settings, seed)`. `x` is a numeric matrix in scaled units without missing
#'   values, `k` the count asked for, `settings` a named list, `seed` a whole number. It must draw random numbers from
#'   `seed` alone. It returns a list with `group`: one whole number a row, 1 to k, 0 for noise, every number in between
#'   in use. Optional elements: `likelihood`, a list of `log` (the log-likelihood), `free` (the number of free
#'   parameters) and `certainty` (the sum over rows of the log probability of their group), for BIC and its kin;
#'   `centres` (groups × columns, scaled units; the means of the rows when left out), `objective` (one number, lower
#'   is better; W when left out), `rounds`, `converged`, `restarts` (a list of `tried`, `reached`, the starts that
#'   reached the best objective, and `worst`), `notes` (sentences for the reader) and `model`, a named list of what
#'   `assign` and `membership` need to know: matrices with one row per group, data frames (of which a column `group`
#'   says to which group a row belongs), words and numbers. A function with a fifth argument also gets a list with
#'   `category`: for each column of `x` the number of the category it is a level of, 0 for numbers; and `mismatch`: for
#'   each category the squared distance between two of its levels.
#' @param assign Function `(fit, x)` that labels new rows: a list with `group` and `distance` for every row of `x`.
#'   `fit` is a list with the `centres`, the `model` and the count `k`. Left out, a row goes to the nearest centre.
#' @param membership Function `(fit, x)` for methods that give a row to several groups in parts: a matrix with a row for
#'   each row of `x` and one column per group, rows adding up to 1.
#' @param density Function `(fit, x)` for methods that fit a density: its logarithm at every row of `x`.
#' @param settings Named list of the settings and their default values. The settings `row_weights`, `starts` and
#'   `dissimilarity` are looked up in the table before `fit` is called, as for the built-in methods.
#' @param check Function `(settings)` that stops on a bad setting; left out, anything goes.
#' @param label What people call it, with author and year where there is a paper.
#' @param shape What it assumes about the shape of groups, in a few words.
#' @param needs What it needs, in a few words: kind of columns, a count.
#' @param cost How time and memory grow with n rows, d columns, k groups.
#' @param minimises What `objective` is, in a few words.
#' @param source The paper.
#' @param when When to use it, in a few words.
#' @param free_count `TRUE` when the algorithm finds the count itself; `k` is then ignored, and print() says so.
#' @return The method, a list of class `fl_method`, invisibly.
#' @section Errors: `fjordline_error_method` for a key that is malformed or stands for something else, and for any
#'   field that is not what it must be; the message names the field.
#' @seealso [fl_methods()] for the catalogue, [fl_method()] for a method with other settings.
#' @examples
#' # two groups: below and above the median of the first column
#' fl_new_method("halves", label = "Median halves", fit = function(x, k, settings, seed) {
#'   list(group = 1L + (x[, 1] > median(x[, 1])))
#' })
#' ready <- fl_prepare(fl_demo("still_water"))
#' fl_partition(ready, "halves", k = 2)
#' @export
fl_new_method <- function(key, fit, assign = NULL, membership = NULL, density = NULL, settings = list(), check = NULL,
                          label = key, shape = "not stated", needs = "not stated", cost = "not stated",
                          minimises = "objective", source = "not stated", free_count = FALSE, when = "not stated") {
  check_key(key, "method", taken_method_keys())
  method <- declare_method(
    key, fit, settings, check,
    about = list(label = label, when = when, shape = shape, needs = needs, cost = cost, source = source,
                 minimises = minimises),
    counts = list(free_count = free_count),
    placing = list(assign = assign, membership = membership, density = density)
  )
  base::assign(key, method, envir = own_methods)
  invisible(method)
}

# Keys that stand for something else.
taken_method_keys <- function() {
  c(stats::setNames(rep("a built-in method", length(built_in("method"))), names(built_in("method"))),
    stats::setNames("the word for labels made elsewhere", adopted_key),
    both = "the word for two methods that vote together")
}

# The built-in declarations of a kind: every function of the package called <kind>_<key> without arguments
# that returns one. The file list is the catalogue; it is looked through once.
built_in <- function(kind) {
  if (is.null(found_built_in[[kind]])) found_built_in[[kind]] <- declared_in_package(kind)
  found_built_in[[kind]]
}

found_built_in <- new.env(parent = emptyenv())

declared_in_package <- function(kind) {
  inside <- topenv()
  made <- grep(paste0("^", kind, "_[a-z0-9_]+$"), ls(inside), value = TRUE)
  made <- made[vapply(made, function(f) is.function(inside[[f]]) && length(formals(inside[[f]])) == 0L, NA)]
  declared <- lapply(made, function(f) inside[[f]]())
  declared <- Filter(function(d) inherits(d, paste0("fl_", kind)), declared)
  stats::setNames(declared, vapply(declared, `[[`, "", "key"))
}

all_methods <- function() c(built_in("method"), as.list(own_methods, sorted = TRUE))

# Those swept where none is named, and the one that stands for a method where one is needed.
usual_methods <- function(rows = 0) {
  names(Filter(function(method) method$usual_up_to > 0 && rows <= method$usual_up_to, built_in("method")))
}

usual_method <- function() usual_methods(Inf)[1L]

# How fl_vote() hears a method with its settings: "round", "models" or "".
voice_of <- function(method) if (is.null(method$voice)) "" else method$voice(method$settings)

#' The catalogue of methods
#'
#' Which methods there are, when to use which, and what each assumes, needs and costs.
#'
#' @return A data frame with one row per method: `key`, `label`, `when` (to use it), `shape` (what it assumes about
#'   groups), `needs`, `cost` (how time and memory grow with n rows, d columns, k groups), `minimises`, `memberships`
#'   (whether a row can belong to several groups in parts), `finds_count` (whether it needs no `k`), `settings` with
#'   their defaults, `source`, and `yours` (`TRUE` for one you registered). `summary()` prints all of it.
#' @seealso [fl_method()] to change settings, [fl_new_method()] to add one.
#' @examples
#' fl_methods()
#' @export
fl_methods <- function() {
  methods <- all_methods()
  text <- function(field) vapply(methods, `[[`, "", field, USE.NAMES = FALSE)
  out <- tibble::tibble(
    key = names(methods), label = text("label"), when = text("when"), shape = text("shape"), needs = text("needs"),
    cost = text("cost"),
    minimises = text("minimises"),
    memberships = vapply(methods, function(m) is.function(m$membership), NA, USE.NAMES = FALSE),
    finds_count = vapply(methods, `[[`, NA, "free_count", USE.NAMES = FALSE),
    settings = vapply(methods, function(m) settings_text(m$settings), "", USE.NAMES = FALSE),
    source = text("source"), yours = names(methods) %in% ls(own_methods)
  )
  structure(out, class = c("fl_methods", class(out)))
}

settings_text <- function(settings) {
  if (length(settings) == 0L) {
    return("none")
  }
  paste0(names(settings), " = ", vapply(settings, setting_text, ""), collapse = ", ")
}

# Tables, matrices and long vectors are not spelt out.
setting_text <- function(value) {
  if (is.null(value)) "none"
  else if (is.atomic(value) && is.null(dim(value)) && length(value) <= 5L) paste(trimws(format(value)), collapse = " ")
  else "given"
}

#' A method with its settings
#'
#' For everything that takes a method: a key alone stands for the method with its defaults, this for one with other
#' settings. `fl_methods()` lists keys and defaults; what each setting does is on the method's own page, as in
#' [method-kmeans] or [method-mixture].
#'
#' @param key The method's key, see [fl_methods()].
#' @param ... Settings by name, e.g. `restarts = 50`. What is left out keeps its default.
#' @return A list of class `fl_method`, to be given to [fl_partition()] or [fl_sweep()].
#' @section Errors: `fjordline_error_method` for a misspelt key or setting, or a value the method cannot use; the
#'   message names the nearest valid word.
#' @examples
#' fl_method("kmeans", restarts = 100, seeding = "rows")
#' @export
fl_method <- function(key, ...) {
  methods <- all_methods()
  method <- methods[[check_choice(key, names(methods), "method", what = "method")]]
  changed <- list(...)
  unknown <- setdiff(rlang::names2(changed), names(method$settings))
  if (length(unknown) > 0L) {
    fl_abort("method", paste0(method$label, " has no setting ", quoted(unknown[1L]), "."),
             found = if (!nzchar(unknown[1L])) "Settings are given by name, as in restarts = 50.",
             advice = if (length(method$settings) == 0L) "It has no settings."
             else did_you_mean(unknown[1L], names(method$settings), "Its settings are"))
  }
  method$settings[names(changed)] <- changed
  method$changed <- changed
  if (!is.null(method$check)) method$check(method$settings)
  # Some settings stand for a count.
  if (!is.null(method$frees)) method$free_count <- method$frees(method$settings)
  method
}

as_method <- function(x) if (inherits(x, "fl_method")) x else fl_method(x)

# A key, a method, or several of either.
as_methods <- function(x) {
  if (inherits(x, "fl_method")) {
    x <- list(x)
  }
  methods <- lapply(as.list(x), as_method)
  if (length(methods) == 0L) {
    fl_abort("method", "At least one method is needed.", advice = did_you_mean("", names(all_methods())))
  }
  stats::setNames(methods, make.unique(vapply(methods, method_label, "")))
}

# kmeans, or kmeans(seeding = rows): the key with what was changed.
method_label <- function(method) {
  if (length(method$changed) == 0L) method$key else paste0(method$key, "(", settings_text(method$changed), ")")
}

# What sentences call it: the label without its source, with what was changed.
method_said <- function(method) {
  short <- sub(" \\(.*$", "", method$label)
  if (length(method$changed) == 0L) short else paste0(short, " (", settings_text(method$changed), ")")
}

method_code <- function(method) {
  if (length(method$changed) == 0L) {
    return(code(method$key))
  }
  # What is too long to be written out goes by its name.
  short <- vapply(method$changed, setting_text, "") != "given"
  changed <- ifelse(short, method$changed, lapply(names(method$changed), verbatim))
  do.call(code_call, c("fl_method", method$key, stats::setNames(changed, names(method$changed))))
}
