# The map of choices, against its definitions written out over pairs of rows.

together <- function(group) outer(group, group, `==`) & outer(group > 0, group > 0, `&`)

# The share of pairs on which two labelings differ, counted pair by pair.
naive_apart <- function(a, b) {
  pairs <- upper.tri(diag(length(a)))
  mean(together(a)[pairs] != together(b)[pairs])
}

some_labels <- function(seed, rows = 12, most = 4) as.integer(floor(uniform_numbers(rows, seed) * (most + 1)))

test_that("labelings differ by the share of pairs that one puts together and the other apart, noise with none", {
  labels <- lapply(1:6, some_labels)
  expect_true(any(unlist(labels) == 0))
  distances <- label_distances(labels)
  for (i in 1:6) for (j in 1:6) expect_equal(distances[i, j], if (i == j) 0 else naive_apart(labels[[i]], labels[[j]]))
  # other names of the groups and another order of the rows change nothing
  renamed <- lapply(labels, function(group) c(0L, 3L, 4L, 1L, 2L)[group + 1L])
  expect_equal(label_distances(renamed), distances)
  expect_equal(label_distances(lapply(labels, rev)), distances)
  expect_equal(label_distances(list(rep(0L, 5), rep(0L, 5))), matrix(0, 2, 2))
})

test_that("the shares of choices are an analysis of variance of who is together with whom", {
  choices <- expand.grid(method = c("a", "b", "c"), count = 2:3, seed = 1:2, stringsAsFactors = FALSE)
  labels <- lapply(seq_len(nrow(choices)), some_labels)
  tables <- t(vapply(labels, function(group) together(group)[upper.tri(diag(12))] + 0, double(66)))
  spread <- function(fitted) sum((fitted - rep(colMeans(tables), each = nrow(tables)))^2)
  means <- function(by) {
    for (one in split(seq_len(nrow(tables)), by)) tables[one, ] <- rep(colMeans(tables[one, , drop = FALSE]), each = length(one))
    tables
  }
  total <- spread(tables)
  found <- choice_shares(label_distances(labels), choices, chance = "none")
  for (choice in names(choices)) {
    expect_equal(found$alone[[choice]], spread(means(choices[[choice]])) / total)
    others <- do.call(paste, choices[setdiff(names(choices), choice)])
    expect_equal(found$involved[[choice]], 1 - spread(means(others)) / total)
  }
  # all combinations were tried, so what the choices explain by themselves adds up
  expect_equal(found$single, sum(found$alone))
  expect_true(all(found$involved >= found$alone - 1e-12))
  # what seeds alone change, per degree of freedom, is taken off the others
  less <- choice_shares(label_distances(labels), choices)
  off <- (1 - spread(means(paste(choices$method, choices$count))) / total) / 6
  expect_equal(less$alone[["method"]], max(0, found$alone[["method"]] - 2 * off))
  expect_equal(less$involved[["method"]], max(0, found$involved[["method"]] - 8 * off))
  expect_equal(less$involved[["seed"]], found$involved[["seed"]])
  same <- choice_shares(matrix(0, 12, 12), choices)
  expect_equal(unname(c(same$alone, same$involved, same$single)), rep(0, 7))
})

test_that("rows that no labeling divides share a block, those without a group have none", {
  labels <- list(c(1L, 1L, 2L, 2L, 0L, 0L, 2L), c(3L, 3L, 1L, 1L, 1L, 1L, 2L))
  expect_equal(undivided_blocks(labels), c(1L, 1L, 2L, 2L, 0L, 0L, 0L))
})

test_that("a map lays the groupings of a sweep beside each other, on common rows, and says what survives", {
  table <- heap_data()$table
  table[c(2, 50), "east"] <- NA
  data <- fl_data(table, truth = "kind", id = "row")
  ready <- list(plain = fl_prepare(data, missing = "middle"), fewer = fl_prepare(data), one = fl_prepare(data, use = "north"))
  sweep <- quick_sweep(ready, c("kmeans", "linkage"), k = 2:4, repeats = 2)
  map <- fl_choices(sweep, k = 2:3)
  expect_equal(nrow(map$fits), 3 * 2 * 2 * 2)
  expect_equal(map$rows$row, setdiff(seq_len(60), c(2, 50)))
  expect_setequal(map$shares$choice, c("method", "count", "preparation", "columns", "seed"))
  expect_equal(map$shares$choice[match("preparation", map$shares$choice) + 1L], "columns")
  expect_equal(map$fits$apart, rowMeans(map$distances) * 24 / 23)
  expect_equal(map$middle, which.min(map$fits$apart))
  # overlaps, by hand, of one group with the groups of one other grouping
  labels <- function(i) {
    fit <- map$fits[i, ]
    fl_labels(fl_take(sweep, fit$method, fit$k, fit$preparation, fit$`repeat`))[map$rows$row]
  }
  mine <- labels(map$middle)
  expect_equal(map$rows$group, mine)
  other <- setdiff(seq_len(24), map$middle)[5]
  jaccard <- max(vapply(unique(labels(other)), function(g) sum(mine == 1 & labels(other) == g) / sum(mine == 1 | labels(other) == g), 0))
  expect_equal(map$overlaps[1, 5], jaccard)
  expect_equal(map$groups$rows, tabulate(mine))
  expect_equal(map$groups$share, tabulate(mine) / 58)
  expect_equal(map$groups$found_again, rowMeans(map$overlaps >= 0.75))
  for (block in unique(map$rows$block[map$rows$block > 0])) {
    for (i in seq_len(24)) expect_length(unique(labels(i)[map$rows$block == block]), 1)
  }
  expect_match(format(map)[1], "^For table the choice of [a-z]+ matters most: it explains ")
  expect_snapshot(format(fl_choices(quick_sweep(fl_prepare(heap_data()), c("kmeans", "linkage"), k = 3:4), k = 3:4)))
})

