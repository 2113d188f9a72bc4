layer_rows <- function(figure, i) nrow(ggplot2::layer_data(figure, i))

text_of <- function(figure) paste(unlist(figure$labels[c("title", "subtitle", "caption", "x", "y")]), collapse = " ")

test_that("the palette stays apart for all readers, and in lightness does not fall together", {
  # Machado, Oliveira & Fernandes (2009), severity 1
  vision <- list(
    normal = diag(3),
    protan = rbind(c(0.152286, 1.052583, -0.204868), c(0.114503, 0.786281, 0.099216),
                   c(-0.003882, -0.048116, 1.051998)),
    deutan = rbind(c(0.367322, 0.860646, -0.227968), c(0.280085, 0.672501, 0.047413), c(-0.011820, 0.042940, 0.968881)),
    tritan = rbind(c(1.255528, -0.076749, -0.178779), c(-0.078411, 0.930809, 0.147602), c(0.004733, 0.691367, 0.303900))
  )
  linear <- function(v) ifelse(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055)^2.4)
  back <- function(v) {
    v <- pmin(pmax(v, 0), 1)
    ifelse(v <= 0.0031308, v * 12.92, 1.055 * v^(1 / 2.4) - 0.055)
  }
  rgb <- t(grDevices::col2rgb(fl_palette(8))) / 255
  for (name in names(vision)) {
    lab <- grDevices::convertColor(back(linear(rgb) %*% t(vision[[name]])), "sRGB", "Lab")
    pairs <- utils::combn(8, 2)
    apart <- sqrt(rowSums((lab[pairs[1, ], ] - lab[pairs[2, ], ])^2))
    expect_gt(min(apart), 24)
  }
  expect_length(unique(fl_palette(20)), 20)
  expect_error(fl_palette(-1), class = "fjordline_error_argument")
})

test_that("the sweep has one panel per index, marks the vote's count and every pick, and says which way is better", {
  sweep <- quick_sweep(fl_prepare(heap_data()), k = 1:6)
  vote <- fl_vote(sweep)
  figure <- autoplot(sweep)
  built <- ggplot2::ggplot_build(figure)
  expect_equal(nrow(built$layout$layout), length(sweep$indices))
  expect_match(as.character(levels(figure$data$panel)), "high: 3|low: |abstains", all = TRUE)
  band <- built$data[[1]]
  expect_true(all(band$xmin < 3 & band$xmax > 3))
  picks <- built$data[[length(built$data)]]
  expect_equal(sort(picks$x), sort(vote$ballots$k[vote$ballots$rank == 1]))
  expect_match(text_of(figure), "Three groups, by k-means")
  expect_match(text_of(figure), "60 of 60 rows")
})

test_that("a vote without a clear count marks none", {
  said <- list("No evidence of groups" = fl_prepare(fl_demo("still_water")), "No clear count" = water_ready())
  for (words in names(said)) {
    vote <- fl_vote(quick_sweep(said[[words]], k = 1:10))
    expect_match(text_of(autoplot(vote)), words)
    bands <- vapply(autoplot(vote)$layers, function(l) "xmin" %in% names(l$mapping) && identical(names(l$data), "k"), NA)
    expect_false(any(bands))
  }
})

test_that("the vote shows every index and the points", {
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:6))
  figure <- autoplot(vote)
  labels <- ggplot2::ggplot_build(figure)$layout$panel_params[[1]]$y$get_labels()
  expect_true(all(c("silhouette", "elbow", "bic (no vote)") %in% labels))
  expect_error(autoplot(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1))), class = "fjordline_error_argument")
})

test_that("the plane draws every clustered row, the centres on top, rings on rows that disagree, and units on the axes",
          {
  groups <- fl_partition(water_ready(), k = 5)
  figure <- autoplot(groups)
  expect_equal(layer_rows(figure, 1), 599)
  expect_equal(layer_rows(figure, 2), length(fl_agree(groups)$disagree))
  expect_equal(layer_rows(figure, 3), 5)
  expect_match(text_of(figure), "% of the spread")
  on_columns <- autoplot(groups, columns = c("temperature", "salinity"), truth = FALSE)
  expect_equal(on_columns$labels$x, "temperature (\u00b0C)")
  expect_equal(layer_rows(on_columns, 1), 599)
  kept_aside <- autoplot(groups, columns = c("longitude", "latitude"))
  expect_equal(kept_aside$labels$y, "latitude (\u00b0N)")
})

