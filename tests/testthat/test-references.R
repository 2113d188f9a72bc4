# Reference tables, resampling, and the gate.

test_that("tables without groups have the size and spread they should, and a seed says which", {
  x <- random_table(4000, 3, 1) %*% matrix(c(3, 1, 0, 0, 1, 0.5, 0, 0, 0.2), 3) + 50
  axes <- axes_for_tables(x)
  for (kind in names(groupless_tables)) {
    made <- groupless_tables[[kind]](axes, 7)
    expect_equal(dim(made), dim(x))
    expect_identical(made, groupless_tables[[kind]](axes, 7))
    expect_false(identical(made, groupless_tables[[kind]](axes, 8)))
    expect_equal(colMeans(made), colMeans(x), tolerance = 0.02)
  }
  expect_equal(cov(groupless_tables$gaussian(axes, 1)), cov(x), tolerance = 0.1)
  box <- (groupless_tables$box(axes, 1) - rep(colMeans(x), each = 4000)) %*% axes$turn
  expect_true(all(box >= rep(axes$ranges[1, ], each = 4000) - 1e-9 & box <= rep(axes$ranges[2, ], each = 4000) + 1e-9))
  for (j in 1:3) expect_gt(suppressWarnings(ks.test(box[, j], "punif", axes$ranges[1, j], axes$ranges[2, j]))$p.value, 1e-4)
  expect_gt(ks.test(normal_numbers(5000, 3), "pnorm")$p.value, 1e-4)
})

test_that("the gap and its error come from the reference curves as the paper says", {
  ready <- fl_prepare(heap_data())
  sweep <- fl_sweep(ready, fl_method("kmeans", restarts = 2), k = 1:5, indices = c("gap", "elbow"))
  values <- as.data.frame(sweep)
  again <- again_by(fl_method("kmeans", restarts = 2), NULL)
  fits <- sweep$fits[order(sweep$cells$k)]
  set <- index_set(ready$x, fits)
  curves <- reference_curves(set, function(...) again, 1, function(...) NULL)
  expect_equal(dim(curves$box), c(100, 6))
  # one curve anew
  table <- groupless_tables$box(axes_for_tables(ready$x), derived_seed(1, 1, 4))
  expect_equal(curves$box[4, 1], log(total_scatter(table)))
  expect_equal(curves$box[4, 3], log(sum(again$fit(table, 3, derived_seed(1, 1, 4))$scatter)))
  gaps <- colMeans(curves$box) - log(set$scatter)
  spread <- apply(curves$box, 2, function(v) sqrt(mean((v - mean(v))^2))) * sqrt(1 + 1 / 100)
  gap <- values[values$index == "gap", ]
  expect_equal(gap$value, gaps[1:5])
  expect_equal(gap$error, spread[1:5])
  vote <- fl_vote(sweep)
  expect_equal(vote$ballots$k[vote$ballots$index == "gap" & vote$ballots$rank == 1], 3)
})

test_that("an elbow no sharper than those of tables without groups keeps its values but does not vote", {
  flat <- fl_sweep(ready_from(random_table(80, 2, 5)), fl_method("kmeans", restarts = 2), k = 1:5, indices = c("gap", "elbow"))
  elbow <- as.data.frame(flat)[as.data.frame(flat)$index == "elbow", ]
  expect_true(all(is.finite(elbow$value[2:5])))
  expect_match(elbow$reason[3], "no sharper than chance")
  expect_match(fl_vote(flat)$abstained$reason[fl_vote(flat)$abstained$index == "elbow"], "no sharper than chance")
  sharp <- fl_sweep(fl_prepare(heap_data()), fl_method("kmeans", restarts = 2), k = 1:5, indices = c("gap", "elbow"))
  expect_true("elbow" %in% fl_vote(sharp)$ballots$index)
})

