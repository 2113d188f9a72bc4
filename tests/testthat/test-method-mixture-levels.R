# Mixtures with categories: multinomials, independent within a component.

# Two numbers, a category of three levels and one of two as indicator columns; groups differ in all.
levelled_rows <- function(n = 240, seed = 1, apart = 3) {
  withr::with_seed(seed, {
    group <- rep(1:2, length.out = n)
    first <- ifelse(runif(n) < 0.7, group, 3L)
    second <- ifelse(runif(n) < 0.8, group, 3L - group)
    x <- cbind(rnorm(n, apart * group), rnorm(n), diag(3)[first, ], diag(2)[second, ] * sqrt(1.5))
    colnames(x) <- c("u", "v", "p: a", "p: b", "p: c", "q: a", "q: b")
    list(x = x, group = group, codes = cbind(first, second))
  })
}

levels_about <- list(category = c(0L, 0L, 1L, 1L, 1L, 2L, 2L), mismatch = c(2, 3))

levelled_fit <- function(x, k = 2, ..., about = levels_about, seed = 1) {
  fit_method(fl_method("mixture", ...), x, k, seed, about)
}

# Log of share, density of the numbers and chance of the levels, term by term.
naive_terms <- function(fit, numbers, codes, many) {
  parts <- mixture_parts(fit)
  begin <- cumsum(many) - many
  vapply(seq_along(parts$share), function(j) {
    vapply(seq_len(nrow(codes)), function(i) {
      out <- log(parts$share[j])
      if (ncol(numbers) > 0L) {
        s <- full_covariance(parts$covariance[j, ], ncol(numbers))
        gap <- numbers[i, ] - parts$mean[j, ]
        far <- drop(gap %*% solve(s) %*% gap)
        d <- ncol(numbers)
        nu <- fit$model$freedom
        out <- out - determinant(s)$modulus / 2 +
          if (nu > 0) lgamma((nu + d) / 2) - lgamma(nu / 2) - d / 2 * log(nu * pi) - (nu + d) / 2 * log1p(far / nu)
          else -d / 2 * log(2 * pi) - far / 2
      }
      for (c in seq_along(many)) out <- out + log(parts$chance[j, begin[c] + codes[i, c]])
      as.numeric(out)
    }, 0)
  }, numeric(nrow(codes)))
}

total_of <- function(terms) sum(log(rowSums(exp(terms))))

# EM for categories alone, by the formulas.
naive_level_em <- function(codes, many, member, rounds = 400, settled = 1e-10) {
  n <- nrow(codes)
  reached <- -Inf
  holds <- lapply(seq_along(many), function(c) outer(codes[, c], seq_len(many[c]), "==") + 0)
  for (round in seq_len(rounds)) {
    terms <- matrix(log(colSums(member) / n), n, ncol(member), byrow = TRUE)
    for (level in holds) {
      chance <- crossprod(member, level) / colSums(member)
      terms <- terms + tcrossprod(level, log(pmax(chance, 1e-300)))
    }
    likelihood <- total_of(terms)
    member <- exp(terms) / rowSums(exp(terms))
    if (likelihood - reached < settled) break
    reached <- likelihood
  }
  likelihood
}

test_that("the likelihood is that of the definition, with normal and heavy tails", {
  made <- levelled_rows()
  for (tails in c("normal", "heavy")) {
    fit <- levelled_fit(made$x, covariance = "general/volume+shape+orientation", tails = tails)
    terms <- naive_terms(fit, made$x[, 1:2], made$codes, c(3, 2))
    expect_equal(fit$likelihood$log, total_of(terms), tolerance = 1e-9)
    expect_equal(mixture_memberships(fit, made$x), exp(terms) / rowSums(exp(terms)), tolerance = 1e-8)
    expect_equal(mixture_density(fit, made$x), log(rowSums(exp(terms))), tolerance = 1e-8)
  }
})

test_that("one more round by the textbook's formulas changes nothing", {
  made <- levelled_rows(apart = 1)
  for (tails in c("normal", "heavy")) {
    fit <- levelled_fit(made$x, covariance = "general/volume+shape+orientation", tails = tails, tolerance = 1e-14,
                        max_rounds = 1e5)
    member <- mixture_memberships(fit, made$x)
    # a row's pull on the means does not weigh its levels
    for (j in 1:2) {
      wanted <- c(tapply(member[, j], factor(made$codes[, 1], 1:3), sum),
                  tapply(member[, j], factor(made$codes[, 2], 1:2), sum)) / sum(member[, j])
      expect_equal(unname(fit$model$chance[j, ]), unname(pmax(wanted, 1e-12)), tolerance = 1e-4)
    }
    expect_equal(fit$model$share[, 1], colMeans(member), tolerance = 1e-4)
    expect_equal(rowSums(fit$model$chance), c(2, 2), tolerance = 1e-9)
  }
})

