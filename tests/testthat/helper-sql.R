# Queries run in a database, beside predict().

# Rows like those of a table, some far off, with gaps and levels that were never seen.
shaken_rows <- function(data, seed = 3) {
  withr::local_seed(seed)
  table <- as.data.frame(data)
  n <- nrow(table)
  for (column in names(table)) {
    v <- table[[column]]
    if (is.double(v)) v <- v + rnorm(n, 0, sd(v, na.rm = TRUE) * rep(c(0.01, 0.5, 3), length.out = n))
    if (is.factor(v) || is.character(v)) v <- replace(as.character(v), sample(n, 5), "never seen")
    table[[column]] <- replace(v, sample(n, 6), NA)
  }
  table
}

# The SQLite within RSQLite lacks ln(); its extension calls that log().
local_sqlite <- function(env = parent.frame()) {
  skip_if_not_installed("RSQLite")
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con), envir = env)
  RSQLite::initExtension(con, "math")
  con
}

queried <- function(con, groups, table, dialect = "sqlite", reach = 1) {
  table <- as.data.frame(table)
  table$the_row <- seq_len(nrow(table))
  DBI::dbWriteTable(con, "new rows", table, overwrite = TRUE)
  file <- withr::local_tempfile(fileext = ".sql")
  fl_export(groups, file, dialect = dialect, table = "new rows", beside = "the_row", reach = reach)
  query <- paste(readLines(file, encoding = "UTF-8"), collapse = "\n")
  if (inherits(con, "SQLiteConnection")) query <- gsub("LN(", "LOG(", query, fixed = TRUE)
  out <- DBI::dbGetQuery(con, query)
  out[order(out$the_row), ]
}

expect_query_as_predict <- function(con, groups, table, dialect = "sqlite", reach = 1, info = NULL) {
  placed <- suppressWarnings(fl_place(groups, table, reach = reach, strict = FALSE))$rows
  found <- queried(con, groups, table, dialect, reach)
  expect_identical(as.integer(found$group_number), as.integer(placed$group), info = info)
  expect_identical(as.integer(found$nearest_group), as.integer(placed$nearest), info = info)
  expect_identical(found$group_name, placed$name, info = info)
}
