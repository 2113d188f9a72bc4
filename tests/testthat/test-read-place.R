# New rows, with a guard: none of these, drift, tables of another kind.

test_that("fitted rows get their own groups back, and one row beyond every group's reach gets none", {
  for (method in c("kmeans", "medoids", "fuzzy", "bisecting")) {
    groups <- fl_partition(fl_prepare(heap_data()), method, k = 3)
    expect_identical(suppressWarnings(predict(groups, heaps())), fl_labels(groups))
    centre <- unlist(groups$groups[1, c("east", "north")])
    reach <- reach_limits(groups, 1)$all[1]
    own <- max(as.data.frame(groups)$distance[fl_labels(groups) == 1])
    expect_true(reach > own * (1 - 1e-9) && reach < 1.2 * own)
    # one step beyond the reach, away from the other groups' centre
    away <- centre - colMeans(groups$groups[2:3, c("east", "north")])
    at <- function(steps) {
      scale <- apply(heaps()[c("east", "north")], 2, sd)
      as.data.frame(t(centre + steps * reach * scale * (away / scale) / sqrt(sum((away / scale)^2))))
    }
    expect_equal(predict(groups, at(0.99)), 1)
    expect_equal(predict(groups, at(1.02)), 0)
    expect_equal(predict(groups, at(1.02), reach = Inf), 1)
  }
})

test_that("none of these is what the definition says, at every reach", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  new <- as.data.frame(fl_demo("water_samples"))
  new$temperature <- new$temperature * 1.15
  x <- predict(groups$ready, new)
  far <- vapply(1:5, function(g) sqrt(rowSums(sweep(x, 2, groups$centres[g, ])^2)), numeric(nrow(x)))
  own <- fl_labels(groups)[groups$ready$rows]
  for (reach in c(1, 0.95, 0.5)) {
    limits <- vapply(1:5, function(g) {
      inside <- groups$ready$x[own == g, ]
      without <- vapply(seq_len(nrow(inside)), function(i) sqrt(sum((inside[i, ] - colMeans(inside[-i, ]))^2)), 0)
      unname(quantile(without, reach, type = 6))
    }, 0)
    none <- rowSums(far <= rep(limits, each = nrow(far))) == 0
    expected <- ifelse(none, 0L, max.col(-far, ties.method = "first"))
    expect_equal(suppressWarnings(predict(groups, new, reach = reach)), ifelse(is.na(x[, 1]), NA, expected))
  }
})

test_that("rows like the fitted ones are turned away about as often as is stated", {
  draw <- function(n, seed) as.data.frame(random_table(n, 3, seed))
  groups <- fl_partition(fl_prepare(fl_data(draw(400, 1)), scale = "none"), k = 2)
  new <- fl_place(groups, draw(4000, 2), reach = 0.95)
  expect_equal(mean(new$rows$group == 0), 0.05, tolerance = 0.4)
  expect_lt(mean(fl_place(groups, draw(4000, 3))$rows$group == 0), 0.01)
})

# Three stretched groups, of `n` rows.
stretched <- function(n, seed, columns = 6) {
  shape <- lapply(1:3, function(g) withr::with_seed(g, diag(exp(rnorm(columns, 0, 0.5))) %*%
                                                      qr.Q(qr(matrix(rnorm(columns^2), columns)))))
  group <- withr::with_seed(seed, sample(3, n, TRUE))
  x <- random_table(n, columns, seed)
  for (g in 1:3) x[group == g, ] <- x[group == g, ] %*% shape[[g]]
  x[, 1] <- x[, 1] + 12 * group
  as.data.frame(x)
}

