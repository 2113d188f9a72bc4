# The rows in three dimensions, to be turned, for the HTML report: data for inst/reports/turn.js.

turnable_rows <- 3000L

# NULL where there is nothing to turn.
turnable_space <- function(partition) {
  if (ncol(seen_points(partition)$x) < 3L) {
    return(NULL)
  }
  axes <- component_axes(partition, 3L)
  drawn <- drawn_rows(nrow(axes$rows), turnable_rows)
  middle <- apply(axes$rows, 2L, function(v) mean(range(v)))
  points <- sweep(axes$rows[drawn, , drop = FALSE], 2L, middle)
  largest <- max(abs(points), 1e-300)
  group <- partition$group[partition$ready$rows][drawn]
  numbers <- sort(unique(group))
  list(
    points = signif(unname(points / largest), 5L), reach = apply(abs(points), 2L, max) / largest,
    group = match(group, numbers) - 1L, names = I(group_label(partition, numbers)),
    colours = I(ifelse(numbers == 0L, noise_grey, fl_palette(partition$k)[pmax(1L, numbers)])),
    axes = I(sub("^principal ", "", axes$words)), told = row_told(partition, drawn, 6L),
    note = drawn_note(drawn, nrow(axes$rows))
  )
}

# What the pointer says of a row: its name, its group, and the features that tell the groups apart best.
row_told <- function(partition, drawn, most) {
  ready <- partition$ready
  rows <- ready$rows[drawn]
  table <- ready$data$table
  numbers <- ready$features[vapply(ready$columns[ready$features], function(form) form$type == "number", NA)]
  effect <- vapply(numbers, function(column) {
    variance_test(as.double(table[[column]][ready$rows]), partition$group[ready$rows])$effect
  }, 0)
  shown <- utils::head(numbers[order(-effect)], most)
  lines <- c(
    list(if (is.null(partition$id)) paste("row", rows) else partition$id[rows],
         group_names(partition, partition$group[rows])),
    lapply(shown, function(column) paste0(column, " ", digits3(table[[column]][rows]),
                                          unit_after(column, ready$units)))
  )
  do.call(cbind, lines)
}

# The canvas, its legend and the data. A "<" in the data could end the script element: it is written as its code.
turnable_html <- function(space, pass = NULL) {
  tags <- htmltools::tags
  json <- gsub("<", "\\u003c", jsonlite::toJSON(space[names(space) != "note"], digits = 6L), fixed = TRUE)
  code <- paste(readLines(system.file("reports", "turn.js", package = "fjordline", mustWork = TRUE)), collapse = "\n")
  htmltools::tagList(
    tags$div(
      class = "turnable", tags$div(class = "legend"),
      tags$div(class = "stage", tags$canvas(tabindex = "0", role = "img", `aria-label` =
                                              "The rows on three principal components; arrow keys turn the view"),
               tags$div(class = "tip", hidden = NA)),
      tags$script(type = "application/json", htmltools::HTML(json))
    ),
    tags$script(nonce = pass, htmltools::HTML(code))
  )
}
