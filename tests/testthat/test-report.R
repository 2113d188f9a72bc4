skip_without_pandoc <- function() skip_if_not(rlang::is_installed(c("rmarkdown", "knitr", "htmltools")) &&
                                              rmarkdown::pandoc_available("2.0"), "pandoc is missing")

page_of <- function(x, ...) {
  file <- withr::local_tempfile(fileext = ".html")
  fl_report(x, file, ...)
  paste(readLines(file, encoding = "UTF-8", warn = FALSE), collapse = "\n")
}

test_that("a report stands alone and answers the five questions, with figures and the script", {
  skip_without_pandoc()
  vote <- fl_vote(quick_sweep(water_ready(), k = 2:7))
  page <- page_of(fl_take(fl_settle(vote, 5, "five waters are known")), title = "Waters of the fjord")
  for (said in c("<title>Waters of the fjord</title>", "How many?", "How sure?", "What are they?",
                 "match what is known", "What to doubt?", "Are there groups at all?", "Why this count", "How reliable the groups are",
                 "Against the known classes", "What was not tried", "How to rerun", "adjusted Rand 0.88")) {
    expect_true(grepl(said, page, fixed = TRUE), info = said)
  }
  expect_equal(length(gregexpr("data:image/png;base64", page, fixed = TRUE)[[1]]), 10)
  expect_false(grepl("(src|href)=\"(https?:|[a-z_-]+/)", page))
  expect_true(grepl("ready &lt;- fl_prepare(data, transform = c(turbidity = &quot;log&quot;))", page, fixed = TRUE) ||
                grepl("ready &lt;- fl_prepare(data, transform = c(turbidity = \"log\"))", page, fixed = TRUE))
})

test_that("hostile names and values are shown as text, not run", {
  skip_without_pandoc()
  table <- heaps()
  names(table)[2:4] <- c("<script>alert(1)</script>", "no*rth* `x`", "<b>kind</b>")
  table[[4]] <- rep(c("<img src=x onerror=alert(2)>", "b & c", "$x$"), each = 20)
  page <- page_of(fl_partition(fl_prepare(fl_data(table, truth = "<b>kind</b>", id = "row", name = "</title><script>alert(3)</script>")), k = 3))
  expect_false(grepl("<script>alert", page, fixed = TRUE))
  expect_false(grepl("<img src=x", page, fixed = TRUE))
  expect_true(grepl("&lt;script&gt;alert(1)", page, fixed = TRUE))
})

test_that("one group, no truth, no vote: the report still stands", {
  skip_without_pandoc()
  page <- page_of(fl_partition(fl_prepare(fl_demo("still_water")), k = 1))
  expect_true(grepl("no known classes to compare with", page, fixed = TRUE))
  expect_true(grepl("was given by whoever made this partition", page, fixed = TRUE))
})

test_that("reports go to .html files in folders that exist, and leave nothing half-written", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  folder <- withr::local_tempdir()
  expect_error(fl_report(groups, file.path(folder, "x.txt")), class = "fjordline_error_file", regexp = ".html")
  expect_error(fl_report(groups, file.path(folder, "none", "x.html")), class = "fjordline_error_file")
  expect_error(fl_report(fl_vote(quick_sweep(fl_prepare(fl_demo("still_water")), k = 1:10)), file.path(folder, "x.html")),
               class = "fjordline_error_undecided")
  expect_equal(list.files(folder), character())
})

test_that("groups are named by what stands out by a stated rule", {
  profile <- fl_profile(fl_partition(water_ready(), k = 5), sets = 0, audit = FALSE)
  cards <- group_cards(profile)
  expect_match(cards[[3]]$standout, "much lower oxygen")
  expect_match(cards[[5]]$standout, "much higher turbidity")
  expect_equal(cards[[2]]$standout, "")
  expect_equal(vapply(cards, `[[`, 1, "rows"), c(186, 176, 116, 83, 38))
  difference <- c(0.6, -1.2, 0.4, 2)
  words <- profile_words(data.frame(role = "feature", column = c("a", "b", "c", "d"), level = NA, difference = difference,
                                    standout = standout_way(difference, TRUE)))
  expect_equal(words, "much higher d, much lower b and higher a")
  temperature <- cards[[1]]$table[1, ]
  expect_equal(temperature$mean, digits3(profile$columns$mean[profile$columns$column == "temperature"][1]))
  expect_match(groups_in_short(profile), "^Group 1: much higher temperature.*; group 2: near the average of the table; ")
})
