test_that("matrices, tibbles and files hold the same table", {
  table <- heaps()
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(table, file, row.names = FALSE)
  tab <- withr::local_tempfile(fileext = ".tsv")
  utils::write.table(table, tab, row.names = FALSE, sep = "\t")
  for (source in list(tibble::as_tibble(table), file, tab)) {
    expect_equal(as.data.frame(fl_data(source)), table, ignore_attr = TRUE)
  }
  expect_equal(columns_of(fl_data(as.matrix(table[2:3])), "feature"), c("east", "north"))
  expect_equal(names(as.data.frame(fl_data(matrix(1:6, 3)))), c("column_1", "column_2"))
})


test_that("files: missing spellings, leading zeros, dates, quotes and odd names are read as they should", {
  file <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("\"a, b\",code,when,x<script>", "1.5,007,2031-01-02,\"one, two\"", "N/A,008,2031-01-03,"), file)
  table <- as.data.frame(fl_data(file))
  expect_equal(names(table), c("a, b", "code", "when", "x<script>"))
  expect_equal(table[["a, b"]], c(1.5, NA))
  expect_equal(table$code, c("007", "008"))
  expect_s3_class(table$when, "Date")
  expect_equal(table[[4]], c("one, two", NA))
})


test_that("byte-order marks, CRLF and semicolons are read", {
  marked <- bytes_file(c(0xef, 0xbb, 0xbf), "name;depth\r\na;1.5\r\nb;2.5\r\nc;9\r\n")
  expect_equal(as.data.frame(fl_data(marked)), data.frame(name = c("a", "b", "c"), depth = c(1.5, 2.5, 9)), ignore_attr = TRUE)
})


test_that("a line that is blank, short or opens a quote is refused, never dropped", {
  for (text in c("a,b\n1,2\n\n3,4\n5,6\n", "a,b\n1,2\n3,4\n5\n", "a,b\n1,\"2\n3,4\n5,6\n")) {
    expect_error(fl_data(bytes_file(text)), class = "fjordline_error_file")
  }
  expect_error(fl_data(bytes_file("\n")), class = "fjordline_error_file")
})

# A table with every kind of column, and the ways it can arrive.
every_kind <- function() {
  n <- 24
  withr::with_seed(3, data.frame(
    cast = sprintf("C-%03d", seq_len(n)), salinity = round(rnorm(n, 30, 3), 3), oxygen = c(NA, round(runif(n - 1, 2, 8), 2)),
    count = sample(0:9, n, TRUE), mixing = sample(c("weak", "strong"), n, TRUE),
    day = as.Date("2031-04-01") + seq_len(n), remark = paste("the", seq_len(n), "th \"cast\", \u00f8st, <b>")
  ))
}

# The same table written in a form, as a source for fl_data().
written_as <- function(table, form, folder) {
  file <- file.path(folder, paste0("casts.", form))
  text <- transform(table, day = format(day))
  switch(
    sub("[.]gz$", "", form),
    csv = data.table::fwrite(text, file), tsv = data.table::fwrite(text, file, sep = "\t"),
    xlsx = {
      skip_if_not_installed("openxlsx")
      skip_if_not_installed("readxl")
      openxlsx::write.xlsx(list(notes = data.frame(x = 1), casts = table), file)
    },
    parquet = {
      skip_if_not_installed("nanoparquet")
      nanoparquet::write_parquet(table, file)
    },
    json = {
      connection <- if (grepl("gz$", file)) gzfile(file, "w") else file(file, "w")
      writeLines(enc2utf8(as.character(jsonlite::toJSON(text, digits = NA, na = "null"))), connection, useBytes = TRUE)
      close(connection)
    },
    ndjson = jsonlite::stream_out(text, file(file), verbose = FALSE, digits = NA, na = "null")
  )
  file
}

test_that("a table goes through every form and comes back with the same roles, types and prepared matrix", {
  table <- every_kind()
  folder <- withr::local_tempdir()
  prepared <- function(source, ...) {
    data <- fl_data(source, id = "cast", aside = c("day", "remark"), features = c("salinity", "oxygen", "count", "mixing"),
                    name = "casts", ...)
    list(roles = data$roles, x = fl_prepare(data, missing = "middle")$x, table = as.data.frame(data))
  }
  wanted <- prepared(table)
  same <- function(got, form) {
    expect_identical(got$roles, wanted$roles, info = form)
    expect_identical(got$x, wanted$x, info = form)
    expect_equal(got$table$day, table$day, info = form)
    expect_equal(enc2utf8(got$table$remark), enc2utf8(table$remark), info = form)
  }
  for (form in c("csv", "tsv", "csv.gz", "tsv.gz", "parquet", "json", "ndjson", "json.gz")) {
    same(prepared(written_as(table, form, folder)), form)
  }
  same(prepared(written_as(table, "xlsx", folder), sheet = "casts"), "xlsx")
  same(prepared(file.path(folder, "casts.xlsx"), sheet = 2), "xlsx by number")
  same(prepared(tibble::as_tibble(table)), "tibble")
})

