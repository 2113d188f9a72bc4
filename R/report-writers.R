# How the parts of a report are written: as HTML, or as Markdown that pandoc turns into the rest. Everything from the
# table is escaped here.

# `figures` are those that were drawn, and lie in `folder`. A figure that there is not is left out.
report_writer <- function(form, figures = list(), folder = "figures", pass = NULL) {
  writer <- if (form == "html") html_writer(pass) else text_writer()
  put <- writer$picture
  writer$picture <- NULL
  writer$figure <- function(name) {
    one <- figures[[name]]
    if (!is.null(one)) put(paste(folder, one$file, sep = "/"), one$alt)
  }
  writer
}

html_writer <- function(pass = NULL) {
  tags <- htmltools::tags
  put <- function(...) {
    html <- as.character(htmltools::tagList(...))
    cat("\n\n", fenced_block(html, "{=html}"), "\n\n", sep = "")
  }
  table <- function(table, numbers = character(), row_class = NULL) {
    kind <- function(name) if (name %in% numbers) "number"
    head <- tags$tr(lapply(names(table), function(name) tags$th(class = kind(name), name)))
    rows <- lapply(seq_len(nrow(table)), function(i) {
      cells <- lapply(names(table), function(name) tags$td(class = kind(name), format(table[[name]][i])))
      tags$tr(class = row_class[i], cells)
    })
    tags$div(class = "scroll", tags$table(tags$thead(head), tags$tbody(rows)))
  }
  card <- function(one) {
    tags$div(class = "card", style = paste0("border-top-color:", one$colour), tags$h3(one$title),
             tags$p(class = "size", one$said), table(one$table, card_numbers), if (!is.null(one$typical)) {
               tags$p(class = "size", one$typical)
             })
  }
  list(
    picture = function(path, alt) put(tags$p(tags$img(src = path, alt = alt, width = 1280))),
    turnable = function(space) put(turnable_html(space, pass)),
    view = function(data) put(canvas_html(data[names(data) != "note"], pass)),
    title = function(title, below) put(tags$h1(title), tags$p(class = "soft", below)),
    answers = function(answers) {
      put(tags$dl(class = "short", Map(function(question, answer, i) {
        htmltools::tagList(tags$dt(question), tags$dd(class = if (i == 1) "first", answer))
      }, names(answers), unname(answers), seq_along(answers))))
    },
    heading = function(text, level = 2L) put(if (level == 2L) tags$h2(text) else tags$h3(text)),
    prose = function(sentences) put(lapply(sentences, tags$p)),
    items = function(items, ordered = FALSE) {
      put((if (ordered) tags$ol else tags$ul)(lapply(items, tags$li)))
    },
    table = function(table_, ...) put(table(table_, ...)),
    cards = function(cards) put(tags$div(class = "cards", lapply(cards, card))),
    script = function(lines) put(tags$pre(tags$code(paste(lines, collapse = "\n")))),
    footer = function(text) put(tags$footer(text))
  )
}

# A block that nothing in it can end: its fence is longer than any row of the same sign inside.
fenced_block <- function(text, kind) {
  runs <- gregexpr("`+", text)[[1L]]
  fence <- strrep("`", max(3L, attr(runs, "match.length") + 1L))
  paste0(fence, kind, "\n", text, "\n", fence)
}

card_numbers <- c("mean", "overall mean", "middle half", "difference")

text_writer <- function() {
  put <- function(...) cat("\n\n", ..., "\n\n", sep = "")
  paragraph <- function(text) put(markdown_text(text))
  heading <- function(text, level = 2L) put(strrep("#", level), " ", markdown_text(text))
  table <- function(table, numbers = character(), ...) {
    # the writer of tables has a way of its own with bars
    cells <- lapply(table, function(column) gsub("\\|", "|", markdown_text(format(column)), fixed = TRUE))
    cells <- as.data.frame(cells, optional = TRUE)
    put(paste(knitr::kable(cells, format = "pipe", row.names = FALSE, col.names = markdown_text(names(table)),
                           align = ifelse(names(table) %in% numbers, "r", "l")), collapse = "\n"))
  }
  list(
    # what describes a figure to those who cannot see it is its caption in Word
    picture = function(path, alt) put("![", markdown_text(alt), "](", utils::URLencode(path, reserved = FALSE), ")"),
    title = function(title, below) {
      heading(title, 1L)
      paragraph(below)
    },
    answers = function(answers) {
      for (i in seq_along(answers)) put("**", markdown_text(names(answers)[i]), "** ", markdown_text(answers[[i]]))
    },
    heading = heading,
    prose = function(sentences) for (sentence in sentences) paragraph(sentence),
    items = function(items, ordered = FALSE) {
      mark <- if (ordered) paste0(seq_along(items), ". ") else "- "
      put(paste0(mark, markdown_text(items), collapse = "\n"))
    },
    table = table,
    cards = function(cards) {
      for (one in cards) {
        heading(one$title, 3L)
        paragraph(one$said)
        table(one$table, card_numbers)
        if (!is.null(one$typical)) paragraph(one$typical)
      }
    },
    script = function(lines) put(fenced_block(paste(lines, collapse = "\n"), "r")),
    footer = paragraph
  )
}

# Text that Markdown takes as text: every sign that could mean something is escaped, lines are joined.
markdown_text <- function(text) {
  text <- gsub("[\r\n]+", " ", enc2utf8(as.character(text)))
  gsub("([\\\\`*_{}\\[\\]<>()#+.!|~$^&@:\"'-])", "\\\\\\1", text, perl = TRUE)
}
