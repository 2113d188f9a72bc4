# The view that steps through the counts: what it is given is what was fitted, and it does in a browser what it says.

codes <- function(text) as.integer(jsonlite::base64_dec(text))
numbers <- function(text) readBin(jsonlite::base64_dec(text), "double", 1e6, size = 4L, endian = "little")

stepped <- local({
  made <- NULL
  function() {
    if (is.null(made)) {
      table <- heaps()
      table$day <- as.Date("2031-04-01") + seq_len(nrow(table))
      data <- fl_data(table, truth = "kind", id = "row", aside = "day")
      vote <- fl_vote(quick_sweep(fl_prepare(data), k = 1:5))
      made <<- list(vote = vote, data = canvas_data(vote$sweep, vote))
    }
    made
  }
})

test_that("groups, columns and identifiers come back as they were", {
  sweep <- stepped()$vote$sweep
  data <- stepped()$data
  table <- sweep$ready[[1]]$data$table
  for (i in seq_along(sweep$k)) {
    part <- data$sets[[1]]$parts[[i]]
    groups <- fl_take(sweep, k = sweep$k[i])
    expect_equal(codes(part$group), groups$group)
    expect_equal(as.vector(part$sizes), groups$groups$rows)
    if (groups$k > 1) expect_equal(codes(part$width) / 100 - 1, row_silhouettes(groups)$silhouette, tolerance = 0.006)
  }
  expect_equal(as.vector(data$ids), as.character(table$row))
  for (column in data$columns) {
    own <- table[[column$name]]
    if (column$type == "level") expect_equal(as.vector(column$levels)[codes(column$values)], as.character(own))
    else expect_equal(numbers(column$values), as.numeric(own), tolerance = 1e-6)
  }
  expect_equal(vapply(data$columns, `[[`, "", "role"), c("feature", "feature", "aside", "truth"))
  expect_equal(readBin(jsonlite::base64_dec(data$rows), "integer", 1e4, endian = "little"), seq_len(nrow(table)))
})

test_that("a group hands its colour to what holds most of its rows, both ways from the count shown first", {
  part <- function(group) list(group = group, k = max(group))
  three <- part(rep(1:3, c(6, 4, 2)))
  four <- part(c(2, 2, 1, 1, 1, 1, 3, 3, 3, 3, 4, 4))  # group 1 gives two rows away
  two <- part(rep(1:2, c(6, 6)))                       # groups 2 and 3 join
  expect_equal(handed_along(list(two, three, four), 2, 1:3), list(1:2, 1:3, c(1, 4, 2, 3)))
  expect_equal(handed_on(three, c(5, 1, 2), four), c(5, 3, 1, 2))
  noisy <- part(c(0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2))
  expect_equal(handed_on(three, 1:3, noisy), 1:2)
  expect_equal(canvas_palette(5), fl_palette(5))
  expect_equal(canvas_palette(14)[1:8], fl_palette(8))
  expect_equal(anyDuplicated(canvas_palette(30)), 0L)
})

test_that("a long table is drawn by an even sample, and says so", {
  sweep <- stepped()$vote$sweep
  few <- canvas_data(sweep, most = 20)
  expect_equal(few$shown, 20L)
  expect_match(few$note, "even sample of 20 rows")
  expect_equal(length(codes(few$sets[[1]]$parts[[1]]$group)), 20L)
})

test_that("nothing of a table can end the script or become an element", {
  table <- heaps()
  names(table)[3] <- "</script><b>"
  table$row <- paste0("<img src=x onerror=alert(1)>", seq_len(nrow(table)))
  ready <- fl_prepare(fl_data(table, truth = "kind", id = "row", name = "<i>t</i>"))
  html <- as.character(canvas_html(canvas_data(quick_sweep(ready, k = 1:3))))
  body <- sub(".*application/json\">", "", sub("</script>\n *</div>.*", "", html))
  expect_no_match(body, "<", fixed = TRUE)
  expect_equal(jsonlite::fromJSON(body, simplifyVector = FALSE)$ids[[1]], table$row[1])
})

