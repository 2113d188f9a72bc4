# The models of one count: which are fitted, what each reached, which is taken, and which come as near.

# The models to fit: a row each, those that are the same for this table once, those with more parameters than rows not.
# `levels`: of all categories, less one a category.
asked_models <- function(settings, k, d, n, levels = 0) {
  named <- settings$covariance
  named <- unique(if ("auto" %in% named) covariance_structures else named)
  tails <- if (d == 0L) "normal" else if (settings$tails == "auto") c("normal", "heavy") else settings$tails
  all <- expand.grid(structure = unique(simplest_structure(named, k, d)), tails = tails, stringsAsFactors = FALSE)
  estimated <- all$tails == "heavy" & identical(settings$freedom, "estimated")
  all$parameters <- mixture_parameters(all$structure, k, d, estimated, levels)
  fits <- all$parameters <= n
  if (!any(fits)) {
    able <- unique(simplest_structure(covariance_structures, k, d))
    able <- able[mixture_parameters(able, k, d, FALSE, levels) <= n]
    fl_abort("count", paste0("A mixture of ", counted(k, "component"), if (d > 0L) " with this covariance",
                             " has more parameters than there are rows."),
             found = paste0(if (d == 0L) "The levels alone"
                            else if ("auto" %in% settings$covariance) "All structures"
                            else listed(unique(all$structure)), ": ",
                            listed(thousands_each(range(all$parameters)), "to"), " parameters; ", counted(n, "row"),
                            "."),
             advice = if (length(able) > 0L) paste0("Of the structures, ", listed(able), " would fit.")
             else if (levels > 0) "Ask for fewer components, or leave out categories of many levels."
             else paste0("No structure fits ", k, " components: ask for fewer."))
  }
  list(asked = all[fits, ], left_out = all[!fits, ])
}

thousands_each <- function(numbers) unique(vapply(numbers, thousands, ""))

# Every model from the same starts. Large tables: sought on an even sample, and what may be best there fitted to all
# rows.
fitted_models <- function(seen, k, models, settings, seed, trees) {
  n <- nrow(seen$x)
  rows <- search_rows(n, settings)
  sampled <- length(rows) < n
  whole <- if (sampled) models_refitted(n, nrow(models)) else 0L
  part <- if (sampled) only_rows(seen, rows) else seen
  codes <- structure_codes(models$structure, models$tails == "heavy")
  how <- mixture_how(settings)
  step <- progressr::progressor(steps = 1L + whole)
  fits <- fitted_from(part, codes, k, mixture_starts(part, k, settings$restarts, seed, trees), how)
  step()
  if (!sampled) {
    return(fits)
  }
  rank <- rank(criterion_of(fits, models, n / length(rows), n, settings), ties.method = "first")
  refit <- function(m, tolerance) {
    start <- matrix(max.col(place_in_mixture(seen, fits[[m]], models$structure[m])$density, "first"))
    changed <- list(moves = 0L, tolerance = max(settings$tolerance, tolerance))
    fitted_from(seen, codes[m, , drop = FALSE], k, start, utils::modifyList(how, changed))[[1L]]
  }
  settled_to <- if (n > one_model_above) 1e-7 else 0
  # The first is often the best of all rows too; another one is settled where it turns out to be. For one that collapses
  # on all rows the next is fitted.
  left <- whole
  for (m in order(rank)) {
    if (left > 0L && rank[m] <= 2L * sampled_models) {
      fits[[m]] <- refit(m, if (rank[m] == 1L) settled_to else 1e-6)
      left <- left - !has_collapsed(fits[[m]])
      step()
    } else {
      fits[[m]] <- replace(fits[[m]], c("behind", "log_likelihood"), list(TRUE, NA_real_))
    }
  }
  best <- which.min(criterion_of(fits, models, 1, n, settings))
  if (length(best) > 0L && rank[best] > 1L) fits[[best]] <- refit(best, settled_to)
  fits
}

# What the models' likelihoods on a part of the rows, and their parameters, come to on all; Inf where one collapsed.
criterion_of <- function(fits, models, more, n, settings) {
  log_likelihood <- vapply(fits, `[[`, 0, "log_likelihood") * more
  charge <- if (settings$criterion == "aic") 2 else log(n)
  -2 * log_likelihood + charge * models$parameters + ifelse(vapply(fits, has_collapsed, NA), Inf, 0)
}

# A sample pays where there are several times as many rows.
search_rows <- function(n, settings) {
  if (n > sample_pays_from * settings$sample_rows) sampled_rows(n, settings$sample_rows) else seq_len(n)
}

sample_pays_from <- 2.5

# The models that are fitted to all rows: of very many rows one, since the sample tells them apart.
models_refitted <- function(n, models) min(models, if (n > one_model_above) 1L else sampled_models)

sampled_models <- 3L
one_model_above <- 20000L