test_that("pairs kept together are counted in the worst group; groups of one do not count", {
  expect_equal(kept_together(c(1, 1, 1, 2, 2), c(1, 1, 2, 5, 5)), 1 / 3)
  expect_equal(kept_together(c(1, 1, 2), c(3, 3, 1)), 1)
  expect_equal(kept_together(c(1, 2, 3), c(1, 1, 1)), 0)
})

test_that("halves are halves, samples are drawn with replacement, and far heaps come back", {
  half <- random_half(21, 5)
  expect_length(half, 10)
  expect_false(anyDuplicated(half) > 0)
  drawn <- drawn_again(1000, 3)
  expect_true(all(drawn %in% 1:1000))
  expect_gt(length(unique(drawn)), 580)
  expect_lt(length(unique(drawn)), 680)
  x <- random_heaps(90, 2, 3, sd = 30, seed = 4)
  sweep <- fl_sweep(ready_from(x), fl_method("kmeans", restarts = 5), k = 1:5, indices = c("stability", "prediction_strength"))
  values <- as.data.frame(sweep)
  at <- function(index, k) values$value[values$index == index & values$k == k]
  expect_equal(at("stability", 3), 1)
  expect_equal(at("prediction_strength", 3), 1)
  expect_equal(at("prediction_strength", 1), 1)
  expect_lt(at("stability", 5), 0.999)
  expect_lt(at("prediction_strength", 5), 0.8)
  expect_equal(fl_vote(sweep)$points$k[1], 3)
  again <- fl_sweep(ready_from(x), fl_method("kmeans", restarts = 5), k = 1:5, indices = c("stability", "prediction_strength"))
  expect_identical(as.data.frame(again), values)
})

test_that("methods whose settings speak of single rows have no references and no resamples, and say so", {
  ready <- fl_prepare(heap_data())
  weights <- rep(1:2, 30)
  score <- fl_score(fl_partition(ready, fl_method("kmeans", row_weights = weights), k = 3), c("gap", "stability"))
  expect_match(score$reason[score$index == "gap"], "single rows")
  expect_match(score$reason[score$index == "stability"], "reference tables and resamples")
})

test_that("the gate sees far heaps and rings, not one heap; the same seed says the same for any number of threads", {
  expect_true(fl_structure(fl_prepare(heap_data()))$groups)
  angle <- seq(0, 2 * pi, length.out = 150)
  ring <- rbind(cbind(cos(angle), sin(angle)) * 8, random_table(150, 2, 1) * 0.5) + random_table(300, 2, 2) * 0.1
  seen <- fl_structure(ready_from(ring))
  expect_true(seen$groups)
  expect_lte(seen$p_runt, 0.01)
  for (x in list(random_table(150, 4, 3), matrix(withr::with_seed(1, runif(450)), 150), exp(random_table(150, 3, 8)))) {
    none <- fl_structure(ready_from(x))
    expect_false(none$groups)
    expect_match(format(none), "^No evidence of groups", all = FALSE)
  }
  one <- withr::with_options(list(fjordline.threads = 1L), fl_structure(ready_from(ring)))
  two <- withr::with_options(list(fjordline.threads = 2L), fl_structure(ready_from(ring)))
  expect_identical(one$p_dip, two$p_dip)
  expect_identical(one$p_runt, two$p_runt)
})

test_that("the largest runt is the one of single linkage, joined by hand", {
  naive_runt <- function(x) {
    d <- as.matrix(dist(x))
    edges <- which(upper.tri(d), arr.ind = TRUE)
    edges <- edges[order(d[edges]), ]
    part <- seq_len(nrow(x))
    best <- 0
    for (e in seq_len(nrow(edges))) {
      a <- part[edges[e, 1]]
      b <- part[edges[e, 2]]
      if (a == b) next
      best <- max(best, min(sum(part == a), sum(part == b)))
      part[part == b] <- a
    }
    best
  }
  for (seed in 1:6) {
    x <- random_heaps(35, 2, 3, sd = 4, seed = seed)
    test <- fl_structure(ready_from(x), sets = 39)
    expect_equal(test$runt, naive_runt(x))
  }
})

