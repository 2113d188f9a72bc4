# Rows under the components of a mixture.

# Which of the prepared columns are levels of a category, and which are numbers of few values, counted as categories of
# their own after those; nothing where there is neither.
mixture_columns <- function(x, about) {
  category <- about$category %||% rep(0L, ncol(x))
  valued <- few_valued(x, which(category == 0L))
  columns <- unique(valued$column)
  category[columns] <- max(category) + seq_along(columns)
  if (any(category > 0L)) list(category = category, valued = if (nrow(valued) > 0L) valued) else list()
}

# What a mixture sees of prepared rows: the numbers, along its axes where it has any; the levels as codes, `many` of
# each category; and their columns as they are, which starts are sought in.
mixture_rows <- function(x, model = list()) {
  numbers <- x[, columns_of_numbers(model, ncol(x)), drop = FALSE]
  seen <- list(x = if (is.null(model$axes)) numbers else on_axes(numbers, model$axes))
  if (is.null(model$category)) {
    return(c(seen, list(codes = matrix(0L, nrow(x), 0L), many = integer())))
  }
  of_categories <- replace(model$category, model$valued$column, 0L)
  codes <- level_codes(x, of_categories)
  many <- tabulate(of_categories, ncol(codes))
  if (!is.null(model$valued)) {
    codes <- cbind(codes, value_codes(x, model$valued))
    many <- c(many, tabulate(match(model$valued$column, unique(model$valued$column))))
  }
  c(seen, list(codes = codes, many = many, beside = x[, model$category > 0L, drop = FALSE]))
}

# Where components lie in prepared columns. The indicator of a level is worth what follows from the squared distance of
# two levels.
mixture_centres <- function(fit, columns, about, model) {
  numbers <- if (is.null(model$axes)) fit$mean else off_axes(fit$mean, model$axes)
  if (is.null(model$category)) {
    return(numbers)
  }
  out <- matrix(0, nrow(numbers), columns)
  out[, model$category == 0L] <- numbers
  before <- 0L
  for (c in seq_along(about$mismatch)) {
    mine <- which(model$category == c)
    out[, mine] <- fit$chance[, before + seq_along(mine)] * sqrt(about$mismatch[c] / 2)
    before <- before + length(mine)
  }
  for (j in unique(model$valued$column)) {
    values <- model$valued$value[model$valued$column == j]
    out[, j] <- fit$chance[, before + seq_along(values), drop = FALSE] %*% values
    before <- before + length(values)
  }
  out
}

only_rows <- function(seen, rows) {
  for (part in c("x", "codes", "beside")) {
    if (!is.null(seen[[part]])) seen[[part]] <- seen[[part]][rows, , drop = FALSE]
  }
  seen
}

# Log densities under every component, shares and levels included, and Mahalanobis distances in the numbers: rows x
# components.
place_in_mixture <- function(seen, fit, structure) {
  placed <- mixture_place_kernel(seen$x, as.double(fit$share), fit$mean, fit$covariance,
                                 structure_codes(structure, fit$freedom > 0)[1L, ], fit$freedom, thread_count())
  if (length(seen$many) > 0L) placed$density <- placed$density + log_chances(seen$codes, fit$chance, seen$many)
  placed
}

placed_by_model <- function(fit, x) {
  place_in_mixture(mixture_rows(x, fit$model), mixture_parts(fit), fit$model$structure)
}

assign_mixture <- function(fit, x) {
  placed <- placed_by_model(fit, x)
  component <- max.col(placed$density, "first")
  list(group = mixture_parts(fit)$of[component], distance = placed$distance[cbind(seq_along(component), component)])
}

# The same in numbers for other programs. A part's `width` takes a row to where the component is round and of
# variance 1.
rule_of_mixture <- function(fit) {
  model <- fit$model
  parts <- mixture_parts(fit)
  d <- ncol(parts$mean)
  levels <- mixture_levels(model)
  before <- cumsum(c(0L, vapply(levels, nrow, 0L)))
  made <- lapply(seq_along(parts$of), function(j) {
    width <- width_of(parts$covariance[j, ], d)
    list(group = parts$of[j], middle = parts$mean[j, ], width = width$matrix,
         constant = log(parts$share[j]) + width$log,
         levels = lapply(seq_along(levels), function(c) {
           chance <- parts$chance[j, before[c] + seq_len(nrow(levels[[c]]))]
           c(pmax(log(chance), log_of_nothing), 0)
         }))
  })
  new_rule(made, columns_of_numbers(model, ncol(fit$centres)), axes = model$axes, levels = levels,
           tails = max(0, parts$freedom))
}

# Other programs have no infinite numbers, and may not let a power become 0.
log_of_nothing <- -700

# The inverse of a root of a covariance, and the log of its determinant.
width_of <- function(covariance, d) {
  if (d == 0L) {
    return(list(matrix = NULL, log = 0))
  }
  if (length(covariance) == d) {
    return(list(matrix = diag(1 / sqrt(covariance), d), log = -sum(log(covariance)) / 2))
  }
  root <- t(chol(full_covariance(covariance, d)))
  list(matrix = forwardsolve(root, diag(d)), log = -sum(log(diag(root))))
}

# Levels as the prepared columns show them, categories first, then numbers of few values.
mixture_levels <- function(model) {
  if (is.null(model$category)) {
    return(list())
  }
  of_categories <- replace(model$category, model$valued$column, 0L)
  c(lapply(seq_len(max(0L, of_categories)), function(c) {
    data.frame(column = which(of_categories == c), value = 0, within = NA_real_)
  }), lapply(unique(model$valued$column), function(column) {
    values <- model$valued$value[model$valued$column == column]
    data.frame(column = column, value = values, within = 1e-6 * value_unit(values))
  }))
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
