test_that("scales are as defined", {
  x <- c(1, 2, 3, 4, 10)
  scaled <- function(scale) fl_prepare(fl_data(data.frame(x = x, y = rev(x))), scale = scale)$x[, 1]
  expect_equal(scaled("mean_sd"), (x - 4) / sqrt(sum((x - 4)^2) / 4))
  expect_equal(scaled("median_iqr"), (x - 3) / (2 / 1.349))
  expect_equal(scaled("unit_range"), (x - 1) / 9)
  expect_equal(scaled("none"), x)
})


test_that("median_iqr falls back to the standard deviation, and says so", {
  ready <- fl_prepare(fl_data(data.frame(x = c(rep(0, 9), 5), y = 1:10)), scale = "median_iqr")
  expect_match(ready$notes, "interquartile range of x is 0", all = FALSE)
  expect_equal(ready$x[10, 1], c(x = 5 / sd(c(rep(0, 9), 5))))
})


test_that("rows with missing values are set aside and keep their place", {
  table <- heaps()
  table$east[c(3, 50)] <- NA
  ready <- fl_prepare(fl_data(table, truth = "kind", id = "row"))
  expect_equal(ready$rows, setdiff(1:60, c(3, 50)))
  partition <- fl_partition(ready, k = 3)
  expect_equal(which(is.na(fl_labels(partition))), c(3, 50))
  expect_length(fl_labels(partition), 60)
  expect_error(fl_prepare(fl_data(table), missing = "stop"), class = "fjordline_error_values", regexp = "east in row 3")
})


test_that("a constant column is left out and said; the preparation of new rows leaves it out too", {
  table <- transform(heaps(), depth = 5)
  ready <- fl_prepare(fl_data(table, truth = "kind", id = "row"))
  expect_equal(colnames(ready$x), c("east", "north"))
  expect_match(ready$notes, "depth holds one single value", all = FALSE)
  expect_identical(replay(ready, table), ready$x)
})


test_that("steps are replayed to the last bit and inverted", {
  water <- fl_demo("water_samples")
  for (scale in names(scales_known)) {
    ready <- fl_prepare(water, scale = scale, transform = c(turbidity = "log", oxygen = "square_root", salinity = "log1p"))
    expect_identical(replay(ready, water$table)[ready$rows, ], ready$x)
    expect_equal(original_units(ready, ready$x), numeric_matrix(water$table, ready$features)[ready$rows, ],
                 tolerance = 1e-12)
  }
})


test_that("replaying never learns: one new row is scaled by the fitted table", {
  ready <- fl_prepare(heap_data())
  one <- heaps()[17, ]
  expect_equal(replay(ready, one)[1, ], ready$x[17, ])
})


test_that("a column that will decide is named", {
  expect_match(fl_prepare(fl_data(transform(heaps(), far = east * 1000, up = 1:60, down = 60:1)), scale = "none")$notes,
               "far has .* of all spread", all = FALSE)
  expect_equal(fl_prepare(heap_data())$notes, character())
})


test_that("tiny and huge numbers are scaled as their shape says; rounding noise is no column", {
  x <- heaps()$east
  plain <- fl_prepare(fl_data(data.frame(x = x, y = rev(x))))$x[, 1]
  for (factor in c(1e-160, 1e-300, 1e120)) {
    expect_equal(fl_prepare(fl_data(data.frame(x = x * factor, y = rev(x))))$x[, 1], plain, tolerance = 1e-12)
  }
  ready <- fl_prepare(fl_data(data.frame(x = x, y = 1 + 1e-16 * seq_along(x))))
  expect_equal(colnames(ready$x), "x")
  expect_equal(ncol(fl_prepare(fl_data(data.frame(x = x, y = 1e8 + x)))$x), 2)
})


# --- categories

ice_table <- function() {
  data.frame(
    speed = c(2, 4, 6, 8, 10, 12), ice = factor(c("none", "thin", "thin", "thick", "none", NA), c("none", "thin", "thick", "pack")),
    cargo = c("fish", "fish", "salt", "ice", "salt", "fish"), night = c(TRUE, FALSE, FALSE, TRUE, FALSE, FALSE)
  )
}

