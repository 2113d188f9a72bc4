# Every failure the package foresees is raised here: a condition of class fjordline_error_<what>
# that says what is wrong, what was found (x) and what to do (i).

fl_abort <- function(what, message, found = NULL, advice = NULL, parent = NULL) {
  bullets <- shown_bullets(message, found, advice)
  rlang::abort(
    bullets,
    class = c(paste0("fjordline_error_", what), "fjordline_error"),
    call = calling_function(), parent = parent, use_cli_format = FALSE
  )
}

# A rule that stepped in, said aloud: a warning of class fjordline_warning_<what>.
fl_warn <- function(what, message, advice = NULL) {
  rlang::warn(shown_bullets(message, advice = advice),
              class = c(paste0("fjordline_warning_", what), "fjordline_warning"), detail = advice, call = NULL,
              use_cli_format = FALSE)
}

shown_bullets <- function(message, found = NULL, advice = NULL) {
  bullets <- c(message, set_bullets(found, "x"), set_bullets(advice, "i"))
  stats::setNames(visible(bullets, keep = "\n"), rlang::names2(bullets))
}

set_bullets <- function(text, bullet) {
  text <- as.character(text)[nzchar(text)]
  stats::setNames(text, rep_len(bullet, length(text)))
}

# The call that the user wrote, so that messages name that and no helper: the nearest of our functions that none of ours
# has called. Arguments are evaluated when they are needed, but where they were written.
calling_function <- function() {
  called <- vapply(sys.calls(), function(call) if (is.symbol(call[[1L]])) as.character(call[[1L]]) else "", "")
  ours <- grepl("^(fl_[a-z]+|predict|autoplot)", called) & !called %in% c("fl_abort", "fl_warn")
  parents <- sys.parents()
  within_ours <- function(frame) {
    while (frame > 0L && parents[frame] < frame) {
      frame <- parents[frame]
      if (frame > 0L && ours[frame]) return(TRUE)
    }
    FALSE
  }
  written <- Filter(Negate(within_ours), which(ours))
  if (length(written) > 0L) as.call(list(as.symbol(sub("\\.fl_.*$", "", called[max(written)]))))
}

# What was given by a name that the function does not know, or as one argument too many.
check_no_dots <- function(...) {
  given <- rlang::exprs(...)
  if (length(given) == 0L) {
    return(invisible())
  }
  name <- rlang::names2(given)[1L]
  known <- setdiff(names(formals(sys.function(-1L))), "...")[-1L]
  fl_abort("argument", if (nzchar(name)) paste0("There is no argument ", quoted(name), " here.")
           else "There is one argument too many.",
           found = if (!nzchar(name)) paste0("It is ", shape_of(given[[1L]]), "."),
           advice = if (length(known) > 0L) did_you_mean(name, known, "The others are"))
}

# The valid word nearest to a misspelt one, or nothing when none is near.
nearest_word <- function(word, choices) {
  if (length(choices) == 0L || is.na(word)) {
    return(character())
  }
  distance <- utils::adist(word, choices, ignore.case = TRUE)[1L, ]
  if (min(distance) > max(2, 0.4 * nchar(word))) {
    return(character())
  }
  choices[which.min(distance)]
}

did_you_mean <- function(word, choices, what = "They are") {
  near <- nearest_word(word, choices)
  if (length(near) > 0L) {
    return(paste0("Did you mean ", quoted(near), "?"))
  }
  paste0(what, " ", listed(quoted(choices)), ".")
}

# One word out of several, or an error naming the nearest valid one.
check_choice <- function(value, choices, argument, what = "argument") {
  if (!rlang::is_string(value)) {
    fl_abort(what, paste0("`", argument, "` must be one of ", listed(quoted(choices), "or"), "."),
             found = paste0("It is ", shape_of(value), "."))
  }
  if (!value %in% choices) {
    fl_abort(what, paste0(argument, " = ", quoted(value), " is not known."),
             advice = did_you_mean(value, choices, "The choices are"))
  }
  value
}

