# Workbooks, text and records as people really write them.

workbook <- function(write) {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("readxl")
  file <- tempfile(fileext = ".xlsx")
  book <- openxlsx::createWorkbook()
  openxlsx::addWorksheet(book, "log")
  write(book)
  openxlsx::saveWorkbook(book, file)
  file
}

test_that("a column that is empty for its first two thousand rows is read as the numbers below", {
  file <- workbook(function(book) {
    openxlsx::writeData(book, "log", data.frame(depth = 1:2100, late = c(rep(NA, 2050), 1:50 + 0.5)))
  })
  table <- fl_data(file)$table
  expect_equal(sum(!is.na(table$late)), 50)
  expect_equal(table$late[2100], 50.5)
})

test_that("a workbook's dates are dates, its mixed cells text that the check points out, its emptied columns nothing", {
  file <- workbook(function(book) {
    openxlsx::writeData(book, "log", data.frame(day = as.Date("2031-01-01") + 0:11, v = 1:12 / 4))
    openxlsx::writeData(book, "log", c("mixed", "n.n.", 1:11), startCol = 3, colNames = FALSE)
    openxlsx::writeData(book, "log", " ", startCol = 6, startRow = 3, colNames = FALSE)
  })
  data <- fl_data(file)
  expect_equal(names(data$table)[1:3], c("day", "v", "mixed"))
  expect_equal(data$table$day, as.Date("2031-01-01") + 0:11)
  expect_match(as.data.frame(fl_check(data))$finding, "row 1: \"n.n.\"", all = FALSE)
})

test_that("a workbook without a header line, and one sheet of several, are read as asked", {
  file <- workbook(function(book) {
    openxlsx::writeData(book, "log", data.frame(a = c(1.5, 2.5, 4), b = c("x", "y", "z")), colNames = FALSE)
    openxlsx::addWorksheet(book, "casts")
    openxlsx::writeData(book, "casts", data.frame(salinity = c(30, 31, 35)))
  })
  expect_equal(fl_data(file, columns = FALSE)$table, data.frame(column_1 = c(1.5, 2.5, 4), column_2 = c("x", "y", "z")), ignore_attr = TRUE)
  expect_equal(names(fl_data(file, columns = c("depth", "place"))$table), c("depth", "place"))
  first <- fl_data(file, columns = FALSE)
  expect_match(first$said, "sheet \"log\", the first of 2", all = FALSE)
  for (sheet in list("casts", 2, "2")) expect_equal(fl_data(file, sheet = sheet)$table$salinity, c(30, 31, 35))
  expect_error(fl_data(file, sheet = 3), class = "fjordline_error_file", regexp = "no sheet 3")
})

test_that("text: quoted line breaks, doubled quotes, lone carriage returns and blank ends are read whole", {
  broken <- fl_data(bytes_file("a,b\n1,\"x\ny\"\n3,\"say \"\"so\"\"\"\n5,w\n"))
  expect_equal(broken$table$b, c("x\ny", "say \"so\"", "w"))
  expect_equal(fl_data(bytes_file("a,b\r1,2\r3,4\r5,6\r"))$table$b, c(2, 4, 6))
  expect_equal(nrow(fl_data(bytes_file("a,b\n1,2\n3,4\n5,6\n\n\n"))$table), 3)
  expect_equal(names(fl_data(bytes_file(" a , b \n1,2\n3,4\n"))$table), c("a", "b"))
  expect_equal(fl_data(bytes_file("v,w\n1e5,1\n2.5E-3,2\n-3e2,7\n"))$table$v, c(1e5, 0.0025, -300))
})

test_that("records: blank lines, marks, true and false, and numbers with all their digits", {
  file <- withr::local_tempfile(fileext = ".ndjson")
  writeLines(c("{\"a\": 0.1234567890123456, \"ok\": true, \"day\": \"2031-01-02\"}", "", "{\"a\": 2, \"ok\": false, \"day\": \"2031-01-03\"}"), file)
  table <- fl_data(file)$table
  expect_identical(table$a, c(0.1234567890123456, 2))
  expect_equal(table$ok, c(TRUE, FALSE))
  expect_equal(table$day, as.Date(c("2031-01-02", "2031-01-03")))
  for (text in c("[]", "{\"a\": 1", "   ", "[1, {\"a\": 2}]", "null")) {
    writeLines(text, file)
    expect_error(fl_data(file), class = "fjordline_error", info = text)
  }
})

