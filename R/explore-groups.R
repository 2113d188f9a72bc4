# The third page: fit, step through the counts, look at groups and rows.

groups_panel <- function() {
  tags <- htmltools::tags
  shiny::tabPanel("Groups", value = "groups", tags$div(
    class = "fl-page",
    tags$div(
      class = "fl-row fl-fit",
      shiny::selectizeInput("methods", NULL, names(built_in("method")), usual_methods(), multiple = TRUE,
                            width = "230px"),
      tags$span("counts"), shiny::numericInput("k_from", NULL, 1, 1, 50, width = "64px"), tags$span("to"),
      shiny::numericInput("k_to", NULL, 10, 1, 50, width = "64px"),
      shiny::selectInput("indices", NULL, c("fast", "standard"), "fast", width = "100px"),
      shiny::actionButton("fit", "Fit", class = "btn-primary btn-sm"),
      tags$span(class = "text-muted fl-takes", shiny::textOutput("takes", inline = TRUE)),
      tags$div(class = "fl-progress", hidden = NA, tags$progress(max = 1, value = 0), tags$span(),
               shiny::actionButton("stop", "Stop", class = "btn-sm btn-outline-primary")),
      tags$span(class = "fl-push"),
      shiny::actionButton("take", "Use these", class = "btn-sm btn-outline-primary"),
      shiny::actionButton("keep", "Keep", class = "btn-sm btn-outline-primary")
    ),
    tags$div(id = "view", class = "fl-view fl-app", "Nothing is fitted yet: choose methods and counts, then Fit.")
  ))
}

groups_server <- function(page, input, output) {
  asked <- shiny::reactive({
    from <- input$k_from
    to <- input$k_to
    shiny::req(from, to, input$methods)
    list(methods = input$methods, k = seq(min(from, to), max(from, to)), indices = input$indices)
  })
  # how long the last fit took, for a guess at the next
  took <- shiny::reactiveVal(NULL)
  output$takes <- shiny::renderText(paste(c(fit_words(page$made("ready"), asked()$methods, asked()$k, asked()$indices),
                                            guess_words(took(), fit_work(page$made("ready"), asked()),
                                                        asked()$indices)), collapse = " "))
  shiny::observeEvent(input$fit, {
    if (is.null(page$made("data"))) {
      return(page$tell("Choose a table first.", "message"))
    }
    ready <- !is.null(page$made("ready")) || page$act(prepare_line(list()))
    if (ready) {
      wanted <- asked()
      page$try_to(worker_begin(page$worker, sweep_line(wanted$methods, wanted$k, wanted$indices),
                               page$desk()$made["ready"], page$desk()$folder))
    }
  })
  shiny::observeEvent(input$stop, {
    worker_stop(page$worker)
    page$tell("The fit was stopped; nothing was changed.", "message")
  })
  watch_worker(page, function(seconds) {
    wanted <- shiny::isolate(asked())
    took(list(seconds = seconds, work = fit_work(page$made("ready"), wanted), indices = wanted$indices))
  })
  show_sweep(page)
  shiny::observeEvent(input$take, page$try_to(take_shown(page, input$shown)))
  shiny::observeEvent(input$keep, {
    page$try_to(if (take_shown(page, input$shown)) page$act(keep_line(page$desk()$made)))
  })
  shiny::observeEvent(input$words, {
    page$send("fl-words", lines = I(told_words(page$desk()$made, input$words$method, input$words$k)))
  })
  shiny::observeEvent(input$neighbours, page$try_to(begin_neighbours(page)))
  shiny::observeEvent(input$apart, ask_apart(length(input$apart)))
  shiny::observeEvent(input$apart_sure, {
    shiny::removeModal()
    page$act(c(set_apart_line(as.integer(unlist(input$apart)), input$apart_reason %||% ""),
               line_again(page$desk(), "ready")))
  })
}

