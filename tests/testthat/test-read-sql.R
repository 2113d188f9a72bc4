# A partition as a query: the labels of predict(), made in a database.

quick_method <- function(key) if (key == "mixture") fl_method(key, restarts = 2) else key

test_that("on every demo table the query gives the labels of predict(), every one", {
  con <- local_sqlite()
  for (name in fl_demos()$name) {
    data <- fl_demo(name)
    ready <- fl_prepare(data)
    for (method in c("kmeans", "fuzzy", "mixed", "medoids", "mixture")) {
      groups <- fl_partition(ready, quick_method(method), k = 4)
      expect_query_as_predict(con, groups, data, info = paste(name, method))
      expect_query_as_predict(con, groups, shaken_rows(data), reach = 0.9, info = paste(name, method, "shaken"))
    }
  }
})

test_that("every structure and tail of a mixture, and components put together", {
  con <- local_sqlite()
  water <- fl_demo("water_samples")
  ready <- fl_prepare(water, transform = c(turbidity = "log"))
  new <- shaken_rows(water)
  for (structure in covariance_structures) {
    tails <- if (match(structure, covariance_structures) %% 2 == 0) "heavy" else "normal"
    groups <- fl_partition(ready, fl_method("mixture", covariance = structure, tails = tails, restarts = 1), k = 4)
    expect_query_as_predict(con, groups, new, info = structure)
  }
  heavy <- fl_partition(ready, fl_method("mixture", tails = "heavy", freedom = "estimated", restarts = 1), k = 4)
  expect_query_as_predict(con, heavy, new)
  merged <- fl_partition(ready, fl_method("mixture", components = 7, restarts = 1), k = 4)
  expect_query_as_predict(con, merged, new)
  expect_query_as_predict(con, merged, new, reach = Inf)
})

test_that("every step of a preparation and every metric", {
  con <- local_sqlite()
  water <- fl_demo("water_samples")
  new <- shaken_rows(water)
  for (transform in names(transforms)) {
    expect_query_as_predict(con, fl_partition(fl_prepare(water, transform = transform), k = 5), new, info = transform)
  }
  far <- fl_prepare(water, outliers = "winsorise", scale = "median_iqr", missing = "middle", transform = c(turbidity = "log"))
  expect_query_as_predict(con, fl_partition(far, k = 5), new)
  expect_query_as_predict(con, fl_partition(fl_prepare(water, reduce = 3, weights = c(salinity = 2)), k = 5), new)
  visits <- fl_demo("vessel_visits")
  weighed <- fl_prepare(visits, missing = "middle", scale = "unit_range", weights = c(cargo = 0.5))
  expect_query_as_predict(con, fl_partition(weighed, "mixed", k = 4), shaken_rows(visits))
  casts <- fl_prepare(fl_demo("mooring_casts"), scale = "none")
  for (method in list(fl_method("kmeans", metric = "cosine"), fl_method("kmeans", metric = "correlation"),
                      fl_method("medoids", metric = "manhattan"), fl_method("medoids", metric = "chebyshev"),
                      fl_method("medoids", metric = "correlation"))) {
    groups <- fl_partition(casts, method, k = 3)
    expect_query_as_predict(con, groups, shaken_rows(fl_demo("mooring_casts")), reach = 0.9, info = method$settings$metric)
  }
})

test_that("categories, truths and numbers of few values, in one group too, and from a saved model", {
  con <- local_sqlite()
  withr::local_seed(1)
  table <- data.frame(a = rep(1:3, 50), b = rnorm(150) + rep(c(0, 6), 75), c = rep(c(TRUE, FALSE, FALSE), each = 50),
                      d = factor(sample(c("it's", "a \"b\"", "\\"), 150, TRUE)))
  data <- fl_data(table, features = names(table))
  groups <- fl_name(fl_partition(fl_prepare(data), "mixture", k = 2), c("Bob's", "-- \"x\"\n; drop"))
  expect_query_as_predict(con, groups, table)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_query_as_predict(con, fl_load(file), table)
  expect_query_as_predict(con, fl_partition(fl_prepare(data), k = 1), shaken_rows(table[-3]) |> cbind(c = table$c))
})

test_that("a level that a component never has is a number that every database can write", {
  con <- local_sqlite()
  table <- data.frame(a = c(1:30, 101:130) + 0.5, b = rep(c("x", "y"), each = 30))
  data <- fl_data(table, features = c("a", "b"))
  for (tails in c("normal", "heavy")) {
    groups <- fl_partition(fl_prepare(data), fl_method("mixture", tails = tails), k = 2)
    groups$model$chance[] <- round(groups$model$chance)  # exactly 0 and 1
    lines <- query_lines(groups, dialect = "sqlite")
    expect_false(any(grepl("Inf|NaN|\\bNA\\b", lines)))
    expect_query_as_predict(con, groups, table, info = tails)
  }
})

