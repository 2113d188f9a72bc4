# What files and settings of strangers must not do. Each of these once hurt.

test_that("a query cannot load native code, from a table or a store", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbWriteTable(connection, "t", data.frame(x = 1:3))
  DBI::dbDisconnect(connection)
  expect_error(fl_data(file, query = "SELECT load_extension('nothing')"), class = "fjordline_error_source",
               regexp = "not authorized")
  store <- connect_store(withr::local_tempfile(fileext = ".sqlite"))
  withr::defer(disconnect_store(store))
  expect_error(DBI::dbGetQuery(store$con, "SELECT load_extension('nothing')"), "not authorized")
})

test_that("numbers whose squares are beyond all numbers are refused, by every method and weight", {
  x <- data.frame(x = c(1e149, -1e149, 3, 4, 5, 6), y = 1:6)
  expect_error(fl_prepare(fl_data(x), scale = "none"), class = "fjordline_error_values", regexp = "too large to square")
  expect_error(fl_prepare(heap_data(), weights = c(east = 1e300)), class = "fjordline_error_values",
               regexp = "too large to square")
  large <- fl_prepare(fl_data(data.frame(x = c(1, 2, 3, 11, 12, 13) * 1e138, y = 1:6)), scale = "none")
  for (method in c("kmeans", "medoids", "fuzzy", "linkage", "mixture", "bisecting", "spectral")) {
    expect_setequal(fl_labels(fl_partition(large, method, k = 2)), 1:2)
  }
})

test_that("kernels refuse what is not finite, and k-medoids keeps its place whatever the distances are", {
  x <- cbind(c(1, 2, Inf, 4, 5, 6), 1:6)
  expect_error(nearest_kernel(x, x[1:2, ], "euclidean", 1L), "not finite")
  expect_error(distinct_kernel(replace(x, 3, NaN), 2L, "euclidean"), "not finite")
  # squares that overflow: every distance is infinite
  far <- cbind(c(1, -1, 2, -2, 3, -3) * 1e200, c(1, 1, -1, -1, 2, 2) * 1e200)
  fit <- medoids_kernel(far, FALSE, "euclidean", 2L, 3L, 50L, 1L, 1)
  expect_true(all(fit$group %in% 1:2))
})

test_that("distances beyond single precision, and squares of given ones beyond any, still have a nearest", {
  # found by the fuzzer: without one an index of -1 corrupted memory
  x <- matrix(c(6.4, 3.2e118, -4.7, 3.7e-67, -1), 5)
  for (join in c("complete", "average", "weighted", "ward", "centroid", "median")) {
    tree <- linkage_kernel(x, FALSE, "euclidean", join, TRUE, 1L)
    expect_true(all(is.finite(tree$height)) && all(tree$low >= 1L), info = join)
    given <- linkage_kernel(abs(outer(x[, 1], x[, 1], "-")) * 1e80, TRUE, "euclidean", join, FALSE, 1L)
    expect_length(given$height, 4)
    expect_true(all(is.finite(given$height)), info = join)
  }
})

test_that("numbers that set an amount of work have bounds", {
  ready <- fl_prepare(heap_data())
  expect_error(fl_partition(ready, fl_method("dbscan", radius = Inf)), class = "fjordline_error_argument", regexp = "radius")
  expect_null(counts_in("1-1000000000"))
  expect_null(counts_in("1-600,2000-3000"))
  expect_identical(counts_in("2-4,9"), c(2:4, 9L))
  file <- withr::local_tempfile(fileext = ".yml")
  for (counts in c("1-1000000000", ".nan", "[2, .inf]", "1,2,,3", "2000000")) {
    writeLines(c("study: wide", "datasets: [still_water]", "methods: [kmeans]", paste("counts:", counts)), file)
    expect_error(fl_study_file(file), class = "fjordline_error", regexp = "counts")
  }
})

