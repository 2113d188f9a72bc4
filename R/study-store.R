# Where a study keeps what is finished: a SQLite file, or any database that DBI reaches. One process writes; each
# finished piece is one transaction.

store_version <- 2L  # 1 held the study as an R object
busy_milliseconds <- 20000L

# The tables of a store. Labels and details are text, so that every database can hold them.
store_tables <- list(
  fl_about = c(name = "TEXT PRIMARY KEY", value = "TEXT NOT NULL"),
  fl_cells = c(cell = "TEXT PRIMARY KEY", dataset = "TEXT NOT NULL", preparation = "TEXT NOT NULL",
               method = "TEXT NOT NULL", k = "INTEGER", parameter = "DOUBLE PRECISION", turn = "INTEGER NOT NULL",
               status = "TEXT NOT NULL", reason = "TEXT NOT NULL", seconds = "DOUBLE PRECISION", found = "INTEGER",
               objective = "DOUBLE PRECISION", converged = "INTEGER", covered = "DOUBLE PRECISION", labels = "TEXT",
               details = "TEXT"),
  fl_agreements = c(cell = "TEXT NOT NULL", measure = "TEXT NOT NULL", value = "DOUBLE PRECISION",
                    "PRIMARY KEY" = "(cell, measure)"),
  fl_judgements = c(judgement = "TEXT PRIMARY KEY", dataset = "TEXT NOT NULL", preparation = "TEXT NOT NULL",
                    method = "TEXT NOT NULL", turn = "INTEGER NOT NULL", status = "TEXT NOT NULL",
                    reason = "TEXT NOT NULL", seconds = "DOUBLE PRECISION", details = "TEXT"),
  fl_values = c(judgement = "TEXT NOT NULL", k = "INTEGER", asked = "INTEGER NOT NULL", measure = "TEXT NOT NULL",
                value = "DOUBLE PRECISION", error = "DOUBLE PRECISION", covered = "DOUBLE PRECISION", reason = "TEXT"),
  fl_picks = c(judgement = "TEXT NOT NULL", voter = "TEXT NOT NULL", pick = "INTEGER", verdict = "TEXT",
               margin = "DOUBLE PRECISION"),
  fl_gates = c(gate = "TEXT PRIMARY KEY", dataset = "TEXT NOT NULL", preparation = "TEXT NOT NULL",
               metric = "TEXT NOT NULL", status = "TEXT NOT NULL", reason = "TEXT NOT NULL",
               seconds = "DOUBLE PRECISION", details = "TEXT")
)

# `store`: the path of a SQLite file, or a DBI connection that stays its owner's.
connect_store <- function(store, must_exist = FALSE) {
  need_package("DBI", "A store")
  if (inherits(store, "DBIConnection")) {
    if (!DBI::dbIsValid(store)) fl_abort("store", "The connection to the store is closed.")
    return(list(con = store, own = FALSE, said = class(store)[1L]))
  }
  need_package("RSQLite", "A store in a file")
  check_text(store, "store")
  if (must_exist) check_file(store, "store") else check_target(store)
  con <- tryCatch(sqlite_connection(store), error = function(e) {
    fl_abort("store", paste0("The store ", quoted(store), " cannot be opened."), found = conditionMessage(e))
  })
  out <- list(con = con, own = TRUE, said = store)
  usable <- FALSE
  on.exit(if (!usable) DBI::dbDisconnect(con))
  RSQLite::sqliteSetBusyHandler(con, busy_milliseconds)
  # A log beside the file lets others read while this one writes, and loses nothing when the process is killed.
  in_store(out, {
    DBI::dbGetQuery(con, "PRAGMA journal_mode = WAL")
    DBI::dbExecute(con, "PRAGMA synchronous = NORMAL")
  })
  usable <- TRUE
  out
}

disconnect_store <- function(store) if (store$own && DBI::dbIsValid(store$con)) DBI::dbDisconnect(store$con)

# All of it or nothing. A database that has no room has no way back either: what stopped it first is the error.
as_one <- function(con, expr) {
  DBI::dbBegin(con)
  tryCatch({
    force(expr)
    DBI::dbCommit(con)
  }, error = function(e) {
    tryCatch(DBI::dbRollback(con), error = function(e) NULL)
    stop(e)
  })
}

