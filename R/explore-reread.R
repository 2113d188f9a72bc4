# Lines made anew from those that lie on the desk: the same table with other roles, advice that is followed.

# The same table with other roles: the line that read it again, with these.
roles_lines <- function(desk, roles) reread_lines(desk, roles_given(roles$column, roles$role, roles$type))

# The table read with other arguments; rows that were set apart or left out of it stay so, and a preparation is made
# again where its columns are still there.
reread_lines <- function(desk, given) {
  acts <- acts_on(desk, "data")
  from <- max(which(vapply(acts, reads_anew, NA)))
  later <- vapply(acts[-seq_len(from)], function(act) line_of("data", code_of(act)), "")
  changed <- c(changed_line(reading_act(desk), "data", given), later)
  again <- c(changed, line_again(desk, "ready"))
  works <- tryCatch({
    desk_run_all(desk, again)
    TRUE
  }, error = function(e) FALSE)
  unname(if (works) again else changed)
}

# The line that made what lies there; nothing where nothing does.
line_again <- function(desk, target) {
  if (!is.null(desk$made[[target]])) line_of(target, code_of(last_act(desk, target)))
}

code_of <- function(act) paste(deparse(act, width.cutoff = 500L), collapse = " ")

# What was assigned to a name, call by call.
acts_on <- function(desk, target) {
  acts <- Filter(function(act) identical(assigned_by(act), target), lapply(desk$lines, rlang::parse_expr))
  lapply(acts, `[[`, 3L)
}

last_act <- function(desk, target) utils::tail(acts_on(desk, target), 1L)[[1L]]

# A call that begins with a file or a demo table, not with the table that lies there.
reads_anew <- function(act) !"data" %in% all.names(act, functions = FALSE)

# The call that read the table. Of a demo table, one of fl_data() that gives it the name and the roles it came with.
reading_act <- function(desk) {
  acts <- Filter(reads_anew, acts_on(desk, "data"))
  act <- acts[[length(acts)]]
  if (!identical(act[[1L]], as.name("fl_demo"))) {
    return(act)
  }
  own <- summary(run_line(line_of("data", code_of(act)), list(), desk$folder)$data)
  given <- c(list(name = act[[2L]]), roles_given(own$column, own$role, own$type))
  rlang::parse_expr(open_line(demo = act[[2L]], given = given))[[3L]]
}

# A call with some arguments replaced.
changed_line <- function(act, target, given) {
  act <- as.list(act)
  act[names(given)[lengths(given) == 0L]] <- NULL
  for (name in names(given)[lengths(given) > 0L]) {
    value <- given[[name]]
    act[[name]] <- if (is.language(value)) value else rlang::parse_expr(code(value))
  }
  line_of(target, code_of(as.call(act)))
}

# The first setting that advice names, where it is one of a table or of a preparation.
remedy_of <- function(advice) {
  setting <- first_setting(advice)
  for (made_by in c("fl_prepare", "fl_data")) {
    known <- names(formals(get(made_by)))[-1L]
    if (isTRUE(names(setting) %in% known)) {
      return(list(made_by = made_by, setting = setting))
    }
  }
}

# The lines that do what advice says; NULL where the reader has to decide.
remedy_lines <- function(desk, advice) {
  remedy <- remedy_of(advice)
  if (is.null(remedy)) {
    return(NULL)
  }
  if (remedy$made_by == "fl_prepare") {
    act <- if (is.null(desk$made$ready)) quote(fl_prepare(data)) else last_act(desk, "ready")
    return(changed_line(act, "ready", merged_with(remedy$setting, act)))
  }
  act <- reading_act(desk)
  given <- merged_with(remedy$setting, act)
  # what is kept aside is no feature any more
  if (!is.null(given$aside) && !is.null(act$features)) {
    given$features <- setdiff(eval(act$features, baseenv()), given$aside)
  }
  reread_lines(desk, given)
}

# The table read with a column as of another type.
type_lines <- function(desk, column, type) {
  setting <- list(types = rlang::parse_expr(paste0("list(", named_code(column, code(type)), ")")))
  roles <- desk$made$data$roles
  this <- roles$column == column
  # kept aside for being no number
  if (type == "number" && roles$by[this] == "default" && roles$role[this] == "aside") roles$role[this] <- "feature"
  roles$type[this] <- type
  reread_lines(desk, c(merged_with(setting, reading_act(desk)), roles_given(roles$column, roles$role, roles$type)))
}

merged_with <- function(setting, act) {
  name <- names(setting)
  before <- act[[name]]
  now <- setting[[1L]]
  merged <- if (name %in% c("aside", "blanks")) union(eval(before, baseenv()), eval(now, baseenv()))
  else merged_setting(before, now)
  stats::setNames(list(merged), name)
}

# c(a = "log") and c(b = "log1p") become one; the later wins.
merged_setting <- function(before, now) {
  several <- function(value) is.call(value) && !is.null(names(value))
  if (!several(before) || !several(now)) {
    return(now)
  }
  values <- as.list(before)[-1L]
  values[names(as.list(now)[-1L])] <- as.list(now)[-1L]
  as.call(c(as.list(before)[1L], values))
}
