# A store holds its study as data: everything comes back with every digit, and nothing in it can run.

test_that("data come back as they were, and whatever is more than data is not written", {
  values <- list(
    NULL, TRUE, c(a = 1L, b = NA), c(0.1, 1 / 3, 1e-300, NA, NaN, Inf, -Inf), c("a", NA, "NA", "null", "\"q\"\n```"),
    character(), list(), list(1, list("x", NULL)), factor(c("u", NA, "v"), c("v", "u")),
    ordered(c("low", "high"), c("low", "high")), as.Date(c("2031-04-03", NA)),
    as.POSIXct(c(0, 1e9 + 0.25), origin = "1970-01-01", tz = "UTC"), as.difftime(c(1, 2), units = "mins"),
    data.frame(x = c(1.5, NA), y = c("a", "b")), data.frame(), tibble::tibble(z = c(0.1 + 0.2, pi)), fl_demo("vessel_visits")
  )
  for (value in values) expect_identical(plain_from(plain_text(value)), value)
  expect_identical(plain_from(plain_text(rep(NA_character_, 3))), rep(NA_character_, 3))
  for (more in list(mean, quote(x + y), new.env(), y ~ x, list(1, list(function() 1)), structure(1, class = "strange"),
                    structure(1, more = 2), complex(1), as.raw(1))) {
    expect_null(plain_text(more))
  }
  deep <- 1
  for (i in 1:30) deep <- list(deep)
  expect_null(plain_text(deep))
})

test_that("text that was not written so is refused", {
  boxes <- c('{"type":"closure","values":["function() 1"]}', '{"type":"double","values":["1; quit()"]}', '[1]', '"x"',
             '{"type":"double","values":["1"],"class":["strange"]}', '{"type":"list","values":"x"}', "{", "",
             '{"type":"integer","values":["9"],"marks":{"levels":["a"]},"class":["factor"]}',
             '{"type":"double","values":["1","2"],"marks":{"names":["a"]}}', '{"type":"integer","values":["1.5e99"]}',
             '{"type":"list","values":[{"type":"double","values":["1"]}],"marks":{"names":["x"]},"class":["data.frame"],"rows":5}')
  for (box in boxes) expect_error(plain_from(box), info = box)
  # a name of a file or an address is no text, and is not opened
  file <- withr::local_tempfile()
  writeLines(plain_text(1), file)
  expect_error(plain_from(file))
  expect_error(plain_from("http://127.0.0.1:9/x.json"), "lexical error")
})

test_that("a store opened alone gives the study it was made with", {
  study <- fl_study(list(water = fl_demo("water_samples"), seals = list(fl_demo("seal_haulouts"), noise = "stray")),
                    list("kmeans", quick = fl_method("kmeans", restarts = 2), linkage = list(join = c("ward", "average"))),
                    k = 2:3, indices = "fast", repeats = 2, seed = 7, name = "two",
                    preparations = list(plain = list(), logs = list(transform = c(turbidity = "log"), datasets = "water")))
  again <- study_from_text(study_text(study), "s.sqlite")
  expect_identical(names(again$methods), names(study$methods))
  expect_identical(again$noise, study$noise)
  expect_identical(again$ready$water$logs$x, study$ready$water$logs$x)
  expect_identical(study_identity(again), study_identity(study))
  expect_identical(as.data.frame(again), as.data.frame(study))
  expect_identical(fl_steps(again$ready$water$plain), fl_steps(study$ready$water$plain))
  # the call of any other table would be code in a script
  study$datasets$water$call <- "system(\"touch hurt\")"
  expect_match(fl_steps(study_from_text(study_text(study), "s")$datasets$water), "^data <- fl_data\\(table")
})