check_whole <- function(value, argument, least = 1, many = FALSE, most = .Machine$integer.max) {
  fits <- is.numeric(value) && length(value) > 0L && (many || length(value) == 1L) && !anyNA(value) &&
    all(is.finite(value)) && all(value == round(value)) && all(value >= least) && all(value <= most)
  if (!fits) {
    wanted <- if (many) "whole numbers" else "one whole number"
    limits <- if (most < .Machine$integer.max) paste("from", least, "to", most) else paste("of at least", least)
    fl_abort("argument", paste0("`", argument, "` must be ", wanted, " ", limits, "."),
             found = paste0("It is ", shape_of(value), "."))
  }
  value
}

check_number <- function(value, argument, least = -Inf, most = Inf, finite = TRUE) {
  if (!is.numeric(value) || length(value) != 1L || is.na(value) || finite && is.infinite(value) || value < least ||
        value > most) {
    limits <- if (is.finite(most)) paste(" from", digits3(least), "to", digits3(most))
    else if (is.finite(least)) paste(" of at least", digits3(least))
    fl_abort("argument", paste0("`", argument, "` must be one ", if (finite) "finite ", "number", limits, "."),
             found = paste0("It is ", shape_of(value), "."))
  }
  value
}

check_flag <- function(value, argument) {
  if (!rlang::is_bool(value)) {
    fl_abort("argument", paste0("`", argument, "` must be TRUE or FALSE."),
             found = paste0("It is ", shape_of(value), "."))
  }
  value
}

check_seed <- function(seed) check_whole(seed, "seed", least = 0, most = 2^53)

check_text <- function(value, argument) {
  if (!rlang::is_string(value) || !nzchar(trimws(value))) {
    fl_abort("argument", paste0("`", argument, "` must be one piece of text."),
             found = paste0("It is ", shape_of(value), "."))
  }
  value
}

# An object that another function of ours makes.
check_made_by <- function(x, class, argument) {
  if (!inherits(x, class)) {
    maker <- paste0(class, "()", collapse = " or ")
    fl_abort("argument", paste0("`", argument, "` must be ", object_words[[class[1L]]], ", made by ", maker, "."),
             found = paste0("It is ", shape_of(x), "."))
  }
  x
}

# What a value is, in words short enough for an error.
shape_of <- function(value) {
  if (is.null(value)) {
    return("NULL")
  }
  if (is.data.frame(value)) {
    return(paste0("a data frame (", nrow(value), " x ", ncol(value), ")"))
  }
  if (is.atomic(value) && length(value) == 1L) {
    return(if (is.character(value)) quoted(value) else format(value))
  }
  if (is.atomic(value) && length(value) <= 6L && length(value) > 0L) {
    return(paste0("c(", paste(value, collapse = ", "), ")"))
  }
  own <- intersect(class(value), names(object_words))
  if (length(own) > 0L) {
    return(object_words[[own[1L]]])
  }
  if (is.function(value)) "a function"
  else if (is.atomic(value)) paste(counted(length(value), "value"), "of class", class(value)[1L])
  else if (is.list(value) && !is.object(value)) paste("a list of", length(value))
  else paste("an object of class", class(value)[1L])
}

object_words <- c(
  fl_data = "a table", fl_prepare = "a preparation", fl_sweep = "a sweep", fl_vote = "a vote",
  fl_partition = "a partition", fl_method = "a method", fl_index = "an index", fl_agree = "an agreement",
  fl_profile = "a profile", fl_study = "a study", fl_run = "the result of a study", fl_structure = "a test for groups",
  fl_contrast = "a contrast", fl_lineage = "a lineage", fl_choices = "a map of choices", fl_place = "placed rows",
  fl_outliers = "flagged outliers", fl_mismatches = "the rows that disagree", fl_reliability = "a reliability",
  fl_outcome = "an outcome by group", fl_paths = "rules", fl_standings = "standings", fl_weights = "weights",
  fl_track_record = "a track record", fl_advice = "advice", fl_check = "findings of a check"
)

# What an error says, without its details.
first_line <- function(error) sub("\n.*$", "", rlang::cnd_header(error))
