# Mixtures of Gaussian or t components. The work is done in src/mixture.cpp and src/mixture-search.cpp.

method_mixture <- function() {
  declare_method(
    "mixture",
    label = "Gaussian mixture (Banfield & Raftery 1993; Celeux & Govaert 1995)",
    fit = run_mixture, assign = assign_mixture, membership = mixture_memberships, density = mixture_density,
    settings = list(covariance = "auto", tails = "auto", criterion = "bic", freedom = 4, restarts = 10L,
                    max_rounds = 1000L, tolerance = 1e-8, floor = 1e-6, sample_rows = 20000L),
    check = check_mixture,
    shape = "elliptic groups, alike or each of its own size, shape and direction; overlapping; with heavy tails",
    needs = "numbers; k; more rows than parameters",
    cost = "time n k d^2 a round (n k d along the columns), many rounds and models; memory: the table twice",
    minimises = "-log-likelihood",
    source = "Banfield & Raftery 1993; Celeux & Govaert 1995; Peel & McLachlan 2000"
  )
}

mixture_criteria <- c("bic", "icl", "aic")

check_mixture <- function(settings) {
  for (structure in settings$covariance) {
    check_choice(structure, c("auto", covariance_structures), "covariance", what = "method")
  }
  check_choice(settings$tails, c("auto", "normal", "heavy"), "tails", what = "method")
  check_choice(settings$criterion, mixture_criteria, "criterion", what = "method")
  if (!identical(settings$freedom, "estimated")) check_number(settings$freedom, "freedom", least = 1, most = 200)
  check_whole(settings$restarts, "restarts", least = 0, most = 1e4)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_number(settings$tolerance, "tolerance", least = 1e-14, most = 1)
  check_number(settings$floor, "floor", least = 1e-12, most = 0.1)
  check_whole(settings$sample_rows, "sample_rows", least = 100)
}

run_mixture <- function(x, k, settings, seed) {
  if (total_scatter(x) <= 0) {
    fl_abort("values", "A mixture describes how rows scatter, and all rows of this table are equal.")
  }
  check_distinct(k, distinct_kernel(x, as.integer(k), "euclidean"))
  models <- asked_models(settings, k, ncol(x), nrow(x))
  fits <- fitted_models(x, k, models$asked, settings, seed)
  tried <- model_table(fits, models$asked, k, x, settings)
  best <- best_model(tried, settings$criterion)
  fit <- fits[[best]]
  placed <- place_in_mixture(x, fit, tried$structure[best])
  group <- max.col(placed$density, "first")
  used <- sort(unique(group))
  list(
    group = match(group, used), centres = fit$mean[used, , drop = FALSE], objective = -fit$log_likelihood,
    rounds = length(fit$trace) - 1L, converged = fit$converged,
    restarts = restart_counts(-fit$reached, -fit$log_likelihood),
    likelihood = list(log = fit$log_likelihood, free = tried$parameters[best], certainty = fit$certainty),
    model = list(structure = tried$structure[best], tails = tried$tails[best], freedom = fit$freedom,
                 share = cbind(fit$share[used] / sum(fit$share[used])), covariance = fit$covariance[used, , drop = FALSE],
                 tried = tried, trace = fit$trace),
    notes = mixture_notes(tried, best, models, k, length(used), placed, settings, nrow(x))
  )
}

# The models to fit: a row each, those that are the same for this table once, those with more parameters than rows not.
asked_models <- function(settings, k, d, n) {
  named <- settings$covariance
  named <- unique(if ("auto" %in% named) covariance_structures else named)
  tails <- if (settings$tails == "auto") c("normal", "heavy") else settings$tails
  all <- expand.grid(structure = unique(simplest_structure(named, k, d)), tails = tails, stringsAsFactors = FALSE)
  estimated <- all$tails == "heavy" & identical(settings$freedom, "estimated")
  all$parameters <- mixture_parameters(all$structure, k, d, estimated)
  fits <- all$parameters <= n
  if (!any(fits)) {
    able <- unique(simplest_structure(covariance_structures, k, d))
    able <- able[mixture_parameters(able, k, d) <= n]
    fl_abort("count", paste0("A mixture of ", counted(k, "component"), " with this covariance has more parameters than ",
                             "there are rows."),
             found = paste0(if ("auto" %in% settings$covariance) "All structures" else listed(unique(all$structure)), ": ", listed(thousands_each(range(all$parameters)), "to"),
                            " parameters; ", counted(n, "row"), "."),
             advice = if (length(able) > 0L) paste0("Of the structures, ", listed(able), " would fit.")
             else paste0("No structure fits ", k, " components: ask for fewer."))
  }
  list(asked = all[fits, ], left_out = all[!fits, ])
}

