# Labels made elsewhere, as a partition.

test_that("adopted labels stay where they are, numbered by size and called by their names", {
  ready <- water_ready()
  table <- ready$data$table
  adopted <- fl_adopt(ready, "station")
  covered <- seq_along(table$station) %in% ready$rows
  sizes <- sort(table(table$station[covered]), decreasing = TRUE)
  expect_equal(adopted$names, names(sizes))
  expect_equal(adopted$groups$rows, as.integer(sizes))
  expect_equal(adopted$names[fl_labels(adopted)][covered], table$station[covered])
  expect_true(all(is.na(fl_labels(adopted)[!covered])))
  for (g in 1:5) {
    mine <- table[covered & table$station == adopted$names[g], ]
    expect_equal(adopted$groups$salinity[g], mean(mine$salinity))
  }
  expect_equal(adopted$scatter, sum(naive_scatter(ready$x, fl_labels(adopted)[ready$rows])))
})

test_that("a partition's own labels, adopted, are the same partition and score the same", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  again <- fl_adopt(groups$ready, fl_labels(groups))
  expect_identical(fl_labels(again), fl_labels(groups))
  expect_null(again$names)
  expect_equal(again$centres, groups$centres)
  expect_equal(as.data.frame(fl_score(again)), as.data.frame(fl_score(groups)))
  expect_equal(fl_agree(again)$measures, fl_agree(groups)$measures)
})

test_that("rows without a label, and noise, are kept apart and said", {
  ready <- fl_prepare(heap_data())
  n <- nrow(heaps())
  label <- rep(c("a", "b"), length.out = n)
  label[1:2] <- NA
  label[3:5] <- "stray"
  adopted <- fl_adopt(ready, label, noise = "stray")
  expect_equal(which(is.na(fl_labels(adopted))), 1:2)
  expect_equal(which(fl_labels(adopted) %in% 0), 3:5)
  expect_match(fl_facts(adopted), "2 rows have no label", all = FALSE)
  expect_match(fl_facts(adopted), "3 rows are noise", all = FALSE)
  expect_equal(as.data.frame(adopted)$name[3], "noise")
})

test_that("numbers out of order become names, so that nothing is lost by renumbering", {
  ready <- fl_prepare(heap_data())
  label <- ifelse(seq_len(nrow(heaps())) < 4, 7, 12)
  expect_equal(fl_adopt(ready, label)$names, c("12", "7"))
})

test_that("adopted labels are read, saved and scripted; what would have to fit again says so", {
  ready <- water_ready()
  adopted <- fl_adopt(ready, "station")
  expect_error(fl_reliability(adopted), class = "fjordline_error_method", regexp = "made elsewhere")
  profile <- fl_profile(adopted)
  expect_true(all(is.na(profile$separation$p_beyond)))
  expect_false("station" %in% profile$separation$column)
  expect_match(fl_facts(profile), "made elsewhere", all = FALSE)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(adopted, file)
  expect_identical(fl_labels(fl_load(file)), fl_labels(adopted))
  expect_identical(fl_load(file)$names, adopted$names)
  expect_identical(eval_steps(adopted), fl_labels(adopted))
})

test_that("labels that cannot be taken over are refused", {
  ready <- fl_prepare(heap_data())
  expect_error(fl_adopt(ready, 1:3), class = "fjordline_error_argument", regexp = "one label for each")
  expect_error(fl_adopt(ready, "knd"), class = "fjordline_error_column", regexp = "kind")
  expect_error(fl_adopt(ready, rep(NA, nrow(heaps()))), class = "fjordline_error_argument", regexp = "No row has both")
  expect_error(fl_adopt(ready, rep("x", nrow(heaps())), noise = "x"), class = "fjordline_error_argument",
               regexp = "no group")
  placed <- fl_place(fl_partition(ready, k = 2), heaps())
  expect_error(fl_adopt(placed, "kind"), class = "fjordline_error_argument", regexp = "have their labels")
})
