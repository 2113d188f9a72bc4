# A real browser for the tests: Chromium, spoken to by its DevTools protocol over two named pipes, so that nothing has to
# be installed beside it. https://chromedevtools.github.io/devtools-protocol/

local_browser <- function(width = 1280, height = 800, env = parent.frame()) {
  program <- Sys.which("chromium")
  skip_if(!nzchar(program), "chromium is missing")
  skip_if(.Platform$OS.type != "unix", "named pipes are needed")
  folder <- withr::local_tempdir(.local_envir = env)
  pipes <- file.path(folder, c("in", "out"))
  system2("mkfifo", shQuote(pipes))
  # opened for both ways here first, so that neither side waits for the other
  command <- sprintf("exec 3<>%s 4<>%s; exec %s --headless --no-sandbox --disable-gpu --remote-debugging-pipe --window-size=%d,%d --user-data-dir=%s about:blank",
                     shQuote(pipes[1]), shQuote(pipes[2]), shQuote(program), width, height, shQuote(file.path(folder, "profile")))
  system2("sh", c("-c", shQuote(command)), wait = FALSE, stdout = FALSE, stderr = FALSE)
  browser <- new.env()
  browser$to <- fifo(pipes[1], "wb", blocking = TRUE)
  browser$from <- fifo(pipes[2], "rb", blocking = FALSE)
  browser$id <- 0
  browser$rest <- raw()
  browser$events <- list()
  withr::defer({
    try(browser_send(browser, "Browser.close", session = FALSE), silent = TRUE)
    Sys.sleep(0.3)  # it writes to its folder to the last
    close(browser$to)
    close(browser$from)
  }, envir = env)
  page <- Filter(function(t) t$type == "page", browser_send(browser, "Target.getTargets", session = FALSE)$targetInfos)[[1]]
  browser$session <- browser_send(browser, "Target.attachToTarget", list(targetId = page$targetId, flatten = TRUE),
                                  session = FALSE)$sessionId
  for (domain in c("Page", "Runtime", "Log", "Network")) browser_send(browser, paste0(domain, ".enable"))
  browser_send(browser, "Emulation.setDeviceMetricsOverride",
               list(width = width, height = height, deviceScaleFactor = 1, mobile = FALSE))
  browser
}

# Sends a command and waits for its answer; what the browser says unasked is kept in `events`.
browser_send <- function(browser, method, params = NULL, session = TRUE, within = 30) {
  browser$id <- browser$id + 1
  message <- list(id = browser$id, method = method)
  if (!is.null(params)) message$params <- params
  if (session) message$sessionId <- browser$session
  writeBin(c(charToRaw(enc2utf8(as.character(jsonlite::toJSON(message, auto_unbox = TRUE, digits = NA)))), as.raw(0)), browser$to)
  flush(browser$to)
  until <- Sys.time() + within
  repeat {
    for (said in browser_messages(browser)) {
      if (identical(said$id, as.integer(browser$id))) {
        if (!is.null(said$error)) stop(method, ": ", said$error$message)
        return(said$result)
      }
      browser$events <- c(browser$events, list(said))
    }
    if (Sys.time() > until) stop(method, ": no answer from the browser")
    Sys.sleep(0.01)
  }
}

browser_messages <- function(browser) {
  repeat {
    more <- tryCatch(readBin(browser$from, "raw", 65536), error = function(e) raw())  # nothing there yet
    if (length(more) == 0) break
    browser$rest <- c(browser$rest, more)
  }
  ends <- which(browser$rest == as.raw(0))
  if (length(ends) == 0) return(list())
  starts <- c(1, utils::head(ends, -1) + 1)
  out <- Map(function(from, to) jsonlite::fromJSON(rawToChar(browser$rest[from:to]), simplifyVector = FALSE), starts, ends - 1)
  browser$rest <- utils::tail(browser$rest, -max(ends))
  out
}

