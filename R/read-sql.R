# A partition as one SQL query that places the rows of a table where they live.

query_form <- "sql"
sqlite_most <- 1e6  # characters of a query, as SQLite is usually built

# `beside`: columns of the table handed along beside the group.
write_query <- function(partition, file, table, beside, reach, dialect) {
  write_query_lines(query_lines(partition, table, beside, reach, dialect), file)
}

write_query_lines <- function(lines, file) {
  force(lines)  # what is wrong with the query is not the file's fault
  write_whole(file, function(draft) writeLines(enc2utf8(lines), draft, useBytes = TRUE))
}

query_lines <- function(partition, table = NULL, beside = NULL, reach = 1, dialect = "standard") {
  check_made_by(partition, "fl_partition", "x")
  check_choice(dialect, names(sql_dialects()), "dialect")
  check_reach(reach)
  dialect <- sql_dialects()[[dialect]]
  from <- table %||% partition$ready$data$name %||% partition$ready$table_name
  check_texts(from, "table")
  beside <- beside %||% query_beside(partition)
  check_texts(beside, "beside")
  program <- placing_formulas(partition, reach)
  kept <- stats::setNames(unique(beside), paste0("beside", seq_along(unique(beside))))
  body <- query_body(program, paste(sql_name(from), collapse = "."), kept, dialect)
  c(query_header(partition, program, from, reach, dialect, body), body, query_end(partition, kept))
}

# What tells the rows apart: their identifier, else the columns that were read.
query_beside <- function(partition) {
  id <- if (!is.null(partition$ready$data)) columns_of(partition$ready$data, "id")
  if (length(id) > 0L) id else names(partition$ready$columns)
}

check_texts <- function(texts, name) {
  fine <- is.character(texts) && length(texts) > 0L && !anyNA(texts) && all(nzchar(texts))
  if (!fine || any(grepl("[\r\n]", texts))) {
    fl_abort("argument", paste0("`", name, "` must be names, as texts of one line."),
             found = paste0("It is ", shape_of(texts), "."))
  }
}

query_body <- function(program, from, kept, dialect) {
  read <- vapply(program$columns, function(form) dialect$read(sql_name(form$name), form$type), "")
  first <- c(stats::setNames(sql_name(kept), names(kept)), read)
  blocks <- query_stage("given", first, from, "", "WITH ")
  before <- "given"
  for (stage in names(program$stages)) {
    made <- vapply(program$stages[[stage]], sql_of, "", dialect = dialect)
    blocks <- c(blocks, query_stage(stage, c(stats::setNames(names(kept), names(kept)), made), before, dialect$barrier))
    before <- stage
  }
  blocks[length(blocks)] <- ")"  # no comma before the end
  blocks
}

query_stage <- function(name, made, from, barrier, start = "") {
  fields <- ifelse(made == names(made), made, paste(made, "AS", names(made)))
  fields <- paste0("    ", fields, ifelse(seq_along(fields) < length(fields), ",", ""))
  c(paste0(start, name, " AS ("), "  SELECT", fields,
    paste0("  FROM ", from, if (nzchar(barrier)) paste0(" ", barrier)), "),")
}

query_end <- function(partition, kept) {
  groups <- seq_len(partition$k)
  names <- paste0("    WHEN ", c(0L, groups), " THEN ", sql_text(c("none of these", group_names(partition))))
  own <- beside_own(c("group_number", "group_name", "nearest_group"), kept)
  c("SELECT", paste0("  ", names(kept), " AS ", sql_name(kept), ","), paste0("  placed AS ", own[1L], ","),
    "  CASE placed", names, paste0("  END AS ", own[2L], ","), paste0("  nearest AS ", own[3L]), "FROM chosen;")
}

query_header <- function(partition, program, from, reach, dialect, body) {
  about <- c(
    paste0("The groups of ", partition$ready$data$name %||% partition$ready$table_name, " for the rows of ",
           paste(from, collapse = "."), ": ", listed(group_names(partition)), "."),
    paste0("Written by Fjordline ", package_version_text(), " for ", dialect$label, "; made by ",
           partition$method$label, "."),
    paste0("Read: ", listed(vapply(program$columns, `[[`, "", "name")), "."),
    paste0("group_number is NULL where a value is missing or was never seen",
           if (program$guarded) paste0(", and 0 where the row lies farther from every group than ",
                                       if (reach == 1) "any" else percent(reach), " of its fitted rows") else
             "; every other row goes to its nearest group, however far", "."),
    "Whether the columns have drifted since the fit is not looked at: fl_place() does that.",
    if (dialect$wants_functions && any(grepl("\\b(LN|SQRT|POWER|EXP)\\(", body))) {
      "Needs a build of SQLite with its mathematical functions (ln, sqrt, power, exp)."
    },
    if (dialect$wants_functions && sum(nchar(body)) > sqlite_most) {
      paste0("SQLite takes ", thousands(sqlite_most), " characters unless it was built otherwise; this query has more.")
    }
  )
  paste("--", gsub("[[:cntrl:]]+", " ", about))
}
