# Mixtures: likelihood, parameters and constraints against definitions written out, and what happens at the edges.

normal_log <- function(x, mean, covariance) {
  gap <- sweep(x, 2, mean)
  -0.5 * (ncol(x) * log(2 * pi) + as.numeric(determinant(covariance)$modulus) + rowSums((gap %*% solve(covariance)) * gap))
}

t_log <- function(x, mean, covariance, nu) {
  d <- ncol(x)
  gap <- sweep(x, 2, mean)
  away <- rowSums((gap %*% solve(covariance)) * gap)
  lgamma((nu + d) / 2) - lgamma(nu / 2) - d / 2 * log(nu * pi) - 0.5 * as.numeric(determinant(covariance)$modulus) -
    (nu + d) / 2 * log1p(away / nu)
}

covariance_of <- function(fit, j, d) {
  row <- fit$covariance[j, ]
  if (length(row) == d) diag(row, d) else matrix(row, d)
}

# The log-likelihood of a mixture, by its definition.
naive_likelihood <- function(x, share, mean, covariances, nu = 0) {
  each <- vapply(seq_along(share), function(j) {
    share[j] * exp(if (nu > 0) t_log(x, mean[j, ], covariances[[j]], nu) else normal_log(x, mean[j, ], covariances[[j]]))
  }, numeric(nrow(x)))
  sum(log(rowSums(matrix(each, nrow(x)))))
}

fits_of <- function(x, k, structure = covariance_structures, tails = "normal", how = list(), starts = NULL) {
  settings <- utils::modifyList(fl_method("mixture")$settings, how)
  seen <- mixture_rows(x)
  fitted_from(seen, structure_codes(structure, rep(tails == "heavy", length(structure))), k,
              starts %||% mixture_starts(seen, k, 6, 1, mixture_trees(seen, settings)), mixture_how(settings))
}

# Three groups of their own size, shape and direction.
turned_heaps <- function(n = 300, d = 3, seed = 1) {
  withr::with_seed(seed, {
    group <- rep(1:3, length.out = n)
    middle <- matrix(rnorm(3 * d, sd = 5), 3)
    x <- matrix(rnorm(n * d), n)
    for (g in 1:3) {
      turn <- qr.Q(qr(matrix(rnorm(d * d), d)))
      x[group == g, ] <- x[group == g, ] %*% diag(exp(runif(d, -1, 0.7)), d) %*% turn
    }
    list(x = x + middle[group, ], group = group)
  })
}

test_that("the log-likelihood told is that of the parameters told, for every structure and both tails", {
  made <- turned_heaps()
  for (tails in c("normal", "heavy")) {
    fits <- fits_of(made$x, 3, tails = tails)
    for (fit in fits) {
      covariances <- lapply(1:3, covariance_of, fit = fit, d = 3)
      expect_equal(fit$log_likelihood, naive_likelihood(made$x, fit$share, fit$mean, covariances, fit$freedom),
                   tolerance = 1e-9)
      expect_equal(sum(fit$share), 1)
    }
  }
})

test_that("the log-likelihood never falls along EM", {
  x <- turned_heaps(240, 4, 3)$x
  for (k in c(1, 2, 5)) {
    for (tails in c("normal", "heavy")) {
      for (fit in fits_of(x, k, tails = tails, how = list(tolerance = 1e-12, max_rounds = 300))) {
        expect_gte(min(diff(fit$trace), 0), -1e-9 * abs(fit$log_likelihood))
      }
    }
  }
})

