# A process of its own for long fits, so that the page stays alive: it runs one line at a time, tells how far it is, and
# can be stopped.

new_worker <- function() {
  need_package("callr", "The explorer")
  worker <- new.env(parent = emptyenv())
  worker$session <- NULL
  worker$busy <- NULL
  worker
}

worker_session <- function(worker) {
  if (is.null(worker$session) || !worker$session$is_alive()) {
    # a busy machine may take long to begin one
    worker$session <- callr::r_session$new(callr::r_session_options(libpath = .libPaths()), wait_timeout = 60000)
  }
  worker$session
}

# Begins a line; what it needs goes along. Refuses a second one.
worker_begin <- function(worker, line, made, folder) {
  if (!is.null(worker$busy)) {
    fl_abort("argument", "A fit is running already.", advice = "Wait for it, or stop it.")
  }
  progress <- tempfile("fjordline-progress-")
  session <- worker_session(worker)
  session$call(function(line, made, folder, progress, threads) {
    options(fjordline.threads = threads)
    progressr::with_progress(
      utils::getFromNamespace("run_line", "fjordline")(line, made, folder),
      handlers = progressr::handler_filesize(file = progress, enable = TRUE), enable = TRUE
    )
  }, list(line, made, folder, progress, getOption("fjordline.threads")))
  worker$busy <- list(line = line, made = made, progress = progress, since = Sys.time())
  invisible(worker)
}

# How it stands: `state` "idle", "running" (with `share`, 0 to 1, and `seconds`), "done" (with `line`, `found`, and
# `made`, what it was made from), or "failed" (with `line` and `error`).
worker_look <- function(worker) {
  if (is.null(worker$busy)) {
    return(list(state = "idle"))
  }
  busy <- worker$busy
  session <- worker$session
  said <- if (session$poll_process(0) == "ready") session$read()
  # what is not an answer is a message on the way
  if (session$is_alive() && !identical(said$code, 200L)) {
    share <- file.size(busy$progress)
    return(list(state = "running", share = if (is.na(share)) 0 else min(1, share / 100), line = busy$line,
                seconds = as.double(difftime(Sys.time(), busy$since, units = "secs"))))
  }
  worker$busy <- NULL
  unlink(busy$progress)
  if (!identical(said$code, 200L)) {
    return(list(state = "failed", line = busy$line,
                error = "The process that fitted ended by itself; it may have run out of memory. Nothing was changed."))
  }
  if (!is.null(said$error)) {
    return(list(state = "failed", line = busy$line, error = worker_error(said$error)))
  }
  list(state = "done", line = busy$line, found = said$result, made = busy$made)
}

# The error of the line, not that of the process around it.
worker_error <- function(error) {
  while (!is.null(error$parent)) error <- error$parent
  error_text(error)
}

error_text <- function(error) {
  text <- if (inherits(error, "rlang_error")) rlang::cnd_message(error) else conditionMessage(error)
  visible(text, keep = "\n")
}

worker_stop <- function(worker) {
  if (!is.null(worker$session)) worker$session$kill()
  if (!is.null(worker$busy)) unlink(worker$busy$progress)
  worker$session <- NULL
  worker$busy <- NULL
  invisible(worker)
}
