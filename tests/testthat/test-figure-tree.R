# Trees as drawn: every merge at its height, no lines that cross, the cut between two merges.

test_that("a dendrogram has three lines a merge, at the tree's heights, and no crossings", {
  ready <- ready_from(random_heaps(50, 3, 4, sd = 6, seed = 2))
  fit <- fl_partition(ready, fl_method("linkage", join = "average"), k = 4)
  tree <- fit$model$tree
  layout <- tree_layout(tree, fl_labels(fit))
  expect_equal(nrow(layout$lines), 3 * 49)
  expect_equal(sort(layout$lines$y[layout$lines$y == layout$lines$yend & layout$lines$x != layout$lines$xend]),
               sort(tree$height))
  expect_equal(sort(layout$leaves$row), 1:50)
  # rows of a group stand side by side, so that no bracket crosses another
  for (k in c(2, 4, 10)) {
    labels <- cut_kernel(tree$low, tree$high, 50L, as.integer(k))[layout$leaves$row]
    expect_equal(length(rle(labels)$lengths), k)
  }
  expect_gt(cut_height(tree, 4), tree$height[46])
  expect_lt(cut_height(tree, 4), tree$height[47])
  figure <- ggplot2::autoplot(fit, "dendrogram")
  expect_match(figure$labels$title, "Four groups: cut between heights")
  expect_no_warning(ggplot2::ggplot_build(figure))
  expect_s3_class(ggplot2::autoplot(fl_partition(ready, "linkage", k = 1), "dendrogram"), "ggplot")
})

test_that("the branch tree draws each branch from its birth to its end, on a line of its own", {
  fit <- fl_partition(fl_prepare(fl_demo("seal_haulouts")), "hdbscan")
  branches <- fit$model$branches
  lives <- branch_lives(branches)
  born <- branches$parent > 0
  expect_equal(10^-lives$from[born], branches$birth[born])
  expect_equal(10^-lives$to, branches$end)
  expect_true(all(lives$from[!born] < min(lives$to)))
  expect_equal(lives$rows, branches$rows)
  # a child begins where its parent ends, and hangs on the parent's line
  expect_equal(lives$from[born], lives$to[branches$parent[born]])
  expect_equal(lives$fork[born], lives$y[branches$parent[born]])
  # no two branches that live at the same distance share a line, and a parent lies between its children
  for (parent in unique(branches$parent[born])) {
    own <- lives$y[branches$parent == parent]
    expect_true(lives$y[parent] > min(own) && lives$y[parent] < max(own))
  }
  for (line in split(lives, lives$y)) {
    line <- line[order(line$from), ]
    expect_true(all(line$to[-nrow(line)] <= line$from[-1]))
  }
  expect_equal(sum(lives$chosen), fit$k)
  expect_s3_class(ggplot2::ggplot_build(ggplot2::autoplot(fit, "tree")), "ggplot_built")
})

test_that("the radius is drawn where it was suggested, or said to be another", {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  figure <- ggplot2::autoplot(fl_partition(seals, "dbscan"), "radius")
  expect_match(figure$labels$caption, "the radius used")
  other <- ggplot2::autoplot(fl_partition(seals, fl_method("dbscan", radius = 0.3)), "radius")
  expect_match(other$labels$caption, "which\\s+suggests 0.129")
})

test_that("trees carry the names of their groups, beside the ids of few rows on the cut", {
  named <- c("north shore", "skerry", "outer rocks")
  ready <- fl_prepare(fl_data(heaps(), truth = "kind", id = "row", name = "heaps"))
  fit <- fl_name(fl_partition(ready, "linkage", k = 3), named)
  labels <- function(figure) {
    unlist(lapply(ggplot2::ggplot_build(figure)$data, function(layer) as.character(layer$label)))
  }
  few <- labels(ggplot2::autoplot(fit, "dendrogram"))
  for (name in named) expect_true(any(grepl(sub(" .*", "", name), few)))
  expect_true(all(as.character(heaps()$row) %in% few))
  # a label on the cut stands on the stem of its group: the place of the group's last merge
  layout <- tree_layout(fit$model$tree, fl_labels(fit))
  for (g in 1:3) {
    stem <- layout$lines[layout$lines$group == g & layout$lines$x == layout$lines$xend, ]
    top <- stem[which.max(stem$yend), ]
    expect_equal(layout$spans$stem[layout$spans$group == g], top$x)
  }
  many <- fl_partition(ready_from(random_heaps(100, 2, 3, sd = 8, seed = 1)), "linkage", k = 3)
  expect_setequal(labels(ggplot2::autoplot(many, "dendrogram")), c("1", "2", "3"))
  seals <- fl_partition(fl_prepare(fl_demo("seal_haulouts")), "hdbscan")
  tree <- labels(ggplot2::autoplot(fl_name(seals, fl_agree(seals, noise = "stray")), "tree"))
  expect_setequal(tree[!grepl("[a-z]", tree)], as.character(c(900, 596, 289, 356, 154, 197, 156, 221, 91, 62, 132)))
  expect_true(any(grepl("harbour", tree)))
  # beyond all that grows out of a branch
  lives <- branch_lives(seals$model$branches)
  for (b in which(seals$model$branches$selected)) {
    below <- which(seals$model$branches$parent == b)
    expect_gte(lives$last[b], max(lives$to[c(b, below)]))
  }
})
