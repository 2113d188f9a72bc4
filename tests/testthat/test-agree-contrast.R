# Two partitions side by side.

test_that("flows are the cross-table, and fates follow from its shares", {
  a <- c(rep(1, 10), rep(2, 10), rep(3, 10), rep(4, 10), NA)
  b <- c(rep(1, 10), rep(2, 10), rep(2, 9), 3, rep(3, 5), rep(4, 5), 1)
  flows <- row_flows(a, b)
  cells <- table(a, b)
  expect_equal(nrow(flows), sum(cells > 0))
  for (i in seq_len(nrow(flows))) {
    expect_equal(flows$rows[i], cells[as.character(flows$from[i]), as.character(flows$to[i])])
    expect_equal(flows$of_from[i], flows$rows[i] / sum(cells[as.character(flows$from[i]), ]))
    expect_equal(flows$of_to[i], flows$rows[i] / sum(cells[, as.character(flows$to[i])]))
  }
  fates <- group_fates(flows)
  expect_equal(fates$fate, c("same", "joins", "joins", "splits"))
  expect_equal(fates$into[1:3], c(1, 2, 2))
  expect_equal(fates$shared, c(1, 10 / 19, 9 / 20, 5 / 11))
})

test_that("a partition against itself, renamed or not, is all the same", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  x <- fl_contrast(groups, groups)
  expect_equal(x$fates$fate, rep("same", 3))
  expect_equal(nrow(x$moved), 0)
  expect_true(all(x$judged$better %in% c("neither", NA)))
  expect_match(fl_facts(x)[1], "adjusted Rand 1.00; 0 of")
  expect_match(fl_facts(x), "Groups 1, 2 and 3 stay the same\\.", all = FALSE)
})

test_that("joining two groups reads as joining one way and as splitting the other", {
  ready <- fl_prepare(heap_data())
  three <- fl_partition(ready, k = 3)
  two <- fl_adopt(ready, ifelse(fl_labels(three) == 1, "x", "y"))
  down <- fl_contrast(three, two)
  expect_equal(down$fates$fate, c("same", "joins", "joins"))
  expect_match(fl_facts(down), "Groups 2 and 3 join in \"y\"", all = FALSE)
  up <- fl_contrast(two, three)
  expect_setequal(up$fates$fate, c("same", "splits"))
  expect_match(fl_facts(up), "\"y\" splits into group 2 \\([0-9]+ rows, 5[0-9]%\\) and group 3", all = FALSE)
})

test_that("both sides are judged on the common rows in one space, as the definitions say", {
  water <- fl_demo("water_samples")
  a <- fl_partition(fl_prepare(water, transform = c(turbidity = "log")), fl_method("kmeans", restarts = 5), k = 5)
  b <- fl_partition(fl_prepare(water, use = c("temperature", "salinity", "oxygen")),
                    fl_method("kmeans", restarts = 5), k = 4)
  x <- fl_contrast(a, b)
  common <- which(!is.na(fl_labels(a)) & !is.na(fl_labels(b)))
  expect_gt(length(fl_labels(b)) - sum(is.na(fl_labels(b))), length(common))
  for (space in list(a$ready, b$ready)) {
    at <- space$x[match(common, space$rows), ]
    judged <- x$judged[x$judged$space == space$name & x$judged$index == "calinski_harabasz", ]
    for (side in c("a", "b")) {
      group <- fl_labels(list(a = a, b = b)[[side]])[common]
      k <- max(group)
      w <- sum(naive_scatter(at, group))
      t <- sum(sweep(at, 2, colMeans(at))^2)
      expect_equal(judged[[side]], ((t - w) / (k - 1)) / (w / (nrow(at) - k)))
    }
  }
  expect_equal(unique(x$judged$space), c(a$ready$name, b$ready$name))
  third <- fl_prepare(water, scale = "median_iqr")
  expect_equal(unique(fl_contrast(a, b, space = third)$judged$space), third$name)
})

test_that("better is only what is better everywhere", {
  one <- data.frame(space = c("p", "p", "q", "q"), index = c("i", "j"), better = c("a", "a", "a", "a"))
  said <- c("first one", "second one")
  expect_match(verdict_fact(one, said, 2), "Better in both spaces, by all of these indices: first one")
  one$better <- c("a", "a", "b", "b")
  expect_match(verdict_fact(one, said, 2), "indices cannot decide")
  one$better <- c("a", "b", "b", "b")
  expect_match(verdict_fact(one, said, 2), "do not agree")
  one$better <- "neither"
  expect_match(verdict_fact(one, said, 2), "equally good")
})