test_that("opening a store runs nothing: neither an older one with R objects in it, nor one whose text was changed", {
  skip_if_not_installed("RSQLite")
  store <- withr::local_tempfile(fileext = ".sqlite")
  fl_run(quick_study(k = 2L), store)
  mark <- withr::local_tempfile()
  delayedAssign("trap", file.create(mark))
  hostile <- list(name = "study", trap = environment(), f = eval(bquote(function() file.create(.(mark)))))
  packed <- jsonlite::base64_enc(memCompress(serialize(hostile, NULL), "gzip"))
  set <- function(version, text) {
    connection <- DBI::dbConnect(RSQLite::SQLite(), store)
    withr::defer(DBI::dbDisconnect(connection))
    DBI::dbExecute(connection, "UPDATE fl_about SET value = ? WHERE name = 'version'", params = list(version))
    DBI::dbExecute(connection, "UPDATE fl_about SET value = ? WHERE name = 'study'", params = list(text))
  }
  set("1", packed)
  expect_error(fl_run(store), "could run code when it is read", class = "fjordline_error_store")
  set("2", packed)
  expect_error(fl_run(store), "cannot be read", class = "fjordline_error_store")
  text <- study_text(quick_study(k = 2L))
  for (change in c('"kmeans"|"no_such"', '"fl_data"|"tbl"', '"column"|"kolumn"', '"datasets"|"tables"')) {
    parts <- strsplit(change, "|", fixed = TRUE)[[1]]
    expect_true(grepl(parts[1], text, fixed = TRUE))
    set("2", gsub(parts[1], parts[2], text, fixed = TRUE))
    expect_error(fl_run(store), class = "fjordline_error_store", info = change)
  }
  expect_false(file.exists(mark))
  # the study given, an older store goes on, and is written anew
  set("1", packed)
  expect_s3_class(fl_run(quick_study(k = 2L), store), "fl_run")
  expect_s3_class(fl_run(store), "fl_run")
})

test_that("a method of one's own is looked up in the session, and must be the same", {
  skip_if_not_installed("RSQLite")
  withr::defer(rm(list = "halves_here", envir = own_methods))
  halves <- function(x, k, settings, seed) list(group = 1L + (x[, 1] > stats::median(x[, 1])))
  fl_new_method("halves_here", halves)
  store <- withr::local_tempfile(fileext = ".sqlite")
  fl_run(fl_study("still_water", "halves_here", k = 2, indices = "none"), store)
  expect_s3_class(fl_run(store), "fl_run")
  fl_new_method("halves_here", function(x, k, settings, seed) list(group = rep(1:2, length.out = nrow(x))))
  expect_error(fl_run(store), "is another than the one it used", class = "fjordline_error_store")
  rm(list = "halves_here", envir = own_methods)
  expect_error(fl_run(store), "not registered here", class = "fjordline_error_store")
  fl_new_method("halves_here", halves)
})

test_that("a study goes on without an index that is not here, says so, and keeps what the store knows of it", {
  skip_if_not_installed("RSQLite")
  withr::defer(suppressWarnings(rm(list = "evenness_here", envir = own_indices)))
  evenness <- function(x, groups) min(table(groups)) / length(groups)
  fl_new_index("evenness_here", evenness, direction = "higher", family = "evenness_here")
  study <- function(k = 2:3) {
    fl_study("still_water", "kmeans", k = k, indices = c("calinski_harabasz", "evenness_here"), name = "even")
  }
  store <- withr::local_tempfile(fileext = ".sqlite")
  first <- fl_run(study(), store)
  rm(list = "evenness_here", envir = own_indices)
  alone <- fl_run(store)
  told <- "evenness_here is not registered here: its stored values are shown, and it has no vote"
  expect_match(fl_facts(alone), told, all = FALSE)
  expect_match(gsub("\\s+", " ", paste(format(alone), collapse = " ")), told)
  expect_equal(alone$values$value, first$values$value)
  expect_error(fl_standings(alone, by = "evenness_here"), class = "fjordline_error_argument")
  vote <- fl_vote(fl_open(alone, "still_water"))
  expect_false("evenness_here" %in% vote$ballots$index[vote$ballots$weight > 0])
  # what is fitted without it leaves its place empty, with the reason
  fl_new_index("evenness_here", evenness, direction = "higher", family = "evenness_here")
  empty <- withr::local_tempfile(fileext = ".sqlite")
  fl_run(study(), empty, only_open = TRUE)
  rm(list = "evenness_here", envir = own_indices)
  fitted <- fl_run(empty)
  expect_true(all(fitted$cells$status == "done"))
  lacking <- fitted$values[fitted$values$measure == "evenness_here" & fitted$values$k > 1, ]
  expect_gt(nrow(lacking), 0)
  expect_true(all(is.na(lacking$value)))
  expect_match(lacking$reason, "not registered here")
  expect_false(anyNA(fitted$values$value[fitted$values$measure == "calinski_harabasz" & fitted$values$k > 1]))
  # another index under the same name is not taken for it, and the first is known again
  fl_new_index("evenness_here", function(x, groups) 1, direction = "higher", family = "evenness_here")
  expect_match(fl_facts(fl_run(store)), "another here than the one that the study used", all = FALSE)
  fl_new_index("evenness_here", evenness, direction = "higher", family = "evenness_here")
  again <- fl_run(store)
  expect_false(any(grepl("evenness_here", fl_facts(again))))
  expect_true("evenness_here" %in% names(present_indices(again$study)))
})
