# A mixture fitted again from the groups it has, and seen without the directions in which all its rows hardly differ.

# The same model, fitted to some of the rows by EM from the components as they are. NULL where that fails. `about`: what
# is known of the columns.
refit_mixture <- function(partition, rows, about) {
  model <- partition$model
  seen <- mixture_rows(partition$ready$x, model)
  parts <- mixture_parts(partition)
  component <- max.col(place_in_mixture(seen, parts, model$structure)$density, "first")
  k <- length(parts$of)
  if (any(tabulate(component[rows], k) == 0L)) {
    return(NULL)
  }
  how <- replace(mixture_how(partition$method$settings),
                 c("moves", "freedom", "estimate_freedom", "tolerance", "max_rounds"),
                 list(0L, if (parts$freedom > 0) parts$freedom else 4, FALSE, 1e-5, 100L))
  fit <- fitted_from(only_rows(seen, rows), structure_codes(model$structure, model$tails == "heavy"), k,
                     matrix(component[rows]), how)[[1L]]
  if (fit$failed) {
    return(NULL)
  }
  model[c("share", "covariance", "chance", "freedom", "parts")] <- NULL
  again <- list(
    k = k, group = component, method = partition$method,
    centres = mixture_centres(fit, ncol(partition$ready$x), about, model),
    model = c(model, without_nulls(share = cbind(fit$share), covariance = if (ncol(seen$x) > 0L) fit$covariance,
                            chance = if (length(seen$many) > 0L) fit$chance, freedom = fit$freedom))
  )
  if (is.null(partition$model$parts)) again else merged_mixture(again, parts$of)
}

# Along some direction all rows together have less than this share of a standardised column's variance: columns are
# nearly a formula of others there, and how far a row lies along it says nothing of its group.
narrow_below <- 0.01

# The mixture along all other directions: marginal, as along principal axes. `directions` as another fit has them.
broad_mixture <- function(partition, directions = NULL) {
  model <- partition$model
  parts <- mixture_parts(partition)
  if (!is.null(model$axes) || ncol(parts$mean) < 2L) {
    return(NULL)
  }
  columns <- columns_of_numbers(model, ncol(partition$centres))
  found <- directions %||% split_directions(parts)
  if (is.null(found)) {
    return(NULL)
  }
  turn <- found$broad
  along <- function(covariance) {
    do.call(rbind, lapply(seq_len(nrow(covariance)), function(j) {
      as.vector(crossprod(turn, full_covariance(covariance[j, ], length(columns)) %*% turn))
    }))
  }
  partition$model$axes <- data.frame(middle = found$middle, turn)
  partition$model$structure <- "general/volume+shape+orientation"
  partition$model$covariance <- along(model$covariance)
  if (!is.null(model$parts)) {
    partition$model$parts <- data.frame(group = parts$of, share = parts$share,
                                        mean = on_axes(parts$mean, partition$model$axes),
                                        covariance = along(parts$covariance))
  }
  partition$directions <- found
  partition$narrow <- c(found["middle"], found$narrow, list(columns = columns))
  partition
}

# Directions in which all rows together differ, and those in which they hardly do; NULL where there are none of those.
split_directions <- function(parts) {
  d <- ncol(parts$mean)
  share <- as.vector(parts$share)
  middle <- colSums(parts$mean * share)
  total <- matrix(0, d, d)
  for (j in seq_along(share)) {
    total <- total + share[j] * (full_covariance(parts$covariance[j, ], d) + tcrossprod(parts$mean[j, ] - middle))
  }
  width <- sqrt(diag(total))
  if (any(width <= 0) || anyNA(width)) {
    return(NULL)
  }
  axes <- eigen(total / tcrossprod(width), symmetric = TRUE)
  narrow <- axes$values < narrow_below
  if (!any(narrow)) {
    return(NULL)
  }
  turn <- signed_axes(axes$vectors)
  list(middle = middle, broad = turn[, !narrow, drop = FALSE] / width,
       narrow = list(axes = turn[, narrow, drop = FALSE] / width, loadings = turn[, narrow, drop = FALSE],
                     spread = sqrt(pmax(axes$values[narrow], 1e-12))))
}
