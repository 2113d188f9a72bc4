# Words in figures: what is shortened stays told apart, what is folded stays whole.

test_that("long words lose their middle, short ones nothing", {
  expect_equal(shortened(c("salinity", NA), 10), c("salinity", NA))
  long <- paste0("mean_dissolved_oxygen_at_", c("depth_01", "depth_12"))
  for (width in 8:20) {
    short <- shortened(long, width)
    expect_true(all(nchar(short) == width))
    expect_true(all(startsWith(long, sub("\u2026.*$", "", short)) & endsWith(long, sub("^.*\u2026", "", short))))
    expect_equal(anyDuplicated(short), 0)
  }
})

test_that("names are folded for a few groups and on one line for many", {
  few <- fl_name(fl_partition(fl_prepare(heap_data()), k = 3), c("the upper brackish water", "b", "c"))
  expect_equal(legend_labels(few, 14)(1:3), c("1 the upper\nbrackish\nwater", "2 b", "3 c"))
  expect_equal(gsub("\n", " ", legend_names(few, 1:2, 14)), c("the upper brackish water", "b"))
  many <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 10)
  many <- fl_name(many, paste("a rather long name of water", 1:10))
  expect_false(any(grepl("\n", legend_labels(many, 20)(1:10))))
  expect_equal(anyDuplicated(legend_labels(many, 20)(1:10)), 0)
  expect_equal(legend_labels(fl_partition(fl_prepare(heap_data()), k = 2))(c("1", "0")), c("1", "0 noise"))
})

test_that("of very many rows that disagree some are ringed, and the subtitle says so", {
  rows <- data.frame(row = 1:1000)
  expect_equal(nrow(ringed_rows(rows)), most_rings)
  expect_equal(nrow(ringed_rows(rows[1:7, , drop = FALSE])), 7)
  expect_equal(ring_word(300, 1000), "some of the ")
  expect_equal(ring_word(7, 7), "")
})

test_that("labels beside thin bars are moved apart, and keep their order", {
  rows <- c(rep(1, 400), rep(2, 400), rep(3, 3), rep(4, 3), rep(5, 3))
  figure <- draw_flows(list(rows, rows), 1, list(as.character, as.character), c("a", "b"))
  text <- ggplot2::ggplot_build(figure)$data[[3]]
  left <- text[text$x == min(text$x), ]
  expect_true(min(-diff(sort(left$y, decreasing = TRUE))) > 0.03 * 809)
  expect_equal(order(-left$y), order(as.integer(sub(" .*$", "", left$label))))
})

test_that("a crowded tree asks every question once, and its words stand clear of each other", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 12)
  paths <- fl_paths(groups, most_rules = 20)
  nodes <- path_nodes(paths)
  edges <- path_edges(nodes, paths, crowded = TRUE)
  expect_equal(sum(nzchar(edges$said)), sum(!nodes$leaf))
  expect_true(all(nzchar(path_edges(nodes, paths, crowded = FALSE)$said)))
  # every end lies beside no other, and nodes count the rows below them
  expect_equal(sort(nodes$y[nodes$leaf]), -(sum(nodes$leaf):1))
  for (i in which(!nodes$leaf)) {
    children <- nodes$number %in% c(2 * nodes$number[i], 2 * nodes$number[i] + 1)
    expect_equal(sum(nodes$rows[children]), nodes$rows[i])
  }
})
