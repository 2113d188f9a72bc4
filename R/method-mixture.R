# Mixtures of Gaussian or t components. The work is done in src/mixture.cpp and src/mixture-search.cpp.

method_mixture <- function() {
  declare_method(
    "mixture",
    label = "Gaussian mixture (Banfield & Raftery 1993; Celeux & Govaert 1995)",
    fit = run_mixture, shared = mixture_shared, assign = assign_mixture, membership = mixture_memberships,
    density = mixture_density,
    settings = list(components = NULL, covariance = "auto", tails = "auto", criterion = "bic", freedom = 4,
                    restarts = 8L,
                    max_rounds = 1000L, tolerance = 1e-8, floor = 1e-6, sample_rows = 5000L, axes = "auto"),
    check = check_mixture, settled = settled_mixture,
    shape = "elliptic groups, alike or each of its own size, shape and direction; overlapping; with heavy tails",
    needs = "numbers; k; more rows than parameters",
    cost = "time n k d^2 a round (n k d along the columns), many rounds and models; memory: the table twice",
    minimises = "-log-likelihood",
    source = "Banfield & Raftery 1993; Celeux & Govaert 1995; Peel & McLachlan 2000",
    when = "groups differ in size, are elongated or overlap, or the probability of belonging is wanted; beside k-means"
  )
}

# Fits of very many are of the model chosen before, from two starts, and end where a round gains little: in tables
# without groups EM would creep on for hundreds of rounds.
settled_mixture <- function(settings, model) {
  utils::modifyList(settings, list(covariance = model$structure, tails = model$tails, restarts = 0L,
                                   axes = if (is.null(model$axes)) "all" else ncol(model$axes) - 1L,
                                   tolerance = max(settings$tolerance, 1e-6)))
}

mixture_criteria <- c("bic", "icl", "aic")

check_mixture <- function(settings) {
  if (!is.null(settings$components)) check_whole(settings$components, "components", most = 1e4)
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
  if (!rlang::is_string(settings$axes)) check_whole(settings$axes, "axes")
  else check_choice(settings$axes, c("auto", "all"), "axes", what = "method")
}

run_mixture <- function(x, k, settings, seed, about, shared) {
  if (total_scatter(x) <= 0) {
    fl_abort("values", "A mixture describes how rows scatter, and all rows of this table are equal.")
  }
  components <- settings$components %||% k
  if (components < k) {
    fl_abort("count", paste0("A mixture of ", counted(components, "component"), " cannot make ",
                             counted(k, "group"), "."),
             advice = "Give as many `components` as groups, or more: those without a dip between them are then merged.")
  }
  check_distinct(components, distinct_kernel(x, as.integer(components), "euclidean"))
  fit <- fitted_components(x, components, settings, seed, shared)
  if (components > k) fit <- merged_by_dips(fit, x, k)
  fit$notes <- c(fit$notes, membership_note(mixture_memberships(fit, x)))
  fit
}

# The best mixture of k components.
fitted_components <- function(x, k, settings, seed, shared) {
  seen <- seen_along(shared, x)
  models <- asked_models(settings, k, ncol(seen), nrow(seen))
  fits <- fitted_models(seen, k, models$asked, settings, seed, shared)
  tried <- model_table(fits, models$asked, k, seen, settings)
  best <- best_model(tried, settings$criterion)
  labels <- near_labels(seen, fits, tried, best, settings$criterion)
  smallest <- best
  best <- shared_by_most(labels, best)
  fit <- fits[[best]]
  placed <- place_in_mixture(seen, fit, tried$structure[best])
  group <- max.col(placed$density, "first")
  used <- sort(unique(group))
  list(
    group = match(group, used), objective = -fit$log_likelihood,
    centres = (if (is.null(shared$axes)) fit$mean else off_axes(fit$mean, shared$axes))[used, , drop = FALSE],
    rounds = length(fit$trace) - 1L, converged = fit$converged,
    restarts = restart_counts(-fit$reached, -fit$log_likelihood),
    likelihood = list(log = fit$log_likelihood, free = tried$parameters[best], certainty = fit$certainty),
    model = stated(structure = tried$structure[best], tails = tried$tails[best], freedom = fit$freedom,
                 share = cbind(fit$share[used] / sum(fit$share[used])),
                 covariance = fit$covariance[used, , drop = FALSE], axes = shared$axes, tried = tried,
                 trace = fit$trace),
    rivals = unname(labels[names(labels) != best]),
    notes = mixture_notes(tried, best, smallest, models, k, length(used), settings, nrow(x), shared$axes)
  )
}