test_that("of tiny tables of categories the best optimum is found that any partition leads to", {
  many <- c(2, 3, 2)
  for (seed in 1:8) {
    codes <- withr::with_seed(seed, vapply(many, function(l) sample(l, 9, TRUE), integer(9)))
    for (c in seq_along(many)) codes[seq_len(many[c]), c] <- seq_len(many[c])  # every level is there
    x <- do.call(cbind, lapply(seq_along(many), function(c) diag(many[c])[codes[, c], ]))
    best <- max(vapply(all_partitions(9, 2), function(g) {
      naive_level_em(codes, many, outer(g, 1:2, "==") * 0.98 + 0.01, settled = 1e-6)
    }, 0))
    about <- list(category = rep(seq_along(many), many), mismatch = rep(2, 3))
    fits <- fitted_components(x, 2, fl_method("mixture", restarts = 60)$settings, 1, about,
                              mixture_shared(x, fl_method("mixture")$settings, about))
    expect_gt(fits$likelihood$log, best - 0.02)
    expect_lt(fits$likelihood$log, best + 0.02)
  }
})

test_that("parameters count the chances of all levels but one a category", {
  made <- levelled_rows()
  fit <- levelled_fit(made$x, covariance = "spherical/common", tails = "normal")
  # one share, four coordinates, one variance; of two components two and one free chances
  expect_equal(fit$likelihood$free, 1 + 4 + 1 + 2 * (2 + 1))
  alone <- levelled_fit(made$x[, 3:7], about = list(category = c(1L, 1L, 1L, 2L, 2L), mismatch = c(2, 3)))
  expect_equal(alone$likelihood$free, 1 + 2 * (2 + 1))
  expect_identical(alone$model$tried$structure, "none")
  expect_equal(alone$model$tried$bic, -2 * alone$likelihood$log + 7 * log(240))
})

test_that("BIC finds groups in categories, and one group where they are independent", {
  chance <- cbind(c(0.85, 0.1, 0.05), c(0.1, 0.8, 0.1), c(0.05, 0.1, 0.85))
  table <- withr::with_seed(3, {
    group <- rep(1:3, each = 120)
    as.data.frame(lapply(1:7, function(j) letters[vapply(group, function(g) sample(3, 1, prob = chance[, g]), 0L)]),
                  col.names = paste0("item", 1:7))
  })
  ready <- fl_prepare(fl_data(table, features = names(table)))
  bic <- vapply(1:5, function(k) min(fl_partition(ready, "mixture", k = k)$model$tried$bic), 0)
  expect_equal(which.min(bic), 3)
  groups <- fl_partition(ready, "mixture", k = 3)
  expect_gt(adjusted_rand(table(groups$group, rep(1:3, each = 120))), 0.95)
  mixed <- withr::with_seed(4, as.data.frame(lapply(table, sample)))
  ready <- fl_prepare(fl_data(mixed, features = names(mixed)))
  bic <- vapply(1:3, function(k) min(fl_partition(ready, "mixture", k = k)$model$tried$bic), 0)
  expect_equal(which.min(bic), 1)
})

test_that("a level that was not seen says nothing, nor does another value of a column of few", {
  made <- levelled_rows()
  fit <- levelled_fit(made$x, covariance = "diagonal/common", tails = "normal")
  row <- made$x[1, , drop = FALSE]
  row[, 3:5] <- 0
  terms <- vapply(1:2, function(j) {
    log(fit$model$share[j, 1]) + sum(dnorm(row[, 1:2], fit$centres[j, 1:2], sqrt(fit$model$covariance[j, ]), TRUE)) +
      log(fit$model$chance[j, 3 + made$codes[1, 2]])
  }, 0)
  expect_equal(mixture_density(fit, row), log(sum(exp(terms))), tolerance = 1e-9)
  two <- cbind(made$x[, 1:2], flag = made$codes[, 2])
  fit <- levelled_fit(two, covariance = "diagonal/common", tails = "normal", about = NULL)
  row <- cbind(two[1, 1:2, drop = FALSE][, 1], two[1, 2], 1.5)
  without <- fit
  without$model[c("category", "valued", "chance")] <- NULL
  without$centres <- fit$centres[, 1:2]
  expect_equal(mixture_density(fit, row), mixture_density(without, row[, 1:2, drop = FALSE]), tolerance = 1e-9)
})

