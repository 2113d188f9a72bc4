# What a file with a new method or index brings, and what declarations may say.

# As if the file stood in the package: what is declared in it is found by its name.
local_declared <- function(lines, env = parent.frame()) {
  file <- withr::local_tempfile(lines = lines, fileext = ".R")
  inside <- new.env(parent = asNamespace("fjordline"))
  sys.source(file, inside)
  for (kind in c("method", "index")) {
    made <- grep(paste0("^", kind, "_[a-z0-9_]+$"), ls(inside), value = TRUE)
    declared <- lapply(made, function(name) inside[[name]]())
    known <- built_in(kind)
    put_back(kind, known, env)
    assign(kind, c(known, stats::setNames(declared, vapply(declared, `[[`, "", "key"))), envir = found_built_in)
  }
}

put_back <- function(kind, known, env) {
  force(kind)
  force(known)
  withr::defer(assign(kind, known, envir = found_built_in), envir = env)
}

test_that("a method and an index in a file of their own come up everywhere", {
  local_declared(c(
    'method_terciles <- function() {',
    '  declare_method("terciles", fit = function(x, k, settings, seed) {',
    '    list(group = as.integer(cut(rank(x[, 1], ties.method = "first"), k, labels = FALSE)))',
    '  }, about = list(label = "cuts along one column", when = "a ruler is wanted", shape = "slices"),',
    '  traits = list(untried = "Slices, which see nothing."))',
    '}',
    'index_evenness <- function() {',
    '  declare_index("evenness", value = function(x, groups) min(table(groups)) / length(groups), direction = "higher",',
    '                family = "balance", range = c(0, 0.5), label = "Evenness", formula = "share of the smallest group",',
    '                sampled = sampled_above(50, "not on all rows"))',
    '}'
  ))
  expect_true("terciles" %in% fl_methods()$key)
  expect_true("evenness" %in% fl_indices()$key)
  ready <- fl_prepare(heap_data())
  sweep <- fl_sweep(ready, list("kmeans", "terciles"), k = 2:4, indices = "fast")
  expect_true("evenness" %in% sweep$values$index)
  expect_match(fl_facts(sweep), "Evenness: not on all rows.", all = FALSE, fixed = TRUE)
  expect_match(paste(format(fl_methods()), collapse = " "), "terciles")
  vote <- fl_vote(sweep)
  expect_true("evenness" %in% vote$ballots$index)
  expect_true("balance" %in% vote$ballots$family)
  expect_null(vote$rate)  # no rate was measured with it
  expect_match(paste(format(summary(vote)), collapse = " "), "evenness")
  groups <- fl_take(sweep, "terciles", 3)
  expect_equal(groups$groups$rows, c(20, 20, 20))
  store <- withr::local_tempfile(fileext = ".sqlite")
  result <- fl_run(fl_study(list(heaps = heap_data()), list("kmeans", "terciles"), k = 2:4, indices = "fast"), store)
  expect_true("terciles" %in% as.data.frame(result)$method)
  report <- withr::local_tempfile(fileext = ".md")
  suppressMessages(fl_report(fl_partition(ready, "kmeans", k = 3), report))
  expect_match(paste(readLines(report), collapse = " "), "Slices, which see nothing.", fixed = TRUE)
  help <- utils::capture.output(cli_run(c("count", "--help")))
  expect_match(paste(help, collapse = " "), "splitting.* or terciles")
  expect_match(readme_methods(), "| `terciles` | slices | a ruler is wanted |", fixed = TRUE, all = FALSE)
  expect_match(described_indices(), "`evenness`: share of the smallest group", fixed = TRUE, all = FALSE)
})

test_that("the README is short, and shows the catalogue as it is", {
  file <- test_path("..", "..", "README.md")
  skip_if_not(file.exists(file), "the sources are not beside the tests")
  expect_lte(file.size(file), 10240)
  text <- gsub("\u2019", "'", gsub("\\s+", " ", paste(readLines(file, encoding = "UTF-8"), collapse = " ")))
  methods <- fl_methods()[!fl_methods()$yours, ]
  for (i in seq_len(nrow(methods))) {
    expect_true(grepl(paste0("| `", methods$key[i], "` | ", methods$shape[i], " | ", methods$when[i], " |"), text, fixed = TRUE),
                info = methods$key[i])
  }
})

test_that("keys with another meaning are refused, with what they mean", {
  value <- function(x, groups) 1
  expect_error(fl_new_index("bic_all", value = value, direction = "higher"), "a ballot of the vote",
               class = "fjordline_error_index")
  expect_error(fl_new_index("fast", value = value, direction = "higher"), "a set of indices",
               class = "fjordline_error_index")
  expect_error(fl_new_index("elbow", value = value, direction = "higher"), "a built-in index",
               class = "fjordline_error_index")
  expect_error(fl_new_index("pairs", value = value, direction = "higher"), "a family", class = "fjordline_error_index")
  expect_error(fl_new_index("vote", value = value, direction = "higher"), class = "fjordline_error_index")
  fit <- function(x, k, settings, seed) list(group = rep(1L, nrow(x)))
  for (key in c("kmeans", "adopted", "both")) {
    expect_error(fl_new_method(key, fit), class = "fjordline_error_method")
  }
})

test_that("every field of a declaration is looked at when it is declared", {
  value <- function(x, groups) 1
  bad <- list(order = 5, order = function(k) k, family = 3, family = "two words", weight = "a", weight = -1, weight = NA,
              from = 0, from = 1.5, tier = "slow", label = "", label = 3, cost = NA, range = c(1, 1), rule = 3)
  for (i in seq_along(bad)) {
    expect_error(do.call(fl_new_index, c(list("mine", value = value, direction = "higher"), bad[i])),
                 paste0("`?", names(bad)[i], "`? must be"), class = "fjordline_error_index", info = names(bad)[i])
  }
  fit <- function(x, k, settings, seed) list(group = rep(1L, nrow(x)))
  bad <- list(assign = 1, assign = function(x) x, membership = "none", density = function(x) x, settings = 5,
              settings = list(1), check = 2, label = 3, shape = character(), free_count = NA, free_count = "yes")
  for (i in seq_along(bad)) {
    expect_error(do.call(fl_new_method, c(list("mine", fit), bad[i])), paste0("`", names(bad)[i], "` must be"),
                 class = "fjordline_error_method", info = names(bad)[i])
  }
  expect_error(declare_method("mine", fit, traits = list(views = 3)), "`views` must be", class = "fjordline_error_method")
  expect_error(declare_method("mine", fit, traits = list(voices = 3)), "voice", class = "fjordline_error_method")
  expect_false("mine" %in% c(fl_methods()$key, fl_indices()$key))
})

test_that("a method without settings says so", {
  withr::defer(rm("bare", envir = own_methods))
  fl_new_method("bare", function(x, k, settings, seed) list(group = rep(1:2, length.out = nrow(x))))
  expect_error(fl_method("bare", speed = 1), "It has no settings", class = "fjordline_error_method")
  expect_equal(fl_methods()$settings[fl_methods()$key == "bare"], "none")
})
