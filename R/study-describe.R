# A benchmark described: tables x preparations x methods x counts x repeats.

#' Describe a benchmark
#'
#' A study fits every method at every count on every preparation of every table, several times, and compares what comes
#' out with the known classes and by the indices. This describes it; [fl_run()] runs it, [fl_study_file()] reads the
#' same from a YAML file.
#'
#' @param datasets The tables: a named list, or a vector of names of demo tables. Each is an [fl_data()] object, the
#'   name of a demo table, or a list of what [fl_data()] takes, its first element the table, the path of a file, or an
#'   [fl_data()] object. Known classes are the truth of the table, where it has one; `noise` in such a list names the
#'   class of rows that belong to no group.
#' @param methods Keys of methods, [fl_method()] objects, or a list of both. An element named by a method's key is a
#'   grid: a list of settings, every combination of whose values is a method of its own, as in
#'   `list(linkage = list(join = c("ward", "average")))`. A setting that is itself several words stands in a list:
#'   `list(mixture = list(covariance = list(c("general/common", "general/volume"))))`. A method in such a list may
#'   have a name of its own: `list(quick = fl_method("kmeans", restarts = 3))`.
#' @param k Whole numbers: the counts to fit. Methods that find the count are fitted at several values of their
#'   parameter instead, as in [fl_sweep()].
#' @param preparations A named list; each element a list of what [fl_prepare()] takes, such as
#'   `list(plain = list(), robust = list(scale = "median_iqr"))`. With `datasets`, names of some, it is for those only.
#' @param indices A set of indices or keys of some, see [fl_sweep()]; `"none"` for agreement
#'   alone, where a method that finds the count stands for none unless it comes to one only.
#' @param agreements Measures of agreement with the known classes, see [fl_agree()].
#' @param repeats How often every cell is fitted, each time with another seed.
#' @param seed Whole number. The seed of each fit follows from it and from the fit's own coordinates, so that no order,
#'   no number of workers and no restart changes a result.
#' @param seconds,megabytes What one fit may take at most; a fit that needs more is recorded as too slow or too large.
#'   Memory is limited on Linux only. Under other limits, `fl_run(retry = TRUE)` tries such fits again.
#' @param name What to call the study.
#' @return An object of class `fl_study` with fields `datasets`, `preparations`, `ready` (by dataset, then by
#'   preparation), `methods`, `k`, `indices`, `agreements`, `repeats`, `seed`, `seconds`, `megabytes` and `name`.
#'   `as.data.frame()` gives its plan, one row per fit: `dataset`, `preparation`, `method`, `k`, `parameter` (of methods
#'   that find the count), `repeat` and `seed`.
#' @section Errors: `fjordline_error_argument` for a part that is missing or not of its kind, `fjordline_error_method`,
#'   `fjordline_error_index` for misspelt keys; the errors of [fl_data()] and [fl_prepare()] with the dataset and the
#'   preparation they came from.
#' @seealso [fl_run()] to run it, [fl_standings()] and [fl_track_record()] for what it shows.
#' @examples
#' study <- fl_study(c("water_samples", "icequakes"), list("kmeans", linkage = list(join = c("ward", "average"))),
#'                   k = 2:6, preparations = list(plain = list(), robust = list(scale = "median_iqr")),
#'                   indices = "fast")
#' study
#' @export
fl_study <- function(datasets, methods = c("kmeans", "mixture"), k = 1:10, preparations = list(plain = list()),
                     indices = "standard", agreements = c("adjusted_rand", "adjusted_mutual_information"),
                     repeats = 1, seed = 1, seconds = Inf, megabytes = Inf, name = "study") {
  read <- as_datasets(datasets)
  datasets <- lapply(read, `[[`, "data")
  preparations <- as_recipes(preparations, names(datasets))
  methods <- expand_methods(methods)
  k <- sort(unique(as.integer(check_whole(k, "k", many = TRUE))))
  chosen <- if (!identical(indices, "none")) as_indices(indices)
  for (measure in agreements) check_choice(measure, names(agreement_measures), "agreements")
  check_whole(repeats, "repeats")
  check_seed(seed)
  check_number(seconds, "seconds", least = 0.01, finite = FALSE)
  check_number(megabytes, "megabytes", least = least_megabytes, finite = FALSE)
  check_text(name, "name")
  ready <- lapply(stats::setNames(nm = names(datasets)), function(dataset) {
    mine <- preparations[vapply(preparations, function(p) dataset %in% p$datasets, NA)]
    lapply(stats::setNames(nm = names(mine)), function(preparation) {
      prepared_for(datasets[[dataset]], mine[[preparation]]$how, dataset, preparation)
    })
  })
  structure(
    list(name = name, datasets = datasets, preparations = preparations, ready = ready, methods = methods, k = k,
         noise = unlist(lapply(read, `[[`, "noise")), indices = chosen, agreements = unique(agreements),
         repeats = as.integer(repeats), seed = seed,
         seconds = seconds, megabytes = megabytes),
    class = "fl_study"
  )
}

# Less would not leave room for the threads of a fit.
least_megabytes <- 256

as_datasets <- function(datasets) {
  if (inherits(datasets, "fl_data")) datasets <- list(datasets)
  if (is.data.frame(datasets)) {
    fl_abort("argument", "`datasets` must be a named list of tables.", found = "It is one data frame.",
             advice = "Say which column is the truth: list(water = fl_data(table, truth = )).")
  }
  datasets <- as.list(datasets)
  if (length(datasets) == 0L) fl_abort("argument", "`datasets` must name at least one table.")
  given <- rlang::names2(datasets)
  read <- Map(function(one, name) of_dataset(name, as_dataset(one)), datasets, given)
  names(read) <- ifelse(nzchar(given), given, vapply(read, function(one) one$data$name, ""))
  check_names_once(names(read), "datasets")
  read
}

