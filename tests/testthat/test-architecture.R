# The house rules: rooms import only downwards, interface packages stay in the interface.

rooms <- c(core = 1, method = 2, index = 2, data = 3, sweep = 3, vote = 3, agree = 3, read = 3, study = 3, cli = 4, print = 4,
           figure = 4, report = 4)

source_folder <- function() {
  here <- test_path("..", "..", "R")
  skip_if_not(dir.exists(here) && file.exists(file.path(here, "core-errors.R")), "the sources are not beside the tests")
  here
}

source_files <- function() list.files(source_folder(), pattern = "^[a-z]+-.*[.]R$", full.names = TRUE)

room_of <- function(file) sub("-.*$", "", basename(file))

defined_in <- function(file) {
  exprs <- parse(file, keep.source = FALSE)
  assigned <- Filter(function(e) is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]]), as.list(exprs))
  vapply(assigned, function(e) as.character(e[[2]]), "")
}


find_names <- function(expr) {
  if (is.name(expr)) return(as.character(expr))
  if (!is.call(expr) && !is.pairlist(expr)) return(character())
  if (is.call(expr) && identical(expr[[1]], as.name("$"))) return(find_names(expr[[2]]))
  if (is.call(expr) && identical(expr[[1]], as.name("function"))) {
    own <- names(expr[[2]])
    return(setdiff(unlist(c(lapply(as.list(expr[[2]]), find_names), find_names(expr[[3]]))), own))
  }
  unlist(lapply(as.list(expr), function(e) if (missing(e)) character() else find_names(e)))
}

names_in <- function(file) unique(unlist(lapply(as.list(parse(file, keep.source = FALSE)), find_names)))

offences <- function(files) {
  level <- rooms[room_of(files)]
  home <- unlist(Map(function(f, l) stats::setNames(rep(l, length(defined_in(f))), defined_in(f)), files, level),
                 use.names = TRUE)
  names(home) <- unlist(lapply(files, defined_in))
  unlist(Map(function(f, l) {
    above <- names(home)[home > l]
    wrong <- intersect(names_in(f), above)
    if (length(wrong) > 0) paste0(basename(f), " uses ", wrong)
  }, files, level))
}

test_that("every file stands in a known room, and none imports from a room above it", {
  files <- source_files()
  files <- setdiff(files, grep("fjordline-package", files, value = TRUE))
  expect_gt(length(files), 30)
  expect_true(all(room_of(files) %in% names(rooms)), info = toString(setdiff(room_of(files), names(rooms))))
  expect_equal(unname(offences(files)), NULL)
})

test_that("no name is defined twice: the second would silently take the first one's place", {
  names <- unlist(lapply(source_files(), defined_in))
  expect_equal(names[duplicated(names)], character())
})

test_that("the rule above can fail: an upward use is found", {
  folder <- withr::local_tempdir()
  writeLines("low <- function(x) high(x)", file.path(folder, "core-low.R"))
  writeLines("high <- function(x) x", file.path(folder, "figure-high.R"))
  expect_equal(unname(offences(file.path(folder, c("core-low.R", "figure-high.R")))), "core-low.R uses high")
})

test_that("only interface files use interface packages", {
  banned <- c("cli", "ggplot2", "rmarkdown", "knitr", "htmltools", "optparse", "ragg")
  below <- Filter(function(f) rooms[room_of(f)] < 4, source_files()[room_of(source_files()) %in% names(rooms)])
  for (file in below) {
    text <- sub("#.*$", "", readLines(file))
    for (package in banned) {
      expect_false(any(grepl(paste0("\\b", package, "::"), text)), info = paste(basename(file), "uses", package))
    }
  }
  imported <- sub("^importFrom\\(ggplot2,(.*)\\)$", "\\1",
                  grep("^importFrom\\(ggplot2", readLines(file.path(source_folder(), "..", "NAMESPACE")), value = TRUE))
  expect_gt(length(imported), 10)
  for (file in below) expect_equal(intersect(names_in(file), setdiff(imported, c("margin", "unit"))), character(),
                                   info = basename(file))
})

test_that("kernels know nothing of R", {
  src <- file.path(source_folder(), "..", "src")
  kernels <- list.files(src, pattern = "[.](cpp|h)$", full.names = TRUE)
  kernels <- kernels[!grepl("^bind|RcppExports", basename(kernels))]
  expect_gt(length(kernels), 5)
  for (file in kernels) expect_false(any(grepl("Rcpp|R_ext|Rinternals|R\\.h", readLines(file))), info = basename(file))
})

test_that("a method or an index is found by its one file: nothing else lists it", {
  text <- unlist(lapply(source_files(), function(f) paste(basename(f), sub("#.*$", "", readLines(f)))))
  expect_equal(unique(sub(" .*$", "", grep("method_kmeans|index_elbow|index_silhouette|index_bic|index_calinski", text,
                                           value = TRUE))),
               c("index-curve.R", "index-likelihood.R", "index-pairs.R", "index-separation.R", "method-kmeans.R"))
})