test_that("mixtures reach as far as rows lie from fits without them, and turn new rows away as often as stated", {
  free <- fl_method("mixture", covariance = "general/volume+shape+orientation", tails = "normal")
  away <- vapply(1:6, function(seed) {
    groups <- fl_partition(fl_prepare(fl_data(stretched(150, seed)), scale = "none"), free, k = 3)
    mean(fl_place(groups, stretched(3000, seed + 50), reach = 0.95, strict = FALSE)$rows$group == 0)
  }, 0)
  expect_gt(mean(away), 0.03)
  expect_lt(mean(away), 0.07)  # with the distances of the fit itself .15

  groups <- fl_partition(fl_prepare(fl_data(stretched(150, 3)), scale = "none"), free, k = 3)
  x <- groups$ready$x
  group <- fl_labels(groups)
  parts <- left_out_rows(group)
  expect_setequal(unlist(parts), seq_along(group))
  expect_true(all(vapply(parts, function(rows) all(table(group[rows]) <= ceiling(table(group) / 10)), NA)))
  # so far apart, rows belong to one component only: its moments, of the rows that are left
  naive <- numeric(nrow(x))
  for (rows in parts) for (i in rows) {
    left <- x[setdiff(which(group == group[i]), rows), ]
    spread <- cov(left) * (nrow(left) - 1) / nrow(left)
    naive[i] <- sqrt(mahalanobis(x[i, ], colMeans(left), spread))
  }
  kept <- own_distances(groups, group)$all
  expect_equal(kept, pmax(naive, as.data.frame(groups)$distance), tolerance = 5e-3)
})

test_that("a relation between columns does not decide alone: rows that only break it are placed, and told", {
  table <- function(n, seed) {
    x <- stretched(n, seed, 3)
    x$sound <- x$v1 + 0.5 * x$v2 + 0.05 * random_table(n, 1, seed + 100)[, 1]
    x
  }
  for (k in c(3, 2)) {
    method <- fl_method("mixture", components = if (k == 2) 3, covariance = "general/volume+shape+orientation",
                        tails = "normal")
    groups <- fl_partition(fl_prepare(fl_data(table(300, 1))), method, k = k)
    new <- table(200, 2)
    same <- fl_place(groups, new)
    expect_lt(sum(same$rows$group == 0), 6)
    new$sound[5:9] <- new$sound[5:9] + 1
    new$v3[1] <- 100
    placed <- fl_place(groups, new, strict = FALSE)
    expect_identical(placed$rows$group[5:9], same$rows$group[5:9])
    expect_true(all(placed$rows$broken[5:9]) && !placed$rows$broken[1])
    expect_equal(placed$rows$group[1], 0)
    expect_match(fl_facts(placed), "rows break a relation that the fitted rows keep closely, of .*sound", all = FALSE)
    file <- withr::local_tempfile(fileext = ".json")
    expect_equal(fl_place(fl_load(fl_save(groups, file)), new, strict = FALSE)$rows$group, placed$rows$group)
  }
  free <- fl_method("mixture", covariance = "general/volume+shape+orientation", tails = "normal")
  along <- broad_partition(fl_partition(fl_prepare(fl_data(table(300, 1)), scale = "none"), free, k = 3))
  expect_equal(ncol(along$directions$broad), 3)
  expect_equal(ncol(along$narrow$axes), 1)
  turn <- along$directions$broad
  x <- along$ready$x
  for (g in 1:3) {
    own <- group_covariances(fl_partition(fl_prepare(fl_data(table(300, 1)), scale = "none"), free, k = 3)$model, 4)[[g]]
    expect_equal(distance_to(along, g, x),
                 unname(sqrt(mahalanobis(x %*% turn, along$centres[g, ] %*% turn, t(turn) %*% own %*% turn))))
  }
  expect_null(broad_partition(fl_partition(fl_prepare(fl_data(stretched(200, 1))), "mixture", k = 3)))
})

test_that("where most rows are odd and a column has drifted, the drift is told first", {
  groups <- fl_partition(water_ready(), fl_method("mixture", covariance = "general/common", tails = "normal"), k = 5)
  new <- head(as.data.frame(fl_demo("water_samples")), 80)
  new$temperature <- new$temperature + 2
  placed <- fl_place(groups, new)
  expect_gt(sum(placed$rows$group %in% 1:5), 60)
  expect_match(fl_facts(placed)[2], "has drifted: temperature")
})

test_that("drift: p-values hold on rows of the same kind, and moved columns are found", {
  draw <- function(n, seed, shift = 0) {
    x <- as.data.frame(random_table(n, 5, seed))
    x$v1 <- x$v1 + shift
    x$kind <- withr::with_seed(seed, sample(c("a", "b"), n, TRUE, prob = c(0.5 + shift / 4, 0.5 - shift / 4)))
    x
  }
  groups <- fl_partition(fl_prepare(fl_data(draw(300, 1), features = c(paste0("v", 1:5), "kind"))), k = 2)
  same <- vapply(2:41, function(seed) any(fl_place(groups, draw(200, seed))$drift$drifted), NA)
  expect_lte(mean(same), 0.05)
  moved <- fl_place(groups, draw(300, 50, shift = 1))
  expect_setequal(moved$drift$column[moved$drift$drifted], c("v1", "kind"))
  expect_equal(moved$drift$shift[1], 1, tolerance = 0.25)
  expect_match(fl_facts(moved), "2 columns of 6 have drifted: v1 \\(mean", all = FALSE)
  # the moved share, counted naively
  v <- groups$ready$data$table$v1
  breaks <- unique(quantile(v, 1:9 / 10, type = 1))
  part <- function(u) table(factor(findInterval(u, breaks, left.open = TRUE), 0:9)) / length(u)
  expect_equal(moved$drift$moved[1], sum(abs(part(v) - part(moved$table$v1))) / 2)
})

