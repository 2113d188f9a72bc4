# What only a mixture can show: its models, its density beside that of the rows, and the rows it is unsure of.

check_mixture_model <- function(object, view) {
  if (is.null(object$model$tried)) {
    fl_abort("argument", paste0("The view ", quoted(view), " is for mixtures."),
             found = paste0("These groups are by ", method_said(object$method), "."))
  }
}

# --- the models

draw_models <- function(object, asked) {
  check_mixture_model(object, "models")
  models_figure(object$model$tried, object$method$settings$criterion, object$ready,
                model_note(object$model$tried, chosen_model(object$model), object$method$settings$criterion),
                paste0(capital(method_said(object$method)), ", k = ", object$k, ", seed ", object$seed, "."))
}

chosen_model <- function(model) which(model$tried$structure == model$structure & model$tried$tails == model$tails)[1L]

# Of a sweep: every model over the counts.
draw_sweep_models <- function(object, vote) {
  voices <- vapply(object$methods, voice_of, "")
  label <- names(voices)[voices == "models"][1L]
  if (is.na(label)) {
    fl_abort("argument", "The view \"models\" needs a mixture in the sweep.",
             advice = "fl_sweep(ready, c(\"kmeans\", \"mixture\")) has one.")
  }
  mine <- cells_of(object, vote$preparation, label, turn = 1L, asked = TRUE, fitted = TRUE)
  tried <- vctrs::vec_rbind(!!!lapply(object$fits[mine], function(fit) fit$model$tried))
  criterion <- object$methods[[label]]$settings$criterion
  best <- best_model(tried, criterion)
  models_figure(tried, criterion, object$ready[[vote$preparation]],
                paste0(capital(spelt_count(tried$k[best], "component")), " of ", model_said(tried)[best], ": ",
                       toupper(criterion), " ", digits3(tried[[criterion]][best]),
                       ", the smallest over structures and counts"),
                paste0(capital(label), ", k = ", count_range(object$k), ", seed ", object$seed, "."))
}

models_figure <- function(tried, criterion, ready, title, said) {
  tried$value <- tried[[criterion]]
  tried <- tried[is.finite(tried$value), ]
  tried$form <- factor(structure_form(tried$structure), c("spherical", "diagonal", "general", "none"),
                       c("spherical", "diagonal", "general", "levels alone"))
  tried$free <- sub("^.*/", "", tried$structure)
  # k = 1 is common to all structures of a form: each line begins there
  eligible <- !nzchar(tried$reason)
  best <- which.min(ifelse(eligible, tried$value, Inf))
  tried$tails <- factor(ifelse(tried$tails == "heavy", "heavy tails", "normal tails"), c("normal tails", "heavy tails"))
  frees <- c(unique(sub("^.*/", "", covariance_structures)), "none")
  tried$free <- factor(tried$free, frees[frees %in% tried$free])
  several <- length(unique(tried$k)) > 1L
  tried$at <- if (several) tried$k else as.integer(tried$free)
  lowest <- min(tried$value)
  # bad models, and far smaller counts, would squeeze what is to be compared
  near <- abs(tried$k - tried$k[best]) <= 2L
  high <- lowest + 1.15 * (stats::quantile(tried$value[near], 0.8, names = FALSE) - lowest)
  colours <- stats::setNames(fl_palette(nlevels(tried$free)), levels(tried$free))
  ggplot(tried, aes(.data$at, .data$value, colour = .data$free, shape = .data$free)) +
    (if (several) geom_line(aes(group = .data$free), linewidth = 0.6)) +
    geom_point(data = tried[eligible, ], size = 2.6) +
    geom_point(data = tried[!eligible, ], shape = 4, size = 2.6, show.legend = FALSE) +
    geom_point(data = tried[best, ], shape = 21, size = 6, stroke = 1.1, colour = mark_strong, fill = NA,
               show.legend = FALSE) +
    ggplot2::facet_grid(ggplot2::vars(.data$tails), ggplot2::vars(.data$form)) +
    scale_colour_manual(values = colours, name = "may differ") +
    scale_shape_manual(values = stats::setNames(rep_len(group_shapes, nlevels(tried$free)), levels(tried$free)),
                       name = "may differ") +
    (if (several) scale_x_continuous(breaks = whole_breaks(tried$k))
     else scale_x_continuous(breaks = NULL, expand = expansion(mult = 0.08))) +
    scale_y_continuous(labels = function(v) digits3(v)) + coord_cartesian(ylim = c(lowest, max(high, lowest + 1))) +
    words_on(
      title = sub("\\.$", "", title),
      subtitle = paste0(toupper(criterion), if (all(tried$structure == "none")) " of the level probabilities"
                        else " of every covariance structure", ", lower is better; ring: the smallest.",
                        if (any(!eligible)) " Crosses: a component collapsed, not eligible.",
                        if (any(tried$value > high)) " Much worse models lie above the frame."),
      caption = data_caption(ready, said), x = if (several) "components" else NULL, y = toupper(criterion)
    ) +
    fl_theme()
}

