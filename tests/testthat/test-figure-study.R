# The figures of a study hold the numbers of its standings.

test_that("scores, ranks, time and the track record are drawn as they are", {
  result <- quick_result()
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

test_that("stability, and index values against agreement, are drawn as they are", {
  result <- quick_result()
  standings <- fl_standings(result)
  stable <- ggplot2::layer_data(autoplot(result, "stability"), 2)
  expect_equal(sort(stable$x), sort(standings$scores$stability))
  expect_error(autoplot(fl_run(quick_study(repeats = 1)), "stability"), "repeated", class = "fjordline_error_argument")
  record <- fl_track_record(result)
  # rank correlations by hand; the Davies-Bouldin index is better where it is lower
  cells <- as.data.frame(result)
  cells$judgement <- judgement_at(result$study, cells, cells$method)
  for (index in c("silhouette", "davies_bouldin")) for (dataset in names(record$known)) {
    each <- vapply(unique(cells$preparation), function(preparation) {
      mine <- cells[cells$dataset == dataset & cells$preparation == preparation, ]
      values <- result$values[result$values$measure == index & result$values$asked, ]
      value <- values$value[match(paste(mine$judgement, mine$k), paste(values$judgement, values$k))]
      stats::cor(if (index == "silhouette") value else -value, mine$adjusted_rand, method = "spearman")
    }, 0)
    row <- record$relation[record$relation$index == index & record$relation$dataset == dataset, ]
    expect_equal(row$correlation, mean(each))
  }
  tiles <- ggplot2::layer_data(autoplot(record, "relation"), 2)
  expect_setequal(tiles$label, fixed2(record$relation$correlation))
  points <- ggplot2::layer_data(autoplot(result, "index"), 2)
  expect_equal(nrow(points), sum(cells$status == "done"))
  expect_error(autoplot(record, "index", index = "silhouete"), "silhouette", class = "fjordline_error_argument")
  for (view in c("stability", "relation", "index")) expect_silent(ggplot2::ggplotGrob(autoplot(result, view)))
})

test_that("bars join the longest runs of ranks within the critical difference", {
  expect_equal(as.list(cliques_of_ranks(c(1, 1.5, 2.2, 4), 1)), list(from = c(1L, 2L), to = c(2L, 3L)))
  expect_equal(nrow(cliques_of_ranks(c(1, 3, 5), 1)), 0)
  expect_equal(as.list(cliques_of_ranks(c(1, 2, 3), 5)), list(from = 1L, to = 3L))
})