test_that("predict() warns of drift, and is silent without", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  new <- as.data.frame(fl_demo("water_samples"))
  expect_no_warning(predict(groups, new))
  new$oxygen <- new$oxygen + 1.5
  expect_warning(predict(groups, new), class = "fjordline_warning_drift", regexp = "oxygen")
  expect_no_warning(predict(groups, head(new, 5)))
})

test_that("a table of another kind is refused, unless asked; a few odd rows are not", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  new <- as.data.frame(fl_demo("water_samples"))
  new$temperature <- new$temperature + 273.15
  expect_error(predict(groups, new), class = "fjordline_error_kind", regexp = "temperature")
  expect_error(fl_place(groups, new), class = "fjordline_error_kind", regexp = "same units")
  loose <- fl_place(groups, new, strict = FALSE)
  expect_true(all(loose$rows$group %in% c(0, NA)))
  expect_equal(fl_place(groups, new[1, ])$rows$group, 0)
  expect_equal(fl_place(groups, new[1, ])$rows$outside, "temperature")
  expect_error(fl_place(groups, new[setdiff(names(new), "oxygen")]), class = "fjordline_error_column", regexp = "oxygen")
  expect_error(fl_place(groups, new, reach = 2), class = "fjordline_error_argument", regexp = "reach")
  expect_equal(nrow(fl_place(groups, new[0, ])$rows), 0)
})

test_that("the guard and the drift are the same after the model's file; an older file says what it cannot tell", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), letters[1:5])
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  new <- head(as.data.frame(fl_demo("water_samples")), 80)
  new$salinity[3:9] <- 60
  here <- fl_place(groups, new)
  there <- fl_place(fl_load(file), new)
  expect_identical(there$rows$group, here$rows$group)
  expect_equal(there$drift, here$drift)
  expect_equal(there$mix, here$mix)
  fields <- jsonlite::read_json(file)
  fields[c("reach", "fitted")] <- NULL
  jsonlite::write_json(fields, file, auto_unbox = TRUE, digits = NA, null = "null")
  old <- fl_place(fl_load(file), new)
  expect_false(any(old$rows$group %in% 0))
  expect_match(fl_facts(old), "Not tested: whether these rows are like", all = FALSE)
  expect_match(fl_facts(old), "Drift could not be tested", all = FALSE)
})

test_that("placed rows are exported with their groups, printed and drawn", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), letters[1:5])
  new <- head(as.data.frame(fl_demo("water_samples")), 60)
  new$salinity[2] <- 90
  placed <- fl_place(groups, new)
  file <- withr::local_tempfile(fileext = ".csv")
  fl_export(placed, file)
  back <- read_table(file)$table
  expect_equal(nrow(back), 60)
  expect_equal(back$group, placed$rows$group)
  expect_equal(back$group_name[2], "none of these")
  expect_output(print(placed), "1 row belongs to none of these \\(0\\)")
  expect_s3_class(ggplot2::ggplot_build(autoplot(placed))$plot, "ggplot")
  expect_equal(sum(placed$mix$rows), sum(!is.na(placed$rows$group)))
})

test_that("groups of a table read in chunks are guarded too, by its farthest rows", {
  table <- as.data.frame(random_heaps(1200, 2, 3, sd = 8, seed = 5))
  file <- withr::local_tempfile(fileext = ".csv")
  data.table::fwrite(table, file)
  groups <- fl_stream(fl_prepare(fl_sample(file, rows = 300)), k = 3)
  expect_identical(predict(groups, table), fl_labels(groups))
  far <- table[1:2, ]
  far[[1]] <- 1000
  expect_equal(predict(groups, far), c(0, 0))
  model <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, model)
  expect_equal(predict(fl_load(model), far), c(0, 0))
  expect_no_match(fl_facts(fl_place(groups, table)), "Not tested|could not be tested", all = FALSE)
})