test_that("a database gives a table or what a query asks, with the same roles, types and matrix", {
  skip_if_not_installed("RSQLite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(connection))
  table <- every_kind()
  DBI::dbWriteTable(connection, "casts", transform(table, day = format(day)))
  one <- fl_data(connection, id = "cast", name = "casts")
  expect_equal(one$roles$type, fl_data(table, id = "cast")$roles$type)
  expect_identical(fl_prepare(one)$x, fl_prepare(fl_data(table, id = "cast"))$x)
  expect_match(one$said, "table \"casts\"", all = FALSE)
  DBI::dbWriteTable(connection, "stations", data.frame(name = "sill", depth = 9))
  expect_error(fl_data(connection), class = "fjordline_error_argument", regexp = "casts.*stations")
  expect_error(fl_data(connection, query = "cats"), class = "fjordline_error_source", regexp = "casts")
  asked <- fl_data(connection, query = "SELECT salinity, oxygen FROM casts WHERE salinity > 30")
  expect_equal(asked$table$salinity, table$salinity[table$salinity > 30])
  expect_error(fl_data(connection, query = "SELECT depht FROM stations"), class = "fjordline_error_source", regexp = "depht")
})

test_that("separators, decimal commas and their kin are found, said, and can be given", {
  semi <- fl_data(bytes_file("a;b;c\n1,5;x;2\n-2,25;y;3\n9;z;4\n"))
  expect_equal(semi$table$a, c(1.5, -2.25, 9))
  expect_equal(semi$said, c("semicolons between the fields", "decimal commas"))
  gappy <- fl_data(bytes_file("a;b\n6,1;x\n5,2;?\n?;y\n"))
  expect_equal(gappy$table, data.frame(a = c(6.1, 5.2, NA), b = c("x", "?", "y")), ignore_attr = TRUE)
  expect_equal(fl_data(bytes_file("a|b\n1|2\n3|4\n"))$table, data.frame(a = c(1, 3), b = c(2, 4)), ignore_attr = TRUE)
  # commas inside quotes and text do not mislead
  tricky <- fl_data(bytes_file("name\tvalue\n\"one, two, three\"\t1\nfour, five\t2\nsix\t3\n"))
  expect_equal(tricky$table$value, 1:3)
  # one column, with blanks and colons in it
  expect_equal(names(fl_data(bytes_file("depth\n10\n20\n30\n"))$table), "depth")
  given <- fl_data(bytes_file("a:b\n1,5:2\n3,5:4\n"), reading = c(separator = ":", decimal = ","))
  expect_equal(given$table$a, c(1.5, 3.5))
  expect_equal(fl_data(bytes_file("a;b\n1;2\n3;4\n"), reading = list(separator = "semicolon"))$table$b, c(2, 4))
  expect_error(fl_data(bytes_file("a\n1\n2\n"), reading = c(seperator = ";")), class = "fjordline_error_argument", regexp = "separator")
  expect_error(fl_data(bytes_file("a\n1\n2\n"), reading = c(encoding = "utf9")), class = "fjordline_error_argument", regexp = "utf9")
})

test_that("encodings: windows-1252 and UTF-16 are recognised, others can be given, broken text is refused", {
  west <- fl_data(bytes_file("station,", c(0xf8), "st\nt", c(0xf8), "yen,1\nm", c(0xe5), "ne,2\n"))
  expect_equal(names(west$table), c("station", "\u00f8st"))
  expect_equal(west$table$station, c("t\u00f8yen", "m\u00e5ne"))
  expect_match(west$said, "windows-1252", all = FALSE)
  text <- "a,name\n1,\u00e6\u00f8\n2,\u4e2d\n"
  for (order in c("UTF-16LE", "UTF-16BE")) {
    mark <- if (order == "UTF-16LE") c(0xff, 0xfe) else c(0xfe, 0xff)
    file <- bytes_file(mark, as.integer(iconv(text, "UTF-8", order, toRaw = TRUE)[[1]]))
    expect_equal(fl_data(file)$table$name, c("\u00e6\u00f8", "\u4e2d"))
  }
  cyrillic <- as.integer(iconv("a,name\n1,\u0444\n2,\u0434\n", "UTF-8", "KOI8-R", toRaw = TRUE)[[1]])
  expect_equal(fl_data(bytes_file(cyrillic), reading = c(encoding = "KOI8-R"))$table$name, c("\u0444", "\u0434"))
  expect_error(fl_data(bytes_file("a,b\n1,x\n2,", 0x81, "\n")), class = "fjordline_error_file", regexp = "Line 3")
})

test_that("spellings of missing: those given and the usual words are read as missing, and this is said", {
  file <- bytes_file("oxygen,depth,station\n5.1,10,sill\n?,-999,narrows\n4.8,30,unknown\n5.5,-999,?\n")
  data <- fl_data(file, blanks = -999)
  expect_equal(data$table$oxygen, c(5.1, NA, 4.8, 5.5))
  expect_equal(data$table$depth, c(10, NA, 30, NA))
  expect_equal(data$table$station, c("sill", "narrows", "unknown", "?"))
  expect_match(data$said, "\"-999\" in 2 cells", all = FALSE)
  expect_match(data$said, "\"\\?\" in 1 cell of oxygen", all = FALSE)
  expect_error(fl_data(file, blanks = "-998"), class = "fjordline_error_argument", regexp = "-998")
  # a word that is no usual one stays text, and a code with leading zeros stays a code
  expect_equal(fl_data(bytes_file("a,b\n1,1\nhigh,2\n3,3\n"))$roles$type, c("text", "number"))
  expect_equal(fl_data(bytes_file("a,b\n007,1\n?,2\n009,3\n"))$table$a, c("007", "?", "009"))
})

test_that("files without a header line, without some names, and turned over are read as asked", {
  plain <- bytes_file("1.5,a\n2.5,b\n3.5,c\n")
  expect_equal(fl_data(plain, columns = FALSE)$table, data.frame(column_1 = c(1.5, 2.5, 3.5), column_2 = c("a", "b", "c")),
               ignore_attr = TRUE)
  expect_equal(names(fl_data(plain, columns = c("depth", "station"))$table), c("depth", "station"))
  expect_error(fl_data(plain, columns = "depth"), class = "fjordline_error_argument", regexp = "1 name for 2 columns")
  unnamed <- fl_data(bytes_file(",a\n1,2.5\n2,3.5\n"))
  expect_equal(names(unnamed$table), c("column_1", "a"))
  expect_match(unnamed$said, "column_1", all = FALSE)
  turned <- fl_data(bytes_file("what,c1,c2,c3\nsalinity,31,32,33\nstation,sill,sill,narrows\nday,2031-01-01,2031-01-02,2031-01-03\n"),
                    flip = TRUE)
  expect_equal(names(turned$table), c("row", "salinity", "station", "day"))
  expect_equal(turned$table$row, c("c1", "c2", "c3"))
  expect_equal(turned$table$salinity, 31:33)
  expect_s3_class(turned$table$day, "Date")
  expect_equal(columns_of(turned, "id"), "row")
  square <- matrix(c(1.25, 2, 3, 4, 5, 6), 2, dimnames = list(c("salinity", "oxygen"), c("c1", "c2", "c3")))
  expect_equal(fl_data(square, flip = TRUE)$table, data.frame(row = c("c1", "c2", "c3"), t(square)), ignore_attr = TRUE)
  expect_error(fl_data(bytes_file("what,c1\n,1\nb,2\n"), flip = TRUE), class = "fjordline_error_table", regexp = "Row 1")
})

test_that("row names are kept as a column", {
  named <- data.frame(a = 1:3, b = 4:6, row.names = c("x", "y", "z"))
  data <- fl_data(named)
  expect_equal(data$table$row, c("x", "y", "z"))
  expect_equal(suggested_id(data), "row")
  expect_equal(names(fl_data(named[c(1, 3), ])$table), c("row", "a", "b"))
  expect_equal(names(fl_data(data.frame(a = 1:3))$table), "a")
})

test_that("dates, moments and long numbers keep what they are", {
  file <- bytes_file("when,id,day\n2031-04-03T10:20:00Z,1234567890123456789,2031-04-03\n2031-04-03 11:00,98765432109876543210,2031-04-04\n")
  read <- read_table(file)$table
  expect_equal(format(read$when, "%H:%M", tz = "UTC"), c("10:20", "11:00"))
  expect_equal(read$id, c("1234567890123456789", "98765432109876543210"))
  expect_equal(read$day, as.Date(c("2031-04-03", "2031-04-04")))
})

test_that("cut and foreign files are refused with file and place", {
  folder <- withr::local_tempdir()
  table <- every_kind()
  cut_to <- function(form, share) {
    file <- written_as(table, form, folder)
    bytes <- readBin(file, "raw", file.size(file))
    out <- file.path(folder, paste0("cut.", form))
    writeBin(utils::head(bytes, share * length(bytes)), out)
    out
  }
  for (form in c("csv.gz", "xlsx", "parquet", "json", "ndjson")) {
    expect_error(fl_data(cut_to(form, 0.6)), class = "fjordline_error_file", regexp = "cut[.]", info = form)
  }
  expect_error(fl_data(cut_to("ndjson", 0.6)), regexp = "Line 1[0-9]")
  lines <- file.path(folder, "lines.json")
  writeLines(c("[{\"a\": 1},", " {\"a\": 2},", " {\"a\": }]"), lines)
  expect_error(fl_data(lines), class = "fjordline_error_file", regexp = "Line 3")
  expect_error(fl_data(bytes_file("a,b,c\n1,2,3\n4,5,6\n7,8")), class = "fjordline_error_file", regexp = "Line 4, the last")
  expect_error(fl_data(bytes_file("a,b\n1,2\n3", 0, ",4\n")), class = "fjordline_error_file", regexp = "Line 3 holds a NUL byte")
  csv <- file.path(folder, "really.xlsx")
  writeLines("a,b\n1,2", csv)
  expect_error(fl_data(csv), class = "fjordline_error_file", regexp = "really.xlsx")
  expect_error(fl_data(written_as(table, "xlsx", folder), sheet = "cast"), class = "fjordline_error_file", regexp = "\"casts\"")
  expect_error(fl_data(written_as(table, "csv", folder), sheet = 1), class = "fjordline_error_argument", regexp = "sheet")
})

test_that("nested and uneven records become columns, or are refused", {
  file <- withr::local_tempfile(fileext = ".json")
  writeLines("[{\"a\": 1, \"at\": {\"x\": 5, \"y\": 6}}, {\"a\": 2, \"b\": null}, {\"at\": {\"x\": 7}}]", file)
  table <- fl_data(file)$table
  expect_equal(table$a, c(1, 2, NA))
  expect_equal(table$at.x, c(5, NA, 7))
  writeLines("[{\"a\": [1, 2]}, {\"a\": [3]}]", file)
  expect_error(fl_data(file), class = "fjordline_error_table", regexp = "\"a\"")
  writeLines("[1, 2, 3]", file)
  expect_error(fl_data(file), class = "fjordline_error_file", regexp = "records")
})

test_that("odd names pass through to the result: blanks, quotes, emoji, markup", {
  odd <- c("water temp", "the \"best\"", "\U0001F41F", "<script>alert(1)</script>", "a,b")
  file <- withr::local_tempfile(fileext = ".csv")
  table <- stats::setNames(as.data.frame(random_table(30, 5, 1)), odd)
  data.table::fwrite(table, file)
  data <- fl_data(file)
  expect_equal(names(data$table), odd)
  groups <- fl_partition(fl_prepare(data, transform = stats::setNames("rank", odd[3])), k = 2)
  expect_equal(names(groups$groups)[-(1:4)], odd)
  out <- withr::local_tempfile(fileext = ".csv")
  fl_export(groups, out)
  expect_equal(names(read_table(out)$table), c(odd, "group"))
})

test_that("lines above the table are pointed out, never passed over; they can be skipped", {
  titled <- bytes_file("Samples of 2031\n\na,b\n1,2\n3,4\n5,6\n")
  expect_error(fl_data(titled), class = "fjordline_error_file", regexp = "first line has 1 field, the lines below 2.*skip = 1")
  expect_equal(fl_data(titled, reading = c(skip = 1))$table, data.frame(a = c(1, 3, 5), b = c(2, 4, 6)), ignore_attr = TRUE)
  noted <- bytes_file("# log\n# 2031\na,b\n1,2\n3,4\n")
  expect_error(fl_data(noted), class = "fjordline_error_file", regexp = "skip = 1")
  expect_equal(names(fl_data(noted, reading = list(skip = 2))$table), c("a", "b"))
  expect_error(fl_data(noted, reading = c(skip = "two")), class = "fjordline_error_argument", regexp = "number of lines")
  # a separator at the end of every line makes no column
  expect_equal(names(fl_data(bytes_file("a,b,\n1,2,\n3,4,\n"))$table), c("a", "b"))
})

test_that("commas that may be thousands are not taken for decimals without being asked", {
  file <- bytes_file("v,w\n\"1,234\",1\n\"2,500\",2\n\"13,000\",7\n")
  found <- as.data.frame(fl_check(fl_data(file)))
  expect_match(found$finding[found$column == "v"], "between thousands or before decimals")
  expect_error(fl_data(file, types = list(v = "number")), class = "fjordline_error_column", regexp = "1,234")
})