# --- the density

# A mixture seen along two directions (columns of `turn`) is a mixture: its shares, means and covariances there.
seen_mixture <- function(object, turn, middle) {
  model <- object$model
  d <- ncol(object$centres)
  covariances <- lapply(group_covariances(model, d), function(s) crossprod(turn, s %*% turn))
  list(share = model$share[, 1L], mean = sweep(object$centres, 2L, middle) %*% turn, covariance = covariances,
       freedom = model$freedom)
}

density_on_grid <- function(seen, x, y) {
  points <- as.matrix(expand.grid(x, y))
  fit <- list(share = seen$share, mean = unname(seen$mean), covariance = t(vapply(seen$covariance, c, numeric(4))),
              freedom = seen$freedom)
  density <- place_in_mixture(mixture_rows(points), fit, "general/volume+shape+orientation")$density
  rowSums(exp(density))
}

# The density of the rows themselves: a normal kernel of these widths.
row_density <- function(rows, width, x, y) {
  at <- function(grid, v, h) stats::dnorm(outer(grid, v, "-") / h) / h
  as.vector(tcrossprod(at(x, rows[, 1L], width[1L]), at(y, rows[, 2L], width[2L]))) / nrow(rows)
}

# The usual widths for single clusters as wide as the components are in the middle.
kernel_width <- function(seen, n) {
  spread <- vapply(1:2, function(j) sqrt(sum(seen$share * vapply(seen$covariance, function(s) s[j, j], 0))), 0)
  1.06 * spread * n^(-1 / 6)
}

# The mixture smoothed by the same kernel, so that the two can be compared.
smoothed_mixture <- function(seen, width) {
  seen$covariance <- lapply(seen$covariance, function(s) s + diag(width^2))
  seen
}

# Rows drawn from the mixture itself, as many as the table has.
drawn_from <- function(seen, n, seed) {
  own <- findInterval(uniform_numbers(n, seed), cumsum(seen$share) / sum(seen$share)) + 1L
  z <- matrix(normal_numbers(2L * n, derived_seed(seed, 1)), n)
  if (seen$freedom > 0) {
    z <- z * sqrt(seen$freedom / stats::qchisq(uniform_numbers(n, derived_seed(seed, 2)), seen$freedom))
  }
  roots <- lapply(seen$covariance, chol)
  for (g in unique(own)) z[own == g, ] <- z[own == g, , drop = FALSE] %*% roots[[g]]
  z + seen$mean[own, , drop = FALSE]
}

# Where a component has 50 and 90 in 100 of its rows.
component_ellipses <- function(seen) {
  circle <- seq(0, 2 * pi, length.out = 121L)
  vctrs::vec_rbind(!!!lapply(seq_along(seen$share), function(j) {
    root <- t(chol(seen$covariance[[j]]))
    vctrs::vec_rbind(!!!lapply(c(0.5, 0.9), function(share) {
      reach <- if (seen$freedom > 0) sqrt(2 * stats::qf(share, 2, seen$freedom)) else sqrt(stats::qchisq(share, 2))
      edge <- t(root %*% rbind(cos(circle), sin(circle)) * reach + seen$mean[j, ])
      tibble::tibble(group = j, share = share, x = edge[, 1L], y = edge[, 2L])
    }))
  }))
}

# Two feature columns, or the two main directions of the numbers, as directions in scaled units.
two_directions <- function(object, columns) {
  x <- object$ready$x
  middle <- colMeans(x)
  numbers <- columns_of_numbers(object$model, ncol(x))
  if (is.null(columns) && length(numbers) > 2L) {
    axes <- main_axes(object, numbers)
    shown <- matrix(0, ncol(x), 2L)
    shown[numbers, ] <- principal_axes(sweep(x[, numbers, drop = FALSE], 2L, middle[numbers]))$turn[, 1:2]
    return(list(turn = shown, middle = middle, words = axes$words, columns = NULL))
  }
  columns <- columns %||% colnames(x)[numbers]
  if (length(columns) != 2L || !all(columns %in% colnames(x)[numbers])) {
    fl_abort("column", "`columns` must name two of the prepared number columns: the density is one of these.",
             found = paste0("It is ", shape_of(columns), "."),
             advice = paste0("They are ", listed(colnames(x)[numbers]), "."))
  }
  turn <- diag(ncol(x))[, match(columns, colnames(x)), drop = FALSE]
  list(turn = turn, middle = middle, words = vapply(columns, with_unit, "", object$ready$units), columns = columns)
}

