# Views of a partition: what each draws is what the partition says.

drawn <- function(figure, layer = 1) ggplot2::ggplot_build(figure)$data[[layer]]

test_that("every view draws, also with noise, one group, many groups and hostile names", {
  named <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 5), c("top", "<b>", "a, b", "shelf", "melt"))
  adopted <- fl_adopt(water_ready(), "station", noise = "narrows")
  one <- fl_partition(water_ready(), k = 1)
  many <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 14)
  for (groups in list(named, adopted, one, many)) {
    for (view in c("plane", "pairs", "boxes", "profiles", "beside", "space", "time")) {
      expect_s3_class(ggplot2::ggplot_build(autoplot(groups, view))$plot, "ggplot")
    }
    expect_s3_class(autoplot(groups, "map", columns = c("longitude", "latitude"), amount = "depth"), "ggplot")
    expect_s3_class(ggplot2::ggplot_build(autoplot(groups, "images", grid = c(2, 3)))$plot, "ggplot")
  }
})

test_that("boxes are the quantiles of each group in original units", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 5)
  figure <- autoplot(groups, "boxes", columns = "salinity")
  boxes <- drawn(figure, 2)
  salinity <- groups$ready$data$table$salinity
  for (g in 1:5) {
    q <- quantile(salinity[groups$group %in% g], c(0.25, 0.75), names = FALSE)
    mine <- boxes[boxes$y == 6 - g, ]
    expect_equal(c(mine$x, mine$xend), q, ignore_attr = TRUE)
  }
})

test_that("profiles show each group's median against the median of all rows, as measured where units are shared", {
  casts <- fl_partition(fl_prepare(fl_demo("mooring_casts")), fl_method("kmeans", metric = "correlation", restarts = 2), k = 3)
  figure <- autoplot(casts, "profiles")
  middle <- drawn(figure, 4)
  values <- as.matrix(casts$ready$data$table[casts$ready$features])
  for (g in 1:3) {
    mine <- middle[middle$PANEL == g, ]
    expect_equal(mine$y[order(mine$x)], unname(apply(values[casts$group == g, ], 2, median)))
  }
  expect_equal(unique(drawn(figure, 2)$y[1:32]), unique(unname(apply(values, 2, median))))
  expect_match(gsub("\n", " ", figure$labels$subtitle), "as measured")
  expect_match(autoplot(fl_partition(water_ready(), k = 2), "profiles")$labels$caption, "standard")
})

test_that("pictures put the first columns in the first row, and the mean is the group's", {
  casts <- fl_partition(fl_prepare(fl_demo("mooring_casts")), fl_method("kmeans", restarts = 2), k = 2)
  cells <- image_cells(matrix(1:6, 1), c(2, 3), data.frame(group = 1, place = "mean"))
  expect_equal(cells$value[order(cells$y, cells$x)], 1:6)
  expect_equal(cells$x, rep(1:3, 2))
  expect_equal(cells$y, rep(1:2, each = 3))
  expect_error(autoplot(casts, "images"), class = "fjordline_error_argument", regexp = "grid")
  expect_error(autoplot(casts, "images", grid = c(5, 5)), class = "fjordline_error_argument", regexp = "32")
})

test_that("turning rows to the viewer keeps their distances, and the default angles look from above", {
  points <- random_table(20, 3, 4)
  seen <- turned_to_viewer(points, c(35, 20))
  expect_equal(as.vector(dist(cbind(seen$x, seen$y, seen$depth))), as.vector(dist(points)))
  top <- turned_to_viewer(points, c(0, 90))
  expect_equal(cbind(top$x, top$y), points[, 1:2], ignore_attr = TRUE)
  front <- turned_to_viewer(points, c(0, 0))
  expect_equal(cbind(front$x, front$y), points[, c(1, 3)], ignore_attr = TRUE)
  groups <- fl_partition(water_ready(), k = 2)
  expect_error(autoplot(groups, "space", columns = c("salinity", "oxygen")), class = "fjordline_error_argument", regexp = "three")
  expect_error(autoplot(groups, "space", angle = c(0, 120)), class = "fjordline_error_argument")
})

test_that("groups beside labels share colours where they match; a rewarding view asks for what it needs", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 5)
  contrast <- fl_contrast(groups, fl_adopt(groups$ready, "water_mass"))
  colours <- contrast_colours(contrast)
  matched <- contrast$agreement$matched
  for (i in which(!is.na(matched$class))) {
    expect_equal(unname(colours[paste0("b", matched$class[i])]), unname(colours[paste0("a", matched$group[i])]))
  }
  expect_error(autoplot(fl_partition(fl_prepare(fl_demo("still_water")), k = 2), "beside"), class = "fjordline_error_argument",
               regexp = "with")
  expect_error(autoplot(fl_partition(fl_prepare(heap_data()), k = 2), "time"), class = "fjordline_error_argument",
               regexp = "dates")
  expect_error(autoplot(groups, "boxs"), class = "fjordline_error_argument", regexp = "boxes")
})