ice_data <- function(...) {
  fl_data(ice_table(), features = c("speed", "ice", "cargo", "night"), types = list(ice = c("none", "thin", "thick", "pack")), ...)
}

test_that("a category becomes indicators whose mean squared distance over pairs of rows is 2, or that of the numbers", {
  mean_squared <- function(x) {
    pairs <- utils::combn(nrow(x), 2)
    mean(apply(pairs, 2, function(p) sum((x[p[1], ] - x[p[2], ])^2)))
  }
  ready <- fl_prepare(ice_data(), use = c("speed", "cargo", "night"))
  cargo <- startsWith(colnames(ready$x), "cargo: ")
  expect_equal(colnames(ready$x)[cargo], c("cargo: fish", "cargo: ice", "cargo: salt"))
  expect_equal(mean_squared(ready$x[, cargo]), 2)
  expect_equal(mean_squared(ready$x[, "speed", drop = FALSE]), 2)
  plain <- fl_prepare(ice_data(), use = c("speed", "cargo", "night"), scale = "unit_range")
  numbers <- c(mean_squared(plain$x[, "speed", drop = FALSE]), mean_squared(plain$x[, "night", drop = FALSE]))
  expect_equal(mean_squared(plain$x[, cargo]), median(numbers))
})

test_that("an ordered column counts its levels; unused levels and unordered ranks are as the page says", {
  ready <- fl_prepare(ice_data(), use = c("speed", "ice"), scale = "none")
  expect_equal(ready$x[, "ice"], c(1, 2, 2, 3, 1))
  expect_equal(ready$rows, 1:5)
  drawn <- fl_prepare(ice_data(), use = c("speed", "ice"), categories = c(ice = "indicators"), scale = "none")
  expect_equal(colnames(drawn$x), c("speed", "ice: none", "ice: thick", "ice: thin"))
  expect_error(fl_prepare(ice_data(), categories = "ranks"), class = "fjordline_error_argument", regexp = "cargo")
  expect_error(fl_prepare(ice_data(), categories = c(cargoo = "drop")), class = "fjordline_error_column", regexp = "cargo")
  expect_equal(colnames(fl_prepare(ice_data(), categories = "drop")$x), c("speed", "night"))
})

test_that("centres of categories read as shares of their levels", {
  ready <- fl_prepare(ice_data(), use = c("speed", "cargo"))
  centre <- matrix(colMeans(ready$x[1:3, ]), 1, dimnames = list(NULL, colnames(ready$x)))
  expect_equal(original_units(ready, centre)[1, ], c(speed = 4, `cargo: fish` = 2 / 3, `cargo: ice` = 0, `cargo: salt` = 1 / 3))
})

# --- missing values

test_that("the middle fills in medians and the most frequent level; a row without any value is not filled", {
  table <- data.frame(a = c(1, 2, NA, 9, NA), b = c("x", NA, "x", "y", NA), c = c(1, 2, 3, 4, NA))
  data <- fl_data(table, features = c("a", "b", "c"), types = list(b = "category"))
  ready <- fl_prepare(data, missing = "middle", scale = "none")
  expect_equal(ready$rows, 1:4)
  expect_equal(ready$x[, "a"], c(1, 2, 2, 9))
  expect_equal(ready$x[, "b: x"] > 0, c(TRUE, TRUE, TRUE, FALSE))
  expect_equal(ready$left[["missing"]], 1)
})