# The words of the axes, of the numbers alone where there are categories too.
main_axes <- function(object, numbers) {
  if (length(numbers) < ncol(object$ready$x)) {
    object$ready$x <- object$ready$x[, numbers, drop = FALSE]
    object$centres <- object$centres[, numbers, drop = FALSE]
  }
  component_axes(object, 2L)
}

# Along a column the ticks are told in its original units.
axis_labels <- function(object, seen_from, j) {
  column <- seen_from$columns[j]
  if (is.null(column)) {
    return(ggplot2::waiver())
  }
  function(at) {
    x <- matrix(seen_from$middle, length(at), length(seen_from$middle), byrow = TRUE,
                dimnames = list(NULL, colnames(object$ready$x)))
    x[, column] <- at + seen_from$middle[[match(column, colnames(x))]]
    x[is.na(at), ] <- seen_from$middle
    told <- as.data.frame(original_units(object$ready, x))
    if (column %in% names(told)) digits3(told[[column]]) else digits3(at)
  }
}

draw_mixture_density <- function(object, asked) {
  check_mixture_model(object, "density")
  numbers <- columns_of_numbers(object$model, ncol(object$ready$x))
  if (length(numbers) == 0L) {
    fl_abort("argument", "The view \"density\" needs a column of numbers, and all columns here are categories.",
             advice = "fl_components() lists the probabilities of their levels.")
  }
  if (length(numbers) == 1L) {
    return(draw_line_density(object, numbers))
  }
  seen_from <- two_directions(object, asked$columns)
  rows <- sweep(object$ready$x, 2L, seen_from$middle) %*% seen_from$turn
  seen <- seen_mixture(object, seen_from$turn, seen_from$middle)
  ellipses <- component_ellipses(seen)
  grid <- lapply(1:2, function(j) {
    range <- range(rows[, j], ellipses[[c("x", "y")[j]]])
    seq(range[1L] - 0.06 * diff(range), range[2L] + 0.06 * diff(range), length.out = 90L)
  })
  drawn <- rows[drawn_rows(nrow(rows), 3000L), , drop = FALSE]
  width <- kernel_width(seen, nrow(drawn))
  smooth <- density_on_grid(smoothed_mixture(seen, width), grid[[1L]], grid[[2L]])
  own <- row_density(drawn, width, grid[[1L]], grid[[2L]])
  shared <- density_overlap(smooth, own)
  # How much a table drawn from the mixture would share with it.
  usual <- stats::quantile(vapply(seq_len(19L), function(turn) {
    sample <- drawn_from(seen, nrow(drawn), derived_seed(object$seed, 31, turn))
    density_overlap(smooth, row_density(sample, width, grid[[1L]], grid[[2L]]))
  }, 0), 0, names = FALSE)
  panels <- c("the fitted mixture", "the rows themselves")
  both <- tibble::tibble(
    x = rep(grid[[1L]], times = 2L * 90L), y = rep(rep(grid[[2L]], each = 90L), 2L),
    density = c(smooth, own),
    panel = factor(rep(panels, each = 8100L), panels)
  )
  both$density <- both$density / max(both$density)
  ellipses$panel <- factor(panels[1L], panels)
  centres <- data.frame(x = seen$mean[, 1L], y = seen$mean[, 2L], group = factor(seq_len(object$k)),
                        panel = factor(panels[1L], panels))
  points <- data.frame(x = drawn[, 1L], y = drawn[, 2L], panel = factor(panels[2L], panels))
  ggplot(both, aes(.data$x, .data$y)) +
    ggplot2::geom_raster(aes(fill = sqrt(.data$density)), interpolate = TRUE) +
    geom_point(data = points, size = 0.5, alpha = 0.35, colour = ink) +
    ggplot2::geom_path(data = ellipses, aes(group = paste(.data$group, .data$share),
                                            linetype = factor(.data$share, c(0.5, 0.9), c("50%", "90%"))),
                       colour = ink, linewidth = 0.4) +
    numbered_discs(centres, 7.5) + group_scale(levels(centres$group)) +
    facet_wrap("panel") +
    scale_fill_gradient(low = "white", high = "#3E8E96", name = "density\n(root)", labels = NULL) +
    ggplot2::scale_linetype_manual(values = c("50%" = "solid", "90%" = "22"), name = "of a component") +
    scale_x_continuous(expand = c(0, 0), labels = axis_labels(object, seen_from, 1L)) +
    scale_y_continuous(expand = c(0, 0), labels = axis_labels(object, seen_from, 2L)) +
    words_on(
      title = paste0("In this plane ", if (shared >= usual) "a fair description"
                     else if (shared >= usual - 0.1) "a description in part" else "a poor description",
                     ": mixture and rows share ", percent(shared), " of density"),
      subtitle = paste0("Left: the density of the mixture, with its components. Right: that of the rows. Both ",
                        "smoothed by one kernel. Tables of as many rows drawn from the mixture share ", percent(usual),
                        " and more with it."),
      caption = data_caption(object$ready, c(paste0(capital(method_said(object$method)), ", ",
                                                    model_said(object$model), ", seed ", object$seed, "."),
                                             if (is.null(seen_from$columns)) "Axes in scaled units."
                                             else "Axes are spaced as prepared, labelled in original units.")),
      x = seen_from$words[1L], y = seen_from$words[2L]
    ) +
    fl_theme()
}

