# First looks: every view draws without a warning, says what it found, and says when it draws less than all.

drawn <- function(figure) {
  file <- withr::local_tempfile(fileext = ".png")
  expect_no_warning(save_figure(figure, file))
  expect_gt(file.size(file), 5000)
  figure
}

labels_of <- function(figure) if (inherits(figure, "patchwork")) figure$patches$annotation else figure$labels
title_of <- function(figure) gsub("\n", " ", labels_of(figure)$title)
caption_of <- function(figure) gsub("\n", " ", labels_of(figure)$caption)

test_that("every view draws tables of every kind: two columns, many in order, numbers and categories, gaps", {
  for (name in c("seal_haulouts", "mooring_casts", "vessel_visits")) {
    data <- fl_demo(name)
    views <- setdiff(names(data_views()), c("map", "missing"))
    for (view in views) {
      columns <- if (view == "scatter") utils::head(number_columns(data, NULL), 2)
      expect_s3_class(drawn(autoplot(data, view, columns = columns)), "ggplot")
    }
  }
  expect_s3_class(drawn(autoplot(fl_demo("water_samples"), "missing")), "ggplot")
})

test_that("titles say what was found", {
  water <- fl_demo("water_samples")
  expect_match(title_of(autoplot(water)), "turbidity has a long tail")
  expect_match(title_of(autoplot(water, "scatter", c("salinity", "density"))), "nearly one column")
  expect_match(title_of(autoplot(water, "pairs")), "salinity and density \\(r = 1.00\\)")
  expect_match(title_of(autoplot(water, "missing")), "599 of 612 rows are complete; oxygen lacks most values \\(7\\)")
  expect_match(title_of(autoplot(water, "correlations")), "salinity")
  casts <- fl_demo("mooring_casts")
  spread <- vapply(features_of(casts), IQR, 0)
  expect_match(title_of(autoplot(casts, "profiles")), paste("differ most in", names(which.max(spread))))
  seals <- fl_demo("seal_haulouts")
  most <- which.max(seals$table$adults)
  expect_match(title_of(autoplot(seals, "map", c("longitude", "latitude"), amount = "adults")),
               paste0("adults is largest \\(", max(seals$table$adults), "\\) at longitude ", format(seals$table$longitude[most], digits = 6)))
})

test_that("what pulls, and what changes when a column is turned, is worked out from the distances themselves", {
  x <- scale(random_table(40, 4, 3) %*% diag(c(3, 2, 1, 1)), scale = FALSE)
  colnames(x) <- c("a", "b", "c", "d")
  squares <- function(x) x %*% t(x)
  rv <- function(x, y) sum(squares(x) * squares(y)) / sqrt(sum(squares(x)^2) * sum(squares(y)^2))
  change <- picture_changes(x, colnames(x))
  for (i in 1:4) {
    expect_equal(change$off[i], rv(x, x[, -i]))
    expect_equal(change$doubled[i], rv(x, x %*% diag(ifelse(1:4 == i, 2, 1))))
  }
  plane <- list(x = x, axes = principal_axes(x))
  pull <- column_pull(plane, colnames(x))
  scores <- x %*% plane$axes$turn[, 1:2]
  parts <- vapply(1:4, function(j) sum(plane$axes$turn[j, 1:2]^2 * colSums(scores^2)), 0)
  expect_equal(pull[colnames(x)], stats::setNames(parts / sum(parts), colnames(x)))
  expect_equal(names(pull)[1], "a")
})

test_that("columns can be turned up, down and off", {
  water <- fl_demo("water_samples")
  off <- autoplot(water, "pull", weights = c(salinity = 0, density = 0, oxygen = 3))
  drawn(off)
  expect_match(title_of(off), "^oxygen pulls the rows apart most")
  expect_error(autoplot(water, "pull", weights = c(salnity = 0)), class = "fjordline_error_column", regexp = "salinity")
  expect_error(autoplot(water, "pull", weights = c(salinity = -1)), class = "fjordline_error_argument")
  expect_error(autoplot(fl_demo("seal_haulouts"), "pull", weights = c(east = 0, north = 0)), class = "fjordline_error_argument", regexp = "every column")
})

