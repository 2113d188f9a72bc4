# Help pages have the parts that a reader looks for.

help_pages <- function() {
  folder <- test_path("..", "..", "man")
  skip_if_not(dir.exists(folder), "the sources are not beside the tests")
  files <- list.files(folder, "[.]Rd$", full.names = TRUE)
  pages <- lapply(files, tools::parse_Rd)
  names(pages) <- sub("[.]Rd$", "", basename(files))
  pages[setdiff(names(pages), "reexports")]
}

tags_of <- function(page) vapply(page, attr, "", "Rd_tag")
text_of <- function(part) paste(unlist(part), collapse = "")
section_of <- function(page, title) {
  sections <- page[tags_of(page) == "\\section"]
  text_of(Filter(function(section) grepl(title, text_of(section[[1]])), sections))
}

test_that("every page of a function says its arguments, value and errors, and has an example", {
  pages <- help_pages()
  functions <- Filter(function(page) "\\usage" %in% tags_of(page), pages)
  expect_gt(length(functions), 60)
  for (name in names(functions)) {
    tags <- tags_of(functions[[name]])
    expect_true(all(c("\\description", "\\value", "\\examples") %in% tags), info = name)
    if ("\\arguments" %in% tags) expect_match(section_of(functions[[name]], "Errors"), "fjordline_error_[a-z]+", info = name)
    else expect_match(text_of(functions[[name]][tags == "\\usage"]), "()", fixed = TRUE, info = name)
  }
})

test_that("classes of errors are whole, and are ones that the package raises", {
  raised <- unlist(lapply(list.files(test_path("..", "..", "R"), full.names = TRUE), function(file) {
    code <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
    sub(".*\"", "", regmatches(code, gregexpr("fl_abort\\(\\s*\"[a-z]+", code))[[1]])
  }))
  for (name in names(pages <- help_pages())) {
    said <- section_of(pages[[name]], "Errors")
    expect_false(grepl("(^|[ (])_[a-z]+", said), info = name)
    classes <- sub("fjordline_error_", "", regmatches(said, gregexpr("fjordline_error_[a-z]+", said))[[1]])
    expect_true(all(classes %in% raised), info = paste(name, setdiff(classes, raised)))
  }
})

test_that("methods and indices name their papers; the map names every exported function", {
  pages <- help_pages()
  for (name in grep("^method-", names(pages), value = TRUE)) {
    expect_true("\\references" %in% tags_of(pages[[name]]), info = name)
  }
  papers <- text_of(pages$indices[tags_of(pages$indices) == "\\references"])
  for (index in built_in("index")) expect_gt(length(index$reference), 0, label = index$key)
  expect_match(papers, "Rousseeuw")
  map <- text_of(pages[["fjordline-package"]])
  exported <- grep("^fl_", getNamespaceExports("fjordline"), value = TRUE)
  beside <- c("fl_facts", "fl_theme", "fl_palette", "fl_labels", "fl_set_apart", "fl_demos", "fl_indices", "fl_study_file",
              "fl_prepare_file", "fl_data_file")
  expect_equal(Filter(function(f) !grepl(f, map, fixed = TRUE), setdiff(exported, beside)), character())
})
