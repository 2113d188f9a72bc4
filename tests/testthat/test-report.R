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
  groups <- fl_take(fl_settle(vote, 5, "five waters are known"))
  groups <- fl_name(groups, c("top </script><script>alert(9)</script>", "mid", "basin", "shelf", "melt"))
  page <- page_of(groups, title = "Waters of the fjord")
  for (said in c("<title>Waters of the fjord</title>", "How many?", "How sure?", "What are they?",
                 "match what is known", "What to doubt?", "Are there groups at all?", "Why this count", "How reliable the groups are",
                 "Against the known classes", "What was not tried", "How to rerun", "adjusted Rand 0.88")) {
    expect_true(grepl(said, page, fixed = TRUE), info = said)
  }
  # names, rules and the course over time are there, and the counts can be stepped through
  for (said in c("Group 3 &quot;basin&quot;|Group 3 \"basin\"", "Most typical: WS-", "Which rows fall where", "Over time",
                 "class=\"fl-view\"", "fl_name\\(groups")) {
    expect_true(grepl(said, page), info = said)
  }
  expect_false(grepl("<script>alert(9)", page, fixed = TRUE))
  expect_equal(length(gregexpr("data:image/png;base64", page, fixed = TRUE)[[1]]), 12)
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

test_that("reports go to files of a known form in folders that exist, and leave nothing half-written", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  folder <- withr::local_tempdir()
  expect_error(fl_report(groups, file.path(folder, "x.txt")), class = "fjordline_error_file", regexp = ".docx")
  expect_error(fl_report(groups, file.path(folder, "none", "x.html")), class = "fjordline_error_file")
  expect_error(fl_report(heap_data(), file.path(folder, "x.html")), class = "fjordline_error_argument")
  expect_equal(list.files(folder), character())
})

test_that("a sweep without evidence of groups is reported as that, and shows none", {
  skip_without_pandoc()
  page <- page_of(quick_sweep(fl_prepare(fl_demo("still_water")), k = 1:6))
  for (said in c("No evidence of groups", "No count was chosen", "What the indices said", "This test often misses",
                 "How groups split as the count grows", "fl_sweep(")) {
    expect_true(grepl(said, page, fixed = TRUE), info = said)
  }
  for (absent in c("<h2>The groups</h2>", "Which rows fall where", "How reliable")) {
    expect_false(grepl(absent, page, fixed = TRUE), info = absent)
  }
})

test_that("the data of the picture to be turned are the rows, as far as three columns allow", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 5)
  space <- turnable_space(groups)
  expect_equal(length(space$group), nrow(space$points))
  expect_equal(space$told[1, 1], groups$ready$data$table$sample[groups$ready$rows[1]])
  expect_equal(max(abs(space$points)), 1)
  expect_null(turnable_space(fl_partition(fl_prepare(heap_data()), k = 2)))
})

test_that("the picture to be turned is drawn in a real browser, and answers to keys, pointer and legend", {
  browser <- Sys.which("chromium")
  skip_if(!nzchar(browser), "chromium is missing")
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 5), c("<b>top</b>", "mid", "basin", "shelf", "melt"))
  page <- withr::local_tempfile(fileext = ".html")
  css <- readLines(system.file("reports", "report.css", package = "fjordline"))
  probe <- "<script>var c=document.querySelector('canvas'),b=c.getBoundingClientRect(),tip=document.querySelector('.tip');
    function press(x,y){c.dispatchEvent(new PointerEvent('pointermove',{clientX:x,clientY:y}));}
    function look(){for(var x=b.left;x<b.right;x+=8)for(var y=b.top;y<b.bottom;y+=8){press(x,y);if(!tip.hidden)return tip.textContent;}return '';}
    var before=c.toDataURL();c.dispatchEvent(new KeyboardEvent('keydown',{key:'ArrowLeft'}));var after=c.toDataURL();
    var one=look();document.querySelectorAll('.legend button').forEach(function(e){e.click();});var none=look();
    document.body.setAttribute('data-probe',[before!==after,one.slice(0,3),none===''].join('|'));</script>"
  writeLines(c("<!doctype html><meta charset=utf-8><style>", css, "</style><body>",
               as.character(turnable_html(turnable_space(groups))), probe), page, useBytes = TRUE)
  dom <- suppressWarnings(system2(browser, c("--headless", "--no-sandbox", "--disable-gpu", "--virtual-time-budget=5000", "--dump-dom",
                                             shQuote(paste0("file://", page))), stdout = TRUE, stderr = FALSE))
  dom <- paste(dom, collapse = "\n")
  expect_match(dom, "data-drawn=\"599\"", fixed = TRUE)
  expect_match(dom, "data-probe=\"true|WS-|true\"", fixed = TRUE)
  expect_match(dom, "1 &lt;b&gt;top&lt;/b&gt;", fixed = TRUE)
})