test_that("a series of columns is put in its order, blocks side by side", {
  casts <- fl_prepare(fl_demo("mooring_casts"))$x
  mixed <- withr::with_seed(1, sample(ncol(casts)))
  order <- mixed[block_order(cor(casts[, mixed]))]
  expect_gt(abs(cor(order, seq_along(order))), 0.95)
  z <- withr::with_seed(2, matrix(rnorm(200 * 2), 200))
  blocks <- cbind(z[, 1], z[, 2], -z[, 1], z[, 2], z[, 1]) + withr::with_seed(3, rnorm(1000, sd = 0.2))
  found <- c("A", "B", "A", "B", "A")[block_order(cor(blocks))]
  expect_length(rle(found)$lengths, 2)
})

test_that("many rows are counted in cells or sampled, and the caption says so", {
  big <- withr::with_seed(1, data.frame(a = rnorm(30000), b = rnorm(30000), c = rexp(30000), k = sample(letters[1:3], 30000, TRUE)))
  data <- fl_data(big, truth = "k")
  expect_match(caption_of(drawn(autoplot(data, "scatter", c("a", "b")))), "counted in cells, 30,000 in all")
  expect_match(caption_of(drawn(autoplot(data, "map", c("a", "b"), amount = "c"))), "counted in cells")
  expect_match(caption_of(drawn(autoplot(data, "pairs"))), "even sample of 2,000 rows")
  expect_match(caption_of(drawn(autoplot(data, "profiles"))), "even sample of 400 rows")
  drawn(autoplot(data, "pull"))
  shallow <- fl_keep(fl_demo("water_samples"), depth < 50)
  expect_match(caption_of(autoplot(shallow)), "371 rows of 612")
})

test_that("odd tables draw: constant columns, gaps, one column, names with markup", {
  table <- data.frame(flat = 1, gappy = c(NA, rnorm(29)), `<b>x</b>` = rnorm(30), e = NA_real_, check.names = FALSE)
  data <- fl_data(table)
  for (view in c("columns", "pairs", "correlations", "missing", "profiles")) drawn(autoplot(data, view))
  drawn(autoplot(data, "components", columns = c("gappy", "<b>x</b>")))
  one <- fl_data(data.frame(a = rnorm(20)))
  for (view in c("columns", "components", "pull")) drawn(autoplot(one, view))
  expect_error(autoplot(one, "scatter"), class = "fjordline_error_column", regexp = "at least 2")
  expect_error(autoplot(heap_data(), "missing"), class = "fjordline_error_argument", regexp = "No value is missing")
})

test_that("wrong asks are refused in words", {
  water <- fl_demo("water_samples")
  expect_error(autoplot(water, "colums"), class = "fjordline_error_argument", regexp = "\"columns\"")
  expect_error(autoplot(water, "map"), class = "fjordline_error_argument", regexp = "coordinates")
  expect_error(autoplot(water, "scatter", c("salinity", "station")), class = "fjordline_error_column", regexp = "no numbers")
  expect_error(autoplot(water, "scatter", c("salinity", "oxygen", "depth")), class = "fjordline_error_argument", regexp = "two columns")
  expect_error(autoplot(water, colour = "sample"), class = "fjordline_error_argument", regexp = "up to 8")
  expect_error(autoplot(water, "map", c("longitude", "latitude"), amount = "latitud"), class = "fjordline_error_column", regexp = "latitude")
})

test_that("scaled units and outlier scores are drawn", {
  ready <- fl_prepare(fl_demo("vessel_visits"), missing = "middle", transform = c(hours = "log"))
  for (view in c("columns", "correlations", "components")) drawn(autoplot(ready, view))
  expect_equal(columns_of(prepared_table(water_ready()), "truth"), "water_mass")
  flags <- fl_outliers(fl_prepare(fl_demo("icequakes"), transform = "log"), "density_ratio", share = 0.01)
  expect_match(title_of(drawn(autoplot(flags))), "4 rows lie apart")
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(ready, file)
  expect_error(autoplot(fl_load(file)), class = "fjordline_error_model")
})