# A word that would end a block, begin another, and load or run what it names.
hostile_word <- paste("a", "```", "<script>document.title='HURT'</script>", "<img src='http://127.0.0.1:9/y.png'>",
                      "![x](/etc/hostname) [l](javascript:alert(1)){onclick=alert(1)}", "````", "```{=html}",
                      "<img src=x onerror=\"document.title='HURT'\">", sep = "\n")

hostile_report <- function(file) {
  n <- 90
  group <- rep(1:2, length.out = n)
  x <- as.data.frame(random_table(n, 4, 1))
  x[[1]] <- x[[1]] + 8 * group
  names(x)[2] <- hostile_word
  x$id <- paste0(seq_len(n), hostile_word)
  x$kind <- c(hostile_word, "other")[group]
  x$level <- rep(c(hostile_word, "z", "y"), n / 3)
  data <- fl_data(x, id = "id", truth = "kind", aside = "level", name = paste0("t", hostile_word))
  groups <- fl_name(fl_partition(fl_prepare(data), fl_method("kmeans", restarts = 2), k = 2),
                    c(hostile_word, "</p><script>alert(1)</script>"))
  fl_report(groups, file)
}

test_that("no word of a table leaves its place in a report, which loads and runs nothing but its own script", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  expect_match(fenced_block("a\n````\nb", "r"), "^`````r\na\n````\nb\n`````$")
  file <- withr::local_tempfile(fileext = ".html")
  hostile_report(file)
  page <- paste(readLines(file, encoding = "UTF-8", warn = FALSE), collapse = "\n")
  tags <- regmatches(page, gregexpr("<(script|img|a|link|iframe|object)[^>]*>", page))[[1]]
  expect_true(all(grepl("^<script (nonce=|type=\"application/json\")|^<img src=\"data:", tags)), info = toString(substr(tags, 1, 60)))
  expect_equal(sum(grepl("^<script nonce=", tags)), 1)
  expect_true(grepl("default-src &#39;none&#39;|default-src 'none'", page))
  for (sign in c("onclick", "onerror")) expect_false(grepl(paste0("<[a-z]+[^>]*", sign), page), info = sign)
  # what the policy forbids does not happen even where it stood in the page
  browser <- Sys.which("chromium")
  skip_if(!nzchar(browser), "chromium is missing")
  writeLines(sub("</body>", "<script>document.title='HURT'</script><img src=x onerror=\"document.title='HURT'\"></body>", page,
                 fixed = TRUE), file, useBytes = TRUE)
  dom <- suppressWarnings(system2(browser, c("--headless", "--no-sandbox", "--disable-gpu", "--virtual-time-budget=3000",
                                             "--dump-dom", shQuote(paste0("file://", file))), stdout = TRUE, stderr = FALSE))
  dom <- paste(dom, collapse = "\n")
  expect_match(dom, "data-drawn=\"90\"", fixed = TRUE)
  expect_false(grepl("<title>HURT", dom, fixed = TRUE))
})

# The text of a file with one number, word or line changed at random.
changed_text <- function(lines, seed) {
  withr::with_seed(seed, {
    at <- sample(grep("[0-9]", lines), 1)
    numbers <- gregexpr("-?[0-9][0-9.e+-]*", lines[at])
    found <- regmatches(lines[at], numbers)[[1]]
    which <- sample(length(found), 1)
    found[which] <- sample(c("0", "-1", "null", "1e308", "-1e-308", "7", "[]", "\"x\"", "", paste0(found[which], "1")), 1)
    regmatches(lines[at], numbers) <- list(found)
    if (stats::runif(1) < 0.2) lines <- lines[-sample(length(lines), 1)]
    lines
  })
}