# What a database refuses is said in the words of its reader.
in_store <- function(store, expr) {
  tryCatch(expr, error = function(e) {
    if (inherits(e, "fjordline_error")) stop(e)
    said <- conditionMessage(e)
    why <- if (grepl("locked|busy", said)) c("Another process holds it.", "Try again when that has ended.")
    else if (grepl("readonly|read-only|permission", said)) c("It can be read only.",
                                                             "Make it writable, or name another.")
    else if (grepl("full|No space", said)) c("The disk is full.", "What was finished is kept; make room and run again.")
    else if (grepl("unable to open", said)) c("It cannot be opened, or nothing be written beside it.",
                                              "Is the folder writable, and is there room?")
    else if (grepl("not a database|malformed", said)) c("It is not a study store, or is damaged.", "Name another file.")
    else c(said, "What was finished before is kept.")
    fl_abort("store", paste0("The store ", store$said, " cannot be used."), found = why[1L], advice = why[2L])
  })
}

# Finds or makes the tables, and holds the store to this study: more methods or counts may come, but what has a name
# must be what it was.
open_store <- function(store, study) {
  opened <- connect_store(store)
  ready <- FALSE
  on.exit(if (!ready) disconnect_store(opened))
  facts <- study_identity(study)
  in_store(opened, if (is.null(about_store(opened))) for (table in names(store_tables)) make_table(opened$con, table))
  in_store(opened, as_one(opened$con, {
    # to write first is to wait until another run that begins has written
    DBI::dbExecute(opened$con, "UPDATE fl_about SET value = value WHERE name = 'version'")
    known <- about_store(opened)
    if (length(known) > 0L) check_store(known, facts, opened)
    facts <- c(facts, list(version = as.character(store_version), study = packed_study(study)))
    stale <- names(facts) %in% names(known) & vapply(names(facts), function(f) identical(facts[[f]], known[[f]]), NA)
    write_about(opened$con, facts[!stale])
  }))
  ready <- TRUE
  opened
}

make_table <- function(con, table) {
  columns <- store_tables[[table]]
  DBI::dbExecute(con, paste0("CREATE TABLE IF NOT EXISTS ", table, " (",
                             paste(names(columns), columns, collapse = ", "), ")"))
  if (table == "fl_values") DBI::dbExecute(con, "CREATE INDEX IF NOT EXISTS fl_values_of ON fl_values (judgement)")
}

# What the store says of itself; NULL where it is new, an error where it is another kind of database.
about_store <- function(opened) {
  there <- DBI::dbListTables(opened$con)
  if (opened$own) refuse_machinery(opened)
  if ("fl_about" %in% there) {
    about <- DBI::dbGetQuery(opened$con, "SELECT name, value FROM fl_about")
    return(stats::setNames(as.list(about$value), about$name))
  }
  if (opened$own && length(there) > 0L) {
    fl_abort("store", paste0("The file ", quoted(opened$said), " is a database, but not a study store."),
             found = paste0("It holds the tables ", listed(there, most = 4L), "."), advice = "Name another file.")
  }
  NULL
}

# Our stores hold tables; a view or a trigger would work whenever one is read or written.
refuse_machinery <- function(opened) {
  found <- DBI::dbGetQuery(opened$con, "SELECT type, name FROM sqlite_master WHERE type IN ('view', 'trigger')")
  if (nrow(found) > 0L) {
    fl_abort("store", paste0("The store ", opened$said, " is not one that fjordline wrote."),
             found = paste0("It holds the ", found$type[1L], " ", quoted(found$name[1L]), "."))
  }
}

write_about <- function(con, facts) {
  if (length(facts) == 0L) {
    return(invisible())
  }
  old <- paste(sql_literal(names(facts)), collapse = ", ")
  DBI::dbExecute(con, paste0("DELETE FROM fl_about WHERE name IN (", old, ")"))
  for (sql in insert_statements("fl_about", list(name = names(facts), value = unlist(facts)))) DBI::dbExecute(con, sql)
}

