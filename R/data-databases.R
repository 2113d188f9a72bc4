# Tables out of databases: whole, or in chunks. Nothing a query asks for is written, as far as the database can promise.

read_sqlite <- function(file, how, shown, form) {
  connection <- open_sqlite(file, shown)
  on.exit(DBI::dbDisconnect(connection))
  read_database(connection, how$query)
}

open_sqlite <- function(file, shown) {
  need_package("RSQLite", "Reading SQLite files")
  refuse <- function(e) refuse_file(shown, conditionMessage(e), "It must be an SQLite database.")
  connection <- tryCatch(sqlite_connection(file, flags = RSQLite::SQLITE_RO), error = refuse)
  tryCatch(DBI::dbListTables(connection), error = function(e) {
    DBI::dbDisconnect(connection)
    refuse(e)
  })
  connection
}

# Without SQLite's way to load native code, which any query could ask for.
sqlite_connection <- function(file, ...) {
  DBI::dbConnect(RSQLite::SQLite(), file, loadable.extensions = FALSE, synchronous = NULL, ...)
}

read_database <- function(connection, query) {
  need_package("DBI", "Reading from a database")
  chosen <- database_query(connection, query)
  back <- read_only(connection)
  on.exit(back())
  found <- query_result(connection, chosen$select, chosen$query)
  mixed <- names(found$mixed)
  if (length(mixed) > 0L) {
    if (!inherits(connection, "SQLiteConnection") || any(found$mixed == "blob")) refuse_mixed(mixed)
    found <- query_result(connection, with_text(connection, chosen$select, names(found$table), mixed), chosen$query)
    if (length(found$mixed) > 0L) refuse_mixed(names(found$mixed))
  }
  table <- check_utf8(found$table, "the database")
  list(table = if (nrow(table) > 0L) plain_columns(table) else table,
       said = c(if (chosen$named) paste0("table ", quoted(chosen$query), " of the database"),
                if (length(mixed) > 0L) {
                  paste0(listed(quoted(mixed)), " read as text: numbers and text are mixed there")
                }))
}

# The table or SELECT meant, and the statement that gets it.
database_query <- function(connection, query) {
  tables <- DBI::dbListTables(connection)
  if (length(tables) == 0L) fl_abort("source", "The database has no tables.")
  if (is.null(query) && length(tables) == 1L) query <- tables
  if (is.null(query)) {
    fl_abort("argument", "`query` must say which table of the database to read, or hold a SELECT.",
             advice = paste0("Its tables are ", listed(quoted(tables)), "."))
  }
  check_text(query, "query")
  asked <- grepl("^\\s*(select|with)\\b", query, ignore.case = TRUE)
  if (!asked && !query %in% tables) {
    fl_abort("source", paste0("The database has no table ", quoted(query), "."),
             advice = did_you_mean(query, tables, "Its tables are"))
  }
  list(query = query, named = !asked,
       select = if (asked) query else paste("SELECT * FROM", DBI::dbQuoteIdentifier(connection, query)))
}

# The rows, and by column what its mixed cells were first. In SQLite every cell has a type of its own, and the driver
# makes 0 of text among numbers; its warning is all there is to tell.
query_result <- function(connection, select, shown) {
  mixed <- character()
  table <- withCallingHandlers(
    tryCatch(DBI::dbGetQuery(connection, select), error = function(e) {
      fl_abort("source", "The database refused the query.", found = conditionMessage(e),
               advice = paste0("The query was: ", shown))
    }),
    warning = function(w) {
      mixed <<- c(mixed, mixed_column(w))
      invokeRestart("muffleWarning")
    }
  )
  list(table = table, mixed = mixed[!duplicated(names(mixed))])
}

mixed_column <- function(warning) {
  form <- "^Column `(.*)`: mixed type, first seen values of type (\\w+), coercing other values of type (\\w+).*$"
  said <- conditionMessage(warning)
  if (!grepl(form, said)) {
    return(NULL)
  }
  types <- c(sub(form, "\\2", said), sub(form, "\\3", said))
  stats::setNames(if ("blob" %in% types) "blob" else types[1L], sub(form, "\\1", said))
}

# The same rows, with some columns as text.
with_text <- function(connection, select, columns, mixed) {
  name <- function(column) DBI::dbQuoteIdentifier(connection, column)
  wanted <- vapply(columns, function(column) {
    if (column %in% mixed) paste0("CAST(", name(column), " AS TEXT) AS ", name(column)) else as.character(name(column))
  }, "")
  paste0("SELECT ", paste(wanted, collapse = ", "), " FROM (", sub(";\\s*$", "", select), "\n)")
}

refuse_mixed <- function(columns) {
  fl_abort("source", paste0("Column ", quoted(columns[1L]), " of the database holds values of several types."),
           found = "Numbers, text or bytes stand in one column.",
           advice = paste0("Ask for one type: query = 'SELECT CAST(\"", columns[1L], "\" AS TEXT) ...'."))
}

# --- nothing is written

# From here on the connection only reads; what comes back ends that. A transaction of the user's own is left alone.
read_only <- function(connection) {
  if (inherits(connection, "SQLiteConnection")) {
    return(query_only(connection))
  }
  begun <- tryCatch({
    DBI::dbBegin(connection)
    TRUE
  }, error = function(e) FALSE)
  if (!begun) {
    return(function() NULL)
  }
  # what does not know the statement still ends without keeping anything
  tryCatch(DBI::dbExecute(connection, "SET TRANSACTION READ ONLY"), error = function(e) {
    tryCatch({
      DBI::dbRollback(connection)
      DBI::dbBegin(connection)
    }, error = function(e) NULL)
  })
  function() tryCatch(DBI::dbRollback(connection), error = function(e) NULL)
}

query_only <- function(connection) {
  before <- DBI::dbGetQuery(connection, "PRAGMA query_only")[[1L]]
  DBI::dbExecute(connection, "PRAGMA query_only = 1")
  function() DBI::dbExecute(connection, paste("PRAGMA query_only =", before))
}

# --- in chunks

query_chunks <- function(connection, query, chunk_rows, close = function() NULL) {
  need_package("DBI", "Reading from a database")
  back <- function() NULL
  opened <- tryCatch({
    select <- database_query(connection, query)$select
    back <- read_only(connection)
    list(result = DBI::dbSendQuery(connection, select), back = back)
  }, error = function(e) {
    back()
    close()
    if (inherits(e, "fjordline_error")) stop(e)
    fl_abort("source", "The database refused the query.", found = conditionMessage(e))
  })
  list(
    fetch = function() {
      rows <- withCallingHandlers(
        tryCatch(DBI::dbFetch(opened$result, n = chunk_rows), error = function(e) {
          fl_abort("source", "The database stopped in the middle of the rows.", found = conditionMessage(e))
        }),
        warning = function(w) {
          mixed <- mixed_column(w)
          if (length(mixed) > 0L) refuse_mixed(names(mixed))
        }
      )
      if (nrow(rows) == 0L) NULL else check_utf8(rows, "the database")
    },
    close = function() {
      DBI::dbClearResult(opened$result)
      opened$back()
      close()
    }
  )
}

sqlite_chunks <- function(file, how, chunk_rows, wanted) {
  connection <- open_sqlite(file, file)
  query_chunks(connection, how$query, chunk_rows, function() DBI::dbDisconnect(connection))
}
