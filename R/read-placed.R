# New rows, placed into fitted groups, as a partition of their own table.

# The groups keep the numbers and names of the model, also those that got no row.
placed_partition <- function(placed, name = NULL) {
  model <- placed$partition
  ready <- placed_ready(placed)
  group <- placed$rows$group[ready$rows]
  fit <- list(group = group, k = model$k, centres = model$centres, scatter = group_scatter(ready$x, group, model$k),
              minimises = "W", converged = NA, rounds = NA_integer_, seconds = NA_real_, model = model$model,
              notes = if (any(tabulate(group[group > 0L], model$k) == 0L)) {
                paste0("No row was placed into ", groups_said(model, which(tabulate(group[group > 0L], model$k) == 0L)),
                       ".")
              })
  fit$objective <- sum(fit$scatter)
  said <- paste("placement into the groups of", model$ready$data$name %||% model$ready$table_name)
  out <- partition_of_fit(ready, placing_method(model$method, said), model$seed %||% 1, fit, name %||% said,
                          code_call("fl_adopt", verbatim("placed"), name = name))
  means <- group_means(ready$x, group, model$k)
  means[!is.finite(means)] <- NA_real_
  shown <- fit
  shown$centres <- means
  out$groups <- group_table(ready, shown)
  out$names <- model$names
  out$placed <- placed
  out
}

# The model's preparation with the new rows in it.
placed_ready <- function(placed) {
  model <- placed$partition
  whole <- which(placed$rows$group > 0L)
  if (length(whole) == 0L) {
    fl_abort("values", "No row was placed into a group, so there is nothing to read.")
  }
  data <- placed$data %||% fl_data(placed$table, features = names(model$ready$columns), name = placed$name)
  ready <- model$ready
  ready$rows <- intersect(which(!is.na(placed$rows$group)), taking_part(data))
  ready$x <- placed$x[ready$rows, , drop = FALSE]
  ready$total <- nrow(placed$table)
  ready$left <- c(missing = length(taking_part(data)) - length(ready$rows),
                  `set apart` = ready$total - length(taking_part(data)))
  ready$data <- data
  ready$units <- data$units %||% model$ready$units
  ready$notes <- character()
  ready$outliers <- NULL
  ready
}

# Places as the model's method does, and cannot be fitted anew.
placing_method <- function(method, said) {
  out <- adopted_method(said)
  out$settings <- list(metric = method$settings$metric %||% "euclidean")
  out$assign <- method$assign
  out$rule <- method$rule
  out$membership <- method$membership
  out$centre <- "mean"
  out$shape <- method$shape
  out
}

# What the script must begin with: the file where the model came from one.
placed_steps <- function(x) {
  placed <- x$placed
  model <- placed$partition
  first <- if (!is.null(model$file)) paste0("model <- ", code_call("fl_load", model$file))
  else c(fl_steps(model), "model <- groups")
  c(first, if (!is.null(placed$data)) sub("^data <-", "newdata <-", fl_steps(placed$data)),
    paste("placed <-", placed$call), paste("groups <-", x$call))
}
