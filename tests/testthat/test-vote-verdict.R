# What a verdict may say, and how its margin reads.

test_that("every verdict a measured vote can have states its rates, and a clearer one was right more often", {
  share <- function(text) {
    parts <- as.numeric(strsplit(text, " of ")[[1]])
    parts[1] / parts[2]
  }
  for (set in names(verdict_rates)) {
    rates <- verdict_rates[[set]]
    expect_setequal(names(rates), c("clear", "weak", "no clear count"))
    for (suite in 1:2) {
      by_word <- vapply(c("clear", "weak", "no clear count"), function(word) share(rates[[word]][suite]), 0)
      expect_true(all(by_word > 0 & by_word <= 1))
      expect_true(by_word[["clear"]] > by_word[["weak"]])
    }
    # the words as definitions have them, by what was found on round tables
    expect_gte(share(rates$clear[1]), 0.90)
    expect_gte(share(rates$weak[1]), 0.65)
    expect_lt(share(rates$`no clear count`[1]), 0.65)
  }
})

test_that("a margin that rounding lifts over a limit is not shown as reaching it", {
  expect_equal(margin_said(c(0.0978, 0.0949, 0.1, 0.1978, 0.204, NA)),
               c("just below 0.10", "0.09", "0.10", "just below 0.20", "0.20", "-"))
  expect_equal(verdict_of(0.0978, 2, 3), "no clear count")
})

test_that("what rounding takes off a sum of shares does not take a verdict away", {
  expect_equal(verdict_of(0.1 - 1e-15, 2, 3), "weak")
  expect_equal(verdict_of(0.2 - 1e-15, 2, 3), "clear")
  expect_equal(verdict_of(0.1 - 1e-6, 2, 3), "no clear count")
})

test_that("a family's first is its count of most points, the smaller of equals", {
  shares <- tibble::tibble(family = c("a", "a", "a", "b", "b"), k = c(2L, 3L, 4L, 5L, 3L), points = c(1, 2, 2, 3, 3))
  expect_equal(family_firsts(shares), c(a = 3L, b = 3L))
})

test_that("rates are quoted for votes like the measured ones only", {
  counting <- function(...) utils::modifyList(list(weights = NULL, rule = "ranked", depth = 3), list(...))
  sweep <- function(method = fl_method("kmeans"), k = 1:10, indices = as_indices("standard")) {
    list(methods = list(m = method), k = k, indices = indices)
  }
  expect_equal(measured_set(sweep(), "m", counting()), "standard")
  expect_equal(measured_set(sweep(indices = as_indices("fast")), "m", counting()), "fast")
  expect_equal(measured_set(sweep(k = 2:12), "m", counting()), "standard")
  others <- list(
    sweep(fl_method("medoids")), sweep(fl_method("kmeans", metric = "cosine")), sweep(k = 2:6), sweep(k = c(1:8, 10)),
    sweep(k = 3:10), sweep(k = 1:40), sweep(indices = as_indices("all")), sweep(indices = as_indices("silhouette"))
  )
  for (other in others) expect_true(is.na(measured_set(other, "m", counting())))
  expect_true(is.na(measured_set(sweep(), "m", counting(weights = c(curve = 2)))))
  expect_true(is.na(measured_set(sweep(), "m", counting(rule = "plurality"))))
  expect_true(is.na(measured_set(sweep(), "m", counting(depth = 2))))
})
