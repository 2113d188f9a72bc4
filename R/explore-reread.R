# Lines made anew from those that lie on the desk: the same table with other roles, advice that is followed.

# The same table with other roles: the line that read it again, with these.
roles_lines <- function(desk, roles) reread_lines(desk, roles_given(roles$column, roles$role, roles$type))

# The table read with other arguments; rows that were set apart or left out of it stay so, and a preparation is made
# again where its columns are still there.
reread_lines <- function(desk, given) {
  acts <- acts_on(desk, "data")
  from <- max(which(vapply(acts, reads_anew, NA)))
  later <- vapply(acts[-seq_len(from)], function(act) line_of("data", code_of(act)), "")
  changed <- c(changed_line(acts[[from]], "data", given), later)
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

# A call with some arguments replaced; a demo table keeps its name.
changed_line <- function(act, target, given) {
  act <- as.list(act)
  if (identical(act[[1L]], as.name("fl_demo"))) {
    act <- as.list(rlang::parse_expr(open_line(demo = act[[2L]], given = list(name = act[[2L]])))[[3L]])
  }
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
  acts <- Filter(reads_anew, acts_on(desk, "data"))
  reread_lines(desk, merged_with(remedy$setting, acts[[length(acts)]]))
}

merged_with <- function(setting, act) stats::setNames(list(merged_setting(act[[names(setting)]], setting[[1L]])),
                                                      names(setting))

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
