# A mixture whose components are put together to fewer groups: a row belongs to a group as far as to its components.
# Hennig (2010), doi:10.1007/s11634-010-0058-3.

# `of`: the group of each component. `parts` keeps the components; share, covariance and centre of a group are those of
# its components together.
merged_mixture <- function(fit, of) {
  model <- fit$model
  centres <- unname(fit$centres)
  axes <- model$axes
  mean <- if (is.null(axes)) centres else on_axes(centres, axes)
  share <- model$share[, 1L]
  d <- ncol(mean)
  parts <- data.frame(group = of, share = share, mean = mean, covariance = model$covariance)
  k <- max(of)
  weight <- vapply(seq_len(k), function(g) sum(share[of == g]), 0)
  together <- function(values, g) colSums(values[of == g, , drop = FALSE] * share[of == g]) / weight[g]
  middle <- t(vapply(seq_len(k), function(g) together(mean, g), numeric(d)))
  if (d == 1L) middle <- t(middle)
  covariance <- t(vapply(seq_len(k), function(g) {
    out <- matrix(0, d, d)
    for (j in which(of == g)) {
      own <- full_covariance(model$covariance[j, ], d) + tcrossprod(mean[j, ] - middle[g, ])
      out <- out + share[j] / weight[g] * own
    }
    as.vector(out)
  }, numeric(d * d)))
  if (d == 1L) covariance <- t(covariance)
  fit$group <- of[fit$group]
  fit$k <- k
  fit$centres <- if (is.null(axes)) middle else off_axes(middle, axes)
  model$share <- cbind(weight)
  model$covariance <- covariance
  model$parts <- parts
  fit$model <- model
  fit$likelihood <- NULL
  fit
}

# The components of a fit, merged or not, as placing needs them, and the group of each.
mixture_parts <- function(fit) {
  model <- fit$model
  if (is.null(model$parts)) {
    mean <- unname(fit$centres)
    mean <- mean[, columns_of_numbers(model, ncol(mean)), drop = FALSE]
    if (!is.null(model$axes)) mean <- on_axes(mean, model$axes)
    return(list(share = model$share, mean = mean, covariance = model$covariance %||% matrix(0, nrow(mean), 0L),
                chance = model$chance, freedom = model$freedom, of = seq_len(nrow(mean))))
  }
  named <- function(what) unname(as.matrix(model$parts[startsWith(names(model$parts), what)]))
  list(share = model$parts$share, mean = named("mean"), covariance = named("covariance"), freedom = model$freedom,
       of = model$parts$group)
}