test_that("leaps end where plain EM does, in a third of its rounds", {
  # two heaps that overlap so much that EM creeps
  x <- withr::with_seed(4, cbind(c(rnorm(150), rnorm(150, 2)), c(rnorm(150), rnorm(150, 1))))
  label <- rep(1:2, each = 150)
  share <- c(0.5, 0.5)
  mean <- rbind(colMeans(x[label == 1, ]), colMeans(x[label == 2, ]))
  covariance <- lapply(1:2, function(j) cov(x[label == j, ]))
  last <- -Inf
  for (round in 1:5000) {
    each <- vapply(1:2, function(j) share[j] * exp(normal_log(x, mean[j, ], covariance[[j]])), numeric(300))
    if (sum(log(rowSums(each))) - last < 1e-10 * 300) break
    last <- sum(log(rowSums(each)))
    member <- each / rowSums(each)
    share <- colMeans(member)
    for (j in 1:2) {
      mean[j, ] <- colSums(member[, j] * x) / sum(member[, j])
      gap <- sweep(x, 2, mean[j, ])
      covariance[[j]] <- crossprod(gap * member[, j], gap) / sum(member[, j])
    }
  }
  how <- list(tolerance = 1e-10, restarts = 0L, max_rounds = 5000L)
  fit <- fits_of(x, 2, "general/volume+shape+orientation", how = how, starts = matrix(label))[[1]]
  expect_equal(fit$log_likelihood, last, tolerance = 1e-7)
  expect_equal(sort(as.numeric(fit$share)), sort(share), tolerance = 1e-2)
  expect_gt(round, 100)
  expect_lt(length(fit$trace), round / 3)
})

test_that("one round from known groups is the textbook's", {
  made <- turned_heaps()
  how <- list(max_rounds = 1, restarts = 0, tolerance = 1e-14)
  fit <- fitted_from(mixture_rows(made$x), structure_codes("general/volume+shape+orientation", FALSE), 3,
                     matrix(made$group),
                     utils::modifyList(mixture_how(utils::modifyList(fl_method("mixture")$settings, how)),
                                       list(short_rounds = 400L, max_rounds = 0L, kept = 1L)))[[1]]
  # one more round by the formulas changes nothing: it is a fixed point of EM
  each <- vapply(1:3, function(j) fit$share[j] * exp(normal_log(made$x, fit$mean[j, ], covariance_of(fit, j, 3))),
                 numeric(300))
  member <- each / rowSums(each)
  for (j in 1:3) {
    mean <- colSums(member[, j] * made$x) / sum(member[, j])
    gap <- sweep(made$x, 2, mean)
    expect_equal(fit$share[j], mean(member[, j]), tolerance = 1e-6)
    expect_equal(fit$mean[j, ], mean, tolerance = 1e-6)
    expect_equal(covariance_of(fit, j, 3), crossprod(gap * member[, j], gap) / sum(member[, j]), tolerance = 1e-5)
  }
})

test_that("every structure keeps its own constraints", {
  x <- turned_heaps(300, 3, 5)$x
  fits <- fits_of(x, 3)
  for (m in seq_along(covariance_structures)) {
    structure <- covariance_structures[m]
    covariances <- lapply(1:3, covariance_of, fit = fits[[m]], d = 3)
    volume <- vapply(covariances, function(s) det(s)^(1 / 3), 0)
    axes <- lapply(covariances, function(s) eigen(s / det(s)^(1 / 3), symmetric = TRUE))
    same <- function(what, tolerance = 1e-8) max(abs(what[[1]] - what[[2]]), abs(what[[1]] - what[[3]])) < tolerance
    if (!structure_frees(structure, "volume")) expect_true(same(as.list(volume)))
    if (structure_form(structure) == "spherical") {
      for (s in covariances) expect_lt(max(abs(s - diag(mean(diag(s)), 3))), 1e-12)
    } else {
      if (!structure_frees(structure, "shape")) expect_true(same(lapply(axes, `[[`, "values")))
      if (structure_form(structure) == "diagonal") {
        for (s in covariances) expect_equal(s[upper.tri(s)], rep(0, 3))
      } else if (!structure_frees(structure, "orientation")) {
        # common axes: the covariances commute
        for (j in 2:3) {
          between <- covariances[[1]] %*% covariances[[j]] - covariances[[j]] %*% covariances[[1]]
          expect_lt(max(abs(between)), 1e-8 * max(abs(covariances[[1]])) * max(abs(covariances[[j]])) * 10)
        }
      }
    }
  }
})

