# The second page: what separates the rows, which columns take part, and how they are prepared.

columns_shown <- 200L

columns_panel <- function() {
  tags <- htmltools::tags
  shiny::tabPanel("Columns", value = "columns", tags$div(
    class = "fl-page fl-two fl-wide-left",
    tags$div(tags$h4("What separates the rows"),
             tags$p(class = "text-muted",
                    "How far rows lie apart in a column, and whether it has several peaks. Each by itself."),
             shiny::uiOutput("sift")),
    tags$div(
      tags$h4("Preparation"),
      tags$div(class = "fl-row",
               shiny::selectInput("scale", "scale", names(scale_words), "mean_sd", width = "160px"),
               shiny::selectInput("missing", "missing values", missing_words_known, "drop", width = "160px"),
               shiny::selectInput("outliers", "outliers", c("keep", "winsorise", "drop"), "keep", width = "160px"),
               shiny::textInput("reduce", "principal components", placeholder = "all", width = "160px")),
      shiny::actionButton("prepare", "Prepare", class = "btn-primary"),
      text_box("ready_facts"),
      shiny::plotOutput("columns_plot", height = "380px")
    )
  ))
}

missing_words_known <- c("drop", "middle", "nearest")

columns_server <- function(page, input, output) {
  settings <- shiny::reactiveVal(list())
  shiny::observeEvent(input$settings, settings(input$settings))
  shiny::observeEvent(page$made("ready"), settings(list()), ignoreNULL = FALSE)
  shiny::observeEvent(input$prepare, {
    data <- page$made("data")
    if (is.null(data)) {
      page$tell("Choose a table first.", "message")
    } else {
      page$try_to(page$act(prepare_line(asked_settings(input, settings(), columns_of(data, "feature"),
                                                       page$made("ready")))))
    }
  })
  sift <- shiny::reactive(if (!is.null(page$made("data"))) tryCatch(fl_sift(page$made("data")),
                                                                    error = function(e) NULL))
  output$sift <- shiny::renderUI(sift_html(sift(), page$made("ready")))
  output$ready_facts <- shiny::renderText({
    ready <- page$made("ready")
    if (is.null(ready)) "Not prepared yet." else paste(c(fl_facts(ready), paste0("- ", say_steps(ready$steps))),
                                                       collapse = "\n")
  })
  output$columns_plot <- shiny::renderPlot({
    data <- page$made("data")
    shiny::req(data, length(columns_of(data, "feature")) <= 30L)
    suppressMessages(print(autoplot(data, view = "columns")))
  }, res = 90)
}

# The settings that a preparation was made with, as far as they are in its call.
prepared_with <- function(ready) {
  if (is.null(ready$call)) {
    return(list())
  }
  given <- as.list(rlang::parse_expr(ready$call))[-1L]
  own <- lapply(given[intersect(names(given), c("use", "transform", "weights"))], eval, baseenv())
  if (!is.null(own$transform) && is.null(names(own$transform))) own$transform <- NULL
  own
}

# What the reader changed in the table of columns, as settings; untouched, those of the preparation at hand.
column_settings <- function(touched, ready) {
  if (length(touched) == 0L) {
    return(prepared_with(ready))
  }
  weight <- suppressWarnings(vapply(touched$weight, as.double, 0))
  transform <- unlist(Filter(function(word) word != "none", touched$transform))
  list(use = names(Filter(isTRUE, touched$use)), transform = transform,
       weights = weight[!is.na(weight) & weight != 1])
}

# The controls of the page as settings of fl_prepare().
asked_settings <- function(input, touched, features, ready) {
  own <- column_settings(touched, ready)
  reduce <- suppressWarnings(as.double(input$reduce))
  if (nzchar(input$reduce) && is.na(reduce)) {
    fl_abort("argument", "The number of principal components must be a number, or a share of the spread such as 0.9.")
  }
  list(
    scale = input$scale, missing = input$missing, outliers = input$outliers,
    use = if (length(own$use) > 0L && !setequal(own$use, features)) intersect(features, own$use),
    transform = own$transform[names(own$transform) %in% features],
    weights = own$weights[names(own$weights) %in% features],
    reduce = if (!is.na(reduce)) reduce
  )
}

bar <- function(share) {
  width <- if (is.finite(share)) round(100 * min(1, share)) else 0
  htmltools::tags$div(class = "fl-bar", htmltools::tags$div(style = paste0("width:", width, "%")))
}

transform_choice <- function(column, chosen) {
  options <- lapply(c("none", names(transforms)), function(word) {
    htmltools::tags$option(value = word, word, selected = if (identical(word, chosen)) NA)
  })
  htmltools::tags$select(class = "fl-transform", `data-column` = column, `aria-label` = paste("transform", column),
                         options)
}

sift_html <- function(sift, ready) {
  tags <- htmltools::tags
  if (is.null(sift)) {
    return(tags$p(class = "text-muted", "Choose a table first."))
  }
  shown <- utils::head(as.data.frame(sift), columns_shown)
  own <- prepared_with(ready)
  used <- if (is.null(ready)) shown$column else ready$features
  row <- function(i) {
    column <- shown$column[i]
    number <- shown$type[i] %in% c("number", "logical")
    mine <- if (column %in% names(own$transform)) own$transform[[column]] else "none"
    weight <- if (column %in% names(own$weights)) own$weights[[column]] else 1
    tags$tr(
      tags$td(tags$input(type = "checkbox", class = "fl-use", `data-column` = column,
                         checked = if (column %in% used) NA,
                         `aria-label` = paste("use", column))),
      tags$td(column), tags$td(shown$type[i]), tags$td(bar(shown$separation[i])), tags$td(bar(shown$multimodality[i])),
      tags$td(if (number) transform_choice(column, mine)),
      tags$td(tags$input(type = "number", class = "fl-weight", `data-column` = column, min = 0, step = 0.1,
                         value = weight,
                         `aria-label` = paste("weight of", column)))
    )
  }
  htmltools::tagList(
    tags$div(class = "fl-scroll fl-taller", tags$table(
      class = "fl-grid", tags$thead(tags$tr(lapply(c("use", "column", "type", "lies apart", "peaks", "transform",
                                                     "weight"), tags$th))),
      tags$tbody(lapply(seq_len(nrow(shown)), row))
    )),
    if (nrow(sift) > nrow(shown)) tags$p(class = "text-muted", paste0("The first ", columns_shown, " of ",
                                                                      thousands(nrow(sift)), "."))
  )
}