test_that("each figure of several panels is drawn as the first thing in a session", {
  folder <- withr::local_tempdir()
  first <- c(
    "autoplot(fl_outliers(fl_prepare(fl_demo('icequakes'), transform = 'log')))",
    "autoplot(fl_demo('water_samples'), view = 'pull')"
  )
  for (call in first) {
    script <- file.path(folder, "draw.R")
    writeLines(c("library(fjordline)", "grDevices::pdf(NULL)", paste0("print(", call, ")")), script)
    status <- suppressWarnings(system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(script)), stdout = FALSE,
                                       stderr = FALSE,
                                       env = paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep))))
    expect_equal(status, 0, info = call)
  }
})

test_that("labels are moved apart just enough, and keep their order", {
  at <- c(0, 0.1, 5, 0.05)
  moved <- moved_apart(at, 1)
  expect_equal(order(moved), order(at))
  expect_gte(min(diff(sort(moved))), 1 - 1e-6)
  expect_equal(moved[3], 5)
  expect_equal(moved_apart(c(3, 1), 1), c(3, 1))
  expect_equal(moved_apart(2, 1), 2)
})

test_that("panels fill the picture with few places left empty", {
  for (n in 1:20) {
    wide <- panel_columns(n)
    expect_true(wide >= 1 && wide <= n)
    expect_lt(wide * ceiling(n / wide) - n, wide)
  }
  expect_equal(panel_columns(6), 3)
  expect_equal(panel_columns(12), 4)
})

test_that("profiles share an axis only where their units allow it, and their middle is that of the rows", {
  values <- as.matrix(data.frame(a = c(1, 2, 3, 4), b = c(10, 20, NA, 40)))
  expect_true(same_units(c("a", "b"), c(a = "m", b = "m"), values))
  expect_false(same_units(c("a", "b"), c(a = "m", b = "s"), values))
  expect_false(same_units(c("a", "b"), c(a = "m"), values))
  expect_false(same_units(c("a", "b"), NULL, values))
  lines <- middle_lines(values, factor(c("x", "x", "y", "y"), c("x", "y")))
  expect_equal(lines$middle, c(1.5, 15, 3.5, 40))
  expect_equal(lines$low[1], quantile(c(1, 2), 0.25, names = FALSE))
  scaled <- scaled_columns(cbind(values, c = 7))
  expect_equal(scaled[, "a"], (1:4 - 2.5) / sd(1:4))
  expect_equal(unname(scaled[, "c"]), rep(0, 4))
})

test_that("distributions in bars hold every row, at the ends as well", {
  v <- c(0, 0, 1, 2, 10, 10)
  bars <- number_panel(v, bars = 5L)$data
  expect_equal(sum(bars$rows), 6)
  expect_equal(bars$rows[c(1, 5)], c(3, 2))
  expect_equal(sum(number_panel(rep(4, 7))$data$rows), 7)
  levels <- level_panel(c(rep("a", 5), rep("b", 3), letters[3:12]))$data
  expect_equal(sum(levels$rows), 18)
  expect_equal(as.character(levels$level[8]), "(others)")
})

test_that("the sift is drawn with a bar per column and measure, and red where there are more peaks than chance gives", {
  sift <- fl_sift(fl_demo("vessel_visits"))
  figure <- autoplot(sift)
  bars <- figure$data
  expect_equal(bars$value[bars$what == "several peaks" & bars$column == "hours"], sift$multimodality[sift$column == "hours"])
  expect_setequal(as.character(bars$column[bars$beyond]), sift$column[sift$beyond_chance %in% TRUE])
  expect_equal(nlevels(autoplot(sift, most = 3)$data$column), 3)
  expect_match(autoplot(sift, most = 3)$labels$caption, "the first 3 of")
})
