# The explorer: a page in the browser, served from this machine.

#' Look, step, compare, name and decide in a browser
#'
#' Opens a page that does with the pointer what the functions of this package do: bring a table, see what separates the
#' rows, fit, step through the counts, read groups and rows, compare two partitions, decide, and hand the result on.
#' Every act appears there as a line of R; the script makes the same groups in a fresh session. What was only looked at
#' is not in it. Only "Fit" fits: selections and filters never change a result.
#'
#' @section The page: it listens on this machine alone, at the address that is printed, and asks no other address for
#'   anything. The address holds a random word; without it nothing is shown. Several pages at once do not see each
#'   other's work. A page that was closed finds its work again under the same address. Files that are dropped there are
#'   read by [fl_data()], up to `most_mb` megabytes. Left and right step the count, `/` finds a row, escape clears.
#'
#'   Long fits run in a process of their own, with a bar and a stop. Drawn are up to `most` rows, beyond that an even
#'   sample; fits and labels are always of all rows.
#' @param x What the page starts with: `NULL`, a data frame, or an object of [fl_data()], [fl_prepare()],
#'   [fl_sweep()], [fl_vote()], [fl_settle()], [fl_partition()] or [fl_take()]; or a list of two partitions of the same
#'   rows.
#' @param port The port to listen at; left out, a free one.
#' @param open Whether to open the page in the browser.
#' @param most Most rows to draw.
#' @param most_mb Largest file that can be dropped, in megabytes.
#' @return What was on the desk when the page was closed, invisibly: a list of the objects by name (`data`, `ready`,
#'   `sweep`, `vote`, `groups`, as far as they were made) and `script`, the lines of R.
#' @section Errors: `fjordline_error_argument` for an `x` that is none of these, or a port that is not free;
#'   `fjordline_error_package` where shiny, bslib or callr is missing.
#' @examples
#' if (interactive()) {
#'   fl_explore(fl_demo("water_samples"))
#' }
#' @export
fl_explore <- function(x = NULL, port = NULL, open = rlang::is_interactive(), most = 200000, most_mb = 500) {
  for (package in c("shiny", "bslib", "htmltools", "callr")) need_package(package, "The explorer")
  check_flag(open, "open")
  check_whole(most, "most", least = 100)
  check_whole(most_mb, "most_mb", least = 1)
  port <- free_port(port)
  home <- explorer_home(x, as_label(substitute(x)), most)
  on.exit(close_home(home))
  before <- options(shiny.maxRequestSize = most_mb * 1024^2)
  on.exit(options(before), add = TRUE)
  address <- paste0("http://127.0.0.1:", port, "/?token=", home$token)
  cat("The explorer is at\n", address, "\nInterrupt, or press Close there, to end it.\n", sep = "")
  shiny::runApp(explorer_app(home), port = port, host = "127.0.0.1", quiet = TRUE,
                launch.browser = if (open) function(url) utils::browseURL(address) else FALSE)
  desk <- home$last
  invisible(c(desk$made, list(script = desk_script(desk))))
}

free_port <- function(port) {
  if (is.null(port)) {
    return(httpuv::randomPort(host = "127.0.0.1"))
  }
  check_whole(port, "port", least = 1, most = 65535)
  free <- tryCatch({
    close(serverSocket(port))
    TRUE
  }, error = function(e) FALSE)
  if (!free) {
    fl_abort("argument", paste0("Port ", port, " is not free."), advice = "Give another `port`, or none.")
  }
  as.integer(port)
}

# What all pages of one call share: the word in the address, and the desks by page.
explorer_home <- function(x, name, most) {
  home <- new.env(parent = emptyenv())
  home$token <- random_word()
  home$folder <- tempfile("fjordline-explore-")
  dir.create(home$folder)
  home$first <- desk_for(x, home$folder, name)
  home$last <- home$first
  home$most <- most
  home$pages <- new.env(parent = emptyenv())
  home
}

close_home <- function(home) {
  for (page in ls(home$pages)) worker_stop(home$pages[[page]]$worker)
  unlink(home$folder, recursive = TRUE)
}

