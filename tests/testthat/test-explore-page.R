# The explorer in a real browser: by pointer and keyboard, as a reader would.

local_explorer <- function(x = NULL, env = parent.frame()) {
  for (package in c("shiny", "bslib", "callr")) skip_if_not_installed(package)
  process <- callr::r_bg(function(x) fjordline::fl_explore(x, open = FALSE), list(x), stdout = "|", stderr = "|",
                         libpath = .libPaths())
  withr::defer(process$kill_tree(), envir = env)
  said <- character()
  until <- Sys.time() + 60
  while (!any(grepl("token=", said))) {
    said <- c(said, process$read_output_lines())
    if (Sys.time() > until || !process$is_alive()) stop("no explorer: ", process$read_all_error())
    Sys.sleep(0.1)
  }
  grep("^http", said, value = TRUE)
}

go_to <- function(browser, page) {
  browser_click_on(browser, ".nav-link", page)
  Sys.sleep(0.3)
}
choose <- function(browser, id, value) {
  browser_value(browser, sprintf("document.querySelector('#%s').selectize.setValue(%s)", id, deparse(value)))
}
script_of <- function(browser) strsplit(browser_value(browser, "document.querySelector('#script_lines').textContent"), "\n")[[1]]
wait_for_line <- function(browser, pattern, within = 60) {
  browser_until(browser, sprintf("/%s/.test(document.querySelector('#script_lines').textContent)", pattern), within)
}
view <- function(browser, code) browser_value(browser, paste0("(function (v) { return ", code, "; })(document.querySelector('#view').view)"))
plane_box <- function(browser) {
  unlist(browser_value(browser, "(function (b) { return [b.left, b.top, b.width, b.height]; })(document.querySelector('#view .fl-plane canvas').getBoundingClientRect())"))
}

test_that("from a demo table to settled, named groups by pointer and keyboard; the script makes the same labels", {
  address <- local_explorer()
  browser <- local_browser()
  browser_open(browser, address)
  browser_until(browser, "window.Shiny && Shiny.shinyapp && Shiny.shinyapp.isConnected()")
  choose(browser, "demo", "water_samples")
  wait_for_line(browser, "fl_demo")
  browser_until(browser, "document.querySelectorAll('.fl-remedy').length > 1")
  browser_click_on(browser, ".fl-findings li:nth-child(2) .fl-remedy")
  wait_for_line(browser, "turbidity = .log")

  go_to(browser, "Groups")
  choose(browser, "methods", "kmeans")
  browser_value(browser, "(function () { var k = document.querySelector('#k_to'); k.value = 7; k.dispatchEvent(new Event('change')); })()")
  browser_click_on(browser, "#fit")
  wait_for_line(browser, "vote <- fl_vote")
  browser_until(browser, "document.querySelector('#view').view")
  lines <- script_of(browser)
  expect_match(lines, "k = 1:7, indices = \"fast\"", all = FALSE, fixed = TRUE)

  # steps, reads, selects: none of it is in the script
  k <- view(browser, "v.part().k")
  browser_key(browser, "ArrowRight")
  browser_until(browser, sprintf("document.querySelector('#view').view.part().k === %d", k + 1L))
  for (tab in c("Rows", "In words", "Indices", "Known classes", "Over time", "Profile", "Silhouettes")) browser_click_on(browser, "[role=tab]", tab)
  at <- unlist(view(browser, "v.plane.at(20)"))
  box <- plane_box(browser)
  browser_click(browser, box[1] + at[1], box[2] + at[2])
  expect_gte(view(browser, "v.state.row"), 0)
  browser_key(browser, "Escape")
  browser_drag(browser, cbind(box[1] + box[3] * c(0.3, 0.97, 0.97, 0.3), box[2] + box[4] * c(0.05, 0.05, 0.85, 0.85)))
  expect_gt(view(browser, "v.pickedRows().length"), 10)
  browser_key(browser, "Escape")
  browser_key(browser, "/")
  browser_type(browser, "WS-1100")
  browser_key(browser, "Enter")
  expect_equal(view(browser, "v.rowName(v.state.row)"), "WS-1100")
  browser_key(browser, "Escape")
  expect_equal(script_of(browser), lines)

  view(browser, "v.change({ at: 4 })")
  browser_click_on(browser, "#view .fl-list button:nth-child(2)")
  browser_click_on(browser, "#view .fl-card input")
  browser_type(browser, "<b>deep</b>")
  browser_key(browser, "Enter")
  browser_value(browser, "document.activeElement.blur()")
  browser_until(browser, "document.querySelector('#view .fl-card b').textContent === '<b>deep</b>'")
  Sys.sleep(0.5)
  browser_click_on(browser, "#take")
  wait_for_line(browser, "fl_name")
  shown <- utils::read.csv(text = view(browser, "fjordline.csv(v, Array.from({ length: v.n }, function (x, i) { return i; }))"))
  browser_click_on(browser, "#keep")
  wait_for_line(browser, "kept_1")

  go_to(browser, "Compare")
  choose(browser, "first", "kept_1")
  choose(browser, "second", "fit kmeans 3")
  browser_click_on(browser, "#compare")
  browser_until(browser, "document.querySelector('#pair').view")
  browser_click_on(browser, "#pair button", "Select them")
  expect_gt(browser_value(browser, "document.querySelector('#pair').view.pickedRows().length"), 0)

  go_to(browser, "Hand on")
  browser_until(browser, "document.querySelectorAll('#picked input').length > 2")
  browser_click_on(browser, "#reason")
  browser_type(browser, "the crew's count")
  Sys.sleep(0.5)
  browser_click_on(browser, "#settle")
  wait_for_line(browser, "fl_settle")
  wait_for_line(browser, "fl_take.vote")
  Sys.sleep(1)
  script <- script_of(browser)
  folder <- withr::local_tempdir()
  out <- file.path(folder, "out.rds")
  writeLines(c(script, sprintf("saveRDS(list(groups, sessionInfo()$otherPkgs$fjordline$Package), %s)", encodeString(out, quote = "\""))),
             file.path(folder, "script.R"))
  callr::rscript(file.path(folder, "script.R"), wd = folder, libpath = .libPaths(), show = FALSE)
  made <- readRDS(out)[[1]]
  expect_equal(made$group[shown$row], shown$group)
  expect_true("<b>deep</b>" %in% made$names)
  expect_equal(made$vote$settled$reason, "the crew's count")

  browser_click_on(browser, "#undo")
  expect_lt(length({Sys.sleep(1); script_of(browser)}), length(script))
  expect_equal(browser_complaints(browser), character())
  expect_true(all(grepl("^(http://127\\.0\\.0\\.1:|data:|blob:|about:)", browser_addresses(browser))))
})

