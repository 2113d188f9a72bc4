# How fast the view steps, hovers and selects, in Chromium, at growing numbers of rows (10 columns, 10 counts).
# usage: Rscript bench/explorer.R   (FJORDLINE_BENCH_ROWS=1000,20000,100000,200000)
library(fjordline)
library(testthat)
ours <- function(name) getFromNamespace(name, "fjordline")
source("tests/testthat/helper-browser.R")
rows <- as.integer(strsplit(Sys.getenv("FJORDLINE_BENCH_ROWS", "1000,20000,100000,200000"), ",")[[1]])

page_of_rows <- function(n) {
  set.seed(1)
  group <- sample(6, n, TRUE)
  x <- matrix(rnorm(n * 10), n)
  x[, 1:4] <- x[, 1:4] + 6 * cbind(group == 1, group == 2, group == 3, group == 4)
  table <- data.frame(x, day = as.Date("2031-01-01") + sample(700, n, TRUE), kind = letters[group])
  data <- fl_data(table, truth = "kind", aside = "day")
  sweep <- fl_sweep(fl_prepare(data), fl_method("kmeans", restarts = 2), k = 1:10, indices = "calinski_harabasz")
  seconds <- system.time(view <- ours("canvas_data")(sweep))[["elapsed"]]
  html <- as.character(ours("canvas_html")(view))
  file <- tempfile(fileext = ".html")
  writeLines(c("<!doctype html><meta charset=utf-8><body>", html), file, useBytes = TRUE)
  list(file = file, seconds = seconds, megabytes = nchar(html) / 1e6)
}

measure <- "(async function () {
  var v = document.querySelector('.fl-view').view, c = document.querySelector('.fl-plane canvas');
  var b = c.getBoundingClientRect();
  function frame() { return new Promise(function (r) { requestAnimationFrame(function () { setTimeout(r, 0); }); }); }
  function point(type, x, y) { c.dispatchEvent(new PointerEvent(type, { clientX: b.left + x, clientY: b.top + y })); }
  async function timed(act) { var t = performance.now(); act(); await frame(); return performance.now() - t; }
  var first = [], again = [], i;
  for (i = 0; i < 10; i++) first.push(await timed(function () { v.change({ at: i }); }));
  for (i = 0; i < 10; i++) again.push(await timed(function () { v.change({ at: i }); }));
  point('pointermove', 300, 150);
  var t = performance.now();
  for (i = 0; i < 20; i++) point('pointermove', 300 + i, 150);
  var hover = (performance.now() - t) / 20;
  point('pointerdown', 100, 50);
  for (i = 0; i < 40; i++) point('pointermove', 100 + 500 * Math.pow(Math.sin(i / 6.5), 2), 50 + 250 * i / 40);
  var lasso = await timed(function () { point('pointerup', 100, 300); });
  return [Math.max.apply(null, first), Math.max.apply(null, again), hover, lasso];
})()"

browser <- local_browser()
cat("milliseconds, the slowest of ten steps\n",
    sprintf("%9s", c("rows", "MB", "made, s", "first", "again", "hover", "lasso")), "\n")
for (n in rows) {
  page <- page_of_rows(n)
  browser_open(browser, paste0("file://", page$file))
  browser_until(browser, "document.querySelector('.fl-view').view", 60)
  took <- unlist(browser_value(browser, measure))
  cat("", sprintf("%9s", c(n, round(page$megabytes, 1), round(page$seconds, 1), round(took, 1))), "\n")
}
