# A table in every form that can be read in chunks.
in_forms <- function(table, folder) {
  csv <- file.path(folder, "t.csv")
  semicolons <- file.path(folder, "s.csv")
  packed <- file.path(folder, "g.csv.gz")
  data.table::fwrite(table, csv)
  data.table::fwrite(table, semicolons, sep = ";", dec = ",")
  data.table::fwrite(table, packed)
  forms <- list(frame = table, csv = csv, semicolons = semicolons, packed = packed)
  if (rlang::is_installed("nanoparquet")) {
    forms$parquet <- file.path(folder, "t.parquet")
    nanoparquet::write_parquet(table, forms$parquet)
  }
  if (rlang::is_installed("RSQLite")) {
    forms$sqlite <- file.path(folder, "t.sqlite")
    connection <- DBI::dbConnect(RSQLite::SQLite(), forms$sqlite)
    DBI::dbWriteTable(connection, "rows", table)
    DBI::dbDisconnect(connection)
  }
  forms
}

long_table <- function(n = 3000) {
  x <- as.data.frame(round(random_heaps(n, 3, 4, sd = 6, seed = 5), 6))
  x$kind <- rep_len(c("calm", "rough, \"grey\"", "fog"), n)
  x$v2[intersect(c(7, 1501), seq_len(n))] <- NA
  x
}

all_chunks <- function(chunks) {
  on.exit(chunks$close())
  out <- NULL
  sizes <- integer()
  while (!is.null(chunk <- chunks$fetch())) {
    sizes <- c(sizes, nrow(chunk))
    out <- stack_rows(out, chunk)
  }
  list(table = as.data.frame(out), sizes = sizes)
}

test_that("every form gives the same rows, in stretches of the size asked for", {
  table <- long_table()
  for (source in in_forms(table, withr::local_tempdir())) {
    for (size in c(700, 5000)) {
      read <- all_chunks(open_chunks(source, list(), size))
      expect_equal(read$sizes, diff(unique(c(seq(0, 3000, by = size), 3000))))
      for (column in names(table)) expect_equal(read$table[[column]], table[[column]])
    }
  }
})

test_that("quotes, line ends and blank lines inside text do not tear rows apart", {
  file <- withr::local_tempfile(fileext = ".csv")
  rows <- vapply(1:400, function(i) sprintf("%d,\"line one\nline, two %d\",%d", i, i, i * 2), "")
  writeLines(c("a,note,b", rows), file)
  read <- all_chunks(open_chunks(file, list(), 37))
  expect_equal(read$table$a, 1:400)
  expect_equal(read$table$note[400], "line one\nline, two 400")
  expect_equal(read$table$b, 2 * (1:400))
})

test_that("a title to skip, a byte-order mark and a last line without its end are read as by fl_data()", {
  file <- withr::local_tempfile(fileext = ".csv")
  cat("\xef\xbb\xbfa;b\n1,5;2\n2,5;3\n3,5;4", file = file)
  read <- all_chunks(open_chunks(file, list(), 2))
  expect_equal(read$table, data.frame(a = c(1.5, 2.5, 3.5), b = 2:4))
  cat("casts of the year\n\na,b\n1,2\n", file = file)
  expect_equal(all_chunks(open_chunks(file, list(reading = c(skip = 1)), 2))$table, data.frame(a = 1L, b = 2L))
  cat("1,2\n3,4\n", file = file)
  expect_equal(dim(all_chunks(open_chunks(file, list(columns = c("a", "b")), 100))$table), c(2L, 2L))
})