test_that("no small change that keeps the structure raises the likelihood", {
  x <- turned_heaps(240, 2, 7)$x
  fits <- fits_of(x, 3, how = list(tolerance = 1e-13, max_rounds = 3000))
  turn <- function(angle) matrix(c(cos(angle), sin(angle), -sin(angle), cos(angle)), 2)
  for (m in seq_along(fits)) {
    structure <- covariance_structures[m]
    fit <- fits[[m]]
    covariances <- lapply(1:3, covariance_of, fit = fit, d = 2)
    best <- naive_likelihood(x, fit$share, fit$mean, covariances)
    tries <- function(change, free) {
      lapply(if (free) 1:3 else list(1:3), function(which) {
        for (way in c(-0.01, 0.01)) {
          other <- covariances
          other[which] <- lapply(covariances[which], change, way = way)
          expect_lte(naive_likelihood(x, fit$share, fit$mean, other), best + 1e-6)
        }
      })
    }
    tries(function(s, way) s * (1 + way), structure_frees(structure, "volume"))
    if (structure_form(structure) != "spherical") {
      tries(function(s, way) {
        e <- eigen(s, symmetric = TRUE)
        e$vectors %*% diag(e$values * c(1 + way, 1 / (1 + way))) %*% t(e$vectors)
      }, structure_frees(structure, "shape"))
    }
    if (structure_form(structure) == "general") {
      tries(function(s, way) turn(way) %*% s %*% t(turn(way)), structure_frees(structure, "orientation"))
    }
    for (j in 1:3) {
      moved <- fit$mean
      moved[j, 1] <- moved[j, 1] + 0.01
      expect_lte(naive_likelihood(x, fit$share, moved, covariances), best + 1e-6)
    }
  }
})

test_that("parameters are counted as written out", {
  # volume, shape, orientation of 3 components in 4 columns: 1 or 3, 3 or 9, 6 or 18; beside 2 shares and 12 means
  wanted <- c(1, 3, 1 + 3, 3 + 3, 1 + 9, 3 + 9, 1 + 3 + 6, 3 + 3 + 6, 1 + 9 + 6, 1 + 3 + 18, 3 + 9 + 6, 3 + 3 + 18,
              1 + 9 + 18, 3 + 9 + 18) + 14
  expect_equal(mixture_parameters(covariance_structures, 3, 4), wanted)
  # full covariances: k (d + d (d + 1) / 2) + k - 1
  expect_equal(mixture_parameters("general/volume+shape+orientation", 5, 6), 5 * (6 + 21) + 4)
})

test_that("BIC, ICL and AIC are those of the definitions, and so is the index", {
  ready <- fl_prepare(fl_data(as.data.frame(turned_heaps()$x)), scale = "none")
  fit <- fl_partition(ready, fl_method("mixture", covariance = "general/volume", tails = "normal"), k = 3)
  one <- fit$model$tried
  x <- ready$x
  covariances <- lapply(1:3, covariance_of, fit = fit$model, d = 3)
  log <- naive_likelihood(x, fit$model$share[, 1], fit$centres, covariances)
  p <- 3 - 1 + 9 + 3 + 2 + 3
  expect_equal(one$bic, -2 * log + p * log(300), tolerance = 1e-8)
  expect_equal(one$aic, -2 * log + 2 * p, tolerance = 1e-8)
  own <- apply(predict(fit, as.data.frame(x), type = "membership"), 1, max)
  expect_equal(one$icl, one$bic - 2 * sum(log(own)), tolerance = 1e-8)
  scores <- fl_score(fit, c("bic", "icl", "aic"))
  expect_equal(scores$value, unlist(one[c("bic", "icl", "aic")], use.names = FALSE), tolerance = 1e-8)
})

test_that("auto tries every structure with both tails and takes the smallest criterion", {
  ready <- fl_prepare(fl_data(as.data.frame(turned_heaps(900)$x)))
  fit <- fl_partition(ready, "mixture", k = 3)
  expect_equal(nrow(fit$model$tried), 28)
  expect_equal(fit$model$structure, "general/volume+shape+orientation")
  expect_equal(fit$likelihood$log, max(fit$model$tried$log_likelihood[fit$model$tried$tails == "normal"]))
  by_aic <- fl_partition(ready, fl_method("mixture", criterion = "aic"), k = 3)
  tried <- by_aic$model$tried
  expect_equal(by_aic$model$structure, tried$structure[which.min(tried$aic)])
  # one component, or one column: nothing can differ
  expect_setequal(fl_partition(ready, fl_method("mixture", tails = "normal"), k = 1)$model$tried$structure,
                  c("spherical/common", "diagonal/common", "general/common"))
  line <- fl_prepare(fl_data(data.frame(v = withr::with_seed(1, c(rnorm(40), rnorm(40, 8))))))
  expect_setequal(fl_partition(line, fl_method("mixture", tails = "normal"), k = 2)$model$tried$structure,
                  c("spherical/common", "spherical/volume"))
})

