# The house rules: every room has a floor of its own and imports only from those below it, files do not run in large
# circles, interface packages stay in the interface. ARCHITECTURE.md says what is in which room.

# lowest first
rooms <- c("core", "method", "index", "data", "sweep", "agree", "vote", "read", "study", "print", "figure", "report",
           "explore", "cli")
rooms <- stats::setNames(seq_along(rooms), rooms)
interface_from <- rooms[["print"]]

source_folder <- function() {
  here <- test_path("..", "..", "R")
  skip_if_not(dir.exists(here) && file.exists(file.path(here, "core-errors.R")), "the sources are not beside the tests")
  here
}

source_files <- function() list.files(source_folder(), pattern = "^[a-z]+-.*[.]R$", full.names = TRUE)

room_of <- function(file) sub("-.*$", "", basename(file))

# Several rules look at the same files.
seen_once <- function(look) {
  seen <- new.env()
  function(file) {
    if (is.null(seen[[file]])) seen[[file]] <- list(look(file))
    seen[[file]][[1]]
  }
}

defined_in <- seen_once(function(file) {
  exprs <- parse(file, keep.source = FALSE)
  assigned <- Filter(function(e) is.call(e) && identical(e[[1]], as.name("<-")) && is.name(e[[2]]), as.list(exprs))
  vapply(assigned, function(e) as.character(e[[2]]), "")
})

# The names a file takes from elsewhere; what its functions define for themselves is not among them.
names_in <- seen_once(function(file) {
  of_one <- function(expr) {
    if (is.call(expr) && identical(expr[[1]], as.name("<-"))) expr <- expr[[3]]
    fun <- if (is.call(expr) && identical(expr[[1]], as.name("function"))) eval(expr, baseenv())
    else as.function(list(expr), envir = baseenv())
    codetools::findGlobals(fun)
  }
  unique(unlist(lapply(as.list(parse(file, keep.source = FALSE)), of_one)))
})

# Which file uses which other, as a matrix.
file_arrows <- function(files) {
  defined <- lapply(files, defined_in)
  used <- lapply(files, names_in)
  arrows <- vapply(defined, function(mine) vapply(used, function(names) any(mine %in% names), NA), logical(length(files)))
  dimnames(arrows) <- list(basename(files), basename(files))
  diag(arrows) <- FALSE
  arrows
}

# Files (or rooms) that use each other, directly or by way of others.
circles <- function(arrows) {
  reach <- arrows
  repeat {
    further <- reach | (reach %*% reach > 0)
    if (identical(further, reach)) break
    reach <- further
  }
  mutual <- reach & t(reach)
  unique(lapply(which(rowSums(mutual) > 0), function(i) unname(rownames(mutual)[mutual[i, ]])))
}

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

test_that("ARCHITECTURE.md tells of every room, in the order of the floors", {
  file <- file.path(source_folder(), "..", "ARCHITECTURE.md")
  skip_if_not(file.exists(file), "ARCHITECTURE.md is not beside the tests")
  told <- regmatches(lines <- readLines(file), regexpr("^[|] `[a-z]+` [|]", lines))
  expect_equal(rev(gsub("[^a-z]", "", told)), names(rooms))
})

test_that("files do not run in large circles, and rooms in none", {
  arrows <- file_arrows(source_files())
  found <- circles(arrows)
  expect_lte(max(lengths(found)), 8)
  between <- rowsum(t(rowsum(arrows + 0, room_of(rownames(arrows)))), room_of(colnames(arrows)))
  between <- t(between) > 0
  diag(between) <- FALSE
  expect_equal(circles(between), list())
})

test_that("the rule of circles can fail", {
  folder <- withr::local_tempdir()
  for (i in 1:9) writeLines(sprintf("f%d <- function(x) f%d(x)", i, i %% 9 + 1), file.path(folder, sprintf("core-%d.R", i)))
  writeLines("alone <- function(x) f1(x)", file.path(folder, "data-alone.R"))
  expect_equal(lengths(circles(file_arrows(list.files(folder, full.names = TRUE)))), 9)
})

test_that("no name is defined twice: the second would silently take the first one's place", {
  names <- unlist(lapply(source_files(), defined_in))
  expect_equal(names[duplicated(names)], character())
})

test_that("the rule above can fail: an upward use is found", {
  folder <- withr::local_tempdir()
  files <- file.path(folder, paste0(names(rooms), "-one.R"))
  for (i in seq_along(files)) {
    writeLines(sprintf("name_%d <- function(x) name_%d(x)", i, i %% length(files) + 1), files[i])
  }
  expected <- paste0(basename(files), " uses name_", seq_along(files) + 1)
  expect_equal(unname(offences(files)), utils::head(expected, -1))
})

test_that("only interface files use interface packages", {
  banned <- c("cli", "ggplot2", "rmarkdown", "knitr", "htmltools", "optparse", "ragg")
  below <- Filter(function(f) rooms[room_of(f)] < interface_from, source_files()[room_of(source_files()) %in% names(rooms)])
  for (file in below) {
    text <- sub("#.*$", "", readLines(file))
    for (package in banned) {
      expect_false(any(grepl(paste0("\\b", package, "::"), text)), info = paste(basename(file), "uses", package))
    }
  }
  for (file in setdiff(source_files(), grep("/explore-", source_files(), value = TRUE))) {
    expect_false(any(grepl("\\b(shiny|bslib|httpuv)::", readLines(file))), info = basename(file))
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

# Texts in code that are a key, with the line they stand on. Defaults in the signature of an exported function are an
# offer to its reader, and views may be called like an index.
keys_named <- function(file, keys, exported = character()) {
  data <- utils::getParseData(parse(file, keep.source = TRUE))
  lines <- readLines(file)
  texts <- data[data$token == "STR_CONST" & gsub("[\"']", "", data$text) %in% keys, ]
  signature <- vapply(texts$line1, function(line) {
    start <- max(grep("^[a-zA-Z_.]+ <- ", lines[seq_len(line)]), 0)
    start > 0 && sub(" <- .*$", "", lines[start]) %in% exported && !any(grepl("[{]$", lines[seq.int(start, max(start, line - 1))]) &
                                                                          seq.int(start, max(start, line - 1)) < line)
  }, NA)
  texts <- texts[!signature & !grepl("view", lines[texts$line1]), ]
  if (nrow(texts) > 0) paste(basename(file), texts$line1, gsub("[\"']", "", texts$text)) else character()
}

test_that("nothing but its own file names a method or an index: what they can do is declared", {
  files <- source_files()
  of_method <- names(built_in("method"))
  of_index <- names(built_in("index"))
  exported <- getNamespaceExports("fjordline")
  found <- unlist(lapply(files, function(file) {
    own <- if (room_of(file) == "method") Filter(function(key) grepl(gsub("_", "-", key), basename(file)), of_method)
    # a method may offer a criterion that is also an index
    others <- c(setdiff(of_method, own), if (!room_of(file) %in% c("method", "index")) of_index)
    keys_named(file, others, exported)
  }))
  expect_match(found, "^index-ballots.R [0-9]+ mixture$", info = "the family of its ballots, once")
  expect_length(found, 1)
})

test_that("the rule above can fail", {
  file <- withr::local_tempfile(lines = c("plan <- function(method = \"kmeans\") {", "  method == \"kmeans\"", "}"),
                                fileext = ".R")
  expect_match(keys_named(file, "kmeans", "plan"), " 2 kmeans$")
  expect_length(keys_named(file, "kmeans"), 2)
})