test_that("without counts those of the votes are taken; a fit alone is no map; noise methods take part where they can", {
  ready <- fl_prepare(heap_data())
  sweep <- quick_sweep(ready, c("kmeans", "linkage", "hdbscan"), k = 2:6)
  map <- fl_choices(sweep)
  votes <- vapply(names(sweep$methods), function(m) vote_of(sweep, names(sweep$ready), m, counting_by())$points$k[1], 0L)
  expect_equal(map$k, sort(unique(unname(votes))))
  expect_false(map$given)
  expect_error(fl_choices(quick_sweep(ready, "kmeans", k = 2:3), k = 2), "three partitions", class = "fjordline_error_argument")
  expect_error(fl_choices(ready), class = "fjordline_error_argument")
  far <- fl_choices(sweep, k = 5:6)
  expect_equal(far$left_out, "hdbscan")
  expect_match(fl_facts(far), "Left out, since no fit came to these counts: hdbscan", all = FALSE)
})

test_that("noise counts as rows without a group; equal groupings hang on nothing; the script is told", {
  fl_new_method("sparing", fit = function(x, k, settings, seed) {
    list(group = replace(fl_method("kmeans")$fit(x, k, fl_method("kmeans")$settings, 1)$group, 1:12, 0L))
  })
  withr::defer(rm("sparing", envir = own_methods))
  ready <- list(a = fl_prepare(heap_data()), b = fl_prepare(heap_data(), scale = "none"))
  map <- fl_choices(quick_sweep(ready, "sparing", k = 2:3), k = 2:3)
  expect_equal(sum(map$groups$share), 48 / 60)
  expect_true(all(is.na(map$rows$stays[1:12])) && all(map$rows$block[1:12] == 0))
  same <- fl_choices(quick_sweep(ready, c("kmeans", "linkage"), k = 2:3), k = 3)
  expect_equal(max(same$distances), 0)
  expect_match(format(same)[1], "All 4 partitions of heaps are the same")
  expect_match(fl_facts(same), "Every partition finds all of them again", all = FALSE)
  expect_silent(ggplot2::ggplotGrob(autoplot(same)))
  expect_silent(ggplot2::ggplotGrob(autoplot(same, "map")))
  expect_equal(utils::tail(fl_steps(same), 1), "choices <- fl_choices(sweep, k = 3)")
  expect_identical(summary(same), same$shares)
})

test_that("tables without rows in common, of one column, with a constant one, of few different rows: a map or an error", {
  table <- heap_data()$table
  halves <- list(first = fl_prepare(fl_data(table[1:30, ], truth = "kind", id = "row")),
                 one = fl_prepare(fl_data(table[1:30, ], truth = "kind", id = "row"), use = "east"))
  expect_s3_class(fl_choices(quick_sweep(halves, "kmeans", k = 2:3), k = 2:3), "fl_choices")
  few <- fl_data(data.frame(x = rep(1:3, 10), y = rep(1:3, 10), still = 1), name = "few")
  sweep <- quick_sweep(fl_prepare(few), c("kmeans", "linkage"), k = 2:6)
  map <- fl_choices(sweep, k = 2:6)
  expect_true(all(map$fits$k <= 3))
  expect_equal(fl_choices(sweep, k = 1:3)$k, 1:3)
})

test_that("the three figures hold the numbers of the map", {
  sweep <- quick_sweep(list(plain = fl_prepare(heap_data()), whole = fl_prepare(heap_data(), scale = "none")),
                       c("kmeans", "linkage"), k = 2:4)
  map <- fl_choices(sweep, k = 2:4)
  tiles <- ggplot2::ggplot_build(autoplot(map))$plot$data
  expect_equal(tiles$overlap, as.vector(map$overlaps))
  crossed <- ggplot2::layer_data(autoplot(map), 2)
  expect_equal(nrow(crossed), sum(map$overlaps < 0.75))
  points <- ggplot2::layer_data(autoplot(map, "map"), 2)
  # the two widest directions never set two groupings farther apart than they are
  expect_true(all(as.matrix(dist(points[c("x", "y")]))^2 <= map$distances + 1e-9))
  bars <- ggplot2::layer_data(autoplot(map, "shares"), 1)
  expect_equal(sort(bars$x), sort(map$shares$involved[!is.na(map$shares$involved)]))
  for (view in c("groups", "map", "shares")) expect_silent(ggplot2::ggplotGrob(autoplot(map, view)))
})

test_that("where only seeds differ no choice has a part, and nothing is said to matter most", {
  shares <- vapply(1:20, function(seed) {
    choices <- expand.grid(method = c("a", "b", "c"), count = 2:4, seed = 1:2, stringsAsFactors = FALSE)
    labels <- lapply(seq_len(nrow(choices)), function(i) {
      withr::with_seed(100 * seed + i, sample.int(3L, 60, TRUE))
    })
    choice_shares(label_distances(labels), choices)$involved[c("method", "count")]
  }, c(method = 0, count = 0))
  expect_lte(mean(shares), 0.05)
  map <- list(shares = tibble::tibble(choice = c("seed", "method"), involved = c(0.9, 0), alone = c(0.5, 0)),
              distances = matrix(0.3, 4, 4), fits = tibble::tibble(apart = rep(0.3, 4)),
              ready = list(list(data = list(name = "reef"))))
  expect_match(choices_headline(map), "No choice changes the partitions of reef beyond what other seeds change")
  map$shares$choice <- c("method", "seed")
  expect_match(choices_headline(map), "For reef the choice of method matters most")
  map$fits$apart <- 0.004
  expect_match(choices_headline(map), "hardly differ: two of them treat 0.4% of the pairs")
})
