# The desk of the explorer: what was made, and the lines of R that made it. An act is a line: it is run, and kept. What
# was only looked at is no act. Nothing here knows of a page.

# Objects by the order of work: a new one puts away those that were made from the one it replaces.
desk_stages <- c("data", "outliers", "ready", "sweep", "vote", "groups")

# `folder`: where files are read and written by the names that lines give them.
new_desk <- function(folder, made = list(), lines = character()) {
  list(folder = folder, made = made, lines = lines, past = list())
}

# A desk on which an object of the session lies, with the lines that make it.
desk_for <- function(x, folder, name = "table") {
  if (is.null(x)) {
    return(new_desk(folder))
  }
  if (is.data.frame(x) || is.matrix(x)) {
    desk <- new_desk(folder, stats::setNames(list(x), name))
    return(desk_run(desk, paste0("data <- fl_data(", name_code(name), ")")))
  }
  if (is.list(x) && !is.object(x) && length(x) == 2L && all(vapply(x, inherits, NA, "fl_partition"))) {
    second <- desk_for(x[[2L]], folder)
    lines <- c(second$lines, "kept_1 <- groups")
    first <- desk_for(x[[1L]], folder)
    return(new_desk(folder, c(first$made, list(kept_1 = x[[2L]])), c(lines, first$lines)))
  }
  check_made_by(x, c("fl_data", "fl_prepare", "fl_sweep", "fl_vote", "fl_partition"), "x")
  made <- objects_of(x)
  link_file(made$data$file, folder)
  new_desk(folder, made, fl_steps(x))
}

# Lines run in the desk's own folder: a file that they name from where the session stands is linked there.
link_file <- function(file, folder) {
  inside <- !is.null(file) && file.exists(file) && !grepl("^([/~]|[A-Za-z]:)|(^|[/\\\\])[.][.]([/\\\\]|$)", file)
  if (inside) {
    there <- file.path(folder, file)
    dir.create(dirname(there), showWarnings = FALSE, recursive = TRUE)
    if (!suppressWarnings(file.symlink(normalizePath(file), there))) file.copy(file, there)
  }
}

# What an object was made from lies on the desk with it.
objects_of <- function(x) {
  if (inherits(x, "fl_data")) {
    list(data = x)
  } else if (inherits(x, "fl_prepare")) {
    c(if (!is.null(x$data)) list(data = x$data), if (!is.null(x$outliers)) list(outliers = x$outliers), list(ready = x))
  } else if (inherits(x, "fl_sweep")) {
    c(objects_of(x$ready[[1L]]), list(sweep = x))
  } else if (inherits(x, "fl_vote")) {
    c(objects_of(x$sweep), list(vote = x))
  } else if (!is.null(x$vote)) {
    c(objects_of(x$vote), list(groups = x))
  } else {
    c(objects_of(x$ready), list(groups = x))
  }
}

# --- acts

# Runs a line and keeps it. A line that fails changes nothing.
desk_run <- function(desk, line) desk_keep(desk, line, run_line(line, desk$made, desk$folder))

# Whether objects still lie on the desk as they were: what was made from others must not be kept beside these.
still_there <- function(desk, made) {
  all(vapply(names(made), function(name) identical(made[[name]], desk$made[[name]]), NA))
}

# Several lines as one act after another; where one fails nothing is changed.
desk_run_all <- function(desk, lines) Reduce(desk_run, lines, desk)

# What a line makes: a list with the object it assigns, or nothing.
run_line <- function(line, made, folder) {
  act <- rlang::parse_expr(line)
  room <- list2env(made, parent = topenv())
  before <- setwd(folder)
  on.exit(setwd(before))
  eval(act, room)
  target <- assigned_by(act)
  if (is.null(target)) list() else mget(target, envir = room)
}

desk_keep <- function(desk, line, found) {
  past <- c(desk$past, list(desk[c("made", "lines")]))
  stage <- match(names(found), desk_stages)
  later <- if (length(found) == 1L && !is.na(stage)) desk_stages[seq_along(desk_stages) > stage]
  made <- desk$made[setdiff(names(desk$made), later)]
  made[names(found)] <- found
  list(folder = desk$folder, made = made, lines = c(desk$lines, line), past = past)
}

desk_undo <- function(desk) {
  if (length(desk$past) == 0L) {
    return(desk)
  }
  last <- desk$past[[length(desk$past)]]
  list(folder = desk$folder, made = last$made, lines = last$lines, past = utils::head(desk$past, -1L))
}

# --- the script

assigned_by <- function(act) {
  if (is.call(act) && identical(act[[1L]], as.name("<-"))) as.character(act[[2L]])
}

# The lines that what lies here needs: what was replaced before anything used it is left out. A line that assigns
# nothing, as one that writes a file, stays.
desk_script <- function(desk) {
  needed <- names(desk$made)
  keep <- logical(length(desk$lines))
  for (i in rev(seq_along(desk$lines))) {
    act <- rlang::parse_expr(desk$lines[i])
    target <- assigned_by(act)
    keep[i] <- is.null(target) || target %in% needed
    if (keep[i]) {
      needed <- union(setdiff(needed, target), all.names(if (is.null(target)) act else act[[3L]], functions = FALSE))
    }
  }
  c("library(fjordline)", desk$lines[keep])
}
