# Mixtures in the vote. Of all mixtures of a sweep the one with the smallest BIC tells the class of the table; by the
# class its ballot weighs against the indices of k-means, which see round groups best.

# What the fitted mixtures reached: a row a model, count and repeat.
mixture_models <- function(sweep, preparation, method) {
  cells <- sweep$cells
  mine <- which(cells$preparation == preparation & cells$method == method & cells$asked &
                  !vapply(sweep$fits, inherits, NA, "error"))
  tried <- lapply(mine, function(at) {
    model <- sweep$fits[[at]]$model$tried
    if (!is.null(model)) tibble::tibble(model, `repeat` = rep(cells$`repeat`[at], nrow(model)))
  })
  models <- vctrs::vec_rbind(!!!tried)
  if (NROW(models) > 0L) models[!nzchar(models$reason) & is.finite(models$bic), ] else NULL
}

model_class <- function(structure, tails) ifelse(tails == "heavy", "heavy-tailed", structure_form(structure))

# The class of the table, the model it is told from, and how far behind the best model of another class is.
table_class <- function(models) {
  if (NROW(models) == 0L) {
    return(NULL)
  }
  best <- which.min(models$bic)
  class <- model_class(models$structure, models$tails)
  others <- models$bic[class != class[best]]
  list(class = class[best], structure = models$structure[best], tails = models$tails[best], k = models$k[best],
       lead = if (length(others) > 0L) min(others) - models$bic[best] else NA_real_, models = models_tried(models))
}

models_tried <- function(models) nrow(unique(models[c("structure", "tails")]))

mixture_index <- function() {
  declare_index("mixture_bic", across = function(set) NULL, label = "BIC of mixtures (Schwarz 1978)",
                family = "mixture", direction = "lower", from = 1L, tier = "fast", source = "Schwarz 1978",
                rule = paste("smallest value, one group allowed, over the structures whose components have only their",
                             "form in common, and over heavy tails"))
}

# Structures with something in common gain more by a component than they pay, where components differ in just that: they
# tell the class, but do not vote.
voting_models <- function(models) {
  free <- models$tails == "heavy" | models$k == 1L |
    models$structure %in% c("spherical/volume", "diagonal/volume+shape", "general/volume+shape+orientation")
  if (any(free)) models[free, ] else models
}

# The smallest BIC at every count, in the form of a sweep's values.
mixture_values <- function(models, sweep, preparation, method) {
  models <- voting_models(models)
  cells <- unique(sweep$cells[sweep$cells$preparation == preparation & sweep$cells$method == method &
                                sweep$cells$asked, c("k", "repeat")])
  value <- vapply(seq_len(nrow(cells)), function(i) {
    mine <- models$bic[models$k == cells$k[i] & models$`repeat` == cells$`repeat`[i]]
    if (length(mine) > 0L) min(mine) else NA_real_
  }, 0)
  tibble::tibble(preparation = preparation, method = method, k = cells$k, `repeat` = cells$`repeat`,
                 index = "mixture_bic", value = value, error = NA_real_, covered = 1,
                 reason = ifelse(is.na(value), "no mixture of that many components could be fitted", ""))
}

# Votes of the mixture's family by the class of the table, where each family of k-means indices has one. `Inf`: it
# decides alone. Set on the tuning tables of bench/recovery.R.
class_votes <- c(spherical = 3, diagonal = 12, general = Inf, `heavy-tailed` = Inf)

# The weights of a vote with a mixture; an index the caller gave a weight keeps it.
class_weights <- function(used, class, together, given = NULL) {
  if (is.null(class)) {
    return(used)
  }
  votes <- if (together) class_votes[[class$class]] else Inf
  if (is.finite(votes)) used$family$mixture <- votes * used$family$mixture
  else used$index[setdiff(names(used$index), c("mixture_bic", names(given)))] <- 0
  used
}

decides_alone <- function(vote) {
  !is.null(vote$class) && (length(vote$voters) == 1L || is.infinite(class_votes[[vote$class$class]]))
}

class_words <- c(spherical = "round groups", diagonal = "groups stretched along the columns",
                 general = "groups stretched in any direction", `heavy-tailed` = "groups with stray rows")

# What kind of groups the table has, and how that weighs.
class_fact <- function(x) {
  class <- x$class
  if (is.null(class) || x$verdict == "no groups") {
    return(NULL)
  }
  bic <- x$ballots[x$ballots$index == "mixture_bic" & x$ballots$rank == 1L, ]
  k <- if (is.null(x$settled)) x$k else x$settled$voted
  c(
    paste0("Class of the table: ", class$class, " (", class_words[[class$class]], "); of ",
           counted(class$models, "mixture model"), " at every count ",
           model_said(class), " with ", counted(class$k, "component"), " has the smallest BIC",
           if (!is.na(class$lead)) paste0(", ", digits3(class$lead), " below the best of another class"), ". ",
           if (length(x$voters) == 1L) "BIC decides alone."
           else if (decides_alone(x)) "In this class BIC decides alone."
           else paste0("In this class it has ", spelt(class_votes[[class$class]]), " votes, every other family one.")),
    if (nrow(bic) > 0L && !is.na(k) && bic$k != k) paste0("By its ballot alone it would be ", bic$k, "."),
    if (!is.na(k) && class$k != k && class$k != 1L) paste0("The model with the smallest BIC has ", class$k, ".")
  )
}