test_that("nearest rows fill in their mean and most frequent level, worked out the slow way", {
  table <- withr::with_seed(8, data.frame(a = rnorm(60), b = rnorm(60, 5, 3), kind = sample(c("x", "y", "z"), 60, TRUE)))
  table$b <- table$b + 4 * table$a
  gaps <- table
  gaps$b[c(3, 17, 40)] <- NA
  gaps$kind[c(5, 17)] <- NA
  data <- fl_data(gaps, features = c("a", "b", "kind"))
  filled <- step_fill$apply(as_frame(gaps, column_forms(data, c("a", "b", "kind"))), fl_prepare(data, missing = "nearest")$steps[[1]])
  whole <- which(stats::complete.cases(gaps))
  differ <- mean(outer(gaps$kind[whole], gaps$kind[whole], "!=")[lower.tri(diag(length(whole)))])
  naive <- function(row, column) {
    known <- setdiff(names(gaps)[!is.na(gaps[row, ])], column)
    far <- vapply(whole, function(l) sum(vapply(known, function(c) {
      if (c == "kind") (gaps[row, c] != gaps[l, c]) * 2 / differ else (gaps[row, c] - gaps[l, c])^2 / var(gaps[whole, c])
    }, 0)), 0)
    near <- whole[order(far)[1:5]]
    if (column == "kind") names(which.max(table(gaps$kind[near]))) else mean(gaps[near, column])
  }
  for (row in c(3, 17, 40)) expect_equal(filled$b[row], naive(row, "b"))
  for (row in c(5, 17)) expect_equal(filled$kind[row], naive(row, "kind"))
  expect_error(fl_prepare(fl_data(gaps[c(1:8, 17), ], features = c("a", "b")), missing = "nearest"),
               class = "fjordline_error_table", regexp = "10 rows")
})

# --- transforms

test_that("ranks are shares of the rows below, ties halved; beyond the fit the ends hold", {
  data <- fl_data(data.frame(v = c(10, 20, 20, 40, 80)))
  ready <- fl_prepare(data, transform = c(v = "rank"), scale = "none")
  expect_equal(ready$x[, "v"], c(0.1, 0.4, 0.4, 0.7, 0.9))
  expect_equal(predict(ready, data.frame(v = c(5, 30, 1000)))[, "v"], c(0.1, 0.55, 0.9))
  expect_equal(original_units(ready, ready$x)[, "v"], c(10, 20, 20, 40, 80))
  many <- withr::with_seed(2, exp(rnorm(5000)))
  coarse <- fl_prepare(fl_data(data.frame(v = many)), transform = "rank", scale = "none")$x[, 1]
  expect_lt(max(abs(coarse - (rank(many) - 0.5) / 5000)), 1 / 1000)
})

test_that("the power is the one a grid over the likelihood finds, and is taken back", {
  naive_box_cox <- function(v, power) {
    y <- if (power == 0) log(v) else (v^power - 1) / power
    -length(v) / 2 * log(mean((y - mean(y))^2)) + (power - 1) * sum(log(v))
  }
  grid <- seq(-1.5, 2.5, 0.01)
  v <- withr::with_seed(4, rgamma(400, 3) * 1e5)
  best <- grid[which.max(vapply(grid, function(p) naive_box_cox(v, p), 0))]
  expect_equal(learn_power(v)[1:2], c(best, 1), tolerance = 0.011)
  signed <- withr::with_seed(5, -rgamma(400, 2) + 3)
  naive_yeo_johnson <- function(v, power) {
    one <- function(x) {
      if (x >= 0) if (power == 0) log(x + 1) else ((x + 1)^power - 1) / power
      else if (power == 2) -log(1 - x) else -((1 - x)^(2 - power) - 1) / (2 - power)
    }
    z <- (v - median(v)) / sd(v)
    y <- vapply(z, one, 0)
    -length(v) / 2 * log(mean((y - mean(y))^2)) + (power - 1) * sum(sign(z) * log1p(abs(z)))
  }
  best <- grid[which.max(vapply(grid, function(p) naive_yeo_johnson(signed, p), 0))]
  expect_equal(learn_power(signed)[1:2], c(best, 2), tolerance = 0.011)
  # a narrow range far from 0 is as good as signed
  narrow <- learn_power(signed + 1000)
  expect_equal(narrow[1:2], c(best, 2), tolerance = 0.011)
  expect_lt(abs(skewness(power_forward(signed + 1000, narrow))), 0.3)
  for (values in list(v, signed, signed + 1000)) {
    p <- learn_power(values)
    expect_equal(power_back(power_forward(values, p), p), values, tolerance = 1e-9)
  }
  # shape, not units, decides the power
  expect_equal(learn_power(v)[1], learn_power(v * 1e-9)[1])
})