test_that("a model file that was changed is refused, and one whose print was made anew hurts nothing", {
  rows <- as.data.frame(random_table(150, 3, 1))
  rows$v1 <- rows$v1 + 8 * rep(1:3, 50)
  rows$kind <- rep(c("u", "v", "w"), each = 50)
  ready <- fl_prepare(fl_data(rows, features = names(rows)))
  numbers <- fl_prepare(fl_data(rows, features = paste0("v", 1:3)))
  free <- fl_method("mixture", covariance = "general/volume+shape+orientation", tails = "normal")
  made <- list(fl_partition(ready, "mixture", k = 3), fl_partition(numbers, free, k = 3), fl_partition(ready, "mixed", k = 3),
               fl_partition(numbers, k = 3), fl_partition(numbers, "linkage", k = 3))
  file <- withr::local_tempfile(fileext = ".json")
  said <- character()
  for (groups in made) {
    fl_save(groups, file)
    lines <- readLines(file, encoding = "UTF-8")
    expect_identical(predict(fl_load(file), rows), predict(groups, rows))
    for (seed in 1:40) {
      other <- changed_text(lines, seed)
      if (identical(other, lines)) next
      writeLines(other, file)
      expect_error(fl_load(file), class = "fjordline_error", info = paste(groups$name, seed))
      writeLines(with_print(paste(other, collapse = "\n")), file)
      got <- tryCatch(predict(fl_load(file), rows, strict = FALSE), fjordline_error = function(e) "refused", warning = function(w) "warned")
      said <- c(said, class(got))
    }
  }
  expect_true(all(said %in% c("character", "integer")))
})

test_that("the kernel that places rows in a mixture refuses parts that do not fit", {
  x <- matrix(c(1, 2, 3, 4), 2)
  code <- c(2L, 1L, 1L, 1L, 0L)
  expect_error(mixture_place_kernel(x, 1, matrix(0, 1, 2), matrix(c(1, 2, 2, 1), 1), code, 0, 1L), "not positive definite")
  expect_error(mixture_place_kernel(x, 1, matrix(0, 1, 2), matrix(c(1, 0, 1), 1), code, 0, 1L), "do not fit together")
  expect_error(mixture_place_kernel(x, c(1, 1), matrix(0, 1, 2), matrix(diag(2), 1), code, 0, 1L), "do not fit together")
  expect_error(mixture_place_kernel(x, 1, matrix(0, 1, 3), matrix(diag(3), 1), code, 0, 1L), "do not fit together")
})

test_that("a packed file that is cut short or damaged is refused, however little is missing; joined ones are read whole", {
  x <- data.frame(a = random_table(500, 1, 1)[, 1], b = random_table(500, 1, 2)[, 1])
  whole <- withr::local_tempfile(fileext = ".csv.gz")
  connection <- gzfile(whole, "w")
  utils::write.csv(x, connection, row.names = FALSE)
  close(connection)
  expect_equal(nrow(fl_data(whole)$table), 500)
  bytes <- readBin(whole, "raw", file.size(whole))
  part <- withr::local_tempfile(fileext = ".csv.gz")
  for (kept in c(length(bytes) - c(1, 4, 8, 9, 100), length(bytes) %/% 2, 40, 12)) {
    writeBin(bytes[seq_len(kept)], part)
    expect_error(fl_data(part), class = "fjordline_error_file", info = kept)
  }
  for (at in c(300, length(bytes) %/% 2, length(bytes) - 6)) {
    writeBin(replace(bytes, at, xor(bytes[at], as.raw(0x10))), part)
    expect_error(fl_data(part), class = "fjordline_error_file", info = at)
  }
  skip_if(!nzchar(Sys.which("gzip")), "gzip is missing")
  second <- withr::local_tempfile(fileext = ".gz")
  connection <- gzfile(second, "w")
  writeLines(c("1,2", "3,4"), connection)
  close(connection)
  writeBin(c(bytes, readBin(second, "raw", file.size(second))), part)
  expect_equal(nrow(fl_data(part)$table), 502)
})

