# The explorer, served by a process of its own, and how a reader goes about in it.

local_explorer <- function(x = NULL, env = parent.frame()) {
  for (package in c("shiny", "bslib", "callr")) skip_if_not_installed(package)
  process <- callr::r_bg(function(x) fjordline::fl_explore(x, open = FALSE), list(x), stdout = "|", stderr = "|",
                         libpath = .libPaths())
  withr::defer(process$kill_tree(), envir = env)
  said <- character()
  until <- Sys.time() + 60
  while (!any(grepl("token=", said))) {
    said <- c(said, process$read_output_lines())
    if (Sys.time() > until || !process$is_alive()) stop("no explorer: ", process$read_all_error())
    Sys.sleep(0.1)
  }
  grep("^http", said, value = TRUE)
}

go_to <- function(browser, page) {
  browser_click_on(browser, ".nav-link", page)
  Sys.sleep(0.3)
}
choose_in <- function(browser, id, value) {
  browser_value(browser, sprintf("document.querySelector('#%s').selectize.setValue(%s)", id, deparse(value)))
}
script_of <- function(browser) strsplit(browser_value(browser, "document.querySelector('#script_lines').textContent"), "\n")[[1]]
wait_for_line <- function(browser, pattern, within = 60) {
  browser_until(browser, sprintf("/%s/.test(document.querySelector('#script_lines').textContent)", pattern), within)
}
in_view <- function(browser, code) browser_value(browser, paste0("(function (v) { return ", code, "; })(document.querySelector('#view').view)"))
plane_box <- function(browser) {
  unlist(browser_value(browser, "(function (b) { return [b.left, b.top, b.width, b.height]; })(document.querySelector('#view .fl-plane canvas').getBoundingClientRect())"))
}