test_that("a transform for all leaves categories alone, and is refused for them by name", {
  ready <- fl_prepare(ice_data(), use = c("speed", "cargo"), transform = "log", scale = "none")
  expect_equal(ready$x[, "speed"], log(ice_table()$speed))
  expect_error(fl_prepare(ice_data(), transform = c(cargo = "log")), class = "fjordline_error_column", regexp = "no numbers")
})

# --- outliers, weights, components

test_that("winsorising pulls values beyond the outer fences to them, in new rows as well", {
  v <- c(1:20, 500)
  ready <- fl_prepare(fl_data(data.frame(v = v, w = 21:1)), outliers = "winsorise", scale = "none")
  fence <- quantile(v, 0.75, names = FALSE) + 3 * IQR(v)
  expect_equal(ready$x[, "v"], pmin(v, fence))
  expect_equal(predict(ready, data.frame(v = c(-1e6, 9), w = 1))[, "v"], c(quantile(v, 0.25, names = FALSE) - 3 * IQR(v), 9))
})

test_that("dropped outliers get no group, stay in the table, and teach the scale nothing", {
  table <- rbind(heaps(), data.frame(row = "far", east = 1e4, north = -1e4, kind = "a"))
  data <- fl_data(table, truth = "kind", id = "row")
  ready <- fl_prepare(data, outliers = "drop")
  expect_equal(ready$rows, 1:60)
  expect_equal(ready$x, fl_prepare(heap_data())$x)
  groups <- fl_partition(ready, k = 3)
  expect_identical(fl_labels(groups)[61], NA_integer_)
  expect_equal(nrow(augment(groups)), 61)
  expect_match(fl_facts(groups), "1 row lies apart", all = FALSE)
  flags <- fl_outliers(fl_prepare(data, scale = "none"), threshold = 100)
  expect_equal(fl_prepare(data, outliers = flags)$x, ready$x)
  expect_match(fl_steps(fl_prepare(data, outliers = flags)), "fl_outliers\\(ready, threshold = 100\\)", all = FALSE)
  expect_error(fl_prepare(heap_data(), outliers = flags), class = "fjordline_error_argument", regexp = "another table")
})

test_that("weights multiply after scaling, all levels of a category together, and are taken back", {
  ready <- fl_prepare(ice_data(), use = c("speed", "cargo"), weights = c(speed = 2, cargo = 0.5))
  plain <- fl_prepare(ice_data(), use = c("speed", "cargo"))
  expect_equal(ready$x, sweep(plain$x, 2, c(2, 0.5, 0.5, 0.5), "*"))
  expect_equal(original_units(ready, ready$x), original_units(plain, plain$x))
  expect_error(fl_prepare(ice_data(), weights = c(speed = 0)), class = "fjordline_error_argument", regexp = "use")
  expect_error(fl_prepare(ice_data(), weights = c(sped = 1)), class = "fjordline_error_column", regexp = "speed")
})

test_that("components are those of the singular value decomposition; enough are kept for the share asked for", {
  water <- fl_prepare(fl_demo("water_samples"))
  parts <- svd(scale(water$x, scale = FALSE))
  share <- parts$d^2 / sum(parts$d^2)
  ready <- fl_prepare(fl_demo("water_samples"), reduce = 0.9)
  expect_equal(ncol(ready$x), which(cumsum(share) >= 0.9)[1])
  expect_equal(unname(abs(ready$x)), unname(abs(parts$u %*% diag(parts$d))[, seq_len(ncol(ready$x))]), tolerance = 1e-8)
  all <- fl_prepare(fl_demo("water_samples"), reduce = 6)
  expect_equal(original_units(all, all$x), numeric_matrix(water$data$table, water$features)[water$rows, ], tolerance = 1e-9)
  wide <- fl_prepare(fl_data(random_table(8, 30, 1)), reduce = 50)
  expect_equal(ncol(wide$x), 7)
  expect_equal(as.matrix(dist(wide$x)), as.matrix(dist(fl_prepare(fl_data(random_table(8, 30, 1)))$x)), tolerance = 1e-8)
  for (wrong in list(0, -1, 1.5, "two", NA)) {
    expect_error(fl_prepare(fl_demo("water_samples"), reduce = wrong), class = "fjordline_error_argument")
  }
})

