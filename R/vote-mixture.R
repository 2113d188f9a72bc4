# Mixtures in the vote: of all mixtures of a sweep the one with the smallest BIC gives the components, and the shape
# they have.

# What the fitted mixtures reached: a row a model, count and repeat.
mixture_models <- function(sweep, preparation, method) {
  cells <- sweep$cells
  mine <- cells_of(sweep, preparation, method, asked = TRUE, fitted = TRUE)
  tried <- lapply(mine, function(at) {
    model <- sweep$fits[[at]]$model$tried
    if (!is.null(model)) tibble::tibble(model, `repeat` = rep(cells$`repeat`[at], nrow(model)))
  })
  # Where all rows of every group are equal each component collapses: BIC has no value there, and would prefer the
  # counts beside.
  scale <- total_scatter(sweep$ready[[preparation]]$x)
  equal <- vapply(sweep$fits[mine], function(fit) fit$k > 1L && sum(fit$scatter) <= 1e-12 * scale, NA)
  models <- if (!any(equal)) vctrs::vec_rbind(!!!tried)
  if (NROW(models) > 0L) models[!nzchar(models$reason) & is.finite(models$bic), ] else NULL
}

shape_form <- function(structure, tails) ifelse(tails == "heavy", "heavy-tailed", structure_form(structure))

# The shape of the groups, the model that shows it, and how far behind the best model of another shape is.
shape_of_groups <- function(models, rows) {
  if (NROW(models) == 0L) {
    return(NULL)
  }
  best <- which.min(models$bic)
  form <- shape_form(models$structure, models$tails)
  others <- models$bic[form != form[best]]
  list(form = form[best], structure = models$structure[best], tails = models$tails[best], k = models$k[best],
       lead = if (length(others) > 0L) min(others) - models$bic[best] else NA_real_, models = models_tried(models),
       rows = rows, votes = Inf)
}

models_tried <- function(models) nrow(unique(models[c("structure", "tails")]))

free_models <- function(models) {
  free <- models$tails == "heavy" | models$k == 1L | models$structure == "none" |
    models$structure %in% c("spherical/volume", "diagonal/volume+shape", "general/volume+shape+orientation")
  if (any(free)) models[free, ] else models
}

# The smallest BIC at every count, in the form of a sweep's values.
mixture_values <- function(models, sweep, preparation, method) {
  cells <- unique(sweep$cells[cells_of(sweep, preparation, method, asked = TRUE), c("k", "repeat")])
  smallest <- function(index, models) {
    value <- vapply(seq_len(nrow(cells)), function(i) {
      mine <- models$bic[models$k == cells$k[i] & models$`repeat` == cells$`repeat`[i]]
      if (length(mine) > 0L) min(mine) else NA_real_
    }, 0)
    tibble::tibble(preparation = preparation, method = method, k = cells$k, `repeat` = cells$`repeat`, index = index,
                   value = value, error = NA_real_, covered = 1,
                   reason = ifelse(is.na(value), "no mixture of that many components could be fitted", ""))
  }
  vctrs::vec_rbind(smallest("bic_all", models), smallest("bic_free", free_models(models)))
}

# BIC is a limit for many rows: in smaller tables it has four votes beside the six families of k-means indices. Set on
# the tuning tables of bench/recovery.R.
few_rows <- 100L
few_votes <- 4

# How far the BIC of a count lies below that of every other count of two or more, in the ballot in which it is less.
bic_lead <- function(values, k) {
  leads <- vapply(names(mixture_ballots()), function(index) {
    mine <- values[values$index == index & values$k >= 2L, ]
    middle <- vapply(split(mine$value, mine$k), middle_of, 0)
    at <- as.integer(names(middle)) %in% k
    if (!any(at & !is.na(middle)) || all(is.na(middle[!at]))) NA_real_ else min(middle[!at], na.rm = TRUE) - middle[at]
  }, 0)
  min(leads)
}

# The weights of a vote with a mixture: beside k-means in small tables its BIC has votes, in others it is evidence of
# its own. By itself it alone votes. An index the caller gave a weight keeps it.
beside_mixture <- function(used, shape, given = NULL) {
  if (is.null(shape)) {
    return(used)
  }
  own <- names(mixture_ballots())
  asked <- any(c(models_family, own) %in% names(given))
  if (is.infinite(shape$votes)) used$index[setdiff(names(used$index), c(own, names(given)))] <- 0
  else if (shape$votes > 0) used$family[[models_family]] <- shape$votes * used$family[[models_family]]
  else if (!asked) used$index[own] <- 0
  used
}

shape_words <- c(spherical = "round", diagonal = "stretched along the columns", general = "stretched in any direction",
                 `heavy-tailed` = "round or stretched, with long tails")

# The shape of the groups, and the model that shows it.
shape_fact <- function(x) {
  shape <- x$shape
  if (is.null(shape) || shape$form == "none" || x$verdict == "no groups") {
    return(NULL)
  }
  paste0("Shape of the components: ", shape_words[[shape$form]], ". The smallest BIC of ",
         counted(shape$models, "mixture model"), " at every count is that of ", model_said(shape), " with ",
         counted(shape$k, "component"),
         if (!is.na(shape$lead)) paste0(", ", digits3(shape$lead), " lower than of any other shape"), ".")
}
