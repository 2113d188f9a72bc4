# Tables of every form, damaged in bytes.
whole_tables <- function() once("tables", function() {
  set.seed(7)
  table <- some_table()
  folder <- tempfile("whole-")
  dir.create(folder)
  at <- function(ending) file.path(folder, paste0("t.", ending))
  utils::write.csv(table, at("csv"), row.names = FALSE)
  utils::write.table(table, at("tsv"), sep = "\t", row.names = FALSE)
  utils::write.csv2(table, at("txt"), row.names = FALSE)
  writeBin(iconv(paste(readLines(at("csv")), collapse = "\n"), "UTF-8", "UTF-16", toRaw = TRUE)[[1]], at("wide.csv"))
  jsonlite::write_json(table, at("json"))
  jsonlite::stream_out(table, to <- file(at("ndjson"), "w"), verbose = FALSE)
  close(to)
  con <- gzfile(at("csv.gz"), "w")
  writeLines(readLines(at("csv")), con)
  close(con)
  connection <- DBI::dbConnect(RSQLite::SQLite(), at("sqlite"))
  DBI::dbWriteTable(connection, "t", table)
  DBI::dbDisconnect(connection)
  if (rlang::is_installed("openxlsx")) openxlsx::write.xlsx(table, at("xlsx"))
  if (rlang::is_installed("nanoparquet")) nanoparquet::write_parquet(table, at("parquet"))
  files <- list.files(folder, full.names = TRUE)
  lapply(stats::setNames(files, sub("^t[.]", "", basename(files))), read_bytes)
})

attack_form <- function(form, cases, chunks = FALSE) {
  attack(paste0("table, ", form), function(number) {
    whole <- whole_tables()[[form]]
    if (is.null(whole)) return("read")
    file <- put_bytes(damaged_bytes(whole), form)
    on.exit(unlink(file))
    outcome_of(if (chunks && number %% 4 == 0) {
      format(fl_sample(file, rows = 20, chunk_rows = 100))
      TRUE
    } else used(file))
  }, cases)
}
attack_form("csv", 1400, chunks = TRUE)
attack_form("tsv", 600, chunks = TRUE)
attack_form("txt", 600)
attack_form("wide.csv", 500)
attack_form("json", 700)
attack_form("ndjson", 600)
attack_form("sqlite", 700, chunks = TRUE)
attack_form("xlsx", 300)
attack_form("parquet", 400, chunks = TRUE)

# What is packed tells when it was damaged: it is refused, or read as it was.
attack("table, csv.gz", function(number) {
  whole <- whole_tables()$csv.gz
  file <- put_bytes(damaged_bytes(whole), "csv.gz")
  on.exit(unlink(file))
  first <- once("table of csv.gz", function() fl_data(put_bytes(whole, "csv.gz"))$table)
  outcome_of(identical(fl_data(file)$table, first))
}, 400)
