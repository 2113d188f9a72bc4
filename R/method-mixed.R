# Prototypes for tables of numbers and categories. The work is done in src/prototypes.cpp.

method_mixed <- function() {
  declare_method(
    "mixed",
    fit = run_mixed,
    settings = list(restarts = 25L, category_weight = 1, max_rounds = 200L),
    check = check_mixed,
    about = list(label = "mixed prototypes (Huang 1998)",
                 when = paste("columns are numbers and categories together, a prototype is wanted, or rows are too",
                              "many for a mixture"),
                 shape = "round groups in the numbers, one prevailing level in each category",
                 needs = "numbers and categories; k",
                 cost = "time n (d + categories) k a round; memory: the table once more", source = "Huang 1998",
                 minimises = "cost"),
    placing = list(assign = assign_mixed, rule = rule_of_mixed)
  )
}

check_mixed <- function(settings) {
  check_whole(settings$restarts, "restarts", most = 1e6)
  check_whole(settings$max_rounds, "max_rounds", most = 1e6)
  check_number(settings$category_weight, "category_weight", least = 0, most = 1e6)
}

run_mixed <- function(x, k, settings, seed, about) {
  check_distinct(k, distinct_kernel(x, as.integer(k), "euclidean"))
  about <- about %||% list(category = rep(0L, ncol(x)), mismatch = double())
  charge <- about$mismatch * settings$category_weight
  fit <- prototypes_kernel(x[, about$category == 0L, drop = FALSE], level_codes(x, about$category), charge,
                           as.integer(k), as.integer(settings$restarts), as.integer(settings$max_rounds),
                           thread_count(), as.double(seed))
  list(
    group = fit$group, objective = fit$objective, rounds = fit$rounds, converged = fit$converged,
    model = list(category = about$category, charge = charge, means = fit$means, modes = fit$modes),
    restarts = restart_counts(fit$reached, fit$objective, refilled = fit$refilled),
    notes = c(
      if (length(charge) == 0L) "There is no category among the columns: these are k-means groups without transfers.",
      if (!fit$converged) paste0("Not settled after ", fit$rounds, " rounds; try a larger max_rounds."),
      if (fit$refilled > 0L) paste0("A group emptied and was refilled ", counted(fit$refilled, "time"), ".")
    )
  )
}

assign_mixed <- function(fit, x) {
  model <- fit$model
  codes <- level_codes(x, model$category)
  numbers <- x[, model$category == 0L, drop = FALSE]
  cost <- vapply(seq_len(fit$k), function(g) {
    apart <- rowSums(sweep(numbers, 2L, model$means[g, ])^2)
    for (c in seq_along(model$charge)) apart <- apart + model$charge[c] * (codes[, c] != model$modes[g, c])
    apart
  }, double(nrow(x)))
  cost <- matrix(cost, nrow = nrow(x))
  group <- max.col(-cost, ties.method = "first")
  list(group = group, distance = sqrt(cost[cbind(seq_len(nrow(x)), group)]))
}

# A level that is not the prototype's costs the charge of its category.
rule_of_mixed <- function(fit) {
  model <- fit$model
  categories <- seq_along(model$charge)
  levels <- lapply(categories, function(c) {
    data.frame(column = which(model$category == c), value = 0, within = NA_real_)
  })
  parts <- lapply(seq_len(fit$k), function(g) {
    costs <- lapply(categories, function(c) {
      model$charge[c] * (c(seq_len(nrow(levels[[c]])) - 1L, -1L) != model$modes[g, c])
    })
    list(group = g, middle = unname(model$means[g, ]), levels = costs)
  })
  new_rule(parts, which(model$category == 0L), levels = levels)
}

#' Mixed prototypes
#'
#' For tables with numbers and categories: a group's prototype has a mean for each number column and one level for each
#' category, the commonest. A row is as far from it as the squared differences of the numbers plus a charge for every
#' category in which its level differs (Huang 1998). K-means on indicator columns instead lets a prototype stand between
#' levels.
#'
#' Two different levels cost as much as the preparation puts between them: their squared distance in scaled units (see
#' [fl_prepare()], where weights change it), times `category_weight`. Numbers must not be reduced to components, which
#' would mix them with the categories. Ordered categories count as numbers. Seeded starts as in k-means, then rows and
#' prototypes by turns until no row moves; a row at equal cost stays. A level never seen differs from all.
#'
#' [method-mixture] takes categories too: it weighs every column by how much it tells, gives probabilities and a BIC,
#' and takes longer. Here every category costs what was said beforehand, so one that tells nothing counts as much as
#' another.
#'
#' @section Settings:
#' * `category_weight` (1): times the charge of every category.
#' * `restarts` (25): seeded starts; the one with the smallest cost is kept.
#' * `max_rounds` (200): most rounds of a start.
#' @references Huang, Z. (1998). Extensions to the k-means algorithm for clustering large data sets with categorical
#'   values. \doi{10.1023/A:1009769707641}
#' @examples
#' visits <- fl_demo("vessel_visits")
#' fl_partition(fl_prepare(visits), fl_method("mixed", restarts = 5), k = 4)
#' @name method-mixed
NULL
