# Three lines of evidence on the number of groups, each with an assumption of its own: the indices of k-means partitions
# (round groups), the components of the mixture with the smallest BIC (elliptical ones), and the components that are
# left once those without a dip between them are put together (rows are rarer between groups). What the first two
# assume is looked at on the rows; none of the three decides by itself where the others speak against it.

# The components of the mixture with the smallest BIC, and what the rows say of them. `turn`: of one repeat.
mixture_evidence <- function(sweep, preparation, method, models, turn = NULL) {
  if (!is.null(turn)) models <- models[models$`repeat` == turn, ]
  if (NROW(models) == 0L) {
    return(NULL)
  }
  best <- which.min(models$bic)
  at <- cells_of(sweep, preparation, method, models$`repeat`[best], asked = TRUE)
  at <- at[sweep$cells$k[at] %in% models$k[best]][1L]
  fit <- sweep$fits[[at]]
  x <- sweep$ready[[preparation]]$x
  evidence <- if (is.null(fit$model$category)) {
    axes <- fit$model$axes %||% wanted_axes(x, sweep$methods[[method]]$settings$axes)
    seen <- if (is.null(axes)) x else on_axes(x, axes)
    component_evidence(seen, fit$group, models$tails[best] == "heavy", sweep$seed)
  } else {
    seen <- mixture_rows(x, fit$model)
    level_evidence(seen$x, list(codes = seen$codes, many = seen$many, share = fit$model$share[, 1L],
                                chance = fit$model$chance), fit$group)
  }
  c(evidence,
    list(rivals = rivals_of(fit), left_out = left_out_models(fit$model$tried)))
}

# How many of the models tried with so many components do not count, since one of them collapsed or vanished.
left_out_models <- function(tried) {
  c(left_out = sum(tried$reason %in% c("a component collapsed", "a component vanished")), of = nrow(tried))
}

# How many other models with nearly as small a BIC group the rows otherwise, and the least adjusted Rand index.
rivals_of <- function(fit) {
  alike <- vapply(fit$rivals, function(group) adjusted_rand(table(group, fit$group)), 0)
  apart <- alike[alike < other_groups]
  if (length(apart) > 0L) list(models = length(apart), least = min(apart))
}

# What to make of the lines of evidence. `found`: `indices`, the count most points of the k-means indices go to, and
# whether they are `clear` of it; `components`, `groups`, `fits` and `valleys`, see component_evidence(); `few` rows,
# where BIC has votes beside the indices. Returns the count and what it rests on: the last is told by `apart_by`, "dips"
# or, where there are categories, "levels".
decided_count_by <- function(found) {
  k <- found$indices
  if (is.null(found$components)) {
    return(list(k = k, by = "indices"))
  }
  if (found$few) {
    return(list(k = k, by = if (is.na(k)) "none" else if (k == found$groups) "agreed" else "indices"))
  }
  with_dips <- found$components == found$groups
  if (is.na(k)) list(k = found$groups, by = if (with_dips) "components" else found$apart_by)
  else if (k == found$groups) list(k = k, by = "agreed")
  else if (found$clear && !(with_dips && found$fits || more_groups_surely(found))) list(k = k, by = "indices")
  else if (with_dips) list(k = found$groups, by = "components")
  else if (found$fits && found$valleys) list(k = found$components, by = "valleys")
  else list(k = found$groups, by = found$apart_by)
}

# Whether the rows dip between more groups than the indices count, and so much that it is no matter of form: pieces of a
# shell or a box dip by 1.4 times what is needed at most, groups that indices of k-means do not see among columns of
# noise by 1.9 and more (odd tables of bench/suites.R).
more_groups_surely <- function(found) found$groups > found$indices && isTRUE(found$beyond >= surely_beyond)

surely_beyond <- 1.5

# Without k-means: the components where they look as they say and are apart, else the groups they make.
decided_by_mixture <- function(found, few) {
  with_dips <- found$components == found$groups
  if (with_dips) list(k = found$groups, by = "components")
  else if (few || found$fits && found$valleys) list(k = found$components, by = "valleys")
  else list(k = found$groups, by = found$apart_by)
}

# One row per line of evidence: its count, what it assumes, and whether that holds here (`NA`: not tested).
evidence_table <- function(indices, clear, found) {
  rows <- list(
    if (!is.null(indices)) {
      list("indices", indices, if (clear) "clear" else "not clear", "round groups", NA)
    },
    if (!is.null(found)) {
      list("components", found$components, "",
           if (isTRUE(found$with_levels)) "levels independent within a group" else "elliptical groups",
           if (anyNA(found$misfit)) NA else found$fits)
    },
    if (!is.null(found)) {
      list(found$apart_by, found$groups, "",
           if (found$apart_by == "levels") "groups hardly mistaken for each other" else "fewer rows between groups", NA)
    }
  )
  rows <- Filter(Negate(is.null), rows)
  tibble::tibble(evidence = vapply(rows, `[[`, "", 1L), k = vapply(rows, function(row) as.integer(row[[2L]]), 0L),
                 strength = vapply(rows, `[[`, "", 3L), assumes = vapply(rows, `[[`, "", 4L),
                 holds = vapply(rows, function(row) as.logical(row[[5L]]), NA))
}

# How the components differ from what the mixture takes them for, in words.
misfit_words <- function(found) {
  z <- found$misfit
  listed(c(
    if (z[["skewness"]] >= misfit_most[["skewness"]]) "skewed",
    if (z[["peak"]] <= -misfit_most[["peak"]]) "too flat",
    if (z[["peak"]] >= misfit_most[["peak"]]) "too peaked",
    if (z[["kurtosis"]] >= misfit_most[["kurtosis"]] && abs(z[["peak"]]) < misfit_most[["peak"]]) "other tails"
  ))
}