test_that("text in a number column, infinite and huge numbers count as missing", {
  con <- local_sqlite()
  groups <- fl_partition(fl_prepare(fl_demo("still_water")), k = 2)
  columns <- vapply(groups$ready$columns, `[[`, "", "name")
  DBI::dbWriteTable(con, "t", as.data.frame(fl_demo("still_water"))[1:4, ])
  quoted <- DBI::dbQuoteIdentifier(con, columns[[1]])
  for (value in c("'5 or so'", "'2024-01-05'", "''", "9e999", "1e200", "NULL")) {
    DBI::dbExecute(con, paste0("UPDATE t SET ", quoted, " = ", value, " WHERE rowid = 2"))
    found <- DBI::dbGetQuery(con, paste(query_lines(groups, "t", dialect = "sqlite"), collapse = "\n"))
    expect_identical(is.na(found$group_number), c(FALSE, TRUE, FALSE, FALSE), info = value)
  }
  # all of it imported as text
  table <- as.data.frame(fl_demo("still_water"))
  texts <- as.data.frame(lapply(table, as.character))
  DBI::dbWriteTable(con, "t", texts, overwrite = TRUE)
  found <- DBI::dbGetQuery(con, paste(query_lines(groups, "t", dialect = "sqlite"), collapse = "\n"))
  expect_identical(as.integer(found$group_number), fl_labels(groups))
})

test_that("PostgreSQL gives the same labels, in its own words and in standard SQL", {
  connect <- local_postgres()
  skip_if(is.null(connect), "PostgreSQL is missing")
  con <- connect()
  for (name in fl_demos()$name) {
    data <- fl_demo(name)
    ready <- fl_prepare(data, missing = "middle")
    for (method in c("kmeans", "mixed", "mixture")) {
      groups <- fl_partition(ready, quick_method(method), k = 4)
      expect_query_as_predict(con, groups, shaken_rows(data), "postgresql", info = paste(name, method))
    }
    expect_query_as_predict(con, groups, data, "standard", info = name)
  }
  water <- fl_demo("water_samples")
  for (transform in names(transforms)) {
    groups <- fl_partition(fl_prepare(water, transform = transform), k = 5)
    expect_query_as_predict(con, groups, shaken_rows(water), "postgresql", info = transform)
  }
})

test_that("a query of many groups stays short enough for SQLite", {
  con <- local_sqlite()
  x <- random_table(600, 6, 1)
  groups <- fl_partition(ready_from(x), fl_method("kmeans", restarts = 1), k = 150)
  expect_query_as_predict(con, groups, as.data.frame(x))
  expect_lt(sum(nchar(query_lines(groups))), 3e5)
})

test_that("names of tables and columns are names, whatever is in them", {
  con <- local_sqlite()
  table <- stats::setNames(heaps()[2:3], c("a \"b\"; --", "group_number"))
  groups <- fl_partition(fl_prepare(fl_data(table, name = "x'; DROP TABLE t; --")), k = 2)
  DBI::dbWriteTable(con, "x'; DROP TABLE t; --", table)
  found <- DBI::dbGetQuery(con, paste(query_lines(groups, dialect = "sqlite"), collapse = "\n"))
  expect_named(found, c(names(table), "group_number_1", "group_name", "nearest_group"))
  expect_identical(as.integer(found$group_number_1), fl_labels(groups))
  expect_match(query_lines(groups, c("lab", "rows")), "FROM \"lab\".\"rows\"", fixed = TRUE, all = FALSE)
})

test_that("what cannot be written is refused, and arguments of a query are for queries", {
  file <- withr::local_tempfile(fileext = ".sql")
  ready <- water_ready()
  expect_error(fl_export(fl_partition(ready, "dbscan"), file), class = "fjordline_error_method", "nearest rows")
  expect_error(fl_export(fl_partition(ready, "linkage", k = 3), file), class = "fjordline_error_method")
  nearest <- fl_partition(fl_prepare(fl_demo("water_samples"), missing = "nearest"), k = 3)
  expect_error(fl_export(nearest, file), class = "fjordline_error_method", "missing = \"middle\"")
  groups <- fl_partition(ready, k = 3)
  fl_new_method("own_way", function(x, k, settings, seed) list(group = rep_len(seq_len(k), nrow(x))),
                        assign = function(fit, x) list(group = rep(1L, nrow(x)), distance = rep(0, nrow(x))))
  withr::defer(rm("own_way", envir = own_methods))
  expect_error(fl_export(fl_partition(ready, "own_way", k = 3), file), class = "fjordline_error_method", "centres")
  expect_error(fl_export(groups, file, dialect = "cobol"), class = "fjordline_error_argument")
  expect_error(fl_export(groups, file, reach = 0.2), class = "fjordline_error_argument")
  expect_error(fl_export(groups, file, table = "a\nb"), class = "fjordline_error_argument")
  expect_error(fl_export(groups, file, beside = character()), class = "fjordline_error_argument")
  expect_error(fl_export(groups, file, decimal = ","), class = "fjordline_error_argument", "not for a query")
  expect_error(fl_export(ready, file), class = "fjordline_error_argument", "fl_partition")
  expect_error(fl_export(groups, withr::local_tempfile(fileext = ".csv"), dialect = "sqlite"),
               class = "fjordline_error_argument", ".sql")
  expect_false(file.exists(file))
})