fitted_from <- function(seen, codes, k, starts, how) {
  mixture_kernel(seen$x, seen$codes, seen$many, codes, as.integer(k), starts, how)
}

has_collapsed <- function(fit) fit$failed || fit$floored

mixture_how <- function(settings) {
  estimated <- identical(settings$freedom, "estimated")
  list(short_rounds = 15L, kept = 3L, max_rounds = as.integer(settings$max_rounds), exchanges = 2L, exchanged = 6L,
       far = 0.2, moves = if (settings$restarts > 0L) 20L else 0L, turns = 3L, moved = 3L,
       tolerance = settings$tolerance, floor = settings$floor, freedom = if (estimated) 4 else settings$freedom,
       estimate_freedom = estimated, threads = thread_count())
}

# What every model reached: criteria (lower is better), and why one is not eligible.
model_table <- function(fits, models, k, n) {
  get <- function(field, type) vapply(fits, `[[`, type, field)
  log <- get("log_likelihood", 0)
  bic <- -2 * log + models$parameters * log(n)
  reason <- vapply(fits, function(fit) {
    if (isTRUE(fit$behind)) "behind on a sample of the rows"
    else if (fit$failed) "no covariances were found"
    else if (fit$floored) "a component collapsed"
    else if (k > 1L && min(fit$share) * n < vanishing_rows) "a component vanished"
    else ""
  }, "")
  near <- which(!nzchar(reason) & bic <= suppressWarnings(min(bic[!nzchar(reason)])) + 6 * rivals_within)
  ends <- vapply(seq_along(fits), function(m) {
    if (m %in% near) least_component(fits[[m]], n) else c(NA_real_, NA_real_)
  }, numeric(2))
  thin <- !is.na(ends[2L, ]) & ends[2L, ] < vanishing_spread
  reason[thin] <- "a component vanished"
  tibble::tibble(structure = models$structure, tails = models$tails, k = as.integer(k), log_likelihood = log,
                 smallest = ends[1L, ], thinnest = ends[2L, ],
                 parameters = models$parameters, bic = bic, icl = bic - 2 * get("certainty", 0),
                 aic = -2 * log + 2 * models$parameters, rounds = lengths(lapply(fits, `[[`, "trace")) - 1L,
                 converged = get("converged", NA), reason = reason)
}

# A component of hardly any rows, or with hardly any spread along some direction beside what all have along it, gains
# likelihood by where it lies alone (Ingrassia 2004; Garcia-Escudero et al. 2008 bound it): in tables with known groups
# such models were best by BIC in 14 of 16 cases with the wrong number of components.
vanishing_rows <- 4
vanishing_spread <- 0.001

# The rows of the smallest component, and the least variance of a component along any direction as a share of what all
# components have along it.
least_component <- function(fit, n) {
  d <- ncol(fit$mean)
  if (d == 0L) {
    return(c(n * min(fit$share), NA_real_))
  }
  each <- lapply(seq_len(nrow(fit$covariance)), function(j) full_covariance(fit$covariance[j, ], d))
  pooled <- Reduce(`+`, Map(`*`, each, fit$share))
  root <- tryCatch(chol(pooled), error = function(e) NULL)
  if (is.null(root)) {
    return(c(n * min(fit$share), 0))
  }
  within <- vapply(each, function(s) {
    turned <- backsolve(root, t(backsolve(root, s, transpose = TRUE)), transpose = TRUE)
    min(eigen(turned, symmetric = TRUE, only.values = TRUE)$values)
  }, 0)
  c(n * min(fit$share), min(within))
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

# The groups of the models whose criterion is within 10 of the smallest: labels, by the number of the model.
near_labels <- function(seen, fits, tried, best, criterion) {
  value <- tried[[criterion]]
  near <- if (nzchar(tried$reason[best])) best else which(!nzchar(tried$reason) & value <= value[best] + rivals_within)
  near <- utils::head(near[order(value[near])], 12L)
  stats::setNames(lapply(near, function(m) {
    max.col(place_in_mixture(seen, fits[[m]], tried$structure[m])$density, "first")
  }), near)
}

# Where models that describe the rows about as well group them otherwise, a small lead in the criterion is no reason to
# believe one of them: the model whose groups are most like those of the others.
shared_by_most <- function(labels, best) {
  many <- length(labels)
  if (many < 3L) {
    return(best)
  }
  alike <- diag(many)
  for (a in seq_len(many - 1L)) {
    for (b in (a + 1L):many) alike[a, b] <- alike[b, a] <- adjusted_rand(table(labels[[a]], labels[[b]]))
  }
  middle <- which.max(round(rowMeans(alike), 9))
  first <- match(best, names(labels))
  if (alike[first, middle] < other_groups) as.integer(names(labels)[middle]) else best
}

# Labelings with a smaller adjusted Rand index are called different.
other_groups <- 0.8

rivals_within <- 10