# Components merged until k groups are left, those first between which the rows dip least.
merged_by_dips <- function(fit, x, k) {
  merged <- merge_by_dips(seen_along(fit$model, x), fit$group)
  components <- max(fit$group)
  if (components <= k) {
    return(fit)
  }
  fit <- merged_mixture(fit, merged$of[[k]])
  fit$notes <- c(paste0(capital(spelt(components)), " components make ", counted(k, "group"),
                        ": those between which the rows dip least are together."), fit$notes)
  fit
}

# A list without what is not there.
stated <- function(...) Filter(Negate(is.null), list(...))

seen_along <- function(model, x) if (is.null(model$axes)) x else on_axes(x, model$axes)

# The groups of the models whose criterion is within 10 of the smallest: labels, by the number of the model.
near_labels <- function(x, fits, tried, best, criterion) {
  value <- tried[[criterion]]
  near <- if (nzchar(tried$reason[best])) best else which(!nzchar(tried$reason) & value <= value[best] + rivals_within)
  near <- utils::head(near[order(value[near])], 12L)
  stats::setNames(lapply(near, function(m) {
    max.col(place_in_mixture(x, fits[[m]], tried$structure[m])$density, "first")
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

# What all counts share: starting trees and, of wide tables, the axes that are looked along.
mixture_shared <- function(x, settings) {
  axes <- wanted_axes(x, settings$axes)
  c(mixture_trees(if (is.null(axes)) x else on_axes(x, axes), settings), list(axes = axes))
}

# Of tables with more than `wide_from` columns the principal axes that hold more spread than chance gives (Horn 1965): a
# general covariance of many columns has more parameters than there are rows to tell them from.
wide_from <- 10L

wanted_axes <- function(x, asked) {
  if (identical(asked, "all") || identical(asked, "auto") && ncol(x) <= wide_from) {
    return(NULL)
  }
  middle <- colMeans(x)
  axes <- principal_axes(x - rep(middle, each = nrow(x)))
  many <- if (identical(asked, "auto")) telling_axes(x, 2L, wide_from) else asked
  turn <- axes$turn[, seq_len(min(many, axes$rank)), drop = FALSE]
  colnames(turn) <- paste0("axis_", seq_len(ncol(turn)))
  data.frame(middle = unname(middle), turn, row.names = NULL)
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
    fl_abort("count", paste0("A mixture of ", counted(k, "component"), " with this covariance has more parameters ",
                             "than there are rows."),
             found = paste0(if ("auto" %in% settings$covariance) "All structures" else listed(unique(all$structure)),
                            ": ", listed(thousands_each(range(all$parameters)), "to"),
                            " parameters; ", counted(n, "row"), "."),
             advice = if (length(able) > 0L) paste0("Of the structures, ", listed(able), " would fit.")
             else paste0("No structure fits ", k, " components: ask for fewer."))
  }
  list(asked = all[fits, ], left_out = all[!fits, ])
}

thousands_each <- function(numbers) unique(vapply(numbers, thousands, ""))

# Every model from the same starts. Large tables: sought on an even sample, and what may be best there fitted to all
# rows.
fitted_models <- function(x, k, models, settings, seed, trees) {
  rows <- sampled_rows(nrow(x), settings$sample_rows)
  sampled <- length(rows) < nrow(x)
  part <- if (sampled) x[rows, , drop = FALSE] else x
  codes <- structure_codes(models$structure, models$tails == "heavy")
  how <- mixture_how(settings)
  fits <- mixture_kernel(part, codes, as.integer(k), mixture_starts(part, k, settings$restarts, seed, trees), how)
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
       far = 0.2, moves = if (settings$restarts > 0L) 20L else 0L, turns = 3L, moved = 3L,
       tolerance = settings$tolerance, floor = settings$floor, freedom = if (estimated) 4 else settings$freedom,
       estimate_freedom = estimated, threads = thread_count())
}

# Partitions to begin from, a column each: cuts of two ward trees, and k-means, each of the rows and of the rows with
# all directions brought to one spread; then k-means from single seeded starts by turns.
mixture_starts <- function(x, k, restarts, seed, trees) {
  if (k == 1L) {
    return(matrix(1L, nrow(x), 1L))
  }
  even <- sphered(x)
  grouped <- function(table, restarts, turn) {
    least_scatter(table, k, restarts, 100L, derived_seed(seed, 23, turn))$group
  }
  cuts <- lapply(trees$trees, function(tree) {
    cut <- cut_kernel(tree$low, tree$high, length(trees$rows), as.integer(min(k, length(trees$rows))))
    if (length(trees$rows) == nrow(x)) return(cut)
    nearest_kernel(x, group_means(x[trees$rows, , drop = FALSE], cut), "euclidean", thread_count())$group
  })
  more <- lapply(seq_len(max(0L, restarts - 4L)), function(turn) {
    grouped(if (turn %% 2L == 0L) even else x, 1L, turn + 2)
  })
  starts <- unique(c(list(grouped(x, 5L, 1), grouped(even, 5L, 2)), cuts, more))
  matrix(unlist(starts), nrow(x))
}

tree_rows <- 2000L  # of larger tables the trees are those of an even sample

mixture_trees <- function(x, settings) {
  if (settings$restarts == 0L) {
    return(list())
  }
  rows <- sampled_rows(nrow(x), settings$sample_rows)
  x <- x[rows, , drop = FALSE]
  rows <- sampled_rows(nrow(x), tree_rows)
  x <- x[rows, , drop = FALSE]
  grown <- function(table) linkage_kernel(table, FALSE, "euclidean", "ward", FALSE, thread_count())
  list(rows = rows, trees = if (nrow(x) > 1L && total_scatter(x) > 0) list(grown(x), grown(sphered(x))))
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
    else if (k > 1L && min(fit$share) * n < vanishing_rows) "a component vanished"
    else ""
  }, "")
  near <- which(!nzchar(reason) & bic <= suppressWarnings(min(bic[!nzchar(reason)])) + 6 * rivals_within)
  ends <- vapply(seq_along(fits), function(m) {
    if (m %in% near) slightest(fits[[m]], n) else c(NA_real_, NA_real_)
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
slightest <- function(fit, n) {
  d <- ncol(fit$mean)
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

# Log densities under every component, shares included, and Mahalanobis distances: rows x components.
place_in_mixture <- function(x, fit, structure) {
  mixture_place_kernel(x, as.double(fit$share), fit$mean, fit$covariance,
                       structure_codes(structure, fit$freedom > 0)[1L, ], fit$freedom, thread_count())
}

placed_by_model <- function(fit, x) {
  place_in_mixture(seen_along(fit$model, x), mixture_parts(fit), fit$model$structure)
}

assign_mixture <- function(fit, x) {
  placed <- placed_by_model(fit, x)
  component <- max.col(placed$density, "first")
  list(group = mixture_parts(fit)$of[component], distance = placed$distance[cbind(seq_along(component), component)])
}

mixture_memberships <- function(fit, x) {
  density <- placed_by_model(fit, x)$density
  share <- exp(density - row_most(density))
  of <- mixture_parts(fit)$of
  each <- vapply(seq_len(max(of)), function(g) rowSums(share[, of == g, drop = FALSE]), numeric(nrow(share)))
  matrix(each, nrow(share)) / rowSums(share)
}

# The log density of every row.
mixture_density <- function(fit, x) {
  density <- placed_by_model(fit, x)$density
  most <- row_most(density)
  most + log(rowSums(exp(density - most)))
}

membership_note <- function(membership) {
  own <- row_most(membership)
  paste0("The median membership probability is ", percent(stats::median(own)), "; ", percent(mean(own < 0.8)),
         " of the rows are below ", percent(0.8), ".")
}

mixture_notes <- function(tried, best, smallest, models, k, used, settings, rows, axes = NULL) {
  criterion <- settings$criterion
  c(
    model_note(tried, best, criterion),
    if (best != smallest) {
      value <- tried[[criterion]]
      paste0("The smallest ", toupper(criterion), ", ", digits3(value[best] - value[smallest]), " less, belongs to ",
             model_said(tried)[smallest], ", which groups the rows otherwise than most models that come as near; the ",
             "groups are those most of them share.")
    },
    if (used < k) paste0(counted(k - used, "component"), " that no row belongs to most ",
                         if (k - used == 1L) "was" else "were", " left out."),
    if (tried$reason[best] == "a component vanished") {
      paste0("A component holds fewer than ", vanishing_rows,
             " rows or has hardly any spread: its likelihood says little.")
    } else if (nzchar(tried$reason[best])) {
      paste0("A component collapsed onto few rows or a flat direction and was held at ", format(settings$floor),
             " of the columns' variance: its likelihood says little.")
    },
    if (nrow(models$left_out) > 0L) {
      paste0("Not tried, with more parameters than rows: ", listed(unique(models$left_out$structure)), ".")
    },
    if (!is.null(axes)) {
      paste0("Fitted along ", counted(ncol(axes) - 1L, "principal axis", "principal axes"), " of the ", nrow(axes),
             " columns.")
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
  collapsed <- sum(tried$reason %in% c("a component collapsed", "a component vanished"))
  paste0(
    "Covariance ", named[best], ": ", toupper(criterion), " ", digits3(value[best]), " (lower is better)",
    if (length(second) > 0L) paste0(", the best of ", nrow(tried), " models; next ", named[second], ", ",
                                    digits3(value[second] - value[best]), " more"),
    ".", if (collapsed > 0L && !nzchar(tried$reason[best])) {
      paste0(" Not eligible, because a component collapsed or vanished: ", counted(collapsed, "model"), ".")
    }
  )
}

model_said <- function(tried) paste0(tried$structure, ifelse(tried$tails == "heavy", " with heavy tails", ""))

#' Gaussian mixtures
#'
#' Takes the rows to come from k components, each an ellipse of normal density (or with heavier tails), and fits shares,
#' means and covariances by EM, so that the likelihood is large. A row belongs to every component in parts, by its
#' density there; its group is the one it belongs to most.
#'
#' The covariance of component j is volume_j D_j A_j D_j' (Banfield & Raftery 1993; Celeux & Govaert 1995), with a
#' volume, a shape A of determinant 1 and an orientation D. A structure is written form/free: `spherical` (A the
#' identity), `diagonal` (D the identity) or `general`; and what may differ between the components, `volume`, `shape`,
#' `orientation`, joined by `+`, or `common` where nothing does. There are fourteen:
#' `spherical/common`, `spherical/volume`; `diagonal/` `common`, `volume`, `shape`, `volume+shape`; `general/` `common`,
#' `volume`, `shape`, `orientation`, `volume+shape`, `volume+orientation`, `shape+orientation`,
#' `volume+shape+orientation`. With `tails = "heavy"` components are t distributions (Peel & McLachlan 2000), on which
#' stray rows pull less.
#'
#' By itself (`"auto"`) every structure is fitted with both tails, and the one with the smallest BIC is taken;
#' `partition$model$tried` has a row a model: `structure`, `tails`, `k`, `log_likelihood`, `parameters`, `bic`, `icl`,
#' `aic` (lower is better), `rounds`, `converged` and the `reason` why one is not eligible. Structures that are the same
#' for the table (one component, one column) are fitted once. `partition$model$trace` is the log-likelihood before each
#' round; it never falls, but where a component that collapses is held (see below).
#'
#' EM finds the nearest optimum, which often is not the best. It is begun from ward trees and k-means of the rows, and
#' of the rows with all directions brought to one spread, and from seeded starts: short runs first, of which the best go
#' on (Biernacki, Celeux & Govaert 2003). These leap ahead the way their last rounds went, and step back where the
#' likelihood fell (Varadhan & Roland 2008). The groups found by the best models are starts of the others; and of the
#' best three models components are merged and others cut in two as long as that helps (after Ueda et al. 2000).
#'
#' A component that collapses onto few rows or a flat direction would have an endless likelihood. Where the variance
#' along some axis falls below `floor` of the columns' own, that much is added to every covariance from then on; the fit
#' says so and is not eligible unless there is no other. More parameters than rows are refused.
#'
#' Tables of more than `sample_rows` rows: the models are sought on an even sample, and the best three are then fitted
#' to all rows.
#'
#' `predict(type = )` gives `"membership"`, `"density"` (the logarithm, in prepared units) and `"distance"` (of
#' Mahalanobis, to the row's own component). [fl_components()] tells the components in original units.
#'
#' A component that vanishes, to fewer than 4 rows or to hardly any spread along some direction beside what all have
#' along it, gains likelihood by where it lies alone: such a model is not eligible either. Where models within 10 of the
#' smallest criterion group the rows otherwise (adjusted Rand below 0.8), a small lead is no reason to believe one of
#' them: the groups are those that most of them share, and a note says so.
#'
#' A general covariance of many columns has more parameters than there are rows to tell them from. Tables of more than
#' ten prepared columns are fitted along their principal axes, from two to ten of them, that hold more spread than those
#' of the columns shuffled (Horn 1965); a note says how many. Likelihood, BIC and density are then those along the axes.
#'
#' @section Settings:
#' * `components` (none): how many components, where they are to be more than the groups: those between which the rows
#'   dip least are put together (Hennig 2010), and memberships and density are those of the components together.
#' * `axes` (`"auto"`): along how many principal axes to fit; `"all"` fits the columns as they are.
#' * `covariance` (`"auto"`): structures, one or several.
#' * `tails` (`"auto"`): `"normal"`, `"heavy"`, or both.
#' * `criterion` (`"bic"`): what chooses among the models; also `"icl"` and `"aic"`.
#' * `freedom` (4): degrees of freedom of heavy tails, or `"estimated"`, one number for all components.
#' * `restarts` (8): starts, beyond four those from single seeds; 0 leaves only the two by k-means, without merges and
#'   cuts.
#' * `max_rounds` (1,000): most rounds of a run.
#' * `tolerance` (1e-8): a run has settled when the log-likelihood changes by less than this times the number of rows or
#'   its own size, whichever is larger.
#' * `floor` (1e-6): least variance of a component along any axis, as a share of the columns' own.
#' * `sample_rows` (5,000): rows above which a sample is used to find the models.
#' @references
#' Dempster, A. P., Laird, N. M. and Rubin, D. B. (1977). Maximum likelihood from incomplete data via the EM algorithm.
#' \doi{10.1111/j.2517-6161.1977.tb01600.x}
#'
#' Banfield, J. D. and Raftery, A. E. (1993). Model-based Gaussian and non-Gaussian clustering. \doi{10.2307/2532201}
#'
#' Celeux, G. and Govaert, G. (1995). Gaussian parsimonious clustering models. \doi{10.1016/0031-3203(94)00125-6}
#'
#' Peel, D. and McLachlan, G. J. (2000). Robust mixture modelling using the t distribution.
#' \doi{10.1023/A:1008981510081}
#'
#' Ueda, N., Nakano, R., Ghahramani, Z. and Hinton, G. E. (2000). SMEM algorithm for mixture models.
#' \doi{10.1162/089976600300015088}
#'
#' Biernacki, C., Celeux, G. and Govaert, G. (2003). Choosing starting values for the EM algorithm for getting the
#' highest likelihood in multivariate Gaussian mixture models. \doi{10.1016/S0167-9473(02)00163-9}
#'
#' Varadhan, R. and Roland, C. (2008). Simple and globally convergent methods for accelerating the convergence of any EM
#' algorithm. \doi{10.1111/j.1467-9469.2007.00585.x}
#'
#' Horn, J. L. (1965). A rationale and test for the number of factors in factor analysis. \doi{10.1007/BF02289447}
#'
#' Hennig, C. (2010). Methods for merging Gaussian mixture components. \doi{10.1007/s11634-010-0058-3}
#' @examples
#' water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' groups <- fl_partition(water, fl_method("mixture", tails = "normal"), k = 5)
#' groups
#' groups$model$tried
#' @name method-mixture
NULL