# The largest dip over the outer parts of a sample, each by the root of its share.
naive_part_dip <- function(along) {
  sorted <- sort(along)
  n <- length(sorted)
  shares <- c(1, 0.7, 0.5, 0.35, 0.25, 0.175, 0.125)
  shares <- shares[shares == 1 | floor(shares * n) >= 10]
  max(vapply(shares, function(s) sqrt(s) * max(dip_kernel(head(sorted, floor(s * n))), dip_kernel(tail(sorted, floor(s * n)))), 0))
}

test_that("the dip of the gate is the largest over the outer parts of the rows along the direction it names", {
  for (seed in 1:5) {
    x <- random_heaps(100, 3, 2, sd = 6, seed = seed)
    test <- fl_structure(ready_from(x), sets = 39)
    expect_equal(test$dip, naive_part_dip(test$along))
    axes <- principal_axes(sweep(x, 2, colMeans(x)))
    for (axis in 1:3) expect_gte(test$dip, naive_part_dip((x %*% axes$turn)[, axis]) - 1e-12)
  }
})

test_that("a small group far from a large one is seen, and where", {
  x <- random_table(200, 3, 4)
  x[1:30, 1] <- x[1:30, 1] + 8
  test <- fl_structure(ready_from(x))
  expect_true(test$groups)
  expect_match(test$part, "^among the (upper|lower) [0-9]+% of the rows$")
  expect_match(fl_facts(test)[2], test$part, fixed = TRUE)
  expect_s3_class(autoplot(test), "ggplot")
  # a thirtieth of the rows is too few for it
  y <- random_table(200, 3, 4)
  y[1:6, 1] <- y[1:6, 1] + 8
  expect_false(fl_structure(ready_from(y))$groups)
})

test_that("what cannot be tested is said; columns of two values are left out, rounded ones jittered", {
  few <- fl_structure(ready_from(random_table(6, 2, 1)))
  expect_true(is.na(few$groups))
  expect_match(fl_facts(few), "fewer than ten rows")
  # jittering would fill the space between them, and it would pass for one heap
  points <- fl_structure(ready_from(cbind(a = rep(c(0, 10, 5), 20), b = rep(c(0, 0, 8.7), 20))))
  expect_true(is.na(points$groups))
  expect_match(fl_facts(points), "there are only three different rows")
  x <- cbind(random_table(100, 2, 1), two = rep(0:1, 50), tens = rep(1:10, 10))
  test <- fl_structure(ready_from(x), sets = 39)
  expect_equal(test$left_out, "two")
  expect_equal(test$jittered, "tens")
  expect_error(fl_structure(ready_from(x), sets = 3), class = "fjordline_error_argument")
})

test_that("a vote over a table without groups says so first, names no count, and stops; settling goes on", {
  vote <- fl_vote(fl_sweep(ready_from(random_table(120, 3, 6)), fl_method("kmeans", restarts = 2), k = 1:4))
  expect_equal(vote$verdict, "no groups")
  expect_match(fl_facts(vote)[1], "^No evidence of groups \\(p = ")
  expect_match(fl_facts(vote), "The indices would have picked", all = FALSE)
  expect_error(fl_take(vote), class = "fjordline_error_undecided")
  expect_match(fl_facts(fl_settle(vote, 2, "two boats"))[2], "^The vote, before that: no evidence of groups")
  heaps <- fl_vote(fl_sweep(fl_prepare(heap_data()), fl_method("kmeans", restarts = 2), k = 1:5))
  expect_match(fl_facts(heaps), "^There are groups: p <= 0.01, the smallest possible with 99", all = FALSE)
  expect_equal(heaps$k, 3)
})