test_that("Markdown and Word carry the same sentences, tables and figures, with hostile text as text", {
  skip_without_pandoc()
  table <- heaps()
  names(table)[3] <- "no*rth* [x](http://a.b) $y$ `z` | w"
  data <- fl_data(table, truth = "kind", id = "row", name = "<b>heaps</b> # 1")
  groups <- fl_name(fl_partition(fl_prepare(data), k = 3), c("_a_", "\\b", "c|d"))
  folder <- withr::local_tempdir()
  fl_report(groups, file.path(folder, "r.md"))
  fl_report(groups, file.path(folder, "r.docx"))
  expect_setequal(list.files(folder), c("r.md", "r.docx", "r_files"))
  # read back by pandoc as plain text, both must show names as they were given
  for (file in c("r.md", "r.docx")) {
    out <- withr::local_tempfile(fileext = ".txt")
    rmarkdown::pandoc_convert(file.path(folder, file), to = "plain", output = out, options = "--wrap=none",
                              from = if (file == "r.md") "gfm")
    text <- paste(readLines(out, encoding = "UTF-8"), collapse = "\n")
    for (said in c("<b>heaps</b> # 1", "no*rth* [x](http://a.b) $y$ `z` | w", "Group 1 \"_a_\"", "Group 2 \"\\b\"",
                   "Group 3 \"c|d\"", "How to rerun", "fl_partition(")) {
      expect_true(grepl(said, gsub("[[:space:]]+", " ", text), fixed = TRUE) ||
                    grepl(gsub(" ", "", said), gsub("[[:space:]]+", "", text), fixed = TRUE), info = paste(file, said))
    }
  }
  figures <- regmatches(md <- readLines(file.path(folder, "r.md")), regexpr("r_files/[^)]+png", md))
  expect_gt(length(figures), 5)
  expect_true(all(file.exists(file.path(folder, figures))))
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

test_that("what only one method can tell stands in its report: its tree, its radius, its density", {
  skip_without_pandoc()
  ready <- fl_prepare(heap_data())
  own <- list(mixture = c("The density of the mixture beside", "Which rows are uncertain"),
              linkage = "The tree of merges, cut at the groups", dbscan = "The sorted distances that the radius",
              hdbscan = "The tree of branches, with those chosen as groups")
  for (key in names(own)) {
    page <- page_of(fl_partition(ready, key, k = 3))
    for (said in unlist(own)) expect_equal(grepl(said, page, fixed = TRUE), said %in% own[[key]], info = paste(key, said))
  }
})

test_that("the report of a study says who wins, what to doubt and how to open it again", {
  skip_without_pandoc()
  store <- withr::local_tempfile(fileext = ".sqlite", tmpdir = withr::local_tempdir())
  result <- fl_run(quick_study(name = "<b>two</b> heaps"), store)
  page <- page_of(result)
  for (said in c("Which method wins\\?", "Beyond chance\\?", "Who finds the count\\?", "What does the answer depend on\\?",
                 "2 tables with known classes: too few", "&lt;b&gt;two&lt;/b&gt; heaps")) {
    expect_true(grepl(said, page), info = said)
  }
  expect_false(grepl("<b>two", page, fixed = TRUE))
  standings <- fl_standings(result)
  for (value in fixed2(standings$scores$value)) expect_true(grepl(value, page, fixed = TRUE), info = value)
  expect_gte(length(gregexpr("data:image/png;base64", page, fixed = TRUE)[[1]]), 7)
  # tables without classes are ranked by an index, and that is doubted
  plain <- fl_study(list(none = fl_data(as.data.frame(random_table(40, 2, 9)), name = "none")), c("kmeans", "linkage"), k = 2:3,
                    indices = "fast")
  file <- withr::local_tempfile(fileext = ".md")
  fl_report(fl_run(plain), file)
  expect_match(gsub("\\", "", readLines(file), fixed = TRUE), "Index values reward the shape they were made for", all = FALSE)
})

test_that("what tables hang on is told by the choice, each table once", {
  map <- function(...) list(shares = tibble::tibble(choice = c(...), involved = seq(0.8, by = -0.3, length.out = length(c(...)))))
  said <- depends_on(list(a = map("method", "count"), b = map("count"), c = map("method")))
  expect_match(said, "^The choice of method matters most for a \\(80%\\) and c \\(80%\\)\\. The choice of count matters most for b \\(80%\\)\\.")
})
