# The whole way from a row to its group, as stages of formulas: each stage reads the columns of the one before.

# `columns`: the form of each column read, by its short name. `stages`: by name, lists of formulas by column. The last
# stage has `nearest`, and `placed`: 1 where the row is within reach. `keep`: columns handed along untouched.
placing_formulas <- function(partition, reach = 1) {
  rule <- formula_rule(partition, partition)
  broad <- if (is.finite(reach)) broad_partition(partition)
  limits <- reach_limits(partition, reach)
  if (is.null(limits$broad)) broad <- NULL
  broad_rule <- if (!is.null(broad)) formula_rule(partition, broad)
  columns <- partition$ready$columns
  names(columns) <- paste0("v", seq_along(columns))
  prepared <- preparation_formulas(partition$ready, columns)
  list(
    columns = columns, guarded = !is.null(limits),
    stages = c(prepared$stages,
               rule_stages(Filter(Negate(is.null), list(rule, broad_rule)), limits, prepared$made, partition$k))
  )
}

formula_rule <- function(partition, fit) {
  rule <- placing_rule(partition$method, fit)
  if (is.null(rule)) {
    fl_abort("method", paste0("Groups of ", partition$method$label, " cannot be written as formulas."),
             found = "They place a new row by more than centres or densities, mostly by the nearest rows of the fit.",
             advice = "predict(), fl_place() and fjordline place label new rows; k-means or a mixture can be written.")
  }
  rule
}

# --- the preparation

# `made`: the names of the prepared columns, in the order of the matrix.
preparation_formulas <- function(ready, columns) {
  short <- stats::setNames(lapply(names(columns), as.name), vapply(columns, `[[`, "", "name"))
  frame <- list(stages = list(known = known_formulas(columns, ready$steps)), short = short,
                numbers = vapply(columns, function(form) !form$type %in% c("category", "ordered"), NA))
  for (step in ready$steps) {
    made <- stage_of_step(step, frame)
    if (length(made) > 0L) {
      stage <- free_name(stage_words[[step$kind]], names(frame$stages))
      frame$stages[[stage]] <- keep_others(made, names(columns))
    }
  }
  dropped <- unlist(lapply(steps_of_kind(ready$steps, "drop"), `[[`, "columns"))
  ordered <- unlist(lapply(steps_of_kind(ready$steps, "order"), `[[`, "columns"))
  left <- setdiff(names(short), dropped)
  numbers <- left[frame$numbers[match(left, names(short))] | left %in% ordered]
  made <- c(short[numbers], level_formulas(ready$steps, short))
  frame$stages$prepared <- stats::setNames(unname(made), paste0("x", seq_along(made)))
  for (step in steps_of_kind(ready$steps, "components")) {
    frame$stages$reduced <- component_formulas(step, formula_names("x", length(made)))
    made <- step$share
  }
  list(stages = frame$stages, made = length(made))
}

stage_words <- c(fill = "filled", order = "ordered", transform = "transformed", winsorise = "bounded", scale = "scaled",
                 weights = "weighted")

free_name <- function(name, taken) utils::tail(make.unique(c(taken, name), sep = "_"), 1L)

# What a stage does not change, it hands on.
keep_others <- function(made, names) {
  more <- setdiff(names, names(made))
  c(made, stats::setNames(lapply(more, as.name), more))[names]
}

# Values the fit never saw, and numbers without a transform, are missing.
known_formulas <- function(columns, steps) {
  lapply(stats::setNames(nm = names(columns)), function(name) {
    form <- columns[[name]]
    v <- as.name(name)
    if (form$type %in% c("category", "ordered")) {
      return(call("when", call("among", v, unlist(form$levels)), v, NA_character_))
    }
    tests <- list(call(">=", v, -1e150), call("<=", v, 1e150))
    for (step in steps_of_kind(steps, "transform")) {
      i <- match(form$name, step$columns)
      if (!is.na(i)) tests <- c(tests, transform_test(v, step$how[i], step$learned[[i]]))
    }
    call("when", all_of(tests), v, NA_real_)
  })
}

# The columns a step changes one by one; nothing for the others.
stage_of_step <- function(step, frame) {
  named <- function(made) stats::setNames(made, as.character(frame$short[step$columns]))
  each <- function(how) named(lapply(seq_along(step$columns), function(i) how(frame$short[[step$columns[i]]], i)))
  switch(step$kind, fill = named(fill_formulas(step, frame$short)),
         order = each(function(v, i) {
           levels <- unlist(step$levels[[i]])
           when_of(lapply(levels, function(level) call("==", v, level)), as.list(as.double(seq_along(levels))),
                   NA_real_)
         }),
         transform = , winsorise = , scale = each(function(v, i) step_kinds()[[step$kind]]$formula(v, step, i)),
         weights = weight_formulas(step, frame))
}

# Weights of categories are in their levels.
weight_formulas <- function(step, frame) {
  number <- frame$numbers[match(step$columns, names(frame$short))]
  made <- lapply(which(number), function(i) step_weights$formula(frame$short[[step$columns[i]]], step, i))
  stats::setNames(made, as.character(frame$short[step$columns[number]]))
}

# A row without any value is not filled.
fill_formulas <- function(step, short) {
  if (step$how != "middle") {
    fl_abort("method", "Missing values filled from the nearest rows cannot be written as formulas.",
             found = "The file would have to hold those rows.",
             advice = "Prepare with missing = \"middle\" or \"drop\", and fit again.")
  }
  empty <- all_of(lapply(unname(short[step$columns]), function(v) call("is.na", v)))
  Map(function(v, value) call("when", call("&", call("is.na", v), call("!", empty)), unlist(value), v),
      unname(short[step$columns]), step$values)
}

level_formulas <- function(steps, short) {
  unlist(lapply(steps_of_kind(steps, "indicators"), function(step) {
    lapply(level_columns(step), function(level) {
      v <- short[[level$column]]
      call("when", call("is.na", v), NA_real_, call("==", v, level$level),
           level$factor * weight_of(level$column, steps), 0)
    })
  }), recursive = FALSE)
}

component_formulas <- function(step, x) {
  turn <- turn_matrix(step)
  stats::setNames(lapply(seq_len(ncol(turn)), function(j) along_formula(x, step$middle, turn[, j])),
                  paste0("x", seq_len(ncol(turn))))
}

# How far along a direction.
along_formula <- function(x, middle, direction) {
  kept <- which(direction != 0)
  sum_of(lapply(kept, function(i) times(minus(x[[i]], middle[i]), direction[i])))
}