test_that("groups come back by their best Jaccard, rows stay with the most similar group", {
  found <- best_matches(c(1, 1, 1, 2, 2, 0), c(1, 1, 2, 2, 2, 1))
  expect_equal(found$share, c(2 / 4, 2 / 3))
  expect_equal(found$stays, c(TRUE, TRUE, FALSE, TRUE, TRUE, FALSE))
  told <- mean_returns(c(1, 1, 2, 2), list(c(2, 2, 1, 1), c(1, 2, 2, 2), NULL))
  expect_equal(told$returns, c((1 + 1 / 2) / 2, (1 + 2 / 3) / 2))
  expect_equal(told$stays, c((1 + 1 / 2) / 2, 1))
})

test_that("far heaps are firm, halves of one heap wander, and the rows that change are named", {
  x <- random_heaps(120, 2, 3, sd = 20, seed = 2)
  firm <- fl_reliability(fl_partition(ready_from(x), k = 3), samples = 20, reseeds = 3)
  expect_equal(firm$groups$returns, rep(1, 3))
  expect_match(fl_facts(firm)[1], "All groups are stable under resampling")
  expect_true(all(firm$rows$stays == 1))
  loose <- fl_reliability(fl_partition(ready_from(random_table(120, 2, 5)), fl_method("kmeans", restarts = 1), k = 7),
                          samples = 20, reseeds = 3)
  expect_true(any(loose$groups$returns < 0.6))
  expect_match(fl_facts(loose)[1], "unstable: ")
  expect_equal(as.data.frame(loose), loose$groups)
  expect_s3_class(autoplot(loose), "ggplot")
  expect_identical(fl_reliability(fl_partition(ready_from(x), k = 3), samples = 20, reseeds = 3)$rows, firm$rows)
  expect_error(fl_reliability(fl_partition(fl_prepare(heap_data()), fl_method("kmeans", row_weights = rep(1, 60)), k = 3)),
               class = "fjordline_error_method", regexp = "part of the rows")
})

test_that("a vote tells which of its groups, and of its neighbours', come back", {
  vote <- fl_vote(fl_sweep(fl_prepare(heap_data()), fl_method("kmeans", restarts = 3), k = 1:5))
  expect_match(fl_facts(vote), "Under resampling all groups reach a mean Jaccard overlap of 0.75 \\(1.00\\)", all = FALSE)
  expect_true(all(vote$sweep$returns$returns <= 1 & vote$sweep$returns$returns > 0))
  expect_setequal(vote$sweep$returns$k, 2:6)
})

test_that("the gate sees rows as the metric of the method does", {
  casts <- fl_prepare(fl_demo("mooring_casts"), scale = "none")
  expect_true(fl_structure(casts, "correlation")$groups)
  expect_match(fl_facts(fl_structure(casts, "correlation", sets = 39)), "as correlation sees them", all = FALSE)
  expect_error(fl_structure(casts, "manhattan"), class = "fjordline_error_argument")
})

test_that("a winner at the end of the counts is no clear count", {
  expect_equal(verdict_of(0.5, 3, 3, at_end = TRUE), "no clear count")
  vote <- fl_vote(quick_sweep(fl_prepare(heap_data()), k = 2:3))
  expect_match(fl_facts(vote)[1], "No clear count, by k-means: most points for 3, the largest count tried")
})

