# A bar where somebody waits, and only there.


test_that("a bar is shown in an interactive session, and not beside the user's own or in a document", {
  waits <- function() someone_waits()
  rlang::with_interactive(expect_true(waits()), TRUE)
  rlang::with_interactive(expect_false(waits()), FALSE)
  rlang::with_interactive({
    withr::with_options(list(knitr.in.progress = TRUE), expect_false(waits()))
    withr::with_options(list(fjordline.bar = TRUE), expect_false(waits()))
    expect_false(progressr::with_progress(waits(), handlers = progressr::handler_void()))
    # what runs within a bar shows none of its own
    expect_false(with_bar(waits(), shown = TRUE))
    expect_null(getOption("fjordline.bar"))
  }, TRUE)
})

test_that("a sweep with a bar gives what one without gives, and errors name the call", {
  ready <- ready_from(random_heaps(40, 2, 2, sd = 6, seed = 1))
  plain <- fl_sweep(ready, "kmeans", k = 1:3, indices = "fast")
  barred <- suppressMessages(rlang::with_interactive(fl_sweep(ready, "kmeans", k = 1:3, indices = "fast"), TRUE))
  expect_equal(barred$values, plain$values)
  expect_equal(barred$call, plain$call)
  error <- rlang::with_interactive(expect_error(fl_sweep(ready, "kmeans", k = 0.5), class = "fjordline_error_argument"), TRUE)
  expect_match(deparse(error$call)[1], "fl_sweep")
})

test_that("on a terminal R shows a bar with the time left without being asked, and clears it", {
  skip_if(Sys.which("script") == "" || !rlang::is_installed("progress"))
  code <- paste("library(fjordline); options(rlang_interactive = TRUE);",
                "own <- function(x, k, settings, seed) { Sys.sleep(0.5); list(group = 1L + (seq_len(nrow(x)) %% k)) };",
                "fl_new_method('slow', own); ready <- fl_prepare(fl_demo('icequakes'));",
                "sweep <- fl_sweep(ready, 'slow', k = 2:8, indices = 'calinski_harabasz')")
  call <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "-e", shQuote(code))
  shown <- paste(system2("script", c("-qec", shQuote(call), "/dev/null"), stdout = TRUE, stdin = nullfile()), collapse = "")
  expect_match(shown, "[0-9]+ *%, +[0-9]+s left")
})
