# Mixtures that chose their model choose anew in every sample; probabilities are compared with rows a fit had not seen.

three_near <- function(n, seed, noise = random_table(n, 2, seed)) {
  group <- withr::with_seed(seed, sample(3, n, TRUE))
  ready_from(noise + 3 * rbind(c(0, 0), c(1, 0), c(0.5, 0.87))[group, ])
}

test_that("with the model chosen anew less comes back than with the model held, as in refits of one's own", {
  each <- vapply(1:4, function(seed) {
    groups <- fl_partition(three_near(120, seed), "mixture", k = 3)
    anew <- fl_reliability(groups, samples = 12, reseeds = 2)
    own <- vapply(1:12, function(b) {
      rows <- drawn_again(120, derived_seed(1, 11, b))
      x <- groups$ready$x
      fit <- fl_partition(ready_from(x[rows, ]), "mixture", k = 3, seed = derived_seed(1, 11, b))
      mean(best_matches(fl_labels(groups), predict(fit, as.data.frame(x), reach = Inf, strict = FALSE))$share)
    }, 0)
    held <- fl_method("mixture", covariance = groups$model$structure, tails = groups$model$tails)
    c(anew = mean(anew$groups$returns), own = mean(own),
      held = mean(fl_reliability(fl_partition(groups$ready, held, k = 3), samples = 12, reseeds = 2)$groups$returns))
  }, numeric(3))
  expect_lt(abs(mean(each["anew", ] - each["own", ])), 0.04)
  expect_gt(mean(each["held", ] - each["own", ]), 0.06)  # what was stated before
})

test_that("how many samples there are follows from what they take, and is said", {
  ready <- three_near(80, 1)
  chosen <- fl_reliability(fl_partition(ready, "mixture", k = 2))
  expect_true(chosen$samples %in% seq(8, 20, 4))
  expect_equal(chosen$reseeds, 5)
  expect_match(fl_facts(chosen), paste(chosen$samples, "bootstrap samples, each choosing its own model, 5 other seeds"), all = FALSE)
  # as many as needed: those of the same call with that number, and a mean clear of the limits where it ended early
  same <- fl_reliability(fl_partition(ready, "mixture", k = 2), samples = chosen$samples)
  expect_equal(same$groups, chosen$groups)
  group <- rep(1:2, each = 10)
  firm <- rep(list(group), 8)
  expect_true(returns_decided(group, firm))
  expect_false(returns_decided(group, firm[1:7]))
  near <- c(rep(list(replace(group, 1:3, 2L)), 4), rep(list(group), 4))
  expect_false(returns_decided(group, near))
  expect_equal(chosen$call, "fl_reliability(groups, seed = 1)")
  plain <- fl_reliability(fl_partition(ready, k = 2))
  expect_equal(c(plain$samples, plain$reseeds), c(50, 20))
  expect_null(plain$said)
  expect_false(any(grepl("choosing its own", fl_facts(plain))))
})

test_that("models that a sample could choose are those near the best, larger ones at a greater distance", {
  tried <- data.frame(structure = covariance_structures[c(1, 2, 3, 4)], tails = c("normal", "normal", "heavy", "normal"),
                      parameters = c(5, 5, 5, 60), bic = c(100, 149, 151, 340), reason = "")
  settings <- contending_models(method_mixture()$settings, list(tried = tried), 100)
  expect_identical(settings$covariance, covariance_structures[c(1, 2, 4)])  # 30 + 2 * 10, and 4 for each parameter more
  expect_identical(settings$tails, "normal")
  expect_identical(contending_models(method_mixture()$settings, list(tried = tried[1:3, ]), 400)$tails, "auto")
})

test_that("what is said of rows a fit had not seen is counted as defined", {
  groups <- fl_partition(three_near(100, 2), fl_method("mixture", covariance = "spherical/common", tails = "normal"),
                         k = 3)
  found <- fl_reliability(groups, samples = 6, reseeds = 2)
  x <- groups$ready$x
  again <- again_by(as_settled(bind_method(groups$method, groups$ready), groups$model), about_columns(groups$ready))
  said <- same <- c()
  for (b in 1:6) {
    rows <- sample_of_rows(100, FALSE, derived_seed(1, 11, b))
    fit <- again$fit(x[rows, ], 3, derived_seed(1, 11, b))
    share <- mixture_memberships(fit, x)
    to <- max.col(share, "first")
    for (i in setdiff(1:100, rows)) {
      mine <- fl_labels(groups) == fl_labels(groups)[i]
      likest <- which.max(vapply(1:3, function(h) sum(mine & to == h) / sum(mine | to == h), 0))
      said <- c(said, max(share[i, ]))
      same <- c(same, to[i] == likest)
    }
  }
  class <- cut(said, c(0, 0.8, 0.95, 0.99, Inf), right = FALSE)
  expect_equal(found$said$rows, as.vector(table(class)))
  expect_equal(found$said$same, as.vector(tapply(same, class, mean)))
  expect_equal(found$said$probability, as.vector(tapply(said, class, mean)))
})

test_that("probabilities that other rows do not bear out are called so, and misfit of the components is told", {
  skewed <- matrix(withr::with_seed(4, rexp(150 * 6)), 150)
  skewed[, 1] <- skewed[, 1] + 3 * rep(0:2, 50)
  groups <- fl_partition(ready_from(skewed), fl_method("mixture", tails = "normal"), k = 3)
  said <- fl_facts(fl_reliability(groups, samples = 10, reseeds = 2))
  expect_match(said, "memberships of this mixture are overconfident", all = FALSE)
  expect_match(said, "components are more skewed.* its probabilities hold for the model only", all = FALSE)
  apart <- fl_facts(fl_reliability(fl_partition(ready_from(random_heaps(150, 2, 3, sd = 12, seed = 1)), "mixture", k = 3),
                                   samples = 10, reseeds = 2))
  expect_false(any(grepl("for less than they say|for the model only", apart)))
  expect_match(apart, "100% are in the same group here\\.", all = FALSE)
})