test_that("a column of two values is a category of two levels", {
  made <- levelled_rows()
  category <- levelled_fit(made$x[, c(1, 2, 6, 7)], about = list(category = c(0L, 0L, 1L, 1L), mismatch = 3))
  column <- levelled_fit(cbind(made$x[, 1:2], 5 + 4 * made$codes[, 2]), about = NULL)
  expect_equal(column$likelihood$log, category$likelihood$log, tolerance = 1e-6)
  expect_equal(column$likelihood$free, category$likelihood$free)
  expect_identical(column$group, category$group)
  # its centre is the mean of the two values under their chances
  expect_equal(column$centres[, 3], 9 + 4 * (column$model$chance[, 2]), tolerance = 1e-9)
  expect_match(column$notes, "One column of few values is modelled by the probabilities of its levels", all = FALSE)
})

test_that("order of rows, names of levels and units of numbers do not matter", {
  made <- levelled_rows(seed = 5)
  fit <- levelled_fit(made$x)
  turned <- levelled_fit(made$x[240:1, ])
  expect_equal(turned$likelihood$log, fit$likelihood$log, tolerance = 1e-6)
  expect_equal(adjusted_rand(table(rev(turned$group), fit$group)), 1)
  renamed <- levelled_fit(made$x[, c(1, 2, 5, 3, 4, 7, 6)])
  expect_equal(renamed$likelihood$log, fit$likelihood$log, tolerance = 1e-6)
  scaled <- made$x
  scaled[, 1:2] <- 1000 * scaled[, 1:2]
  expect_equal(levelled_fit(scaled)$likelihood$log, fit$likelihood$log - 240 * 2 * log(1000), tolerance = 1e-6)
})

test_that("components of a prepared table tell how likely levels are, and survive a file", {
  table <- withr::with_seed(2, {
    group <- rep(1:2, each = 80)
    data.frame(depth = rnorm(160, 6 * group), gear = ifelse(runif(160) < 0.9, c("net", "line")[group], "pot"),
               lit = as.integer(runif(160) < c(0.1, 0.9)[group]))
  })
  groups <- fl_partition(fl_prepare(fl_data(table, features = names(table))), "mixture", k = 2)
  told <- fl_components(groups)
  gear <- told[told$column == "gear", ]
  expect_equal(as.vector(tapply(gear$centre, gear$group, sum)), c(1, 1), tolerance = 1e-6)
  for (g in 1:2) {
    expect_equal(gear$centre[gear$group == g & gear$level == "pot"],
                 weighted.mean(table$gear == "pot", predict(groups, table, type = "membership")[, g]), tolerance = 1e-5)
    expect_equal(told$centre[told$group == g & told$column == "lit"],
                 weighted.mean(table$lit, predict(groups, table, type = "membership")[, g]), tolerance = 1e-5)
  }
  expect_true(all(is.na(gear$low)))
  expect_equal(dim(attr(told, "correlation")[[1]]), c(1, 1))
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  again <- fl_load(file)
  new <- data.frame(depth = c(6, 12, 9), gear = c("net", "trawl", "line"), lit = c(0L, 1L, 1L))
  expect_equal(suppressWarnings(predict(again, new)), suppressWarnings(predict(groups, new)))
  for (view in c("density", "models", "uncertain")) {
    expect_no_warning(ggplot2::ggplot_build(ggplot2::autoplot(groups, view = view)))
  }
})

test_that("what cannot be is said", {
  made <- levelled_rows()
  expect_error(levelled_fit(made$x, components = 3), class = "fjordline_error_count")
  table <- data.frame(a = rep(c("x", "y", "z"), 20), b = rep(c("s", "t"), 30))
  groups <- fl_partition(fl_prepare(fl_data(table, features = names(table))), "mixture", k = 2)
  expect_error(ggplot2::autoplot(groups, view = "density"), "all columns here are categories",
               class = "fjordline_error_argument")
  expect_match(fl_components(groups)$level, "^[xyzst]$")
  expect_error(fl_partition(groups$ready, "mixture", k = 9), class = "fjordline_error_count")
  # as many levels as rows: more chances than rows
  table$id <- sprintf("row %02d", 1:60)
  ready <- suppressWarnings(fl_prepare(fl_data(table, features = names(table), types = list(id = "category"))))
  expect_error(fl_partition(ready, "mixture", k = 2), "more parameters than there are rows",
               class = "fjordline_error_count")
})

# Three groups of guests: two differ in numbers, one in what it chose.
guest_table <- function(n = 420, seed = 8) {
  withr::with_seed(seed, {
    kind <- rep(1:3, length.out = n)
    chosen <- function(common) ifelse(runif(n) < 0.9, common[kind], sample(common, n, TRUE))
    data.frame(nights = rexp(n) + c(0, 9, 0)[kind], paid = rexp(n) + c(0, 9, 0)[kind], boat = chosen(c("a", "b", "c")),
               cabin = chosen(c("p", "q", "r")), meals = chosen(c("s", "t", "u")))
  })
}