test_that("the sample is the same from every form, for any chunk size, and every row is as likely", {
  table <- long_table()
  forms <- in_forms(table, withr::local_tempdir())
  first <- fl_sample(table, rows = 200, seed = 4, name = "t")
  expect_equal(first$table$v1, table$v1[first$sample$taken])
  expect_equal(first$sample$rows, 3000)
  for (source in forms) {
    again <- fl_sample(source, rows = 200, seed = 4, chunk_rows = 450, name = "t")
    expect_identical(as.integer(again$sample$taken), as.integer(first$sample$taken))
    expect_equal(again$table$v3, first$table$v3)
    expect_identical(type_of(again, names(table)), type_of(first, names(table)))
  }
  expect_false(identical(fl_sample(table, rows = 200, seed = 5)$sample$taken, first$sample$taken))
  hits <- tabulate(unlist(lapply(1:200, function(s) smallest_keys(30, 10, s))), 30)
  expect_gt(stats::chisq.test(hits)$p.value, 1e-4)
  expect_equal(fl_sample(table, rows = 5000)$sample$taken, 1:3000)
  expect_match(first$said, "random sample of 3,000 rows", all = FALSE)
})

test_that("the streamed groups are those of the whole fit, whatever the source", {
  table <- long_table()
  whole <- fl_partition(fl_prepare(fl_data(table, aside = "kind")), k = 4)
  labels <- NULL
  for (source in in_forms(table, withr::local_tempdir())) {
    ready <- fl_prepare(fl_sample(source, rows = 500, aside = "kind", chunk_rows = 800, name = "t"))
    groups <- fl_stream(ready, k = 4, batch_rows = 100)
    expect_identical(fl_labels(groups), labels %||% fl_labels(groups))
    labels <- fl_labels(groups)
  }
  expect_length(labels, 3000)
  expect_true(all(is.na(labels[c(7, 1501)])))
  expect_true(same_grouping(labels[-c(7, 1501)], whole$group[-c(7, 1501)]))
  expect_equal(sum(groups$groups$rows), 2998)
  expect_lt(groups$approximation, 0.02)
})

test_that("W, the total and the sizes are those of the labels in the preparation of the sample", {
  table <- long_table()
  ready <- fl_prepare(fl_sample(table, rows = 400, aside = "kind", chunk_rows = 1000, name = "t"))
  groups <- fl_stream(ready, k = 3)
  x <- predict(ready, table)
  whole <- stats::complete.cases(x)
  g <- fl_labels(groups)
  squares <- vapply(1:3, function(c) rowSums(sweep(x, 2, groups$centres[c, ])^2), double(3000))
  expect_equal(g[whole], max.col(-squares[whole, ]))
  expect_equal(groups$objective, sum(apply(squares[whole, ], 1, min)), tolerance = 1e-10)
  expect_equal(groups$total, sum(sweep(x[whole, ], 2, colMeans(x[whole, ]))^2), tolerance = 1e-10)
  expect_equal(groups$groups$rows, tabulate(g, 3))
  expect_identical(predict(groups, table), g)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  expect_identical(predict(fl_load(file), table), g)
  expect_match(fl_facts(groups), "Approximate: centres from a sample of 400 rows", all = FALSE)
  expect_match(fl_steps(groups), "fl_sample", all = FALSE)
  expect_match(fl_steps(groups), "fl_stream", all = FALSE)
  expect_match(format(groups), "Read in chunks from t", all = FALSE)
})

test_that("a batch moves each centre to the mean of all it was given", {
  x <- random_table(40, 2, 3)
  centres <- rbind(c(-1, 0), c(1, 0))
  mass <- c(5, 3)
  naive <- list(centres = centres, mass = mass)
  for (b in 1:4) {
    rows <- seq(b, 40, by = 4)
    near <- apply(x[rows, ], 1, function(r) which.min(colSums((t(naive$centres) - r)^2)))
    for (g in 1:2) {
      mine <- rows[near == g]
      naive$centres[g, ] <- (naive$centres[g, ] * naive$mass[g] + colSums(x[mine, , drop = FALSE])) /
        (naive$mass[g] + length(mine))
      naive$mass[g] <- naive$mass[g] + length(mine)
    }
  }
  expect_equal(batches_kernel(x, centres, mass, "euclidean", 10L), naive, tolerance = 1e-12)
})