# --- keeping and replaying

# Preparations of every kind of step, on a table with gaps, levels and a long tail.
rich_table <- function() {
  n <- 90
  withr::with_seed(6, data.frame(
    depth = c(NA, rnorm(n - 1, 40, 10)), tail = exp(rnorm(n)), signed = rnorm(n), far = c(rnorm(n - 1), 60), flat = 3,
    ice = factor(sample(c("none", "thin", "thick"), n, TRUE), c("none", "thin", "thick"), ordered = TRUE),
    cargo = c(NA, sample(c("fish", "salt", "ice"), n - 1, TRUE)), night = rep(c(TRUE, FALSE, FALSE), n / 3)
  ))
}

rich_preparations <- function() {
  data <- fl_data(rich_table(), features = names(rich_table()), name = "rich")
  list(
    fl_prepare(data, missing = "nearest", transform = c(tail = "log", signed = "power", depth = "rank"), outliers = "winsorise",
               weights = c(cargo = 0.5, tail = 1 / 3), reduce = 0.8),
    fl_prepare(data, missing = "middle", scale = "median_iqr", transform = c(tail = "power"), categories = c(ice = "indicators")),
    fl_prepare(data, scale = "unit_range", outliers = "drop"), fl_prepare(data, scale = "none", reduce = 2)
  )
}

test_that("preparing, saving, loading in a new R process and applying to the same rows gives the identical matrix", {
  folder <- withr::local_tempdir()
  table <- rich_table()
  saveRDS(table, file.path(folder, "table.rds"))
  made <- rich_preparations()
  for (i in seq_along(made)) fl_save(made[[i]], file.path(folder, paste0(i, ".json")))
  script <- file.path(folder, "replay.R")
  writeLines(c(
    "table <- readRDS('table.rds')",
    "for (i in 1:4) saveRDS(predict(fjordline::fl_load(paste0(i, '.json')), table), paste0(i, '.rds'))"
  ), script)
  withr::with_dir(folder, system2(file.path(R.home("bin"), "Rscript"), c("--vanilla", shQuote(script)),
                                  env = paste0("R_LIBS=", paste(.libPaths(), collapse = ":"))))
  for (i in seq_along(made)) {
    again <- readRDS(file.path(folder, paste0(i, ".rds")))
    expect_identical(again[made[[i]]$rows, ], made[[i]]$x, info = as.character(i))
    expect_identical(replay(made[[i]], table)[made[[i]]$rows, ], made[[i]]$x, info = as.character(i))
  }
})

test_that("applying to new rows never refits: rows alone, in any order or company, come out the same", {
  table <- rich_table()
  for (ready in rich_preparations()) {
    whole <- replay(ready, table)
    expect_equal(replay(ready, table[90:1, ])[90:1, ], whole, tolerance = 1e-12)
    expect_equal(replay(ready, table[7, ])[1, ], whole[7, ], tolerance = 1e-12)
  }
})

