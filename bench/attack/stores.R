# Stores of studies: damaged in bytes, or in one value by a writer who knows SQL. What is read is what was stored.
whole_store <- function() once("store", function() {
  set.seed(3)
  x <- data.frame(a = rnorm(60) + 6 * rep(1:3, 20), b = rnorm(60), kind = rep(c("u", "v", "w"), 20))
  study <- fl_study(list(one = fl_data(x, truth = "kind", name = "one")), list(fl_method("kmeans", restarts = 2)),
                    k = 2:4, indices = "fast", repeats = 2, seed = 5)
  file <- tempfile(fileext = ".sqlite")
  result <- fl_run(study, file)
  list(bytes = read_bytes(file), groups = groups_in(result))
})

groups_in <- function(result) lapply(fl_open(result)$fits, function(fit) if (is.list(fit)) fit$group)

attack("stores", function(number) {
  whole <- whole_store()
  file <- put_bytes(if (number %% 2 == 0) damaged_bytes(whole$bytes) else whole$bytes, "sqlite")
  on.exit(unlink(paste0(file, c("", "-wal", "-shm"))))
  if (number %% 2 == 1) change_a_cell(file)
  outcome_of({
    result <- fl_run(file)
    format(fl_standings(result))
    found <- groups_in(result)
    same <- vapply(seq_along(found), function(i) is.null(found[[i]]) || identical(found[[i]], whole$groups[[i]]), NA)
    length(found) == length(whole$groups) && all(same)
  })
}, 500, seconds = 60)

change_a_cell <- function(file) {
  connection <- DBI::dbConnect(RSQLite::SQLite(), file)
  on.exit(DBI::dbDisconnect(connection))
  table <- sample(DBI::dbListTables(connection), 1)
  column <- sample(DBI::dbListFields(connection, table), 1)
  row <- sample(max(1, DBI::dbGetQuery(connection, paste("SELECT count(*) FROM", table))[[1]]), 1)
  value <- sample(list("'x'", "NULL", "-1", "1e308", "''", "'[]'", "'{}'", "x'00'", "substr(%s, 1, length(%s) / 2)",
                       "%s || '1'"), 1)[[1]]
  value <- gsub("%s", column, value, fixed = TRUE)
  place <- paste0("(SELECT rowid FROM ", table, " LIMIT 1 OFFSET ", row - 1, ")")
  change <- paste0("UPDATE ", table, " SET ", column, " = ", value, " WHERE rowid IN ", place)
  tryCatch(DBI::dbExecute(connection, change), error = function(e) NULL)
}
