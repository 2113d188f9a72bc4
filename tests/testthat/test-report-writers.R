# The two ways a report is written: nothing from the table is ever taken as markup.

hostile_words <- c("<script>alert(1)</script>", "a & b", "*bold* _it_ `code`", "[x](http://a.b)", "$y$ \\(z\\)", "# head",
                   "- item", "1. one", "a | b", "~~no~~ ^up^", "line\nbreak", "\u00e6\u00f8\u00e5 \u2265 3", "@ref ![i](j)", "\\")

written_by <- function(work) {
  skip_if_not(rlang::is_installed(c("htmltools", "knitr")), "no writer without htmltools and knitr")
  utils::capture.output(work)
}

test_that("Markdown text comes back from pandoc as it was", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  for (word in hostile_words) {
    file <- withr::local_tempfile(fileext = ".md")
    writeLines(enc2utf8(paste0("x ", markdown_text(word), " y")), file, useBytes = TRUE)
    out <- withr::local_tempfile(fileext = ".txt")
    rmarkdown::pandoc_convert(file, to = "plain", output = out, options = "--wrap=none")
    back <- paste(readLines(out, encoding = "UTF-8", warn = FALSE), collapse = " ")
    expect_equal(back, paste0("x ", gsub("\n", " ", word), " y"), info = word)
  }
})

test_that("HTML carries every word escaped, in headings, sentences, lists, tables, cards and scripts", {
  writer <- report_writer("html")
  evil <- "<img src=x onerror=alert(2)>"
  card <- list(colour = "#224E56", title = evil, said = evil, table = tibble::tibble(column = evil, mean = "1"), typical = evil)
  page <- written_by({
    writer$title(evil, evil)
    writer$answers(c("How many?" = evil))
    writer$heading(evil)
    writer$heading(evil, 3)
    writer$prose(c(evil, evil))
    writer$items(evil, ordered = TRUE)
    writer$table(data.frame(a = evil), row_class = "severity-warn")
    writer$cards(list(card))
    writer$script(evil)
    writer$footer(evil)
  })
  page <- paste(page, collapse = "\n")
  expect_false(grepl("<img", page, fixed = TRUE))
  expect_equal(lengths(regmatches(page, gregexpr("&lt;img src=x", page, fixed = TRUE))), 15L)
  for (part in c("<h1>", "<dl class=\"short\">", "<h2>", "<h3>", "<ol>", "class=\"severity-warn\"", "class=\"card\"", "<pre>",
                 "<footer>")) expect_true(grepl(part, page, fixed = TRUE), info = part)
})

test_that("Markdown has the same parts in its own form; figures are described, in Word by captions", {
  writer <- report_writer("md")
  text <- written_by({
    writer$title("Waters", "of the fjord")
    writer$heading("Groups")
    writer$items(c("one", "two"), ordered = TRUE)
    writer$table(data.frame(column = c("a|b", "c"), mean = c("1", "2"), check.names = FALSE), numbers = "mean")
    writer$script(c("x <- 1", "y <- `z`"))
  })
  expect_true(all(c("# Waters", "## Groups", "1. one", "2. two", "x <- 1", "y <- `z`") %in% text))
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  file <- withr::local_tempfile(fileext = ".md")
  writeLines(text, file)
  out <- withr::local_tempfile(fileext = ".html")
  rmarkdown::pandoc_convert(file, from = "gfm", to = "html", output = out)
  page <- paste(readLines(out), collapse = " ")
  expect_true(grepl("<td[^>]*>a\\|b</td> *<td[^>]*>1</td>", page))
  expect_true(grepl("<th[^>]*right[^>]*>mean</th>", page))
  expect_null(writer$turnable)
  drawn <- list(plane = list(alt = "a *plane*", file = "plane.png"))
  expect_match(capture.output(report_writer("md", drawn, "my files")$figure("plane")), "![a \\*plane\\*](my%20files/plane.png)",
               fixed = TRUE, all = FALSE)
  expect_match(capture.output(report_writer("html", drawn)$figure("plane")),
               "<img src=\"figures/plane.png\" alt=\"a *plane*\" width=\"1280\"/>", fixed = TRUE, all = FALSE)
  expect_length(capture.output(report_writer("html", drawn)$figure("none")), 0)
})

test_that("the data of the picture to be turned cannot end their script element", {
  skip_if_not_installed("htmltools")
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 2)
  groups <- fl_name(groups, c("</script><script>alert(3)</script>", "b"))
  html <- as.character(turnable_html(turnable_space(groups)))
  inside <- regmatches(html, regexpr("(?s)<script type=\"application/json\">.*?</script>", html, perl = TRUE))
  data <- jsonlite::fromJSON(gsub("^<script[^>]*>|</script>$", "", inside))
  expect_equal(data$names[1], "1 </script><script>alert(3)</script>")
  expect_equal(nrow(data$points), length(data$group))
})