test_that("a full disk leaves the old file whole, no draft, and a classed error", {
  skip_on_os(c("windows", "mac"))
  folder <- withr::local_tempdir()
  mounted <- suppressWarnings(system2("mount", c("-t", "tmpfs", "-o", "size=256k", "tmpfs", folder), stdout = FALSE, stderr = FALSE))
  skip_if(mounted != 0L, "a small file system cannot be mounted here")
  withr::defer(system2("umount", folder))
  groups <- fl_partition(fl_prepare(fl_demo("water_samples")), fl_method("kmeans", restarts = 2), k = 3)
  few <- fl_partition(fl_prepare(heap_data()), k = 3)
  writeBin(raw(100 * 1024), file.path(folder, "filler"))
  for (ending in c("csv", "tsv", "xlsx", "parquet", "json")) {
    if (ending == "parquet" && !rlang::is_installed("nanoparquet")) next
    if (ending == "xlsx" && !rlang::is_installed("writexl")) next
    file <- file.path(folder, paste0("out.", ending))
    write <- function(groups) if (ending == "json") fl_save(groups, file) else fl_export(groups, file)
    write(few)
    before <- readBin(file, "raw", 1e6)
    suppressWarnings(writeBin(raw(1e6), file.path(folder, "filler")))  # as much as there is room for
    expect_error(write(groups), class = "fjordline_error_file", regexp = "written", info = ending)
    expect_identical(readBin(file, "raw", 1e6), before, info = ending)
    expect_setequal(list.files(folder, all.files = TRUE, no.. = TRUE), c("filler", basename(file)))
    unlink(file)
    writeBin(raw(100 * 1024), file.path(folder, "filler"))
  }
})

test_that("drafts that a killed process left are cleared, others are not", {
  folder <- withr::local_tempdir()
  old <- file.path(folder, c(".fjordline-999999-a.csv", ".fjordline-999999-b.csv", paste0(".fjordline-", Sys.getpid(), "-c.csv"), "fjordline-1-d.csv"))
  file.create(old)
  Sys.setFileTime(old[-2], Sys.time() - 7200)
  clear_drafts(folder)
  expect_identical(file.exists(old), c(FALSE, TRUE, TRUE, TRUE))
})

test_that("a JSON file that holds an address or a path is text that is no JSON, and opens nothing", {
  other <- withr::local_tempfile(fileext = ".json")
  writeLines('[{"a": 1}, {"a": 2}]', other)
  file <- withr::local_tempfile(fileext = ".json")
  for (text in c(other, "http://127.0.0.1:9/x.json")) {
    writeLines(text, file)
    expect_error(fl_data(file), class = "fjordline_error_file")
  }
  expect_equal(nrow(fl_data(other)$table), 2)
})

test_that("a damaged Parquet file ends a process of its own, and is refused; what is whole comes back as it was", {
  skip_if_not_installed("nanoparquet")
  x <- data.frame(day = as.Date("2031-01-01") + 0:4, at = as.POSIXct("2031-01-01", tz = "UTC") + 0:4, kind = factor(letters[1:5]),
                  whole = 1:5, yes = c(TRUE, NA, FALSE, TRUE, TRUE), word = c("a", NA, "b", "a", "\u00e9"), number = c(1.5, NA, 2, 3, 4))
  file <- withr::local_tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(x, file)
  expect_identical(read_parquet_file(file, NULL, file, "parquet")$table, as.data.frame(nanoparquet::read_parquet(file)))
  # a process that breaks down over it, whatever the library of the day does
  killed <- function(...) tools::pskill(Sys.getpid(), 9L)
  expect_error(spill_parquet(file, decode = killed), class = "fjordline_error_file", regexp = "broke down")
  expect_error(spill_parquet(file, decode = function(...) Sys.sleep(60), seconds = 1), class = "fjordline_error_file",
               regexp = "did not come to an end")
  expect_length(list.files(tempdir(), "^fjordline-columns-"), 0)
})