test_that("values that go missing are drift; those the table always lacked are not", {
  table <- as.data.frame(fl_demo("water_samples"))
  table$salinity[seq(1, 600, 4)] <- NA
  groups <- fl_partition(fl_prepare(fl_data(table, id = "sample", features = c("salinity", "temperature", "oxygen"))), k = 4)
  expect_false(any(fl_place(groups, table)$drift$drifted))
  gone <- table
  gone$oxygen[1:200] <- NA
  drift <- fl_place(groups, gone)
  expect_equal(drift$drift$column[drift$drift$drifted], "oxygen")
  expect_match(fl_facts(drift), "33% missing", all = FALSE)
  gone$oxygen <- NA_real_
  expect_match(fl_facts(fl_place(groups, gone)), "oxygen \\(no value at all, 100% missing", all = FALSE)
})

test_that("placed rows are a partition of their own table: same numbers and names, means of the new rows", {
  groups <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5), letters[1:5])
  table <- as.data.frame(fl_demo("water_samples"))
  new <- fl_data(table[table$oxygen > 4 | is.na(table$oxygen), ], truth = "water_mass", id = "sample", aside = c("station", "date"))
  placed <- fl_place(groups, new, strict = FALSE)
  adopted <- fl_adopt(placed)
  expect_identical(fl_labels(adopted), placed$rows$group)
  expect_equal(adopted$names, letters[1:5])
  expect_equal(adopted$groups$rows, tabulate(placed$rows$group[placed$rows$group > 0], 5))
  for (g in which(adopted$groups$rows > 0)) {
    expect_equal(adopted$groups$salinity[g], mean(new$table$salinity[adopted$group %in% g]))
  }
  expect_equal(fl_profile(placed, sets = 0, audit = FALSE)$groups$rows, adopted$groups$rows)
  expect_equal(fl_agree(adopted)$rows, sum(!is.na(placed$rows$group)))
  # the script begins at both files and gives the same groups
  model <- withr::local_tempfile(fileext = ".json")
  next_month <- withr::local_tempfile(fileext = ".csv")
  fl_save(groups, model)
  data.table::fwrite(new$table, next_month)
  read <- fl_data(next_month, truth = "water_mass", id = "sample", aside = c("station", "date"))
  again <- fl_adopt(fl_place(fl_load(model), read, strict = FALSE))
  expect_identical(eval_steps(again), fl_labels(adopted))
  for (view in c("plane", "boxes", "profiles", "beside", "silhouette")) {
    expect_s3_class(ggplot2::ggplot_build(autoplot(adopted, view))$plot, "ggplot")
  }
  # saved again, it still labels and guards
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(adopted, file)
  expect_equal(suppressWarnings(predict(fl_load(file), new, strict = FALSE)), placed$rows$group)
  expect_error(fl_adopt(fl_place(groups, transform(table[1:30, ], oxygen = NA_real_))), class = "fjordline_error_values")
})

test_that("a shift that turns most rows away is told as one", {
  groups <- fl_partition(fl_prepare(fl_demo("water_samples")), k = 5)
  warm <- as.data.frame(fl_demo("water_samples"))[1:80, ]
  expect_false(any(grepl("shift common to all", fl_facts(fl_place(groups, warm)))))
  warm$temperature <- warm$temperature + 30
  expect_match(fl_facts(fl_place(groups, warm, strict = FALSE)), "a shift common to all of them", all = FALSE)
})

test_that("new rows come from a file as well, and what the fit never saw is in the print-out, with its row", {
  visits <- fl_demo("vessel_visits")
  groups <- fl_partition(fl_prepare(visits), "mixed", k = 3)
  new <- head(as.data.frame(visits), 20)
  new$cargo <- as.character(new$cargo)
  new$cargo[3] <- "bananas"
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(new, file, row.names = FALSE)
  placed <- suppressWarnings(fl_place(groups, file))
  expect_equal(placed$rows$group, suppressWarnings(fl_place(groups, new))$rows$group)
  expect_match(fl_facts(placed), "Counted as missing: a level the fit never saw in 1 row of cargo \\(row 3: bananas\\)", all = FALSE)
  expect_error(fl_place(groups, "nowhere.csv"), class = "fjordline_error_file")
})
