# The last page: decide, write down why, and hand the result on.

hand_panel <- function() {
  tags <- htmltools::tags
  button <- function(id, label) shiny::downloadButton(paste0("save_", id), label, class = "btn-sm btn-outline-primary",
                                                      icon = NULL)
  shiny::tabPanel("Hand on", value = "hand", tags$div(
    class = "fl-page fl-two",
    tags$div(
      tags$h4("The groups in use"), text_box("in_use"),
      tags$h4("Settle their count"),
      tags$p(class = "text-muted", "A count that is settled carries its reason wherever the groups go."),
      tags$div(class = "fl-row", shiny::textInput("reason", NULL, placeholder = "why this many", width = "420px"),
               shiny::actionButton("settle", "Settle", class = "btn-primary btn-sm")),
      tags$h4("Files"),
      tags$div(class = "fl-row", button("labels", "Labels (CSV)"), button("centres", "Centres (CSV)"),
               button("figure", "Figure (PNG)"),
               button("model", "Model (JSON)"), button("query", "Query (SQL)"), button("report", "Report (HTML)")),
      tags$div(class = "fl-row", shiny::selectInput("one_group", NULL, character(), width = "220px"),
               button("group", "Rows of this group (CSV)"))
    ),
    tags$div(
      tags$h4("A note"), tags$p(class = "text-muted",
                                "Tick the sentences that belong in it; write between them as you like."),
      shiny::uiOutput("sentences"), shiny::textAreaInput("note", NULL, rows = 9, width = "100%"),
      shiny::downloadButton("save_note", "Save the note", class = "btn-sm btn-outline-primary", icon = NULL)
    )
  ))
}

hand_server <- function(page, input, output) {
  groups <- shiny::reactive(page$made("groups"))
  output$in_use <- shiny::renderText({
    if (is.null(groups())) "None yet: press \"Use these\" on the page Groups."
    else paste(fl_facts(groups()), collapse = "\n")
  })
  shiny::observeEvent(input$settle, settle_shown(page, input$reason))
  shiny::observe({
    shiny::req(groups())
    choices <- stats::setNames(seq_len(groups()$k), group_title(groups(), seq_len(groups()$k)))
    shiny::updateSelectInput(page$session, "one_group", choices = choices)
  })
  sentences <- shiny::reactive(if (!is.null(groups())) note_sentences(page$desk()$made))
  output$sentences <- shiny::renderUI({
    shiny::req(sentences())
    htmltools::tags$div(class = "fl-scroll fl-tall", shiny::checkboxGroupInput(
      "picked", NULL, choiceNames = as.list(sentences()), choiceValues = seq_along(sentences()),
      selected = which(sentences() %in% note_lines(shiny::isolate(input$note))), width = "100%"
    ))
  })
  shiny::observeEvent(input$picked, ignoreNULL = FALSE, ignoreInit = TRUE, {
    chosen <- sentences()[as.integer(input$picked)]
    shiny::updateTextAreaInput(page$session, "note", value = noted(input$note, chosen, sentences()))
  })
  output$save_note <- shiny::downloadHandler("note.md", function(file) {
    writeLines(enc2utf8(input$note), file, useBytes = TRUE)
  })
  for (what in c("labels", "group", "centres", "figure", "model", "query", "report")) hand_on(page, output, input, what)
}

# The line that writes a file is an act; what it wrote is sent.
hand_on <- function(page, output, input, what) {
  force(what)
  one <- function() hand_on_lines(page$made("data")$name, as.integer(input$one_group))[[what]]
  output[[paste0("save_", what)]] <- shiny::downloadHandler(
    function() if (is.null(page$made("groups"))) "nothing.txt" else one()$file,
    function(file) {
      if (is.null(page$made("groups")) || !page$act(one()$line)) {
        writeLines(c("Nothing was written. Groups must be in use (\"Use these\" on the page Groups), and of a kind",
                     "that such a file can hold: the page says why."), file)
      } else {
        file.copy(file.path(page$desk()$folder, one()$file), file, overwrite = TRUE)
      }
    }
  )
}

# The count of the groups in use, settled in the vote they come from; their names go along.
settle_shown <- function(page, reason) {
  made <- page$desk()$made
  if (is.null(made$groups) || is.null(made$vote)) {
    return(page$tell("Use groups of a fit first.", "message"))
  }
  names <- made$groups$names
  k <- made$groups$k
  method <- made$groups$method$key
  done <- page$act(settle_line(k, reason)) && page$act(take_settled_line(page$desk()$made$vote, method))
  if (done && !is.null(names)) page$act(name_line(k, stats::setNames(ifelse(is.na(names), "", names),
                                                                     seq_along(names))))
}

note_sentences <- function(made) {
  groups <- made$groups
  unique(c(fl_facts(made$data)[1L], fl_facts(groups), if (!is.null(made$vote)) utils::head(fl_facts(made$vote), 4L),
           class_words(groups), time_words(groups)))
}

# Sentences that were ticked are added at the end, those no longer ticked are taken out; the rest is the reader's.
noted <- function(text, chosen, known) {
  lines <- note_lines(text)
  lines <- lines[!lines %in% setdiff(known, chosen)]
  paste(c(lines, setdiff(chosen, lines)), collapse = "\n")
}

note_lines <- function(text) if (isTRUE(nzchar(text))) strsplit(text, "\n", fixed = TRUE)[[1L]] else character()