test_that("heavy tails take stray rows better, and their degrees of freedom can be estimated", {
  x <- withr::with_seed(4, rbind(matrix(rt(600, 3), 300), matrix(rt(600, 3), 300) + 12))
  ready <- fl_prepare(fl_data(as.data.frame(x)), scale = "none")
  fit <- fl_partition(ready, "mixture", k = 2)
  expect_equal(fit$model$tails, "heavy")
  expect_equal(fit$model$freedom, 4)
  found <- fl_partition(ready, fl_method("mixture", tails = "heavy", freedom = "estimated"), k = 2)
  expect_lt(abs(found$model$freedom - 3), 1)
  expect_gte(found$likelihood$log, fit$likelihood$log - 1e-6)
  expect_equal(found$likelihood$free, fit$likelihood$free + 1)
  # no other number of degrees of freedom is better
  covariances <- lapply(1:2, covariance_of, fit = found$model, d = 2)
  at <- function(nu) naive_likelihood(x, found$model$share[, 1], unname(found$centres), covariances, nu)
  expect_equal(at(found$model$freedom), found$likelihood$log, tolerance = 1e-8)
  expect_lte(max(at(found$model$freedom * 1.02), at(found$model$freedom / 1.02)), found$likelihood$log + 1e-4)
})

test_that("memberships, densities and distances of new rows are those of the model", {
  made <- turned_heaps()
  table <- as.data.frame(made$x)
  ready <- fl_prepare(fl_data(table))
  fit <- fl_partition(ready, fl_method("mixture", covariance = "general/shape+orientation", tails = "normal"), k = 3)
  x <- ready$x
  each <- vapply(1:3, function(j) {
    fit$model$share[j, 1] * exp(normal_log(x, fit$centres[j, ], covariance_of(fit$model, j, 3)))
  }, numeric(300))
  expect_equal(unname(predict(fit, table, type = "membership")), each / rowSums(each), tolerance = 1e-8)
  expect_equal(predict(fit, table, type = "density"), log(rowSums(each)), tolerance = 1e-8)
  own <- fl_labels(fit)
  gap <- x - fit$centres[own, ]
  mahalanobis <- vapply(seq_len(300), function(i) {
    sqrt(c(gap[i, ] %*% solve(covariance_of(fit$model, own[i], 3)) %*% gap[i, ]))
  }, 0)
  expect_equal(predict(fit, table, type = "distance"), mahalanobis, tolerance = 1e-8)
  expect_equal(predict(fit, table), own)
})

test_that("the density of one column integrates to one", {
  ready <- fl_prepare(fl_data(data.frame(v = withr::with_seed(1, c(rnorm(80), rnorm(80, 9))))), scale = "none")
  for (tails in c("normal", "heavy")) {
    fit <- fl_partition(ready, fl_method("mixture", tails = tails), k = 2)
    grid <- seq(-400, 400, length.out = 40001)
    expect_equal(sum(exp(predict(fit, data.frame(v = grid), type = "density"))) * diff(grid[1:2]), 1, tolerance = 2e-3)
  }
})

test_that("threads change nothing", {
  x <- turned_heaps(3000, 4, 9)$x
  each <- lapply(1:2, function(threads) {
    withr::local_options(fjordline.threads = threads)
    fit_method(fl_method("mixture"), x, 3, 1)
  })
  expect_identical(each[[1]]$group, each[[2]]$group)
  expect_identical(each[[1]]$likelihood, each[[2]]$likelihood)
})

test_that("more parameters than rows are refused, naming structures that fit", {
  x <- as.data.frame(matrix(withr::with_seed(1, rnorm(30 * 8)), 30))
  ready <- fl_prepare(fl_data(x))
  full <- fl_method("mixture", covariance = "general/volume+shape+orientation")
  expect_error(fl_partition(ready, full, k = 3), class = "fjordline_error_count", regexp = "spherical/common")
  fit <- fl_partition(ready, "mixture", k = 3)
  expect_true(all(fit$model$tried$parameters <= 30))
  expect_match(fit$notes, "more parameters than rows: .*general/volume\\+shape\\+orientation", all = FALSE)
})