test_that("a table too small for the gate gets no clear vote; one column, repeated rows and gaps are no obstacle", {
  tiny <- fl_vote(fl_sweep(ready_from(cbind(a = c(1, 2, 9), b = c(1, 1, 4))), fl_method("kmeans", restarts = 2), k = 1:4))
  expect_true(is.na(tiny$structure$groups))
  expect_false(tiny$verdict == "clear")
  expect_match(paste(format(tiny), collapse = " "), "could not be tested: there are fewer than ten rows")
  tables <- list(
    cbind(v = random_table(30, 1, 1)[, 1]), cbind(a = rep(c(1, 5, 9), 20), b = rep(c(0, 1, 0), 20)),
    cbind(a = c(NA, random_table(40, 1, 2)[, 1]), b = random_table(41, 1, 3)[, 1])
  )
  for (x in tables) {
    ready <- fl_prepare(fl_data(as.data.frame(x), name = "t"), scale = "none")
    vote <- fl_vote(fl_sweep(ready, fl_method("kmeans", restarts = 2), k = 1:4))
    expect_false(isTRUE(vote$structure$groups))
    # of rows that repeat three places it is three
    if (nrow(unique(ready$x)) == 3L) expect_equal(c(vote$verdict, vote$k), c("weak", "3"))
    else expect_true(vote$verdict %in% undecided)
    expect_false(any(is.nan(as.data.frame(vote$sweep)$value)))
    expect_true(all(nzchar(as.data.frame(vote$sweep)$reason[is.na(as.data.frame(vote$sweep)$value)])))
    loose <- fl_reliability(fl_partition(ready, k = 2), samples = 5, reseeds = 2)
    expect_true(all(loose$groups$returns > 0 & loose$groups$returns <= 1))
  }
})

test_that("one group is not called firm", {
  one <- fl_reliability(fl_partition(fl_prepare(heap_data()), k = 1), samples = 3, reseeds = 2)
  expect_match(fl_facts(one), "^There is only one group")
})

test_that("samples that could not be fitted are left out of the mean, up to half of them", {
  expect_equal(mean_and_error(c(0.5, NA, 0.7, 0.9)), c(0.7, sd(c(0.5, 0.7, 0.9)) / sqrt(3)))
  expect_equal(mean_and_error(c(0.5, NA, NA)), c(NA_real_, NA_real_))
})

test_that("a sweep is the same on the workers of a plan, user's methods included", {
  skip_if_not_installed("future.apply")
  fl_new_method("halves", fit = function(x, k, settings, seed) list(group = 1L + (x[, 1] > median(x[, 1]))))
  withr::defer(rm("halves", envir = own_methods))
  sweep <- function() {
    fl_sweep(fl_prepare(heap_data()), list(fl_method("kmeans", restarts = 2), "halves"), k = 2:3,
             indices = c("gap", "stability"))
  }
  here <- sweep()
  expect_false(has_workers())
  before <- future::plan("multisession", workers = 2)
  withr::defer(future::plan(before))
  expect_true(has_workers())
  there <- sweep()
  expect_identical(there$values, here$values)
  expect_identical(there$gaps, here$gaps)
  expect_identical(lapply(there$fits, `[[`, "group"), lapply(here$fits, `[[`, "group"))
})

test_that("in a worker one thread is used, and the option is put back", {
  withr::local_options(fjordline.threads = 2L)
  expect_equal(on_one_thread(function(i) i + thread_count())(1), 2)
  expect_equal(thread_count(), 2L)
})

test_that("where only the best restarts go on, W is hardly larger, the same in well separated groups and for any threads", {
  how <- kmeans_how(fl_method("kmeans", restarts = 12)$settings, 4)
  some <- replace(how, "finished", 3L)
  spread <- vapply(1:8, function(seed) {
    x <- random_table(250, 4, seed)
    every <- kmeans_scatter_kernel(x, 2:9, how)
    best <- kmeans_scatter_kernel(x, 2:9, some)
    expect_identical(kmeans_scatter_kernel(x, 2:9, replace(some, "threads", 3L)), best)
    expect_identical(kmeans_scatter_kernel(x, 2:9, replace(how, "finished", 12L)), every)
    expect_true(all(best >= every * (1 - 1e-12)))
    fits <- kmeans_kernel(x, 5L, some, NULL, NULL)
    expect_length(fits$reached, 3)
    expect_equal(min(fits$reached), best[4])
    mean(log(best / every))
  }, 0)
  expect_lt(mean(spread), 0.01)
  expect_gt(max(spread), 0)
  apart <- random_table(90, 3, 2) + 40 * diag(3)[rep(1:3, 30), ]
  expect_equal(kmeans_scatter_kernel(apart, 3L, some), kmeans_scatter_kernel(apart, 3L, how))
})