browser_open <- function(browser, url) {
  browser_send(browser, "Page.navigate", list(url = url))
  browser_until(browser, "document.readyState === 'complete'")
}

# The value of an expression, or of what it promises.
browser_value <- function(browser, code) {
  said <- browser_send(browser, "Runtime.evaluate", list(expression = code, awaitPromise = TRUE, returnByValue = TRUE))
  if (!is.null(said$exceptionDetails)) stop(said$exceptionDetails$exception$description %||% said$exceptionDetails$text)
  said$result$value
}

browser_until <- function(browser, code, within = 30) {
  until <- Sys.time() + within
  while (!isTRUE(tryCatch(browser_value(browser, paste0("Boolean(", code, ")")), error = function(e) FALSE))) {
    if (Sys.time() > until) stop("waited in vain for: ", code)
    Sys.sleep(0.05)
  }
  invisible(TRUE)
}

browser_key <- function(browser, key) {
  number <- c(ArrowLeft = 37, ArrowRight = 39, Escape = 27, Enter = 13, `/` = 191)[[key]]
  for (type in c("rawKeyDown", "keyUp")) {
    browser_send(browser, "Input.dispatchKeyEvent", list(type = type, key = key, code = key, windowsVirtualKeyCode = number))
  }
}

browser_type <- function(browser, text) browser_send(browser, "Input.insertText", list(text = text))

browser_point <- function(browser, type, x, y, held = FALSE) {
  browser_send(browser, "Input.dispatchMouseEvent",
               list(type = type, x = x, y = y, button = if (held || type != "mouseMoved") "left" else "none",
                    buttons = as.integer(held), clickCount = 1L))
}

browser_click <- function(browser, x, y) {
  browser_point(browser, "mouseMoved", x, y)
  browser_point(browser, "mousePressed", x, y, TRUE)
  browser_point(browser, "mouseReleased", x, y)
}

browser_drag <- function(browser, points) {
  browser_point(browser, "mouseMoved", points[1, 1], points[1, 2])
  browser_point(browser, "mousePressed", points[1, 1], points[1, 2], TRUE)
  for (i in 2:nrow(points)) browser_point(browser, "mouseMoved", points[i, 1], points[i, 2], TRUE)
  browser_point(browser, "mouseReleased", points[nrow(points), 1], points[nrow(points), 2])
}

# The element a selector finds; with `text`, the first that says so.
browser_click_on <- function(browser, selector, text = NULL) {
  code <- jsonlite::toJSON(list(selector, text %||% ""), auto_unbox = TRUE)
  at <- browser_value(browser, sprintf("(function (s) { var e = Array.from(document.querySelectorAll(s[0])).filter(function (e) {
    return e.offsetParent !== null && (s[1] === '' || e.textContent.trim() === s[1]); })[0];
    if (!e) return null; e.scrollIntoView({ block: 'nearest' }); var b = e.getBoundingClientRect();
    return [b.left + b.width / 2, b.top + b.height / 2]; })(%s)", code))
  if (is.null(at)) stop("nothing to click: ", selector, " ", text)
  browser_click(browser, at[[1]], at[[2]])
}

browser_picture <- function(browser, file) {
  shot <- browser_send(browser, "Page.captureScreenshot", list(format = "png"))
  writeBin(jsonlite::base64_dec(shot$data), file)
}

# What the console complained of, and addresses asked that are not `home`.
browser_complaints <- function(browser) {
  browser_value(browser, "1")
  said <- Filter(function(e) e$method %in% c("Runtime.exceptionThrown", "Log.entryAdded") ||
                   e$method == "Runtime.consoleAPICalled" && e$params$type %in% c("error", "assert"), browser$events)
  vapply(said, function(e) as.character(jsonlite::toJSON(e$params, auto_unbox = TRUE)), "")
}

browser_addresses <- function(browser) {
  asked <- Filter(function(e) identical(e$method, "Network.requestWillBeSent"), browser$events)
  unique(vapply(asked, function(e) e$params$request$url, ""))
}