thousands_each <- function(numbers) unique(vapply(numbers, thousands, ""))

# Every model from the same starts. Large tables: sought on an even sample, and what may be best there fitted to all rows.
fitted_models <- function(x, k, models, settings, seed) {
  rows <- sampled_rows(nrow(x), settings$sample_rows, seed)
  sampled <- length(rows) < nrow(x)
  part <- if (sampled) x[rows, , drop = FALSE] else x
  codes <- structure_codes(models$structure, models$tails == "heavy")
  how <- mixture_how(settings)
  fits <- mixture_kernel(part, codes, as.integer(k), mixture_starts(part, k, settings$restarts, seed), how)
  if (!sampled) {
    return(fits)
  }
  whole_log <- vapply(fits, `[[`, 0, "log_likelihood") * nrow(x) / nrow(part)
  charge <- if (settings$criterion == "aic") 2 else log(nrow(x))
  rank <- rank(-2 * whole_log + charge * models$parameters + ifelse(vapply(fits, collapsed, NA), Inf, 0),
               ties.method = "first")
  Map(function(fit, m) {
    if (rank[m] > sampled_models) {
      return(replace(fit, c("behind", "log_likelihood"), list(TRUE, NA_real_)))
    }
    start <- matrix(max.col(place_in_mixture(x, fit, models$structure[m])$density, "first"))
    mixture_kernel(x, codes[m, , drop = FALSE], as.integer(k), start, replace(how, "moves", 0L))[[1L]]
  }, fits, seq_along(fits))
}

sampled_models <- 3L

collapsed <- function(fit) fit$failed || fit$floored

mixture_how <- function(settings) {
  estimated <- identical(settings$freedom, "estimated")
  list(short_rounds = 15L, kept = 3L, max_rounds = as.integer(settings$max_rounds), exchanges = 2L, exchanged = 6L,
       moves = if (settings$restarts > 0L) 20L else 0L, turns = 3L, moved = 3L, tolerance = settings$tolerance,
       floor = settings$floor, freedom = if (estimated) 4 else settings$freedom, estimate_freedom = estimated,
       threads = thread_count())
}

# Partitions to begin from, a column each: k-means of the rows, of the rows with all directions brought to one spread,
# and of few seeded starts each.
mixture_starts <- function(x, k, restarts, seed) {
  if (k == 1L) {
    return(matrix(1L, nrow(x), 1L))
  }
  even <- sphered(x)
  more <- max(0L, restarts - 4L)
  grouped <- function(table, restarts, turn) {
    least_scatter(table, k, restarts, 100L, derived_seed(seed, 23, turn))$group
  }
  starts <- c(list(grouped(x, 5L, 1), if (ncol(x) > 1L) grouped(even, 5L, 2)),
              lapply(seq_len(more), function(turn) grouped(if (turn %% 2L == 0L) even else x, 1L, turn + 2)))
  starts <- unique(Filter(Negate(is.null), starts))
  matrix(unlist(starts), nrow(x))
}

# All directions in which the rows scatter brought to one spread.
sphered <- function(x) {
  centred <- sweep(x, 2L, colMeans(x))
  axes <- principal_axes(centred)
  scores <- centred %*% axes$turn[, seq_len(axes$rank), drop = FALSE]
  sweep(scores, 2L, sqrt(colMeans(scores^2)), "/")
}

# What every model reached: criteria (lower is better), and why one is not eligible.
model_table <- function(fits, models, k, x, settings) {
  get <- function(field, type) vapply(fits, `[[`, type, field)
  log <- get("log_likelihood", 0)
  n <- nrow(x)
  bic <- -2 * log + models$parameters * log(n)
  reason <- vapply(fits, function(fit) {
    if (isTRUE(fit$behind)) "behind on a sample of the rows"
    else if (fit$failed) "no covariances were found"
    else if (fit$floored) "a component collapsed"
    else ""
  }, "")
  tibble::tibble(structure = models$structure, tails = models$tails, k = as.integer(k), log_likelihood = log,
                 parameters = models$parameters, bic = bic, icl = bic - 2 * get("certainty", 0),
                 aic = -2 * log + 2 * models$parameters, rounds = lengths(lapply(fits, `[[`, "trace")) - 1L,
                 converged = get("converged", NA), reason = reason)
}

