# The first page: bring a table, give its columns roles, and see what the check finds.

role_words <- c("feature", "truth", "id", "aside")
roles_shown <- 60L

table_panel <- function() {
  tags <- htmltools::tags
  shiny::tabPanel("Table", value = "table", tags$div(
    class = "fl-page fl-two",
    tags$div(
      shiny::fileInput("file", "Choose or drop a table", accept = paste0(".", names(file_readers())),
                       placeholder = "CSV, Excel, Parquet, JSON, SQLite"),
      tags$div(class = "fl-row",
               shiny::selectInput("demo", "or take a demo table", c("choose" = "", fl_demos()$name), width = "230px")),
      text_box("table_facts"),
      tags$h4("What the check finds"), shiny::uiOutput("findings")
    ),
    tags$div(tags$h4("Columns and their roles"),
             tags$div(class = "fl-row",
                      shiny::textInput("role_find", NULL, placeholder = "find columns by a part of their name",
                                       width = "260px"),
                      shiny::selectInput("role_all", NULL, c("all of these become" = "", "feature", "aside"),
                                         width = "180px")),
             shiny::uiOutput("roles"), tags$h4("First rows"),
             tags$div(class = "fl-scroll", shiny::tableOutput("first_rows")))
  ))
}

table_server <- function(page, input, output) {
  shiny::observeEvent(input$file, {
    name <- safe_name(input$file$name)
    file.copy(input$file$datapath, file.path(page$desk()$folder, name), overwrite = TRUE)
    page$try_to(open_file(page, name))
  })
  shiny::observeEvent(input$demo, if (nzchar(input$demo)) page$act(open_line(demo = input$demo)), ignoreInit = TRUE)
  shiny::observeEvent(input$roles, {
    data <- page$made("data")
    shown <- unlist(input$roles)
    chosen <- data$roles
    chosen$role[match(names(shown), chosen$column)] <- unname(shown)
    if (!identical(chosen$role, data$roles$role)) page$act(roles_lines(page$desk(), chosen))
  })
  shiny::observeEvent(input$type, page$act(type_lines(page$desk(), input$type$column, input$type$type)))
  about <- shiny::reactive(if (!is.null(page$made("data"))) columns_like(summary(page$made("data")), input$role_find))
  shiny::observeEvent(input$role_all, if (nzchar(input$role_all)) {
    chosen <- page$made("data")$roles
    chosen$role[chosen$column %in% about()$column] <- input$role_all
    page$act(roles_lines(page$desk(), chosen))
    shiny::updateSelectInput(page$session, "role_all", selected = "")
  }, ignoreInit = TRUE)
  check <- shiny::reactive(if (!is.null(page$made("data"))) as.data.frame(fl_check(page$made("data"))))
  shiny::observeEvent(input$remedy, {
    advice <- check()$advice[input$remedy]
    page$act(remedy_lines(page$desk(), advice))
  })
  output$table_facts <- shiny::renderText({
    data <- page$made("data")
    if (is.null(data)) "No table yet." else paste(fl_facts(data), collapse = "\n")
  })
  output$findings <- shiny::renderUI(findings_html(check()))
  output$roles <- shiny::renderUI(roles_html(about()))
  output$first_rows <- shiny::renderTable({
    table <- page$made("data")$table
    if (!is.null(table)) as.data.frame(lapply(utils::head(table[seq_len(min(ncol(table), 12L))], 6L), format),
                                       optional = TRUE)
  }, spacing = "xs")
}

# A table without numbers is clustered by its categories.
open_file <- function(page, name) {
  desk <- page$desk()
  line <- open_line(file = name)
  found <- tryCatch(run_line(line, desk$made, desk$folder), fjordline_error_column = function(e) {
    levels <- category_columns(file.path(desk$folder, name))
    if (length(levels) == 0L) stop(e)
    line <<- open_line(file = name, given = list(features = levels))
    run_line(line, desk$made, desk$folder)
  })
  page$keep(line, found)
}

category_columns <- function(file) {
  table <- shape_table(read_source(file, list()), basename(file))$table
  names(table)[vapply(table, function(v) !is.numeric(v) && length(unique(v)) <= min(canvas_levels, nrow(table) / 2),
                      NA)]
}

# A file keeps its name, without the ways out of its folder.
safe_name <- function(name) {
  name <- gsub("[^A-Za-z0-9._ -]+", "_", basename(gsub("\\", "/", name, fixed = TRUE)))
  if (grepl("^[.]*$", name)) "table.csv" else name
}

columns_like <- function(about, part) {
  if (is.null(part) || !nzchar(part)) about
  else about[grepl(tolower(part), tolower(about$column), fixed = TRUE), , drop = FALSE]
}

roles_html <- function(about) {
  tags <- htmltools::tags
  if (is.null(about)) {
    return(tags$p(class = "text-muted", "Choose a table first."))
  }
  shown <- utils::head(about, roles_shown)
  chooser <- function(what, words, chosen, column) {
    options <- lapply(words, function(word) tags$option(value = word, selected = if (word == chosen) NA, word))
    tags$select(class = paste0("fl-", what), `data-column` = column, `aria-label` = paste(what, "of", column), options)
  }
  row <- function(i) {
    column <- shown$column[i]
    tags$tr(tags$td(column), tags$td(chooser("type", type_words, shown$type[i], column)),
            tags$td(class = "n", thousands(shown$distinct[i])),
            tags$td(class = "n", if (shown$missing[i] > 0L) thousands(shown$missing[i])),
            tags$td(chooser("role", role_words, shown$role[i], column)))
  }
  htmltools::tagList(
    tags$div(class = "fl-scroll fl-tall", tags$table(
      class = "fl-grid", tags$thead(tags$tr(lapply(c("column", "type", "distinct", "missing", "role"), tags$th))),
      tags$tbody(lapply(seq_len(nrow(shown)), row))
    )),
    if (nrow(about) > roles_shown) {
      tags$p(class = "text-muted", paste0("The first ", roles_shown, " of ", counted(nrow(about), "column"),
                                          "; find others by their name."))
    }
  )
}

findings_html <- function(check) {
  tags <- htmltools::tags
  if (NROW(check) == 0L) {
    return(tags$p(class = "text-muted", if (is.null(check)) "" else "Nothing to report."))
  }
  shown <- utils::head(check, 40L)
  htmltools::tagList(
    tags$ul(class = "fl-findings", lapply(seq_len(nrow(shown)), function(i) {
      can <- !is.null(remedy_of(shown$advice[i]))
      tags$li(class = paste0("fl-", shown$severity[i]), tags$b(shown$column[i]), paste0(" ", shown$finding[i], ". "),
              tags$span(class = "text-muted", if (nzchar(shown$advice[i])) paste("Try:", shown$advice[i])),
              if (can) tags$button(type = "button", class = "btn btn-sm btn-outline-primary fl-remedy",
                                   `data-finding` = i, "Do it"))
    })),
    if (nrow(check) > nrow(shown)) tags$p(paste("and", nrow(check) - nrow(shown), "more"))
  )
}