test_that("the plane of one column, of two, of one group and of a table without truth can be drawn", {
  for (features in list("east", c("east", "north"))) {
    for (k in c(1, 3)) {
      groups <- fl_partition(fl_prepare(fl_data(heaps(), id = "row", features = features)), k = k)
      expect_s3_class(ggplot2::ggplot_build(autoplot(groups))$plot, "ggplot")
    }
  }
})

test_that("many rows are sampled evenly, and the caption says so", {
  ready <- ready_from(random_table(25000, 2, 1))
  figure <- autoplot(fl_partition(ready, fl_method("kmeans", restarts = 1), k = 2))
  expect_equal(layer_rows(figure, 1), 20000)
  expect_match(text_of(figure), "even sample of 20,000 rows")
})

test_that("silhouettes have one line per row and their mean in the title", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  figure <- autoplot(groups, view = "silhouette")
  expect_equal(layer_rows(figure, 1), 60)
  expect_match(figure$labels$title, formatC(mean(naive_silhouette(groups$ready$x, fl_labels(groups))), digits = 2,
                                            format = "f"))
  expect_error(autoplot(fl_partition(fl_prepare(heap_data()), k = 1), view = "silhouette"),
               class = "fjordline_error_argument")
})

test_that("the heat map has a cell a pair with the matches outlined on the diagonal", {
  agreement <- fl_agree(fl_partition(water_ready(), k = 5))
  figure <- autoplot(agreement)
  expect_equal(layer_rows(figure, 1), 25)
  outlined <- ggplot2::layer_data(figure, 2)
  expect_equal(as.numeric(outlined$x) + as.numeric(outlined$y), rep(6, 5))
})

test_that("bad views and columns are refused by name", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_error(autoplot(groups, view = "plain"), class = "fjordline_error_argument", regexp = "plane")
  expect_error(autoplot(groups, columns = c("east", "nort")), class = "fjordline_error_column", regexp = "north")
  expect_error(autoplot(groups, columns = c("east", "kind")), class = "fjordline_error_column", regexp = "no numbers")
  expect_error(autoplot(groups, columns = "east"), class = "fjordline_error_column", regexp = "two")
})

test_that("a figure file is a picture of 1280 by 800 pixels", {
  file <- withr::local_tempfile(fileext = ".png")
  save_figure(autoplot(fl_partition(fl_prepare(heap_data()), k = 3)), file)
  header <- readBin(file, "raw", 24)
  expect_equal(header[2:4], charToRaw("PNG"))
  expect_equal(sum(as.integer(header[17:20]) * 256^(3:0)), 1280)
  expect_equal(sum(as.integer(header[21:24]) * 256^(3:0)), 800)
})

test_that("twelve groups, long names and missing classes can be drawn, and nothing warns", {
  table <- heaps()
  names(table)[2] <- "temperature of the water at the deepest point of the inner basin"
  table$kind[1:3] <- NA
  partition <- fl_partition(fl_prepare(fl_data(table, truth = "kind", id = "row")), k = 12)
  file <- withr::local_tempfile(fileext = ".png")
  for (figure in list(autoplot(partition), autoplot(partition, view = "silhouette"), autoplot(fl_agree(partition)))) {
    expect_silent(save_figure(figure, file))
    expect_gt(file.size(file), 5000)
  }
  expect_match(autoplot(partition)$labels$title, "^Twelve groups of [0-9]+ to [0-9]+ rows")
  expect_true("not known" %in% levels(autoplot(partition)$data$class))
})

test_that("plot draws and returns its object", {
  withr::local_pdf(withr::local_tempfile(fileext = ".pdf"))
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_identical(plot(groups), groups)
  expect_identical(plot(groups, view = "silhouette"), groups)
})

test_that("settled votes carry the decision into the figures", {
  vote <- fl_settle(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:6)), 2, "two boats")
  for (figure in list(autoplot(vote), autoplot(vote$sweep, vote = vote))) {
    expect_match(figure$labels$title, "^Two groups, settled by you: two boats")
  }
  expect_match(autoplot(vote$sweep, vote = vote)$labels$subtitle, "the count settled on")
})