# The share two densities on one grid have in common.
density_overlap <- function(a, b) sum(pmin(a / sum(a), b / sum(b)))

# One column of numbers: the rows as a histogram, the mixture and its components as curves.
draw_line_density <- function(object, column) {
  x <- object$ready$x[, column]
  name <- colnames(object$ready$x)[column]
  middle <- replace(colMeans(object$ready$x), column, 0)
  range <- range(x)
  grid <- matrix(seq(range[1L] - 0.05 * diff(range), range[2L] + 0.05 * diff(range), length.out = 400L))
  alone <- list(centres = object$centres[, column, drop = FALSE],
                model = object$model[setdiff(names(object$model), c("category", "valued", "chance"))])
  placed <- placed_by_model(alone, grid)$density
  lines <- tibble::tibble(x = rep(grid[, 1L], object$k + 1L), density = c(exp(placed), rowSums(exp(placed))),
                          of = factor(rep(c(seq_len(object$k), "all"), each = 400L), c(seq_len(object$k), "all")))
  ggplot(data.frame(x = x), aes(.data$x)) +
    ggplot2::geom_histogram(aes(y = ggplot2::after_stat(.data$density)), bins = 40L, fill = "#DCE3E6",
                            colour = "white") +
    geom_line(data = lines, aes(.data$x, .data$density, colour = .data$of, linewidth = .data$of == "all")) +
    scale_colour_manual(values = stats::setNames(c(fl_palette(object$k), ink), levels(lines$of)), name = "component") +
    ggplot2::scale_linewidth_manual(values = c(`TRUE` = 1.1, `FALSE` = 0.7), guide = "none") +
    scale_x_continuous(labels = axis_labels(object, list(columns = name, middle = middle), 1L)) +
    words_on(title = paste0(capital(spelt(object$k)), if (object$k == 1L) " component" else " components",
                            " beside the rows of ", name),
             subtitle = "Bars: the rows. Lines: each component with its share, and all together.",
             caption = data_caption(object$ready, c(paste0(capital(method_said(object$method)), ", ",
                                                           model_said(object$model), ", seed ", object$seed, "."),
                                                    "The axis is spaced as prepared, labelled in original units.")),
             x = with_unit(name, object$ready$units), y = "density") +
    fl_theme()
}

# --- the rows it is unsure of

draw_uncertain <- function(object, asked) {
  need_memberships(object)
  map <- plane_map(object, asked$columns)
  membership <- row_memberships(object)[object$ready$rows, , drop = FALSE]
  own <- row_most(membership)
  rows <- data.frame(x = map$points$x, y = map$points$y, group = factor(object$group[object$ready$rows]),
                     doubt = 1 - own)
  rows <- rows[order(rows$doubt), ]
  shown <- rows[drawn_rows(nrow(rows)), ]
  between <- mean(rows$doubt > 0.2)
  ggplot(shown, aes(.data$x, .data$y, colour = .data$group, size = .data$doubt, alpha = .data$doubt)) +
    geom_point() +
    group_scale(levels(rows$group), of = object) +
    ggplot2::scale_size_continuous(range = c(0.8, 5), limits = c(0, max(0.5, rows$doubt)),
                                   name = "may belong\nelsewhere", labels = function(v) percent(v),
                                   breaks = c(0, 0.2, 0.4)) +
    ggplot2::scale_alpha_continuous(range = c(0.35, 0.95), limits = c(0, max(0.5, rows$doubt)), guide = "none") +
    words_on(title = paste0(percent(between), " of the rows belong to their group by less than 80%"),
             subtitle = paste0(map$said, " Large points: rows whose membership is in doubt."),
             caption = data_caption(object$ready,
                                    c(paste0(capital(method_said(object$method)), ", seed ", object$seed, "."),
                                      drawn_note(drawn_rows(nrow(rows)), nrow(rows)))),
             x = map$x, y = map$y) +
    guides(colour = guide_legend(override.aes = list(size = 3, alpha = 1), order = 1)) + fl_theme()
}