test_that("one fit of very many takes at most ten restarts, and otherwise the method as it is", {
  expect_equal(with_few_restarts(fl_method("kmeans"))$settings$restarts, 10)
  expect_equal(with_few_restarts(fl_method("kmeans", restarts = 3))$settings$restarts, 3)
  changed <- setdiff(names(fl_method("kmeans")$settings), "restarts")
  expect_identical(with_few_restarts(fl_method("kmeans"))$settings[changed], fl_method("kmeans")$settings[changed])
  expect_identical(with_few_restarts(fl_method("mixed"))$settings$max_rounds, fl_method("mixed")$settings$max_rounds)
})

test_that("W alone is that of the numbered fits, written out from their labels, in whatever way it is found", {
  x <- random_table(40, 3, 11)
  by_setting <- list(list(restarts = 20), list(restarts = 3, seeding = "partition"), list(seeding = "splits"),
                     list(restarts = 2, search = "evolution"), list(row_weights = rep(2, 40)), list(metric = "cosine"))
  for (settings in by_setting) {
    again <- again_by(do.call(fl_method, c("kmeans", settings)), NULL)
    naive <- vapply(1:7, function(k) naive_scatter(x, again$fit(x, k, 9)$group), 0)
    expect_equal(again$scatter(x, 1:7, 9), naive, tolerance = 1e-10, info = toString(settings))
    expect_equal(again$scatter(x, c(5, 2), 9), naive[c(5, 2)], tolerance = 1e-10)
  }
  expect_equal(again$label(again$fit(x, 3, 9), x), again$fit(x, 3, 9)$group)
})

test_that("W of several counts at once is the same for any number of threads, and asks for as many different rows", {
  x <- random_table(300, 2, 5)
  how <- kmeans_how(fl_method("kmeans", restarts = 30)$settings, 4)
  one <- kmeans_scatter_kernel(x, 1:8, replace(how, "threads", 1L))
  expect_identical(kmeans_scatter_kernel(x, 1:8, replace(how, "threads", 3L)), one)
  expect_true(all(diff(one) < 0))
  few <- x[rep(1:5, 10), ]
  expect_equal(kmeans_scatter_kernel(few, 1:5, how)[5], 0)
  expect_equal(kmeans_scatter_kernel(few, 4:6, how), rep(NaN, 3))
  expect_error(again_by(fl_method("kmeans"), NULL)$scatter(few, 4:6, 1), "only 5 distinct rows",
               class = "fjordline_error_count")
})

test_that("Gaussians are drawn only where the bend is sharper than in boxes, and then both decide", {
  drawn <- function(bend_at_3, box, gaussian, hastily = gaussian) {
    asked <- logical()
    curve <- function(bend) matrix(rep(c(0, -1, -2 - bend, -2.1 - bend), each = 20), 20)
    references <- list(observed = curve(bend_at_3)[1, ], box = curve(box), gaussian = function(hasty = FALSE) {
      asked <<- c(asked, hasty)
      curve(if (hasty) hastily else gaussian)
    })
    set <- list(k = 1:4, scatter = exp(curve(bend_at_3)[1, ]), references = function() references)
    list(asked = asked, abstains = attr(tested_bend(set), "abstains"), later = function() asked)
  }
  blunt <- drawn(1, box = 2, gaussian = 0)
  expect_length(blunt$later(), 0)
  expect_match(blunt$abstains, "at 3, is no sharper than chance")
  sharp <- drawn(2, box = 1, gaussian = 0.5)
  expect_equal(sharp$later(), TRUE)  # hastily fitted ones are enough
  expect_null(sharp$abstains)
  unclear <- drawn(2, box = 1, gaussian = 0.5, hastily = 3)
  expect_equal(unclear$later(), c(TRUE, FALSE))
  expect_null(unclear$abstains)
  expect_match(drawn(2, box = 1, gaussian = 3)$abstains, "no sharper than chance")
  # 95 in 100 of the largest bends, written out
  curves <- t(vapply(1:40, function(r) log(4:1 * 10) + random_table(4, 1, r)[, 1] / 10, double(4)))
  largest <- apply(curves, 1, function(l) max((l[3] - l[2]) / log(3 / 2) - (l[2] - l[1]) / log(2),
                                             (l[4] - l[3]) / log(4 / 3) - (l[3] - l[2]) / log(3 / 2)))
  expect_equal(likely_bend(1:4, curves), quantile(largest, 0.95, names = FALSE), tolerance = 1e-12)
})