test_that("the vote hears the categories: groups, words and the groups offered", {
  table <- guest_table()
  vote <- fl_vote(fl_sweep(fl_prepare(fl_data(table, features = names(table))), k = 1:8, indices = "fast"))
  expect_equal(vote$k, 3L)
  expect_true(vote$with_levels)
  expect_equal(vote$found$apart_by, "dips")
  expect_equal(vote$method, "mixture")
  expect_gt(adjusted_rand(table(fl_take(vote)$group, rep(1:3, length.out = 420))), 0.9)
  said <- fl_facts(vote)
  expect_match(said, "assumes independent levels within a component; the vote does not test this", all = FALSE)
  expect_match(vote$situation, "levels$")
  expect_no_warning(ggplot2::ggplot_build(ggplot2::autoplot(vote)))
})

test_that("categories alone: a count, or why there is none, and never clear without a test for groups", {
  table <- guest_table()[c("boat", "cabin", "meals")]
  vote <- fl_vote(fl_sweep(fl_prepare(fl_data(table, features = names(table))), k = 1:8, indices = "fast"))
  expect_false(vote$verdict == "clear")
  expect_equal(vote$found$components, 3L)
  expect_match(fl_facts(vote), "could not be tested", all = FALSE)
  expect_length(vote$far, 0L)
  independent <- withr::with_seed(9, as.data.frame(lapply(table, sample)))
  vote <- fl_vote(fl_sweep(fl_prepare(fl_data(independent, features = names(table))), k = 1:8, indices = "fast"))
  expect_equal(vote$found$components, 1L)
  expect_equal(vote$verdict, "no clear count")
})

test_that("where no mixture can be fitted, and nothing is tested or measured, that is said and no count is clear", {
  noise <- withr::with_seed(1, as.data.frame(replicate(40, sample(letters[1:4], 30, TRUE))))
  vote <- fl_vote(fl_sweep(fl_prepare(fl_data(noise, features = names(noise))), k = 1:6, indices = "fast"))
  expect_equal(vote$verdict, "no clear count")
  expect_match(fl_facts(vote), "Gaussian mixture has no fit for any count: .* more parameters", all = FALSE)
  # a margin alone does not help
  untested <- list(k = 3L, by = "indices", verdict = "weak", measured = NA, voters = "kmeans", found = NULL,
                   structure = list(groups = NA, reason = "there are fewer than ten rows"), repeats = vote$repeats[0, ],
                   evidence = evidence_table(3L, FALSE, NULL))
  lowered <- set_verdict(untested, list(k = 1:6))
  expect_equal(lowered$verdict, "no clear count")
  expect_match(lowered$lowered, "were not measured", all = FALSE)
})

test_that("groups that only categories show are not denied by a test that leaves categories out", {
  table <- withr::with_seed(12, {
    kind <- rep(1:2, each = 150)
    chosen <- function() ifelse(runif(300) < 0.9, letters[kind], sample(letters[1:3], 300, TRUE))
    data.frame(u = rnorm(300), v = rnorm(300), p = chosen(), q = chosen(), r = chosen(), s = chosen(), t = chosen())
  })
  vote <- fl_vote(fl_sweep(fl_prepare(fl_data(table, features = names(table))), k = 1:8, indices = "fast"))
  expect_false(vote$structure$groups)
  expect_equal(vote$k, 2L)
  expect_equal(vote$verdict, "weak")
  expect_match(fl_facts(vote), "The numbers give no evidence of groups .*leaves levels out", all = FALSE)
})

test_that("what is made of a mixture with categories: its profile without each column, samples, a report", {
  table <- guest_table(150)
  groups <- fl_partition(fl_prepare(fl_data(table, features = names(table))), fl_method("mixture", restarts = 2), k = 3)
  profile <- fl_profile(groups)
  expect_setequal(profile$separation$column, names(table))
  # without the last category the columns of few values keep their place
  table$lit <- rep(0:1, 75)
  flagged <- fl_prepare(fl_data(table, features = c("boat", "cabin", "lit")))
  groups <- fl_partition(flagged, fl_method("mixture", restarts = 2), k = 2)
  expect_s3_class(fl_profile(groups), "fl_profile")
  expect_s3_class(fl_reliability(groups, samples = 3, reseeds = 2), "fl_reliability")
  expect_equal(names(own_views(groups)), "uncertain")
  about <- about_columns(flagged)
  expect_equal(about_kept(about, about$category != 1L)$category, c(0L, 1L, 1L, 1L))
  expect_equal(about_kept(about, about$category != 1L)$mismatch, about$mismatch[2])
})
