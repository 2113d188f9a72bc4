# Mixtures of Gaussian or t components. The work is done in src/mixture.cpp and src/mixture-search.cpp.

method_mixture <- function() {
  declare_method(
    "mixture",
    fit = run_mixture,
    settings = list(components = NULL, covariance = "auto", tails = "auto", criterion = "bic", freedom = 4,
                    restarts = 8L,
                    max_rounds = 1000L, tolerance = 1e-8, floor = 1e-6, sample_rows = 2000L, axes = "auto"),
    check = check_mixture,
    about = list(label = "Gaussian mixture (Banfield & Raftery 1993; Celeux & Govaert 1995)",
                 when = paste("groups differ in size, are elongated or overlap, columns are categories, or the",
                              "probability of belonging is wanted; beside k-means"),
                 shape = paste("elliptical groups, alike or each of its own size, shape and direction; overlapping;",
                               "with heavy tails; categories independent within a group"),
                 needs = "numbers, categories or both; k; more rows than parameters",
                 cost = paste("time n k d^2 a round (n k d along the columns), many rounds and models; memory: the",
                              "table twice"),
                 source = "Banfield & Raftery 1993; Celeux & Govaert 1995; Peel & McLachlan 2000",
                 minimises = "-log-likelihood"),
    placing = list(assign = assign_mixture, rule = rule_of_mixture, membership = mixture_memberships,
                   density = mixture_density),
    shortcuts = list(shared = mixture_shared),
    models = list(settled = settled_mixture, contending = contending_models, refit = refit_mixture,
                  broad = broad_mixture),
    traits = list(voice = function(settings) "models", usual_up_to = Inf, views = views_of_mixture,
                  untried = "Mixtures, which see stretched groups and stray rows.")
  )
}

views_of_mixture <- function(partition) {
  numbers <- length(columns_of_numbers(partition$model, ncol(partition$ready$x))) > 0L
  c(if (numbers) c(density = "The density of the mixture beside the density of the rows"),
    uncertain = "Which rows are uncertain")
}

# Fits of very many are of the model chosen before, from two starts, and end where a round gains little: in tables
# without groups EM would creep on for hundreds of rounds.
settled_mixture <- function(settings, model) {
  utils::modifyList(settings, list(covariance = model$structure, tails = model$tails, restarts = 0L,
                                   axes = if (is.null(model$axes)) "all" else ncol(model$axes) - 1L,
                                   tolerance = max(settings$tolerance, 1e-6)))
}

# A sample of the rows may well choose another model, above all a larger one, since rows drawn twice flatter it; but not
# one that is far behind on all of them.
contending_models <- function(settings, model, rows) {
  tried <- model$tried
  best <- best_model(tried, settings$criterion)
  value <- tried[[settings$criterion]]
  more <- pmax(0, tried$parameters - tried$parameters[best])
  near <- which(value - value[best] <= 30 + 2 * sqrt(rows) + 4 * more)
  structures <- setdiff(unique(tried$structure[near]), "none")
  if (length(structures) == 0L) {
    return(settings)
  }
  utils::modifyList(settings, list(covariance = structures, tails = if (length(unique(tried$tails[near])) > 1L) "auto"
                                                                  else tried$tails[best]))
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
  if (components > k && !is.null(shared$category)) {
    fl_abort("count", "Components cannot be merged by dips where columns are categories.",
             advice = "Leave `components` out, or `k` groups will be as many components.")
  }
  fit <- fitted_components(x, components, settings, seed, about, shared)
  if (components > k) fit <- merged_by_dips(fit, x, k)
  fit$notes <- c(fit$notes, membership_note(mixture_memberships(fit, x)))
  fit
}

# The best mixture of k components.
fitted_components <- function(x, k, settings, seed, about, shared) {
  seen <- mixture_rows(x, shared)
  models <- asked_models(settings, k, ncol(seen$x), nrow(x), sum(seen$many - 1L))
  fits <- fitted_models(seen, k, models$asked, settings, seed, shared)
  tried <- model_table(fits, models$asked, k, nrow(x))
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
    centres = mixture_centres(fit, ncol(x), about, shared)[used, , drop = FALSE],
    rounds = length(fit$trace) - 1L, converged = fit$converged,
    restarts = restart_counts(-fit$reached, -fit$log_likelihood),
    likelihood = list(log = fit$log_likelihood, free = tried$parameters[best], certainty = fit$certainty),
    model = without_nulls(structure = tried$structure[best], tails = tried$tails[best], freedom = fit$freedom,
                 share = cbind(fit$share[used] / sum(fit$share[used])),
                 covariance = if (ncol(seen$x) > 0L) fit$covariance[used, , drop = FALSE],
                 chance = if (length(seen$many) > 0L) fit$chance[used, , drop = FALSE], category = shared$category,
                 valued = shared$valued, axes = shared$axes, tried = tried, trace = fit$trace),
    rivals = unname(labels[names(labels) != best]),
    notes = mixture_notes(tried, best, smallest, models, k, length(used), settings, nrow(x), shared)
  )
}

# Components merged until k groups are left, those first between which the rows dip least.
merged_by_dips <- function(fit, x, k) {
  merged <- merge_by_dips(mixture_rows(x, fit$model)$x, fit$group)
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
without_nulls <- function(...) Filter(Negate(is.null), list(...))

membership_note <- function(membership) {
  own <- row_most(membership)
  paste0("If the model holds, the median membership probability is ", percent(stats::median(own)), "; ",
         percent(mean(own < 0.8)), " of the rows are below ", percent(0.8), ".")
}

mixture_notes <- function(tried, best, smallest, models, k, used, settings, rows, shared) {
  axes <- shared$axes
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
    levels_note(shared),
    if (rows > sample_pays_from * settings$sample_rows) {
      whole <- models_refitted(rows, nrow(tried))
      paste0("The models were sought on an even sample of ", counted(settings$sample_rows, "row"), "; the best ",
             if (whole == 1L) "was" else paste(spelt(whole), "were"), " then fitted to all rows.")
    },
    if (!tried$converged[best]) {
      paste0("Not settled after ", tried$rounds[best], " rounds; try a larger max_rounds.")
    }
  )
}