test_that("Parquet files with a changed byte are read or refused", {
  skip_if_not_installed("nanoparquet")
  file <- withr::local_tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(data.frame(a = 1:40 / 8, b = rep(c("u", "v"), 20)), file)
  bytes <- readBin(file, "raw", file.size(file))
  for (seed in 1:8) {
    at <- withr::with_seed(seed, sample(length(bytes), 1))
    writeBin(replace(bytes, at, xor(bytes[at], as.raw(2^(seed %% 8)))), file)
    got <- tryCatch(nrow(fl_data(file)$table), fjordline_error = function(e) 40L)
    expect_identical(got, 40L, info = at)
  }
})

test_that("SQLite cells of several types in one column are read as text, and told; of bytes or in chunks they are refused", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbExecute(connection, "CREATE TABLE m (a INTEGER, b REAL, c)")
  DBI::dbExecute(connection, "INSERT INTO m VALUES (1, 2.5, 1), ('x', 3.5, 2.5), (3, 4.5, 4)")
  DBI::dbExecute(connection, "CREATE TABLE bytes (a, b)")
  DBI::dbExecute(connection, "INSERT INTO bytes VALUES (1, 1), (2, x'ff00')")
  DBI::dbDisconnect(connection)
  for (query in c("m", "SELECT a, b, c FROM m;")) {
    data <- fl_data(file, query = query)
    expect_identical(data$table$a, c("1", "x", "3"))
    expect_equal(data$table$c, c(1, 2.5, 4))
    expect_match(format(data), "\"a\" read as text", all = FALSE)
  }
  expect_error(fl_data(file, query = "bytes"), class = "fjordline_error", regexp = "\"b\"")
  expect_error(fl_sample(file, query = "m", rows = 2), class = "fjordline_error_source", regexp = "several types")
})

test_that("a query writes nothing, through our connection or the user's own, which stays as it was", {
  skip_if_not_installed("RSQLite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(connection))
  DBI::dbWriteTable(connection, "t", data.frame(x = 1:3, y = c(2, 5, 1)))
  expect_error(fl_data(connection, query = "WITH w AS (SELECT 1) INSERT INTO t SELECT 9, 9"), class = "fjordline_error_source")
  expect_equal(nrow(fl_data(connection, query = "t")$table), 3)
  expect_equal(DBI::dbExecute(connection, "INSERT INTO t VALUES (4, 4)"), 1)  # the user still can
  expect_error(fl_sample(connection, query = "SELECT nothing FROM t", rows = 2), class = "fjordline_error_source")
  expect_equal(nrow(fl_sample(connection, query = "t", rows = 9)$table), 4)
  expect_equal(DBI::dbExecute(connection, "INSERT INTO t VALUES (5, 5)"), 1)
})

test_that("text that is not UTF-8 is refused with its place", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbExecute(connection, "CREATE TABLE t (a, s)")
  DBI::dbExecute(connection, "INSERT INTO t VALUES (1, 'b'), (2, CAST(x'ff61' AS TEXT))")
  DBI::dbDisconnect(connection)
  expect_error(fl_data(file), class = "fjordline_error_file", regexp = "row 2 of column \"s\"")
  skip_if_not_installed("nanoparquet")
  parquet <- withr::local_tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(data.frame(a = 1:4, s = c("x", "y~", "z", "w")), parquet, compression = "uncompressed")
  bytes <- readBin(parquet, "raw", 1e5)
  bytes[bytes == as.raw(0x7e)] <- as.raw(0xff)
  writeBin(bytes, parquet)
  expect_error(fl_data(parquet), class = "fjordline_error_file", regexp = "row 2 of column \"s\"")
})