# What is wrong with a table is said with its name, where it has one.
of_dataset <- function(name, expr) {
  tryCatch(expr, fjordline_error = function(e) {
    if (!nzchar(name)) rlang::cnd_signal(e)
    fl_abort(sub("^fjordline_error_", "", class(e)[1L]), paste0("The dataset ", quoted(name), " cannot be used."),
             parent = e)
  })
}

as_dataset <- function(one) {
  if (inherits(one, "fl_data")) {
    return(list(data = one))
  }
  if (rlang::is_string(one)) {
    if (one %in% names(demo_tables)) return(list(data = fl_demo(one), noise = demo_tables[[one]]$noise))
    if (file.exists(one)) return(list(data = fl_data(one)))
    fl_abort("argument", paste0("There is no demo table and no file ", quoted(one), "."),
             advice = did_you_mean(one, names(demo_tables), "The demo tables are"))
  }
  if (!is.list(one) || is.data.frame(one)) {
    fl_abort("argument", "Each of `datasets` must come from fl_data(), be the name of a demo table, or a list.",
             found = paste0("One is ", shape_of(one), "."))
  }
  data <- if (inherits(one[[1L]], "fl_data")) one[[1L]] else do.call(fl_data, one[rlang::names2(one) != "noise"])
  if (!is.null(one$noise)) check_choice(one$noise, unique(stats::na.omit(truth_of(data))), "noise")
  list(data = data, noise = one$noise)
}

check_names_once <- function(names, argument) {
  twice <- unique(names[duplicated(names)])
  if (length(twice) > 0L) {
    fl_abort("argument", paste0("Two of `", argument, "` are called ", quoted(twice[1L]), "."),
             advice = "Give each a name of its own.")
  }
}

# Each preparation as how it is made and the datasets it is for.
as_recipes <- function(preparations, datasets) {
  if (!is.list(preparations) || length(preparations) == 0L || !all(nzchar(rlang::names2(preparations)))) {
    fl_abort("argument", "`preparations` must be a named list of what fl_prepare() takes.",
             found = paste0("It is ", shape_of(preparations), "."), advice = "list(plain = list()) is the simplest.")
  }
  check_names_once(names(preparations), "preparations")
  words <- setdiff(names(formals(fl_prepare)), "data")
  recipes <- lapply(stats::setNames(nm = names(preparations)), function(preparation) {
    how <- preparations[[preparation]]
    if (!is.list(how)) {
      fl_abort("argument", paste0("The preparation ", quoted(preparation), " must be a list."),
               found = paste0("It is ", shape_of(how), "."), advice = "As in list(scale = \"median_iqr\").")
    }
    for (word in setdiff(rlang::names2(how), c(words, "datasets"))) {
      fl_abort("argument", paste0("The preparation ", quoted(preparation), " has a word that is not known: ",
                                  quoted(word), "."),
               advice = did_you_mean(word, c(words, "datasets"), "The words are"))
    }
    for (one in how$datasets) check_choice(one, datasets, "datasets")
    list(how = how[setdiff(names(how), "datasets")], datasets = how$datasets %||% datasets)
  })
  bare <- setdiff(datasets, unlist(lapply(recipes, `[[`, "datasets")))
  if (length(bare) > 0L) {
    fl_abort("argument", paste0("There is no preparation for ", listed(quoted(bare)), "."),
             advice = "Add one, or leave out its `datasets`.")
  }
  recipes
}

prepared_for <- function(data, how, dataset, preparation) {
  tryCatch(do.call(fl_prepare, c(list(data), how, if (is.null(how$name)) list(name = preparation))),
           fjordline_error = function(e) {
    fl_abort(sub("^fjordline_error_", "", class(e)[1L]),
             paste0("The preparation ", quoted(preparation), " cannot be made of ", dataset, "."), parent = e)
  })
}

# A named element is a method's key with the values its settings take, of which all combinations are methods; or a
# method with a name of its own.
expand_methods <- function(methods) {
  if (inherits(methods, "fl_method") || !is.list(methods)) {
    return(as_methods(methods))
  }
  given <- rlang::names2(methods)
  own <- nzchar(given) & vapply(methods, inherits, NA, "fl_method")
  each <- Map(function(one, key, own) if (own || !nzchar(key)) list(one) else every_setting(key, one), methods, given,
              own)
  out <- as_methods(unlist(unname(each), recursive = FALSE))
  called <- rep(ifelse(own, given, ""), lengths(each))
  names(out)[nzchar(called)] <- called[nzchar(called)]
  check_names_once(names(out), "methods")
  out
}

every_setting <- function(key, settings) {
  if (!is.list(settings) || length(settings) > 0L && !all(nzchar(rlang::names2(settings)))) {
    fl_abort("method", paste0("The settings of ", quoted(key), " must be a named list."),
             found = paste0("It is ", shape_of(settings), "."))
  }
  if (length(settings) == 0L) {
    return(list(fl_method(key)))
  }
  at <- expand.grid(rev(lapply(settings, seq_along)))
  lapply(seq_len(nrow(at)), function(row) {
    do.call(fl_method, c(key, Map(function(values, i) values[[i]], settings, at[row, names(settings)])))
  })
}