# What makes a study itself: its name and seed, and for every name in it what that stands for.
study_identity <- function(study) {
  prints <- unlist(lapply(names(study$ready), function(dataset) {
    lapply(stats::setNames(nm = names(study$ready[[dataset]])), function(preparation) {
      table <- study_table(study, dataset, preparation)
      rlang::hash(list(as.double(table$ready$x), dim(table$ready$x), as.integer(factor(table$truth)),
                       as.integer(table$ready$rows)))
    })
  }), recursive = FALSE)
  keys <- unlist(lapply(names(study$ready), function(dataset) {
    paste0("rows of ", coordinates(dataset, names(study$ready[[dataset]])))
  }))
  methods <- lapply(study$methods, function(method) rlang::hash(list(method$key, method$changed)))
  c(list(name = study$name, seed = format(study$seed, digits = 17L)), stats::setNames(prints, keys),
    stats::setNames(methods, paste("settings of", coordinates(names(methods)))),
    list(indices = toString(sort(names(study$indices))), agreements = toString(sort(study$agreements))))
}

check_store <- function(known, facts, opened) {
  version <- suppressWarnings(as.integer(known$version))
  if (!isTRUE(version <= store_version)) {
    fl_abort("store", paste0("The store ", opened$said, " was made by a newer fjordline."),
             found = paste0("Its form is ", known$version, "; this one knows forms up to ", store_version, "."),
             advice = "Update fjordline, or name another file.")
  }
  if (is.null(known$name)) {
    return(invisible())
  }
  for (what in intersect(names(facts), names(known))) {
    if (identical(facts[[what]], known[[what]])) next
    found <- if (what %in% c("name", "seed")) paste0("Its ", what, " is ", quoted(known[[what]]), ", this study's ",
                                                     quoted(facts[[what]]), ".")
    else if (what == "indices") "Its fits were judged by other indices."
    else if (what == "agreements") "Its fits were compared by other measures of agreement."
    else paste0("The ", what, " are others than they were.")
    fl_abort("store", paste0("The store ", opened$said, " belongs to another study."), found = found,
             advice = "Name another file; methods, counts, repeats and datasets may be added to a study, not changed.")
  }
}

# The study itself goes into the store, as data, as long as it is not large, so that the store can be opened alone.
packed_study <- function(study, most = 20 * 2^20) {
  text <- study_text(study)
  if (is.null(text) || nchar(text, "bytes") > most) "" else text
}

stored_study <- function(store) {
  opened <- connect_store(store, must_exist = TRUE)
  on.exit(disconnect_store(opened))
  known <- in_store(opened, about_store(opened))
  if (is.null(known)) fl_abort("store", paste0("The store ", opened$said, " is empty."))
  check_store(known["version"], list(), opened)
  if (as.integer(known$version) < 2L) {
    refuse_held(opened$said, "An earlier version wrote its study as an R object, which could run code when it is read.")
  }
  if (!rlang::is_string(known$study) || !nzchar(known$study)) {
    refuse_held(opened$said, "It does not hold its study, which is large or more than data.")
  }
  study_from_text(known$study, opened$said)
}

# --- writing and reading

# Finished pieces in one transaction, each the rows of several tables, the first with the piece's own row. Where another
# run was faster its rows stay.
write_pieces <- function(opened, pieces) {
  con <- opened$con
  first <- vapply(pieces, function(rows) names(rows)[1L], "")
  fits <- pieces[first == "fl_cells"]
  in_store(opened, as_one(con, {
    # keys keep out what another run has written, so many fits go in one statement
    for (table in c("fl_cells", "fl_agreements")) {
      for (sql in insert_statements(table, in_one(lapply(fits, `[[`, table)))) {
        DBI::dbExecute(con, paste(sql, "ON CONFLICT DO NOTHING"))
      }
    }
    for (rows in pieces[first != "fl_cells"]) {
      own <- paste(insert_statements(names(rows)[1L], rows[[1L]]), "ON CONFLICT DO NOTHING")
      if (DBI::dbExecute(con, own) == 1L) {
        for (table in names(rows)[-1L]) for (sql in insert_statements(table, rows[[table]])) DBI::dbExecute(con, sql)
      }
    }
  }))
}