test_that("UTF-32 with its mark is read; names that R keeps for itself, and integers at their limit, are no accident", {
  file <- withr::local_tempfile(fileext = ".csv")
  for (form in c("UTF-32LE", "UTF-32BE")) {
    mark <- if (form == "UTF-32LE") as.raw(c(0xff, 0xfe, 0, 0)) else as.raw(c(0, 0, 0xfe, 0xff))
    writeBin(c(mark, iconv("a,b\n1,2\n3,4\n5,6\n", "UTF-8", form, toRaw = TRUE)[[1]]), file)
    expect_equal(fl_data(file)$table$b, c(2, 4, 6), info = form)
  }
  expect_error(fl_data(data.frame(`..1` = 1:3, check.names = FALSE)), class = "fjordline_error_table", regexp = "\\.\\.1")
  limits <- fl_data(data.frame(a = c(.Machine$integer.max, -.Machine$integer.max, 1:58), b = 1:60))
  expect_no_warning(fl_check(limits))
  expect_false(anyNA(fl_sift(limits)$separation))
  far <- withr::with_seed(1, data.frame(a = c(1e15, rnorm(60)), b = rnorm(61)))
  expect_setequal(fl_labels(fl_partition(fl_prepare(fl_data(far), scale = "none"), "spectral", k = 3)), 1:3)
})

test_that("set-ups that are large, deep or no text are refused at once", {
  file <- withr::local_tempfile(fileext = ".yml")
  for (text in c(strrep("[", 1e5), paste0("a: ", strrep("[", 2e4), strrep("]", 2e4)), paste0(strrep("- ", 2e4), "1"),
                 strrep("x", 2e6), "study: \xff")) {
    writeLines(text, file, useBytes = TRUE)
    started <- proc.time()[[3]]
    expect_error(fl_study_file(file), class = "fjordline_error_file")
    expect_lt(proc.time()[[3]] - started, 5)
  }
})

test_that("control characters of a table are shown, never sent", {
  odd <- "a\u001b[31mred\u001b]0;t\u0007\u202e"
  x <- data.frame(random_table(30, 2, 1), rep(c(odd, "q"), 15), paste0("r", 1:30, "\033[2J"))
  names(x) <- c(odd, "b\u200b", "kind", "row")
  data <- fl_data(x, truth = "kind", id = "row", name = odd)
  groups <- fl_name(fl_partition(fl_prepare(data), k = 2), c(odd, "other"))
  shown <- utils::capture.output(print(data), print(fl_check(data)), print(groups), print(fl_agree(groups)),
                                 print(fl_profile(groups, sets = 0)))
  expect_false(any(grepl("[\u001b\u0007]", utils::capture.output(print(fl_rows(groups, 1)), print(summary(groups))))))
  error <- tryCatch(fl_data(x, truth = "\033[31mkind"), error = conditionMessage)
  warned <- tryCatch(fl_warn("rule", odd), warning = conditionMessage)
  expect_false(any(grepl("[\u001b\u0007\u202e\u200b]", c(shown, error, warned))))
  expect_match(shown, "a\\e[31mred\\e]0;t\\u0007\\u202e", fixed = TRUE, all = FALSE)
})

test_that("names cannot leave their place in a script, whatever they hold", {
  ran <- FALSE
  odd <- "x`; ran <- TRUE; `y"
  x <- data.frame(random_table(40, 2, 1))
  names(x) <- c(odd, "b")
  data <- fl_data(x)
  sweep <- fl_sweep(stats::setNames(list(fl_prepare(data), fl_prepare(data, scale = "none")), c(odd, "plain")), "kmeans",
                    k = 1:3, indices = "fast")
  x <- data
  for (line in fl_steps(sweep)) {
    parsed <- parse(text = line)
    expect_length(parsed, 1)
    expect_match(line, "^(data|`x\\\\`; ran <- TRUE; \\\\`y`|plain|sweep) <- ")
  }
  expect_length(parse(text = paste0("f(", named_code(odd, "1"), ")")), 1)
  expect_false(ran)
})

test_that("cells that another program may take for formulas are disarmed, prose and numbers are not", {
  runs <- c("=1+1", " =1", "\u00a0=f()", "\ufeff=x1", "a;=f()", "x,-f|'/c'!A0", "@x", "\tq", "x;\"=1+1\"", "\uff1d1+1", "a\n=f()")
  plain <- c("-5", " - 5", "+1e5", "-", "salt, -ish", "a=b", "5 - 3", "e-mail a@b.c", NA)
  expect_true(all(runs_as_formula(runs)))
  expect_false(any(runs_as_formula(plain)))
  expect_false(any(runs_as_formula(neutralised(runs))))
})

