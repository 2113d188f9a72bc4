# A bar where a person waits for more than two seconds: in an interactive session and on a terminal, never in a script
# or a knitted document, and not beside handlers of the user's own.

with_bar <- function(expr, shown = someone_waits()) {
  if (!shown) {
    return(expr)
  }
  before <- options(fjordline.bar = TRUE)  # one bar for all that runs within
  on.exit(options(before))
  bar <- if (rlang::is_installed("progress")) {
    progressr::handler_progress("[:bar] :percent, :eta left", show_after = 2, clear = TRUE, enable = TRUE)
  } else {
    progressr::handler_txtprogressbar(file = stderr(), enable = TRUE, enable_after = 2, clear = TRUE)
  }
  progressr::with_progress(expr, handlers = bar, enable = TRUE)
}

someone_waits <- function() {
  rlang::is_interactive() && !isTRUE(getOption("knitr.in.progress")) && !isTRUE(getOption("fjordline.bar")) &&
    !isTRUE(progressr::handlers(global = NA)) && !shown_by_user()
}

# Whether the call stands within progressr::with_progress().
shown_by_user <- function() {
  any(vapply(sys.calls(), function(call) {
    name <- call[[1L]]
    identical(name, quote(with_progress)) || identical(name, quote(progressr::with_progress))
  }, NA))
}
