# The figures of a study hold the numbers of its standings.

test_that("scores, ranks, time and the track record are drawn as they are", {
  result <- fl_run(quick_study())
  standings <- fl_standings(result)
  scores <- ggplot2::layer_data(autoplot(standings), 3)
  expect_setequal(scores$label, fixed2(standings$scores$value))
  outlined <- ggplot2::layer_data(autoplot(standings), 2)
  expect_gte(nrow(outlined), length(standings$tables))
  ranks <- ggplot2::layer_data(autoplot(standings, "ranks"), 2)
  expect_equal(sort(ranks$x), sort(standings$ranks$rank))
  expect_match(autoplot(result, "time")$labels$title, "Slowest: ")
  record <- fl_track_record(result)
  points <- ggplot2::layer_data(autoplot(record, most = 5), 3)
  expect_equal(points$x[order(-points$y)], record$record$found[1:5])
  for (figure in list(autoplot(standings), autoplot(standings, "ranks"), autoplot(standings, "time"), autoplot(record))) {
    expect_silent(ggplot2::ggplotGrob(figure))
  }
  expect_error(autoplot(fl_standings(fl_run(quick_study(datasets = list(one = known_heaps(1))))), "ranks"), "two tables",
               class = "fjordline_error_argument")
})

test_that("bars join the longest runs of ranks within the critical difference", {
  expect_equal(as.list(cliques_of_ranks(c(1, 1.5, 2.2, 4), 1)), list(from = c(1L, 2L), to = c(2L, 3L)))
  expect_equal(nrow(cliques_of_ranks(c(1, 3, 5), 1)), 0)
  expect_equal(as.list(cliques_of_ranks(c(1, 2, 3), 5)), list(from = 1L, to = 3L))
})