test_that("in a browser it steps, reads, selects, names and saves", {
  browser <- Sys.which("chromium")
  skip_if(!nzchar(browser), "chromium is missing")
  page <- withr::local_tempfile(fileext = ".html")
  probe <- "<script>(function () {
    var root = document.querySelector('.fl-view'), v = root.view, out = [];
    function key(k) { document.dispatchEvent(new KeyboardEvent('keydown', { key: k, bubbles: true })); }
    v.change({ at: 1 }); key('ArrowRight'); out.push(v.part().k);
    var canvas = root.querySelector('.fl-plane canvas'), box = canvas.getBoundingClientRect(), at = v.plane.at(7);
    function point(type, x, y) { canvas.dispatchEvent(new PointerEvent(type, { clientX: box.left + x, clientY: box.top + y, bubbles: true })); }
    point('pointermove', at[0], at[1]); out.push(root.querySelector('.fl-tip strong').textContent);
    point('pointerdown', at[0], at[1]); point('pointerup', at[0], at[1]); out.push(v.state.row, v.state.group === v.part().group[7]);
    key('Escape'); out.push(v.state.row);
    point('pointerdown', 47, 11); [[900, 11], [900, 320], [47, 320]].forEach(function (p) { point('pointermove', p[0], p[1]); });
    point('pointerup', 47, 320); out.push(v.pickedRows().length, root.querySelector('.fl-card b').textContent);
    key('Escape'); v.change({ group: 1 });
    var name = root.querySelector('.fl-card input'); name.value = '<b>x</b>, y'; name.dispatchEvent(new Event('change'));
    out.push(root.querySelectorAll('.fl-card b b').length, fjordline.csv(v, [0, 1]).split('\\r\\n').slice(0, 3).join('/'));
    var tabs = Array.from(root.querySelectorAll('[role=tab]')); tabs.forEach(function (t) { t.click(); });
    out.push(tabs.map(function (t) { return t.textContent; }).join(' '));
    root.querySelector('.fl-classes td button').click(); out.push(v.pickedRows().length > 0);
    document.body.setAttribute('data-probe', JSON.stringify(out));
  })();</script>"
  writeLines(c("<!doctype html><meta charset=utf-8><body>", as.character(canvas_html(stepped()$data)), probe), page,
             useBytes = TRUE)
  dom <- suppressWarnings(system2(browser, c("--headless", "--no-sandbox", "--disable-gpu", "--window-size=1280,800",
                                             "--virtual-time-budget=5000", "--dump-dom", shQuote(paste0("file://", page))),
                                  stdout = TRUE, stderr = FALSE))
  found <- regmatches(dom, regexpr("data-probe=\"[^\"]*\"", dom))
  expect_length(found, 1L)
  said <- jsonlite::fromJSON(gsub("&lt;", "<", gsub("&gt;", ">", gsub("&quot;", "\"", sub("\"$", "", sub("data-probe=\"", "", found))))),
                             simplifyVector = FALSE)
  ids <- as.vector(stepped()$data$ids)
  group <- fl_labels(fl_take(stepped()$vote$sweep, k = 3))
  expect_equal(said[[1]], 3L)
  expect_equal(said[[2]], ids[8])
  expect_equal(said[3:5], list(7L, TRUE, -1L))
  expect_equal(said[[6]], length(ids))
  expect_equal(said[[7]], paste(length(ids), "rows selected"))
  expect_equal(said[[8]], 0L)  # a name is text
  called <- ifelse(group == 1, "\"<b>x</b>, y\"", paste("group", group))
  expect_equal(said[[9]], paste(c("id,row,group,name", paste(ids[1:2], 1:2, group[1:2], called[1:2], sep = ",")), collapse = "/"))
  expect_equal(said[[10]], "Profile Rows Silhouettes Indices Known classes Over time")
  expect_true(said[[11]])
})