test_that("SQLite files: whole numbers beyond 32 bits, long ids, an empty and a foreign file", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".sqlite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbExecute(connection, "CREATE TABLE tags (tag INTEGER, key INTEGER, depth REAL)")
  DBI::dbExecute(connection, "INSERT INTO tags VALUES (5000000000, 9007199254740993, 1.5), (5000000001, 9007199254740995, 2.5)")
  DBI::dbDisconnect(connection)
  table <- fl_data(file)$table
  expect_equal(table$tag, c(5e9, 5e9 + 1))
  expect_equal(table$key, c("9007199254740993", "9007199254740995"))
  expect_error(fl_data(file, query = "DROP TABLE tags"), class = "fjordline_error_source")
  empty <- withr::local_tempfile(fileext = ".sqlite")
  DBI::dbDisconnect(DBI::dbConnect(RSQLite::SQLite(), empty))
  expect_error(fl_data(empty), class = "fjordline_error")
  writeLines("no database", empty)
  expect_error(fl_data(empty), class = "fjordline_error_file")
})

test_that("options that a source cannot use are refused, never ignored", {
  table <- heaps()
  expect_error(fl_data(table, sheet = 1), class = "fjordline_error_argument", regexp = "in R already")
  expect_error(fl_data(table, reading = c(separator = ";")), class = "fjordline_error_argument")
  expect_error(fl_data(table, flip = NA), class = "fjordline_error_argument", regexp = "TRUE or FALSE")
  expect_error(fl_data(table, columns = 1:4), class = "fjordline_error_argument", regexp = "names of all columns")
  expect_error(fl_data(table, blanks = NA), class = "fjordline_error_argument")
  expect_error(fl_data(table, types = "category"), class = "fjordline_error_argument", regexp = "named")
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(table, file, row.names = FALSE)
  expect_error(fl_data(file, query = "SELECT 1"), class = "fjordline_error_argument", regexp = "query")
})

test_that("every table gives the script that reads it again", {
  folder <- withr::local_tempdir()
  file <- file.path(folder, "casts.csv")
  writeLines(c("row;kind;depth;ice", "a;x;1,5;thin", "b;y;-999;none", "c;x;4,5;thick", "d;y;7;none"), file)
  data <- fl_data(file, truth = "kind", id = "row", features = c("depth", "ice"), blanks = "-999", units = c(depth = "m"),
                  types = list(ice = c("none", "thin", "thick")), reading = c(separator = ";", decimal = ","))
  groups <- fl_partition(fl_prepare(fl_keep(data, depth > 1), missing = "drop", weights = c(ice = 0.5)), k = 2)
  made <- new.env()
  for (line in fl_steps(groups)) eval(parse(text = line), made)
  expect_identical(made$data$table, data$table)
  expect_identical(fl_labels(made$groups), fl_labels(groups))
  expect_identical(made$ready$x, groups$ready$x)
})

test_that("a query to a PostgreSQL server is read as a table, and can change nothing there", {
  server <- local_postgres()
  skip_if(is.null(server), "PostgreSQL or RPostgres is missing")
  con <- server()
  DBI::dbWriteTable(con, "casts", data.frame(depth = c(1.5, 2, NA), place = c("a", "b", "b"), taken = 1:3))
  data <- fl_data(con, query = "SELECT * FROM casts ORDER BY taken", id = "taken")
  expect_equal(data$table$depth, c(1.5, 2, NA))
  expect_equal(data$table$place, c("a", "b", "b"))
  writing <- "WITH gone AS (DELETE FROM casts RETURNING *) SELECT * FROM gone"
  expect_error(fl_data(con, query = writing), class = "fjordline_error")
  expect_error(fl_data(con, query = "DROP TABLE casts"), class = "fjordline_error")
  expect_equal(as.double(DBI::dbGetQuery(con, "SELECT count(*) AS n FROM casts")$n), 3, ignore_attr = TRUE)
  # the connection is as it was: its owner can still write, and a transaction of the owner's own stays open
  DBI::dbExecute(con, "INSERT INTO casts VALUES (4, 'c', 4)")
  DBI::dbBegin(con)
  DBI::dbExecute(con, "INSERT INTO casts VALUES (5, 'c', 5)")
  expect_equal(nrow(fl_data(con, query = "casts")$table), 5)
  DBI::dbRollback(con)
  expect_equal(nrow(fl_data(con, query = "casts")$table), 4)
})