test_that("stability and prediction strength are those written out from the same samples", {
  x <- random_heaps(60, 2, 3, sd = 3, seed = 12)
  again <- again_by(fl_method("kmeans", restarts = 3), NULL)
  labels <- bootstrap_labels(x, 3, again, 5, samples = 6)
  pairs <- vapply(1:3, function(p) naive_adjusted_rand(labels[[2 * p - 1]], labels[[2 * p]]), 0)
  expect_equal(agreement_of_pairs(labels), pairs, tolerance = 1e-10)
  expect_equal(mean_and_error(pairs), c(mean(pairs), sd(pairs) / sqrt(3)))
  nearest <- function(rows, fit) apply(rows, 1, function(r) which.min(colSums((t(fit$centres) - r)^2)))
  worst <- function(group, other) {
    min(vapply(unique(group), function(g) {
      rows <- which(group == g)
      if (length(rows) < 2) return(1)
      both <- combn(rows, 2)
      mean(other[both[1, ]] == other[both[2, ]])
    }, 0))
  }
  expected <- vapply(seq_len(strength_halvings), function(m) {
    own <- derived_seed(5, 13, m)
    rows <- random_half(60, own)
    a <- again$fit(x[rows, ], 3, own)
    b <- again$fit(x[-rows, ], 3, own)
    (worst(a$group, nearest(x[rows, ], b)) + worst(b$group, nearest(x[-rows, ], a))) / 2
  }, 0)
  expect_equal(strength_of_halves(x, 3, again, 5), expected, tolerance = 1e-10)
})

test_that("labels by fits to samples are the same at once and one by one, whatever the threads", {
  x <- random_heaps(90, 3, 4, sd = 3, seed = 2)
  x[1:40, ] <- x[rep(1:4, 10), ]  # so that some samples have too few different rows
  once <- again_by(fl_method("kmeans", restarts = 3), NULL)
  slowly <- replace(once, "by_samples", list(function(...) NULL))
  for (k in c(2, 4, 55)) {
    at_once <- bootstrap_labels(x, k, once, 8, samples = 12)
    one_by_one <- bootstrap_labels(x, k, slowly, 8, samples = 12)
    expect_equal(lengths(at_once), lengths(one_by_one))
    if (k < 55) expect_true(all(lengths(at_once) == 90))
    for (b in which(lengths(at_once) > 0)) expect_equal(naive_adjusted_rand(at_once[[b]], one_by_one[[b]]), 1)
    expect_identical(on_one_thread(bootstrap_labels)(x, k, once, 8, samples = 12), at_once)
  }
  expect_true(any(lengths(at_once) == 0))
  # only where a fit is nothing but restarts
  for (method in list(fl_method("kmeans", metric = "cosine"), fl_method("kmeans", search = "evolution"),
                      fl_method("medoids"))) {
    expect_null(again_by(method, NULL)$by_samples(x, 3, list(1:50), 1))
  }
})

test_that("groups that hardly a sample has rows enough for are not called firm", {
  few <- fl_partition(ready_from(cbind(a = c(1, 5, 9, 14))), fl_method("kmeans", restarts = 2), k = 4)
  expect_error(fl_reliability(few, samples = 10, reseeds = 2), class = "fjordline_error_method", regexp = "too few bootstrap")
  expect_null(mean_returns(c(1, 1, 2, 2), list(NULL, NULL, c(1, 1, 2, 2))))
})
