# What the page's server does: it hands acts to the desk, and what lies there to the page.

explorer_server <- function(home, input, output, session) {
  query <- shiny::parseQueryString(shiny::isolate(session$clientData$url_search))
  if (!identical(query$token, home$token)) {
    session$close()
    return(invisible())
  }
  page <- explorer_session(home, query$page, session)
  table_server(page, input, output)
  columns_server(page, input, output)
  groups_server(page, input, output)
  compare_server(page, input, output)
  hand_server(page, input, output)
  output$script_lines <- shiny::renderText(paste(desk_script(page$desk()), collapse = "\n"))
  output$save_script <- shiny::downloadHandler("fjordline.R", function(file) writeLines(desk_script(page$desk()), file))
  shiny::observeEvent(input$undo, page$undo())
  shiny::observeEvent(input$close, shiny::stopApp())
}

# One open page: its desk, and how to act on it. Where an act fails the page says why, and nothing is
# changed.
explorer_session <- function(home, asked, session) {
  found <- page_of(home, asked)
  kept <- found$kept
  desk <- shiny::reactiveVal(kept$desk)
  put <- function(new) {
    kept$desk <- new
    home$last <- new
    desk(new)
  }
  tell <- function(text, kind = "error") shiny::showNotification(text, type = kind, duration = 12, session = session)
  try_to <- function(expr) {
    tryCatch({
      force(expr)
      TRUE
    }, error = function(e) {
      tell(error_text(e))
      FALSE
    })
  }
  session$sendCustomMessage("fl-page", list(page = found$id))
  session$onSessionEnded(function() {
    kept$open <- FALSE
    kept$left <- Sys.time()
  })
  list(
    desk = desk, worker = kept$worker, session = session, most = home$most, tell = tell, try_to = try_to,
    made = function(name) desk()$made[[name]],
    act = function(lines) try_to(put(desk_run_all(shiny::isolate(desk()), lines))),
    keep = function(line, found) put(desk_keep(shiny::isolate(desk()), line, found)),
    undo = function() put(desk_undo(shiny::isolate(desk()))),
    send = function(type, ...) session$sendCustomMessage(type, list(...)),
    # large data go by an address of their own, which only this page knows
    send_data = function(type, name, data) {
      address <- session$registerDataObj(name, canvas_json(data), function(json, request) {
        shiny::httpResponse(200L, "application/json", enc2utf8(json))
      })
      session$sendCustomMessage(type, list(url = paste0(address, "&of=", rlang::hash(data))))
    }
  )
}