test_that("rows that move are told with their groups; a loaded partition takes part without being judged alone", {
  ready <- water_ready()
  a <- fl_partition(ready, fl_method("kmeans", restarts = 5), k = 5)
  b <- fl_partition(ready, fl_method("kmeans", restarts = 5), k = 6)
  x <- fl_contrast(a, b, reliability = TRUE)
  expect_equal(x$moved$from, fl_labels(a)[x$moved$row])
  expect_equal(x$moved$to, fl_labels(b)[x$moved$row])
  expect_equal(x$moved$row, fl_agree(a, b)$disagree)
  expect_equal(nrow(x$returns), 11)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(a, file)
  fl_save(b, second <- withr::local_tempfile(fileext = ".json"))
  loaded <- fl_contrast(fl_load(file), b)
  expect_equal(loaded$flows, x$flows)
  expect_equal(loaded$judged$a, x$judged$a)
  expect_match(fl_facts(fl_contrast(fl_load(file), fl_load(second))), "Neither could be judged", all = FALSE)
})

test_that("partitions of different tables are refused", {
  a <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_error(fl_contrast(a, fl_partition(water_ready(), k = 2)), class = "fjordline_error_argument",
               regexp = "same table")
  other <- heaps()
  other$row <- rev(other$row)
  expect_error(fl_contrast(a, fl_partition(fl_prepare(fl_data(other, id = "row", truth = "kind")), k = 3)),
               class = "fjordline_error_argument", regexp = "identifiers differ")
  expect_error(fl_contrast(a, a, space = water_ready()), class = "fjordline_error_argument", regexp = "`space`")
  expect_error(fl_contrast(a, a, indices = "silhoutte"), class = "fjordline_error_index", regexp = "silhouette")
})

test_that("the bands of the figure carry every row once, and leave and enter within their bars", {
  a <- fl_labels(fl_partition(fl_prepare(heap_data()), k = 3))
  b <- fl_labels(fl_partition(fl_prepare(heap_data()), k = 2))
  nodes <- flow_nodes(list(a, b), 1)
  expect_equal(tapply(nodes$rows, nodes$column, sum), c("1" = length(a), "2" = length(a)), ignore_attr = TRUE)
  expect_equal(nodes$top - nodes$bottom, nodes$rows)
  bands <- flow_bands(list(a, b), nodes, a)
  widths <- tapply(bands$y[bands$x == min(bands$x)], bands$band[bands$x == min(bands$x)], function(y) diff(range(y)))
  expect_equal(sum(widths), length(a))
  for (view in c("flows", "planes")) {
    figure <- autoplot(fl_contrast(fl_partition(fl_prepare(heap_data()), k = 3),
                                   fl_partition(fl_prepare(heap_data()), k = 2)), view)
    expect_s3_class(ggplot2::ggplot_build(figure)$plot, "ggplot")
  }
})

test_that("noise is a group of its own in flows and has a name in words", {
  ready <- fl_prepare(heap_data())
  a <- fl_partition(ready, k = 2)
  label <- as.character(fl_labels(a))
  label[c(1:6)] <- "stray"
  b <- fl_adopt(ready, label, noise = "stray")
  x <- fl_contrast(b, a)
  expect_equal(sum(x$flows$rows[x$flows$from == 0]), 6)
  expect_equal(sum(x$flows$rows), length(label))
  expect_false(any(grepl("group 0", fl_facts(x))))
  back <- fl_contrast(a, b)
  expect_true(0 %in% back$flows$to)
  expect_match(paste(format(back), collapse = " "), "0 noise")
  # the geometric indices are of the rows in groups only
  rows <- which(fl_labels(b) > 0)
  at <- ready$x[match(rows, ready$rows), ]
  group <- fl_labels(b)[rows]
  w <- sum(naive_scatter(at, group))
  t <- sum(sweep(at, 2, colMeans(at))^2)
  expect_equal(back$judged$b[back$judged$index == "calinski_harabasz"], (t - w) / (w / (length(rows) - 2)))
})

test_that("outliers left out by one preparation are compared on the rows both have", {
  table <- heaps()
  table$east[1] <- 400
  data <- fl_data(table, truth = "kind", id = "row")
  a <- fl_partition(fl_prepare(data), k = 3)
  b <- fl_partition(fl_prepare(data, outliers = "drop"), k = 3)
  x <- fl_contrast(a, b)
  expect_equal(x$agreement$rows, nrow(table) - 1)
  expect_match(fl_facts(x), "1 row has a group in .* only: left out of every comparison", all = FALSE)
  expect_equal(sum(x$flows$rows), nrow(table) - 1)
})