test_that("collapsed components are held, said, and not chosen", {
  # ten equal rows beside a heap: a component of its own has no volume
  x <- withr::with_seed(1, rbind(matrix(rnorm(80), 40), matrix(6, 10, 2)))
  fit <- fit_method(fl_method("mixture", tails = "normal"), x, 2, 1)
  tried <- fit$model$tried
  expect_true(any(tried$reason == "a component collapsed"))
  expect_equal(tried$reason[tried$structure == fit$model$structure & tried$tails == fit$model$tails], "")
  expect_match(fit$notes, "Not eligible, because a component collapsed", all = FALSE)
  own <- fit_method(fl_method("mixture", covariance = "spherical/volume", tails = "normal"), x, 2, 1)
  expect_match(own$notes, "collapsed onto few rows", all = FALSE)
  expect_true(is.finite(own$likelihood$log))
  # collinear columns leave no volume to any general structure
  y <- withr::with_seed(2, rnorm(60))
  flat <- cbind(y, 2 * y, withr::with_seed(3, rnorm(60)))
  fit <- fit_method(fl_method("mixture", tails = "normal"), flat, 2, 1)
  expect_false(structure_form(fit$model$structure) == "general")
  expect_true(all(fit$model$tried$reason[structure_form(fit$model$tried$structure) == "general"] == "a component collapsed"))
  expect_error(fit_method(fl_method("mixture"), matrix(1, 20, 2), 1, 1), class = "fjordline_error_values")
  expect_error(fit_method(fl_method("mixture"), cbind(rep(1:3, 10)), 4, 1), class = "fjordline_error_count")
})

test_that("an offset of a hundred million costs no digit that matters", {
  made <- turned_heaps(200, 2)
  method <- fl_method("mixture", tails = "normal")
  near <- fit_method(method, made$x, 3, 1)
  far <- fit_method(method, made$x + 1e8, 3, 1)
  expect_identical(far$group, near$group)
  expect_equal(far$likelihood$log, near$likelihood$log, tolerance = 1e-6)
  expect_equal(unname(far$centres), unname(near$centres) + 1e8, tolerance = 1e-12)
  # units: a column a thousand times as large costs log(1000) a row
  wide <- fit_method(fl_method("mixture", covariance = "general/common", tails = "normal"), made$x %*% diag(c(1000, 1)), 3, 1)
  plain <- fit_method(fl_method("mixture", covariance = "general/common", tails = "normal"), made$x, 3, 1)
  expect_equal(wide$likelihood$log, plain$likelihood$log - 200 * log(1000), tolerance = 1e-6)
})

test_that("large tables are sought on a sample and fitted on all rows", {
  made <- turned_heaps(6000, 3)
  fit <- fit_method(fl_method("mixture", sample_rows = 1000, tails = "normal"), made$x, 3, 1)
  whole <- fit_method(fl_method("mixture", tails = "normal"), made$x, 3, 1)
  expect_equal(fit$likelihood$log, whole$likelihood$log, tolerance = 1e-6)
  expect_equal(sum(fit$model$tried$reason == "behind on a sample of the rows"), 11)
  expect_match(fit$notes, "even sample of 1,000 rows", all = FALSE)
  # a sample pays only where there are several times as many rows
  near <- fit_method(fl_method("mixture", sample_rows = 2400, tails = "normal"), made$x, 3, 1)
  expect_equal(near$likelihood$log, whole$likelihood$log)
  expect_false(any(grepl("even sample", near$notes)))
  expect_equal(models_refitted(20000, 28), 3)
  expect_equal(models_refitted(20001, 28), 1)
})

test_that("merges and splits leave an optimum that EM alone is caught in", {
  made <- withr::with_seed(11, {
    group <- rep(1:4, each = 60)
    list(x = cbind(c(0, 4, 20, 40)[group], 0) + matrix(rnorm(480), 240), group = group)
  })
  # the two near groups as one, a far one cut in two
  wrong <- matrix(c(1L, 1L, 2L, 3L)[made$group] + (made$group == 4L & made$x[, 2] > 0))
  alone <- fitted_from(mixture_rows(made$x), structure_codes("spherical/common", FALSE), 4, wrong,
                       mixture_how(utils::modifyList(fl_method("mixture")$settings, list(restarts = 0))))[[1]]
  moved <- fits_of(made$x, 4, "spherical/common", starts = wrong)[[1]]
  truth <- fits_of(made$x, 4, "spherical/common", starts = matrix(made$group))[[1]]
  expect_lt(alone$log_likelihood, truth$log_likelihood - 10)
  expect_equal(moved$log_likelihood, truth$log_likelihood, tolerance = 1e-8)
})