test_that("batches in memory say how far they are off, and come close", {
  x <- random_heaps(20000, 4, 5, sd = 4, seed = 8)
  whole <- fit_method(fl_method("kmeans"), x, 5, 1)
  quick <- fit_method(fl_method("kmeans", search = "batches", sample_rows = 2000), x, 5, 1)
  expect_match(quick$notes, "Approximate: centres from a sample of 2,000 rows", all = FALSE)
  expect_lt(quick$objective / whole$objective, 1.01)
  expect_gte(quick$objective / whole$objective, 1 - 1e-9)
  expect_gt(naive_adjusted_rand(quick$group[1:300], whole$group[1:300]), 0.95)
  expect_equal(quick$objective, sum((x - quick$centres[quick$group, ])^2), tolerance = 1e-10)
  small <- fit_method(fl_method("kmeans", search = "batches"), x, 5, 1)
  expect_identical(small$group, whole$group)
  directions <- fit_method(fl_method("kmeans", search = "batches", sample_rows = 2000, metric = "cosine"), x, 5, 1)
  exact <- fit_method(fl_method("kmeans", metric = "cosine"), x, 5, 1)
  expect_lt(directions$objective / exact$objective, 1.01)
  expect_error(fit_method(fl_method("kmeans", search = "batches", sample_rows = 10, row_weights = 1), x, 5, 1),
               class = "fjordline_error_method")
})

test_that("streaming by direction works, and a written file holds every row", {
  table <- long_table()
  ready <- fl_prepare(fl_sample(table, rows = 500, aside = "kind", name = "t"), scale = "none")
  file <- withr::local_tempfile(fileext = ".csv")
  groups <- fl_stream(ready, fl_method("kmeans", metric = "cosine"), k = 3, file = file)
  written <- data.table::fread(file, data.table = FALSE)
  expect_equal(written$row, 1:3000)
  expect_equal(written$group, fl_labels(groups))
  expect_equal(sum(written$distance, na.rm = TRUE), groups$objective, tolerance = 1e-8)
  expect_identical(predict(groups, table), fl_labels(groups))
})

test_that("what cannot be streamed is refused in words", {
  expect_no_warning(expect_error(fl_sample("nowhere.parquet", rows = 100), "no file", class = "fjordline_error_file"))
  table <- long_table(300)
  sampled <- fl_sample(table, rows = 100, aside = "kind", name = "t")
  ready <- fl_prepare(sampled)
  expect_error(fl_stream(fl_prepare(fl_data(table, aside = "kind")), k = 2), class = "fjordline_error_argument",
               regexp = "sample")
  expect_error(fl_stream(ready, k = 2, method = "medoids"), class = "fjordline_error_method", regexp = "kmeans")
  expect_error(fl_sample("nowhere.csv"), class = "fjordline_error_file")
  expect_error(fl_sample(withr::local_tempfile(lines = "{}", fileext = ".json")), class = "fjordline_error_file",
               regexp = "chunks")
  folder <- withr::local_tempdir()
  file <- file.path(folder, "t.csv")
  data.table::fwrite(table, file)
  ready <- fl_prepare(fl_sample(file, rows = 100, aside = "kind"))
  data.table::fwrite(table[1:200, ], file)
  out <- file.path(folder, "groups.csv")
  expect_error(fl_stream(ready, k = 2, file = out), class = "fjordline_error_file", regexp = "changed")
  expect_false(file.exists(out))
  data.table::fwrite(table[-1], file)
  expect_error(fl_stream(ready, k = 2), class = "fjordline_error_column", regexp = "v1")
  cut <- c("v1,v2", rep("1,2", 300), "3", rep("1,2", 10))
  writeLines(cut, file)
  expect_error(fl_sample(file, chunk_rows = 100), class = "fjordline_error_file", regexp = "rows from")
})