test_that("no row is lost between a file and the table, or the table and a file", {
  file <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("a,b", "1,\"x\ny\"", "", "2,z", "  ", "3,w"), file)
  expect_equal(text_records(file), 4)
  expect_equal(text_records(file, skip = 1), 3)
  expect_error(check_no_row_lost(file, 3, NULL, 2, "t"), class = "fjordline_error_file", regexp = "4 lines with values, and 3")
  expect_silent(check_no_row_lost(file, 4, NULL, 2, "t"))
  expect_error(check_rows_written(data.frame(a = 1:9, b = 1:9), file, "csv", "t"), class = "fjordline_error_file",
               regexp = "3 of 9 rows")
})

test_that("a report leaves nothing in the session's folder", {
  skip_if_not(rlang::is_installed("rmarkdown") && rmarkdown::pandoc_available("2.0"), "pandoc is missing")
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  file <- withr::local_tempfile(fileext = ".html")
  before <- list.files(tempdir())
  fl_report(groups, file)
  expect_setequal(setdiff(list.files(tempdir()), before), basename(file))
})

test_that("a store whose labels do not fit, or that brings views or triggers, is refused", {
  skip_if_not_installed("RSQLite")
  folder <- withr::local_tempdir()
  made <- file.path(folder, "made.sqlite")
  fl_run(quick_study(indices = "none", repeats = 1), made)
  changed <- function(...) {
    file <- tempfile(tmpdir = folder, fileext = ".sqlite")
    file.copy(made, file)
    connection <- DBI::dbConnect(RSQLite::SQLite(), file)
    for (sql in c(...)) DBI::dbExecute(connection, sql)
    DBI::dbDisconnect(connection)
    file
  }
  # a label beyond the groups once ended the process
  beyond <- packed_labels(rep(c(1L, 200L), length.out = 60))
  expect_error(fl_open(fl_run(changed(paste0("UPDATE fl_cells SET labels = '", beyond, "'")))), class = "fjordline_error_store")
  expect_error(fl_open(fl_run(changed("UPDATE fl_cells SET labels = 'x'"))), class = "fjordline_error_store")
  expect_error(fl_open(fl_run(changed("UPDATE fl_cells SET details = '['"))), class = "fjordline_error_store", regexp = "details")
  expect_error(fl_run(changed("ALTER TABLE fl_about RENAME TO kept", "CREATE VIEW fl_about AS SELECT * FROM kept")),
               class = "fjordline_error_store", regexp = "view")
  expect_error(group_scatter_kernel(matrix(1, 2, 1), c(1L, 9L), 2L), "label beyond")
  expect_error(pair_sums_kernel(matrix(1, 2, 1), matrix(c(1L, 9L)), 2L, "euclidean", 1L), "label beyond")
})

test_that("some hundreds of damaged files, settings and tables end in a reading or an error of ours", {
  harness <- testthat::test_path("../../bench/attack.R")
  skip_if_not(file.exists(harness), "the attacks are not part of the package")
  skip_if_not_installed("callr")
  withr::local_envvar(FJORDLINE_BENCH_CASES = "500", FJORDLINE_BENCH_SEED = "3", FJORDLINE_BENCH_WORKERS = "1",
                      FJORDLINE_BENCH_ATTACKS = "^(table|models|stores|study|settings|random|full)",
                      R_LIBS = paste(.libPaths(), collapse = ":"))
  out <- withr::with_dir(dirname(dirname(normalizePath(harness))), suppressWarnings(
    system2(file.path(R.home("bin"), "Rscript"), "bench/attack.R", stdout = TRUE, stderr = TRUE)
  ))
  expect_match(utils::tail(out, 1), "^[0-9]+ cases, 0 of them bad", info = paste(out, collapse = "\n"))
})