test_that("misspelt structures, tails and criteria are named", {
  expect_error(fl_method("mixture", covariance = "general/volum"), class = "fjordline_error_method",
               regexp = "general/volume")
  expect_error(fl_method("mixture", tails = "thick"), class = "fjordline_error_method")
  expect_error(fl_method("mixture", criterion = "bik"), class = "fjordline_error_method", regexp = "bic")
  expect_error(fl_method("mixture", freedom = 0), class = "fjordline_error")
})

test_that("components are told in original units, also through a logarithm", {
  water <- water_ready()
  fit <- fl_partition(water, fl_method("mixture", covariance = "general/volume", tails = "normal"), k = 3)
  told <- fl_components(fit)
  expect_equal(unique(told$column), names(fit$groups)[-(1:4)])
  salty <- told[told$column == "salinity", ]
  expect_equal(salty$centre, fit$groups$salinity)
  sd <- vapply(1:3, function(j) sqrt(covariance_of(fit$model, j, 6)[2, 2]), 0) * stats::sd(water$data$table$salinity[water$rows])
  expect_equal(salty$spread, sd, tolerance = 1e-6)
  muddy <- told[told$column == "turbidity", ]
  expect_equal(muddy$high / muddy$centre, muddy$centre / muddy$low, tolerance = 1e-8)
  expect_equal(diag(attr(told, "correlation")[[1]]), rep(1, 6), ignore_attr = TRUE)
  expect_error(fl_components(fl_partition(water, k = 3)), class = "fjordline_error_argument")
})

test_that("where very many fits are made, they are of the model chosen, and its own likelihood judges a mixture", {
  ready <- ready_from(random_heaps(150, 2, 3, sd = 6, seed = 3))
  fit <- fl_partition(ready, "mixture", k = 3)
  again <- with_few_restarts(as_settled(fit$method, fit$model))
  expect_equal(again$settings[c("covariance", "tails")], fit$model[c("structure", "tails")], ignore_attr = TRUE)
  expect_equal(asked_models(again$settings, 3, 2, 150)$asked$structure, fit$model$structure)
  expect_true(all(fl_reliability(fit, samples = 10, reseeds = 4)$groups$returns > 0.85))
  sweep <- fl_sweep(ready, fl_method("mixture", covariance = "spherical/volume", tails = "normal"), k = 2:4,
                    indices = c("gap", "stability", "bic"))
  values <- as.data.frame(sweep)
  expect_match(values$reason[values$index == "gap"], "its own likelihood")
  expect_match(values$reason[values$index == "stability"], "its own likelihood")
  own <- vapply(sweep$fits, function(f) -2 * f$likelihood$log + f$likelihood$free * log(150), 0)
  expect_equal(values$value[values$index == "bic"], own[sweep$cells$asked])
})

test_that("runs that are given up do not cost the best fit: it is that of long runs from every start", {
  settings <- fl_method("mixture")$settings
  for (seed in 1:3) {
    x <- random_table(150, 2, seed) + 4 * rep(0:2, each = 50)
    seen <- mixture_rows(x)
    starts <- mixture_starts(seen, 3, 6, 1, mixture_trees(seen, settings))
    structures <- c("spherical/volume", "diagonal/volume+shape", "general/common")
    found <- fits_of(x, 3, structures, starts = starts)
    how <- utils::modifyList(mixture_how(settings), list(exchanges = 0L, moves = 0L))
    for (m in seq_along(structures)) {
      alone <- vapply(seq_len(ncol(starts)), function(s) {
        fit <- fitted_from(seen, structure_codes(structures[m], FALSE), 3L, starts[, s, drop = FALSE], how)[[1]]
        if (fit$failed || fit$floored) -Inf else fit$log_likelihood
      }, 0)
      expect_gte(found[[m]]$log_likelihood, max(alone) - 0.01)
    }
  }
})