# The eligible model with the smallest criterion; where none is eligible, of all that were fitted.
best_model <- function(tried, criterion) {
  value <- tried[[criterion]]
  value[tried$reason == "behind on a sample of the rows" | tried$reason == "no covariances were found"] <- NA
  if (all(is.na(value))) {
    fl_abort("values", "No mixture of this kind could be fitted to the rows.",
             advice = "Try another covariance structure, or fewer components.")
  }
  eligible <- !nzchar(tried$reason)
  if (any(eligible)) value[!eligible] <- NA
  which.min(value)
}

# Log densities under every component, shares included, and Mahalanobis distances: rows x components.
place_in_mixture <- function(x, fit, structure) {
  mixture_place_kernel(x, as.double(fit$share), fit$mean, fit$covariance,
                       structure_codes(structure, fit$freedom > 0)[1L, ], fit$freedom, thread_count())
}

placed_by_model <- function(fit, x) {
  model <- fit$model
  place_in_mixture(x, list(share = model$share, mean = unname(fit$centres), covariance = model$covariance,
                           freedom = model$freedom), model$structure)
}

assign_mixture <- function(fit, x) {
  placed <- placed_by_model(fit, x)
  group <- max.col(placed$density, "first")
  list(group = group, distance = placed$distance[cbind(seq_along(group), group)])
}

mixture_memberships <- function(fit, x) {
  density <- placed_by_model(fit, x)$density
  share <- exp(density - row_most(density))
  share / rowSums(share)
}

# The log density of every row.
mixture_density <- function(fit, x) {
  density <- placed_by_model(fit, x)$density
  most <- row_most(density)
  most + log(rowSums(exp(density - most)))
}

row_most <- function(values) do.call(pmax, lapply(seq_len(ncol(values)), function(j) values[, j]))

mixture_notes <- function(tried, best, models, k, used, placed, settings, rows) {
  criterion <- settings$criterion
  share <- exp(placed$density - row_most(placed$density))
  own <- 1 / rowSums(share)
  c(
    model_note(tried, best, criterion),
    paste0("Rows belong to their group by ", percent(stats::median(own)), " in the middle; ", percent(mean(own < 0.8)),
           " of them by less than 80 %."),
    if (used < k) paste0(counted(k - used, "component"), " that no row belongs to most ",
                         if (k - used == 1L) "was" else "were", " left out."),
    if (nzchar(tried$reason[best])) {
      paste0("A component collapsed onto few rows or a flat direction and was held at ", format(settings$floor),
             " of the columns' variance: its likelihood says little.")
    },
    if (nrow(models$left_out) > 0L) {
      paste0("Not tried, with more parameters than rows: ", listed(unique(models$left_out$structure)), ".")
    },
    if (rows > settings$sample_rows) {
      paste0("The models were sought on an even sample of ", counted(settings$sample_rows, "row"), "; the best ",
             spelt(sampled_models), " were then fitted to all rows.")
    },
    if (!tried$converged[best]) {
      paste0("Not settled after ", tried$rounds[best], " rounds; try a larger max_rounds.")
    }
  )
}

model_note <- function(tried, best, criterion) {
  named <- model_said(tried)
  value <- tried[[criterion]]
  open <- which(!nzchar(tried$reason) & seq_along(value) != best)
  second <- open[which.min(value[open])]
  collapsed <- sum(tried$reason == "a component collapsed")
  paste0(
    "Covariance ", named[best], ": ", toupper(criterion), " ", digits3(value[best]), " (lower is better)",
    if (length(second) > 0L) paste0(", the best of ", nrow(tried), " models; next ", named[second], ", ",
                                    digits3(value[second] - value[best]), " more"),
    ".", if (collapsed > 0L && !nzchar(tried$reason[best])) {
      paste0(" Not eligible, because a component collapsed: ", counted(collapsed, "model"), ".")
    }
  )
}

model_said <- function(tried) paste0(tried$structure, ifelse(tried$tails == "heavy", " with heavy tails", ""))