test_that("levels never seen and numbers a transform cannot take count as missing, with a warning that says where", {
  table <- rich_table()
  filling <- rich_preparations()[[1]]
  dropping <- fl_prepare(fl_data(table, features = c("tail", "cargo")), transform = c(tail = "log"))
  new <- table[c(5, 6, 7), ]
  new$cargo[1] <- "whale"
  new$tail[2] <- -1
  expect_warning(x <- replay(dropping, new), class = "fjordline_warning_values", regexp = "cargo.*row 1: whale.*tail.*row 2: -1")
  expect_equal(rowSums(is.na(x)) > 0, c(TRUE, TRUE, FALSE))
  x <- suppressWarnings(replay(filling, new))
  expect_false(anyNA(x))
  gaps <- table[5, ]
  gaps$cargo <- NA
  expect_equal(x[1, ], replay(filling, gaps)[1, ])
  new$depth <- "deep"
  expect_error(replay(filling, new), class = "fjordline_error_column", regexp = "Row 1 holds \"deep\"")
  expect_error(replay(filling, new[-1]), class = "fjordline_error_column", regexp = "lack column \"depth\"")
})

test_that("the steps print as a readable list, also after loading", {
  file <- withr::local_tempfile(fileext = ".json")
  withr::local_options(cli.width = 100, width = 100)
  expect_snapshot(print(rich_preparations()[[1]]))
  fl_save(rich_preparations()[[2]], file)
  expect_snapshot(print(fl_load(file)))
})

test_that("every table that can be shuffled by rows is prepared alike", {
  table <- rich_table()
  order <- withr::with_seed(1, sample(nrow(table)))
  data <- fl_data(table, features = names(table))
  mixed <- fl_data(table[order, ] |> (\(t) { rownames(t) <- NULL; t })(), features = names(table))
  a <- fl_prepare(data, missing = "middle", transform = c(tail = "power"), reduce = 3)
  b <- fl_prepare(mixed, missing = "middle", transform = c(tail = "power"), reduce = 3)
  expect_equal(b$x, a$x[match(order[b$rows], a$rows), ], tolerance = 1e-9)
})

test_that("centres of a reduced preparation are the means of the columns themselves; what stands out is told in words", {
  data <- fl_data(transform(heaps(), third = east + north, kindly = kind == "a"), features = c("east", "north", "third", "kindly", "kind"),
                  id = "row")
  groups <- fl_partition(fl_prepare(data, reduce = 2), k = 3)
  for (g in 1:3) {
    rows <- which(fl_labels(groups) == g)
    expect_equal(groups$groups$third[g], mean(data$table$third[rows]))
    expect_equal(groups$groups$`kind: a`[g], mean(data$table$kind[rows] == "a"))
  }
  words <- paste(fl_profile(groups, sets = 0, audit = FALSE)$groups$standouts, collapse = "; ")
  expect_match(words, "more often kind \"a\"")
  expect_match(words, "more often kindly")
  expect_match(plane_map(groups, NULL)$x, "mostly (east|north|third|kind)")
})

test_that("a preparation that fills does so for new rows, also where the fitted table had no gap", {
  for (how in c("middle", "nearest")) {
    ready <- fl_prepare(heap_data(), missing = how)
    new <- heaps()[c(3, 30), ]
    new$east[1] <- NA
    x <- predict(ready, new)
    expect_false(anyNA(x), info = how)
    expect_equal(x[2, ], ready$x[30, ])
    # a row without any value stays without a place
    new[1, c("east", "north")] <- NA
    expect_equal(unname(is.na(predict(ready, new)[, 1])), c(TRUE, FALSE))
  }
  middle <- predict(fl_prepare(heap_data(), missing = "middle", scale = "none"), data.frame(east = NA, north = 5))
  expect_equal(middle[1, ], c(east = median(heaps()$east), north = 5))
  expect_equal(dim(predict(ready, heaps()[0, ])), c(0, 2))
})

test_that("numbers too small to square are refused, and any other unit is none of our business", {
  tiny <- heaps()[c("east", "north")] * 1e-200
  expect_error(fl_prepare(fl_data(tiny), scale = "none"), class = "fjordline_error_values", regexp = "too small to square")
  expect_equal(fl_labels(fl_partition(fl_prepare(fl_data(tiny)), k = 3)), fl_labels(fl_partition(fl_prepare(heap_data()), k = 3)))
})