# What enters by the chances of its levels.
levels_note <- function(shared) {
  if (is.null(shared$category)) {
    return(NULL)
  }
  few <- length(unique(shared$valued$column))
  categories <- max(shared$category) - few
  what <- listed(c(if (categories > 0L) paste(spelt(categories), if (categories == 1L) "category" else "categories"),
                   if (few > 0L) paste(spelt(few), if (few == 1L) "column" else "columns", "of few values")))
  one <- categories + few == 1L
  paste0(capital(what), if (one) " is" else " are", " modelled by the probabilities of ", if (one) "its" else "their",
         " levels, one set per component.")
}

model_note <- function(tried, best, criterion) {
  named <- model_said(tried)
  value <- tried[[criterion]]
  open <- which(!nzchar(tried$reason) & seq_along(value) != best)
  second <- open[which.min(value[open])]
  collapsed <- sum(tried$reason %in% c("a component collapsed", "a component vanished"))
  paste0(
    if (tried$structure[best] == "none") "Level probabilities: " else paste0("Covariance ", named[best], ": "),
     toupper(criterion), " ", digits3(value[best]), " (lower is better)",
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
#' `partition$model$tried` has one row per model: `structure`, `tails`, `k`, `log_likelihood`, `parameters`, `bic`,
#' `icl`, `aic` (lower is better), `rounds`, `converged` and the `reason` why one is not eligible. Structures that are
#' the same for the table (one component, one column) are fitted once. `partition$model$trace` is the log-likelihood
#' before each round; it never falls, but where a component that collapses is held (see below).
#'
#' EM finds the nearest optimum, which often is not the best. It is begun from ward trees and k-means of the rows, and
#' of the rows with all directions brought to one spread, and from seeded starts: short runs first, of which the best go
#' on (Biernacki, Celeux & Govaert 2003), the worse half dropped after a few rounds. These leap ahead the way their last
#' rounds went, and step back where the likelihood fell (Varadhan & Roland 2008). The groups found by the best models
#' are starts of the others; and of the best three models components are merged and others cut in two as long as that
#' helps (after Ueda et al. 2000). A run is given up where ten times what its last gains lead to (Aitken 1926) would not
#' bring it to what is there. The models far behind the best are not settled further.
#'
#' A component that collapses onto few rows or a flat direction would have an endless likelihood. Where the variance
#' along some axis falls below `floor` of the columns' own, that much is added to every covariance from then on; the fit
#' says so and is not eligible unless there is no other. More parameters than rows are refused.
#'
#' In tables of more than two and a half times `sample_rows` rows the models are sought on an even sample of that many.
#' The best three are then fitted to all rows, above 20,000 rows the best one, and there to a tolerance of 1e-7.
#'
#' `predict(type = )` gives `"membership"`, `"density"` (the logarithm, in scaled units) and `"distance"` (of
#' Mahalanobis, to the row's own component). [fl_components()] tells the components in original units.
#'
#' A component that vanishes, to fewer than 4 rows or to hardly any spread along some direction beside what all have
#' along it, gains likelihood by where it lies alone: such a model is not eligible either. Where models within 10 of the
#' smallest criterion group the rows otherwise (adjusted Rand below 0.8), a small lead is no reason to believe one of
#' them: the groups are those that most of them share, and a note says so.
#'
#' **Categories** are multinomials, independent of each other and of the numbers within a component (Lazarsfeld & Henry
#' 1968; Hunt & Jorgensen 2003): every component has a chance of each level, which [fl_components()] tells. Ordered
#' categories count as numbers. A column of numbers that holds four values or fewer, a yes or no, say, is taken as such
#' a category, for no density describes it. The structures are those of the other columns; of a table of categories
#' alone only the chances differ, and the structure is `none`. A level that was not seen says nothing of the group.
#' Components are not merged there.
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
#' * `tolerance` (1e-8): the best run of a model has settled when the log-likelihood changes by less than this times the
#'   number of rows or its own size, whichever is larger; others are compared at 1e-6, those far behind at 1e-5.
#' * `floor` (1e-6): least variance of a component along any axis, as a share of the columns' own.
#' * `sample_rows` (2,000): rows of the sample on which the models are sought where there are 2.5 times as many.
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
#' Aitken, A. C. (1926). On Bernoulli's numerical solution of algebraic equations. \doi{10.1017/S0370164600022070}
#'
#' Hennig, C. (2010). Methods for merging Gaussian mixture components. \doi{10.1007/s11634-010-0058-3}
#'
#' Lazarsfeld, P. F. and Henry, N. W. (1968). Latent Structure Analysis. Houghton Mifflin.
#'
#' Hunt, L. and Jorgensen, M. (2003). Mixture model clustering for mixed data with missing information.
#' \doi{10.1016/S0167-9473(02)00190-1}
#' @examples
#' water <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' groups <- fl_partition(water, fl_method("mixture", tails = "normal"), k = 5)
#' groups
#' groups$model$tried
#' # numbers and categories
#' visits <- fl_partition(fl_prepare(fl_demo("vessel_visits")), fl_method("mixture", tails = "normal"), k = 5)
#' fl_components(visits)
#' @name method-mixture
NULL
