# The fourth page: two partitions of the same rows side by side.

compare_panel <- function() {
  tags <- htmltools::tags
  shiny::tabPanel("Compare", value = "compare", tags$div(
    class = "fl-page",
    tags$div(class = "fl-row fl-fit", shiny::selectInput("first", NULL, character(), width = "280px"),
             tags$span("with"),
             shiny::selectInput("second", NULL, character(), width = "280px"),
             shiny::actionButton("compare", "Compare", class = "btn-primary btn-sm")),
    tags$div(id = "pair", class = "fl-view fl-app"), tags$div(class = "fl-said fl-facts",
                                                              shiny::uiOutput("contrast_facts"))
  ))
}

compare_server <- function(page, input, output) {
  shiny::observe({
    choices <- comparable(page$desk()$made)
    shiny::updateSelectInput(page$session, "first", choices = choices,
                             selected = first_of(shiny::isolate(input$first), choices, 1L))
    shiny::updateSelectInput(page$session, "second", choices = choices,
                             selected = first_of(shiny::isolate(input$second), choices, 2L))
  })
  facts <- shiny::reactiveVal(NULL)
  shiny::observeEvent(input$compare, {
    page$try_to({
      made <- page$desk()$made
      a <- comparable_one(made, input$first)
      b <- comparable_one(made, input$second)
      page$send_data("fl-compare", "pair", canvas_pair(a, b, most = page$most))
      facts(fl_facts(fl_contrast(a, b)))
    })
  })
  output$contrast_facts <- shiny::renderUI(lapply(facts(), htmltools::tags$p))
}

first_of <- function(chosen, choices, i) {
  if (isTRUE(chosen %in% choices)) chosen else unname(choices[min(i, length(choices))])
}

# Keys of all partitions at hand, by what they are called: those in use, those kept, and every fit of the sweep.
comparable <- function(made) {
  kept <- sort(grep("^kept_", names(made), value = TRUE))
  own <- c(if (!is.null(made$groups)) "groups", kept)
  called <- vapply(own, function(key) {
    one <- made[[key]]
    paste0(if (key == "groups") "in use: " else "kept: ", one$name, " (", one$ready$name, ")")
  }, "")
  cells <- made$sweep$cells
  fits <- if (is.null(cells)) data.frame(method = character(), k = integer())
  else unique(as.data.frame(cells[cells$asked, c("method", "k")]))

  fits <- fits[is.na(fits$k) | fits$k >= 2L, ]
  keys <- paste("fit", fits$method, fits$k, recycle0 = TRUE)
  stats::setNames(c(own, keys), c(called, paste0(fits$method, ifelse(is.na(fits$k), "", paste0(", ", fits$k)),
                                                 recycle0 = TRUE)))
}

comparable_one <- function(made, key) {
  if (!isTRUE(nzchar(key))) fl_abort("argument", "There is nothing to compare yet: fit first, or keep groups.")
  if (!startsWith(key, "fit ")) {
    return(made[[key]])
  }
  parts <- strsplit(key, " ", fixed = TRUE)[[1L]]
  fl_take(made$sweep, parts[2L], if (parts[3L] != "NA") as.integer(parts[3L]))
}