# What the worker does is looked at four times a second while it runs. A sweep that is done is voted
# on at once; a map of neighbours is shown, and not kept.
watch_worker <- function(page, ended) {
  running <- shiny::reactiveVal(FALSE)
  seconds <- 0
  shiny::observe({
    shiny::invalidateLater(if (running()) 250 else 600, page$session)
    found <- worker_look(page$worker)
    if (found$state == "running") {
      seconds <<- found$seconds
      page$send("fl-progress", running = TRUE, share = found$share,
                text = paste0(percent(found$share), ", ", round(found$seconds), " s"))
    } else if (shiny::isolate(running()) || found$state != "idle") {
      page$send("fl-progress", running = FALSE, share = 0, text = "")
    }
    if (found$state == "done") {
      if (!still_there(page$desk(), found$made)) {
        page$tell("The preparation was changed while this ran, so its result was put away. Fit again.", "message")
      } else if (is.null(found$found$neighbours)) {
        page$keep(found$line, found$found)
        shiny::isolate(ended(max(1, seconds)))
        page$act(vote_line())
      } else {
        page$send_data("fl-axes", "axes", neighbour_axes(found$found$neighbours, page$most))
      }
    }
    if (found$state == "failed") page$tell(found$error)
    shiny::isolate(running(found$state == "running"))
  })
}

# The view is sent again when other fits or other groups lie on the desk; not when a name or a decision was added.
show_sweep <- function(page) {
  last <- NULL
  shiny::observe({
    made <- page$desk()$made
    key <- rlang::hash(list(made$sweep$call, made$ready$call, made$data$call, is.null(made$sweep),
                            made$groups$method$key,
                            if (is.null(made$sweep)) made$groups$call))
    if (identical(key, last)) return()
    last <<- key
    data <- tryCatch(page_view(made, page$most), error = function(e) {
      page$tell(error_text(e))
      NULL
    })
    if (is.null(data)) page$send("fl-clear", text = "Nothing is fitted yet: choose methods and counts, then Fit.")
    else page$send_data("fl-show", "view", data)
  })
}

page_view <- function(made, most) {
  if (!is.null(made$sweep)) canvas_data(made$sweep, made$vote, made$groups, most = most)
  else if (!is.null(made$groups$ready$x)) canvas_pair(made$groups, most = most)
}

# The groups that are shown, with the names they were given there.
take_shown <- function(page, shown) {
  made <- page$desk()$made
  if (is.null(shown) || is.null(made$sweep)) {
    page$tell("Fit first.", "message")
    return(FALSE)
  }
  method <- made$sweep$methods[[shown$method]]
  if (is.null(method)) fl_abort("argument", "These groups are of an earlier fit.", advice = "Wait for the new ones.")
  k <- if (!method$free_count) as.integer(shown$k)
  names <- vapply(shown$names, as.character, "")
  voted <- !is.null(made$vote) && says(made$vote, shown$method, k)
  line <- if (voted) take_settled_line(made$vote, shown$method) else take_line(shown$method, k)
  page$act(line) && (length(names) == 0L || page$act(name_line(as.integer(shown$k), names)))
}

# Whether the vote has decided on these groups: then they carry it with them.
says <- function(vote, method, k) {
  decided <- !is.null(vote$settled) || !vote$verdict %in% undecided
  decided && identical(method, vote$method) && identical(k, as.integer(vote$settled$k %||% vote$k))
}

# What there is to say of the groups shown: against known classes, over time, and of themselves.
told_words <- function(made, method, k) {
  said <- tryCatch({
    groups <- if (is.null(made$sweep)) made$groups
    else fl_take(made$sweep, method, if (!made$sweep$methods[[method]]$free_count) as.integer(k))
    c(fl_facts(groups), class_words(groups), time_words(groups))
  }, error = error_text)
  if (length(said) == 0L) "Nothing to say." else said
}

class_words <- function(groups) {
  if (!is.null(truth_of(groups$ready$data)) && groups$k > 1L) {
    agreement <- fl_agree(groups)
    c(fl_facts(agreement), utils::head(fl_facts(fl_mismatches(agreement)), 4L))
  }
}

time_words <- function(groups) {
  data <- groups$ready$data
  dates <- Filter(function(column) inherits(data$table[[column]], c("Date", "POSIXt")), data$roles$column)
  if (length(dates) > 0L && groups$k > 1L) tryCatch(fl_facts(fl_outcome(groups, dates[1L])), error = function(e) NULL)
}

ask_apart <- function(rows) {
  shiny::showModal(shiny::modalDialog(
    paste0("Set ", counted(rows, "row"),
           " apart: they take no part in the next preparation and fit. What was fitted is put away."),
    shiny::textInput("apart_reason", "Why?", width = "100%"), title = "Set rows apart", easyClose = TRUE,
    footer = htmltools::tagList(shiny::modalButton("Cancel"),
                                shiny::actionButton("apart_sure", "Set apart", class = "btn-primary"))
  ))
}