# What did not come to a good end is to be done again, and so is whatever was judged with it.
forget_unfinished <- function(opened) {
  con <- opened$con
  of <- function(rows, fields) do.call(paste, c(rows[fields], sep = "\r"))
  in_store(opened, as_one(con, {
    fits <- DBI::dbGetQuery(con, "SELECT dataset, preparation, method, turn FROM fl_cells WHERE status <> 'done'")
    gates <- DBI::dbGetQuery(con, "SELECT dataset, preparation FROM fl_gates WHERE status <> 'done'")
    judged <- DBI::dbGetQuery(con, "SELECT judgement, dataset, preparation, method, turn, status FROM fl_judgements")
    where <- c("dataset", "preparation")
    again <- judged$status != "done" | of(judged, where) %in% of(gates, where) |
      of(judged, c(where, "method", "turn")) %in% of(fits, c(where, "method", "turn")) |
      judged$method == both_said & of(judged, c(where, "turn")) %in% of(fits, c(where, "turn"))
    for (some in split(sql_literal(judged$judgement[again]), ceiling(seq_len(sum(again)) / 500))) {
      for (table in c("fl_values", "fl_picks", "fl_judgements")) {
        DBI::dbExecute(con, paste0("DELETE FROM ", table, " WHERE judgement IN (", paste(some, collapse = ", "), ")"))
      }
    }
    for (table in c("fl_cells", "fl_gates")) DBI::dbExecute(con, paste("DELETE FROM", table, "WHERE status <> 'done'"))
  }))
}

# Columns of several pieces as one.
in_one <- function(parts) {
  parts <- Filter(Negate(is.null), parts)
  if (length(parts) > 0L) {
    lapply(stats::setNames(nm = names(parts[[1L]])), function(column) unlist(lapply(parts, `[[`, column)))
  }
}

# Written out, since binding values takes DBI ten times as long.
insert_statements <- function(table, columns, at_once = 200L) {
  if (length(columns) == 0L) {
    return(NULL)
  }
  rows <- do.call(paste, c(lapply(unname(columns), sql_literal), sep = ", "))
  parts <- split(rows, ceiling(seq_along(rows) / at_once))
  paste0("INSERT INTO ", table, " (", paste(names(columns), collapse = ", "), ") VALUES (",
         vapply(parts, paste, "", collapse = "), ("), ")")
}

sql_literal <- function(values) {
  text <- if (is.character(values)) paste0("'", gsub("'", "''", enc2utf8(values), fixed = TRUE), "'")
  else sprintf("%.17g", as.double(values))
  ifelse(is.na(values) | if (is.character(values)) FALSE else !is.finite(values), "NULL", text)
}

# The keys of what is there.
stored_keys <- function(opened, table) {
  in_store(opened, DBI::dbGetQuery(opened$con, paste("SELECT", names(store_tables[[table]])[1L], "AS key_there FROM",
                                                     table))$key_there)
}

# Whole tables but for the long columns, which are read when they are needed.
stored_table <- function(opened, table, without = character()) {
  columns <- setdiff(names(store_tables[[table]]), c(without, "PRIMARY KEY"))
  sql <- paste("SELECT", paste(columns, collapse = ", "), "FROM", table)
  typed_rows(in_store(opened, held_rows(opened$con, sql)), table)
}

# The driver warns where cells of one column differ in type, and takes the first cell's.
held_rows <- function(con, sql) {
  withCallingHandlers(DBI::dbGetQuery(con, sql), warning = function(w) {
    mixed <- mixed_column(w)
    if (length(mixed) == 0L) return()
    refuse_part(paste0("Values of several types stand in its column ", quoted(names(mixed)), "."))
  })
}

# What a store says is text or a number is one, or is missing throughout.
typed_rows <- function(rows, table) {
  types <- store_tables[[table]]
  for (column in intersect(names(rows), names(types))) {
    values <- rows[[column]]
    text <- startsWith(types[[column]], "TEXT")
    sound <- if (text) is.character(values) else is.numeric(values) || inherits(values, "integer64")
    if (!sound && !(is.atomic(values) && all(is.na(values)))) {
      refuse_part(paste0("Its column ", quoted(column), " does not hold ", if (text) "text." else "numbers."))
    }
  }
  tibble::as_tibble(rows)
}

# Rows of some keys, all columns.
stored_rows <- function(opened, table, keys) {
  key <- names(store_tables[[table]])[1L]
  if (length(keys) == 0L) keys <- ""  # none, with all columns
  parts <- in_store(opened, lapply(split(keys, ceiling(seq_along(keys) / 500)), function(some) {
    wanted <- paste(sql_literal(some), collapse = ", ")
    held_rows(opened$con, paste0("SELECT * FROM ", table, " WHERE ", key, " IN (", wanted, ")"))
  }))
  typed_rows(vctrs::vec_rbind(!!!unname(parts)), table)
}