test_that("without its word nothing is shown; a page finds its work again, a second one does not see it", {
  address <- local_explorer(fl_demo("icequakes"))
  bare <- sub("[?].*$", "/", address)
  answer <- suppressWarnings(tryCatch(readLines(bare), error = function(e) "refused"))
  expect_false(any(grepl("navbar", answer)))
  browser <- local_browser()
  browser_open(browser, address)
  browser_until(browser, "window.Shiny && Shiny.shinyapp && Shiny.shinyapp.isConnected()")
  wait_for_line(browser, "icequakes")
  go_to(browser, "Columns")
  browser_until(browser, "document.querySelectorAll('.fl-use').length > 0")
  browser_click_on(browser, "#prepare")
  wait_for_line(browser, "ready <- fl_prepare")

  second <- local_browser()
  browser_open(second, address)
  wait_for_line(second, "icequakes")
  expect_false(any(grepl("fl_prepare", script_of(second))))
  # the first is closed and opened again
  browser_open(browser, "about:blank")
  Sys.sleep(1)
  browser_open(browser, address)
  wait_for_line(browser, "ready <- fl_prepare")
  expect_equal(browser_complaints(browser), character())
})

test_that("a file that cannot be read is told, nothing is lost; hostile cells and names are text", {
  address <- local_explorer()
  browser <- local_browser()
  browser_open(browser, address)
  browser_until(browser, "window.Shiny && Shiny.shinyapp && Shiny.shinyapp.isConnected()")
  drop <- function(file) {
    root <- browser_send(browser, "DOM.getDocument")$root$nodeId
    node <- browser_send(browser, "DOM.querySelector", list(nodeId = root, selector = "#file"))$nodeId
    browser_send(browser, "DOM.setFileInputFiles", list(files = list(file), nodeId = node))
  }
  folder <- withr::local_tempdir()
  good <- file.path(folder, "<img src=x onerror=alert(1)>.csv")
  table <- heaps()
  names(table)[3] <- "<script>alert(2)</script>"
  table$kind <- paste0("<b onmouseover=alert(3)>", table$kind)
  write.csv(table, good, row.names = FALSE)
  drop(good)
  wait_for_line(browser, "fl_data")
  browser_until(browser, "document.querySelectorAll('.fl-role').length === 4")
  before <- script_of(browser)
  bad <- file.path(folder, "bad.parquet")
  writeBin(as.raw(1:50), bad)
  drop(bad)
  browser_until(browser, "document.querySelector('.shiny-notification')")
  expect_equal(script_of(browser), before)
  go_to(browser, "Groups")
  choose(browser, "methods", "kmeans")
  browser_click_on(browser, "#fit")
  browser_until(browser, "document.querySelector('#view').view", 60)
  for (tab in c("Rows", "In words", "Indices", "Profile")) browser_click_on(browser, "[role=tab]", tab)
  expect_equal(browser_value(browser, "document.querySelectorAll('img[src=x], b[onmouseover]').length"), 0L)
  expect_equal(browser_complaints(browser), character())
})