# Not from R's random numbers: those are the reader's, and can be guessed.
random_word <- function() {
  source <- "/dev/urandom"
  if (!file.exists(source)) {
    return(rlang::hash(list(Sys.time(), Sys.getpid(), tempfile(), proc.time(), gc())))
  }
  from <- file(source, "rb", raw = TRUE)
  on.exit(close(from))
  paste(readBin(from, "raw", 16L), collapse = "")
}

# A page's desk and worker. Who comes next gets the page back that was closed last.
page_of <- function(home, asked = NULL) {
  known <- ls(home$pages)
  open <- vapply(known, function(page) home$pages[[page]]$open, NA)
  free <- known[!open]
  left <- vapply(free, function(page) as.double(home$pages[[page]]$left), 0)
  id <- if (isTRUE(asked %in% free)) asked
  else if (is.null(asked) && length(free) > 0L) free[which.max(left)]
  if (is.null(id)) {
    id <- paste0("p", length(known) + 1L)
    home$pages[[id]] <- list2env(list(desk = if (length(known) == 0L) home$first else new_desk_beside(home, id),
                                      worker = new_worker(), open = FALSE, left = 0), parent = emptyenv())
  }
  home$pages[[id]]$open <- TRUE
  list(id = id, kept = home$pages[[id]])
}

new_desk_beside <- function(home, id) {
  folder <- file.path(home$folder, id)
  dir.create(folder)
  desk <- home$first
  desk$folder <- folder
  link_file(desk$made$data$file, folder)
  desk
}

# --- the page

explorer_app <- function(home) {
  shiny::shinyApp(function(request) {
    if (!identical(shiny::parseQueryString(request$QUERY_STRING)$token, home$token)) {
      return(shiny::httpResponse(403L, "text/plain", "This address lacks its word. Use the one that was printed."))
    }
    explorer_page(first_page(home$first$made))
  }, function(input, output, session) explorer_server(home, input, output, session))
}

# Where what was given stands.
first_page <- function(made) {
  if (!is.null(made$kept_1)) "compare"
  else if (!is.null(made$sweep) || !is.null(made$groups)) "groups"
  else if (!is.null(made$ready)) "columns"
  else "table"
}

explorer_page <- function(selected) {
  tags <- htmltools::tags
  style <- paste(c(canvas_style(), readLines(system.file("canvas", "page.css", package = "fjordline",
                                                         mustWork = TRUE))),
                 collapse = "\n")
  shiny::navbarPage(
    "Fjordline", id = "page", selected = selected, windowTitle = "Fjordline", fluid = TRUE,
    theme = bslib::bs_theme(version = 5, primary = "#224E56",
                            "font-family-sans-serif" = "system-ui, 'Segoe UI', 'DejaVu Sans', sans-serif"),
    header = tags$head(tags$link(rel = "icon", href = "data:,"), tags$style(htmltools::HTML(style))),
    footer = htmltools::tagList(
      script_pane(), tags$script(htmltools::HTML(canvas_code(c(canvas_files, "compare.js", "desk.js"))))
    ),
    table_panel(), columns_panel(), groups_panel(), compare_panel(), hand_panel()
  )
}

script_pane <- function() {
  tags <- htmltools::tags
  tags$aside(
    class = "fl-script", tags$details(
      tags$summary("Script"),
      htmltools::tagList(shiny::verbatimTextOutput("script_lines"), tags$div(
        tags$button(type = "button", class = "btn btn-sm btn-outline-primary fl-copy", "Copy"),
        shiny::downloadButton("save_script", "Save", class = "btn-sm btn-outline-primary", icon = NULL)
      ))
    ),
    shiny::actionButton("undo", "Undo", class = "btn-sm btn-outline-primary"),
    shiny::actionButton("close", "Close", class = "btn-sm btn-outline-primary")
  )
}

# Sentences of an object, a line each.
text_box <- function(id) shiny::textOutput(id, container = function(...) htmltools::tags$div(class = "fl-text", ...))
