# What a method says of itself: a few named parts, each field of them checked.

# What people read.
about_fields <- list(
  label = text_field(""), when = text_field("not stated"), shape = text_field("not stated"),
  needs = text_field("not stated"), cost = text_field("not stated"), source = text_field("not stated"),
  minimises = text_field("objective"), centre = text_field("centre")
)

# Whether it finds the count (or its settings do: `frees`), and the `parameter` that decides it then, with the `grid` of
# values to try.
count_fields <- list(
  free_count = flag_field(), frees = function_field(1), parameter = field(
    function(v) is.null(v) || rlang::is_string(v), "the name of a setting", NULL
  ), grid = function_field(2)
)

# How rows get their group, beyond the nearest centre. `rule`: the same as `assign`, in numbers for other programs (see
# core-rules.R). `by_rows`: new rows go with the nearest fitted row; `guards`: placing itself turns rows away.
placing_fields <- list(
  assign = function_field(2), rule = function_field(1), membership = function_field(2),
  density = function_field(2), by_rows = flag_field(),
  guards = flag_field()
)

# Short ways: `shared`, what all counts share; `scatter`, W alone; `by_samples`, the labels of all rows by fits to
# samples of them.
shortcut_fields <- list(shared = function_field(2:3), scatter = function_field(4), by_samples = function_field(5))

# Of a method that chooses among models: `settled`, the settings to fit again with what a fit has chosen; `contending`,
# those with all that a sample of the rows could choose; `refit`, a partition fitted to some of its rows from its own
# groups; `broad`, a partition without the directions in which all rows hardly differ.
choice_fields <- list(settled = function_field(2), contending = function_field(3), refit = function_field(3),
                     broad = function_field(2))

# What it does elsewhere. `voice`: by its settings, how fl_vote() hears it: "round", for indices that see round groups,
# or "models", whose likelihoods can be compared. `usual_up_to`: swept up to so many rows where no method is named.
# `in_batches`: its centres can be pulled by batches of rows. `views`: of a partition, the figures that are its own,
# each with its title. `untried`: what a report says where it was not tried.
trait_fields <- list(
  voice = function_field(1), usual_up_to = number_field(0, least = 0), in_batches = flag_field(),
  views = function_field(1), untried = field(function(v) is.null(v) || rlang::is_string(v), "one sentence", NULL)
)

declare_method <- function(key, fit, settings = list(), check = NULL, about = list(), counts = list(), placing = list(),
                           shortcuts = list(), models = list(), traits = list()) {
  check_key(key, "method")
  if (!takes(fit, 4:6)) {
    fl_abort("method", "`fit` must be a function of (x, k, settings, seed).",
             found = paste0("It is ", shape_of(fit), "."))
  }
  if (!is.list(settings) || length(settings) > 0L && !rlang::is_named(settings)) {
    fl_abort("method", "`settings` must be a named list of settings and their defaults.",
             found = paste0("It is ", shape_of(settings), "."))
  }
  method <- c(
    list(key = key, fit = fit, settings = settings, changed = list()),
    declared_fields(list(check = check), list(check = function_field(1)), "method"),
    declared_fields(utils::modifyList(list(label = key), about), about_fields, "method"),
    declared_fields(counts, count_fields, "method"), declared_fields(placing, placing_fields, "method"),
    declared_fields(shortcuts, shortcut_fields, "method"), declared_fields(models, choice_fields, "method"),
    declared_fields(traits, trait_fields, "method")
  )
  structure(method, class = "fl_method")
}
