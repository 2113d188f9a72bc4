# New rows into fitted groups, with a guard: some rows belong to none of them.

#' Put new rows into the groups
#'
#' New rows go through the preparation recorded with the partition (nothing is refitted) and then to a group, unless
#' they lie farther from every group than its own rows do: then the answer is "none of these" (0). `fl_place()` also
#' says what is odd about each row, and which columns have drifted since the fit; `predict()` gives the bare labels, and
#' warns of drift.
#'
#' @section None of these: A row belongs to none of the groups when its distance to each is larger than the `reach`
#'   quantile of the distances of that group's fitted rows (by the method's own metric, in scaled units). At 1, the
#'   default, no fitted row is turned away, and a new row of the same kind with a chance of about one in the number of
#'   its group's rows; at 0.95 one in twenty is. A fitted row lies nearer to the centre it helped to place than a new
#'   one will: so each counts with its distance from a fit without it, where that is farther (Barber et al. 2021).
#'   Mixtures are fitted ten times, each time without a tenth of every group, from the groups as they are and with their
#'   model (above 5,000 rows not, since no row pulls much there); means of rows shift by a known amount; other centres
#'   are taken as they are. A group of fewer than 5 rows reaches as far as the middle one of the others, if that is
#'   farther.
#' @section Relations: Where a column is nearly a formula of others (sound speed of temperature and salinity), all
#'   fitted rows lie close to it, and for a mixture a small change in one of them is farther than any fitted row. No
#'   such direction decides: rows that only break a relation are placed by the other directions, and told (`broken`). A
#'   direction counts as a relation when the fitted rows have less than a hundredth of a standardised column's variance
#'   along it.
#' @section Drift: Every column is compared with the fitted rows: numbers in ten parts equally full in the fit, other
#'   columns by value, and missing values (compared with the whole table) as a part of their own. `moved` is the share
#'   of values that lie in other parts than they did (half the sum of the differences), `p` is of a chi-squared test
#'   that both are of one kind, adjusted for the number of columns by Holm's method. A column has drifted when p is at
#'   most 0.01 and at least a tenth has moved. How the groups are mixed is compared in the same way. Each column is
#'   compared by itself: a change in how columns go together is not seen.
#' @section Another kind of table: Columns that are missing or hold something else are refused; and so is, from 20 rows
#'   on, a table with a column of which more than half the values lie outside all that was fitted (or were never seen).
#'   `strict = FALSE` places such rows all the same.
#' @param partition,object A partition, fitted or loaded with [fl_load()] (drift and "none of these" need a file
#'   written by this version).
#' @param newdata A data frame, an `fl_data` object or the path of a file, with the columns the partition was made from.
#' @param reach How far groups reach: a quantile from 0.5 to 1, or `Inf` for no limit.
#' @param strict `FALSE` places the rows of a table that is of another kind.
#' @return `fl_place()`: an object of class `fl_place`: `rows` (`row`, `id` where the table has the id column, `group`:
#'   0 for none of these, `NA` for a row with a missing value, `name`, `nearest`: the group it would go to, `distance`
#'   to it, `reach`: how far that group reaches, `broken`: whether it only breaks a relation between columns, `outside`:
#'   columns outside all that was fitted), `drift` (`column`,
#'   `number`, `rows` with a value, `fitted` and `new` mean, `shift` in fitted standard deviations, `outside`: share of
#'   values outside, `missing`: share, `moved`, `p`, `drifted`), `mix` (`group`, `name`, `rows`, `fitted` and `new`
#'   shares).
#'   `as.data.frame()` gives `rows`; [fl_export()] writes the new table with its groups.
#' @section Errors: `fjordline_error_column` when a column is missing or does not hold what it did,
#'   `fjordline_error_kind` for a table of another kind, `fjordline_error_values` for infinite values,
#'   `fjordline_error_argument` for a type the method cannot give.
#' @references
#' Barber, R. F., Candes, E. J., Ramdas, A. and Tibshirani, R. J. (2021). Predictive inference with the jackknife+.
#' \doi{10.1214/20-AOS1965}
#' @examples
#' water <- fl_demo("water_samples")
#' groups <- fl_partition(fl_prepare(water), k = 5)
#' predict(groups, head(as.data.frame(water)))
#' odd <- as.data.frame(water)[1:30, ]
#' odd$salinity[1:3] <- 80
#' fl_place(groups, odd)
#' @export
fl_place <- function(partition, newdata, reach = 1, strict = TRUE) {
  check_made_by(partition, "fl_partition", "partition")
  check_reach(reach)
  check_flag(strict, "strict")
  table <- placed_table(newdata)
  forgotten <- character()
  x <- withCallingHandlers(replay(partition$ready, table), fjordline_warning_values = function(w) {
    forgotten <<- w$detail
  })
  frame <- new_frame(table, partition$ready$columns)
  fitted <- partition_columns(partition)
  drift <- if (!is.null(fitted)) column_drift(fitted, frame)
  if (!is.null(drift)) check_same_kind(drift, strict)
  placed <- guarded_rows(partition, x, reach)
  structure(
    list(rows = placed_rows(partition, table, placed, outside_columns(fitted, frame)), drift = drift,
         mix = group_mix(partition, placed$group), reach = reach,
         guarded = placed$guarded || partition$method$guards, partition = partition,
         table = table, x = x, forgotten = forgotten, data = if (inherits(newdata, "fl_data")) newdata,
         call = code_call("fl_place", verbatim("model"), verbatim("newdata"), reach = if (reach != 1) reach,
                          strict = if (!strict) strict),
         name = if (inherits(newdata, "fl_data")) newdata$name
         else if (rlang::is_string(newdata)) file_stem(newdata) else "the new table"),
    class = "fl_place"
  )
}

#' @rdname fl_place
#' @param type `"group"` for labels, `"distance"` for the distance to the nearest centre in scaled units (by the
#'   method's own metric), `"membership"` where the method gives rows to several groups in parts, `"density"` where it
#'   fits one: its logarithm, in scaled units.
#' @param ... Not used.
#' @return `predict()`: a value per row of `newdata`, in its order (for memberships a matrix, one column per group);
#'   `NA` for a row with a missing value.
#' @export
predict.fl_partition <- function(object, newdata, type = "group", reach = 1, strict = TRUE, ...) {
  check_no_dots(...)
  check_choice(type, c("group", "distance", "membership", "density"), "type")
  if (type == "group") {
    placed <- fl_place(object, newdata, reach, strict)
    warn_of_drift(placed)
    return(placed$rows$group)
  }
  if (type == "membership") need_memberships(object)
  x <- replay(object$ready, placed_table(newdata))
  switch(type, membership = place_memberships(object, x), density = place_densities(object, x),
         distance = place_rows(object, x)$distance)
}

placed_table <- function(newdata) {
  if (inherits(newdata, "fl_data")) {
    return(newdata$table)
  }
  shape_table(read_source(newdata, list()), "the new table")$table
}

check_reach <- function(reach) {
  if (!identical(reach, Inf)) check_number(reach, "reach", least = 0.5, most = 1)
  reach
}

warn_of_drift <- function(placed) {
  if (!is.null(placed$drift) && any(placed$drift$drifted) && nrow(placed$rows) >= kind_rows) {
    fl_warn("drift", drift_fact(placed), advice = "fl_place() tells more.")
  }
}

# What was fitted, of the rows or from the file.
partition_columns <- function(partition) {
  partition$fitted %||% if (!is.null(partition$ready$x)) fitted_columns(partition$ready)
}

# --- what is told of the rows

placed_rows <- function(partition, table, placed, outside) {
  group <- placed$group
  id <- if (!is.null(partition$ready$data)) intersect(columns_of(partition$ready$data, "id"), names(table))
  out <- tibble::tibble(row = seq_along(group))
  if (length(id) > 0L) out$id <- as.character(table[[id[1L]]])
  out$group <- group
  out$name <- ifelse(is.na(group), NA_character_, ifelse(group %in% 0L, "none of these",
                                                         group_names(partition, group)))
  out$nearest <- placed$nearest
  out$distance <- placed$distance
  out$reach <- placed$reach
  out$broken <- placed$broken
  out$outside <- outside
  out
}

# By row: the columns whose value lies outside all that was fitted.
outside_columns <- function(fitted, frame) {
  out <- rep("", frame_length(frame))
  for (was in fitted) {
    values <- frame[[was$column]]
    beyond <- if (was$number) values < was$low | values > was$high else !values %in% c(was$levels, NA)
    at <- which(beyond)
    out[at] <- paste0(out[at], ifelse(nzchar(out[at]), ", ", ""), was$column)
  }
  out
}

group_mix <- function(partition, group) {
  counts <- c(tabulate(group[group > 0L], partition$k), sum(group %in% 0L))
  was <- partition$groups$rows
  tibble::tibble(group = c(seq_len(partition$k), 0L), name = c(group_names(partition), "none of these"),
                 fitted = c(was / sum(was), 0), rows = counts, new = counts / max(1, sum(counts)))
}

#' @export
as.data.frame.fl_place <- function(x, ...) x$rows

# --- sentences

#' @export
fl_facts.fl_place <- function(x) {
  rows <- x$rows
  sizes <- tabulate(rows$group[rows$group > 0L], x$partition$k)
  left <- sum(is.na(rows$group))
  said <- c(
    paste0(thousands(sum(sizes)), " of ", counted(nrow(rows), "row"), " of ", x$name, " placed into the ",
           counted_groups(x$partition$k), " of ", x$partition$ready$data$name %||% x$partition$ready$table_name, ": ",
           listed(paste(vapply(sizes, thousands, ""), "in", group_said(x$partition, seq_along(sizes)))), "."),
    none_fact(x), broken_fact(x),
    if (left > 0L) paste0(counted(left, "row"), " could not be placed: a value is missing or was never seen (NA)."),
    if (length(x$forgotten) > 0L) paste0("Counted as missing: ", paste(x$forgotten, collapse = " ")),
    drift_fact(x), mix_fact(x)
  )
  # a shift of the whole table explains rows that do not fit, and comes first
  if (most_are_odd(x) && any(x$drift$drifted)) c(said[1L], drift_fact(x), setdiff(said[-1L], drift_fact(x))) else said
}

most_are_odd <- function(x) {
  odd <- sum(x$rows$group %in% 0L | x$rows$broken)
  odd >= kind_rows && odd > 0.5 * nrow(x$rows)
}

# Rows placed although they break a relation that all fitted rows keep.
broken_fact <- function(x) {
  broken <- which(x$rows$broken)
  if (length(broken) > 0L) {
    columns <- broken_columns(x$partition, x$x[broken, , drop = FALSE])
    paste0(counted(length(broken), "row"), if (length(broken) == 1L) " breaks" else " break",
           " a relation that the fitted rows keep closely", if (length(columns) > 1L) paste0(", of ", listed(columns)),
           ": placed by the other directions. Is one of these columns measured otherwise than in the fit?")
  }
}

counted_groups <- function(k) if (k == 1L) "one group" else paste(spelt(k), "groups")

none_fact <- function(x) {
  if (!x$guarded) {
    return(if (is.finite(x$reach)) {
      "Not tested: whether these rows are like the fitted ones; the model's file does not say how far its groups reach."
    } else "Every row went to its nearest group, however far (reach = Inf).")
  }
  none <- x$rows[x$rows$group %in% 0L, ]
  reach <- if (x$partition$method$guards) "too far from the rows of every group, by the method's own rule"
  else if (x$reach == 1) "farther from every group than any of its fitted rows"
  else paste("farther from every group than", percent(x$reach), "of its fitted rows")
  if (nrow(none) == 0L) {
    return(if (x$partition$method$guards) paste0("None is ", reach, ".")
           else if (x$reach == 1) "Every row lies within the reach of its group's fitted rows."
           else paste0("Every row lies within the reach of ", percent(x$reach), " of its group's fitted rows."))
  }
  odd <- none$outside[nzchar(none$outside)]
  columns <- sort(table(unlist(strsplit(odd, ", ", fixed = TRUE))), decreasing = TRUE)
  paste0(counted(nrow(none), "row"), if (nrow(none) == 1L) " belongs" else " belong", " to none of these (0): ", reach,
         if (length(columns) > 0L) paste0("; outside all that was fitted most often in ",
                                          listed(names(utils::head(columns, 3L)))), ".",
         if (nrow(none) >= kind_rows && nrow(none) > 0.5 * nrow(x$rows)) {
           paste(" Where most rows are turned away at once, a shift common to all of them, or another unit, is",
                 "likelier than so many strange rows. The field `drift` has each column;",
                 "reach = Inf places them all the same.")
         })
}

drift_fact <- function(x) {
  if (is.null(x$drift)) {
    return("Drift could not be tested: the model's file does not say what its columns looked like.")
  }
  drifted <- x$drift[x$drift$drifted, ]
  drifted <- drifted[order(-drifted$moved), ]
  if (nrow(drifted) == 0L) {
    return(paste0("No column is seen to have drifted from the fitted rows (", counted(nrow(x$drift), "column"),
                  " compared, each by itself: a change in how they go together is not looked for)."))
  }
  said <- ifelse(drifted$rows == 0L, "no value at all",
                 ifelse(drifted$number, paste0("mean ", digits3(drifted$new), " instead of ", digits3(drifted$fitted)),
                        "other shares of its values"))
  said <- paste0(said, ifelse(drifted$missing >= drift_share, paste0(", ", percent(drifted$missing), " missing"), ""))
  paste0(counted(nrow(drifted), "column"), " of ", nrow(x$drift), if (nrow(drifted) == 1L) " has" else " have",
         " drifted: ", listed(paste0(drifted$column, " (", said, "; ", percent(drifted$moved),
                                     " of its values lie elsewhere)")),
         ". The groups may no longer fit.")
}

mix_fact <- function(x) {
  mix <- x$mix[x$mix$group > 0L, ]
  compared <- compared_counts(x$partition$groups$rows, mix$rows)
  if (!isTRUE(compared$p <= drift_level && compared$moved >= drift_share)) {
    return(NULL)
  }
  now <- mix$rows / sum(mix$rows)
  most <- which.max(abs(now - mix$fitted))
  paste0("The groups are mixed differently: ", group_said(x$partition, mix$group[most]), " has ", percent(now[most]),
         " of the placed rows, ", percent(mix$fitted[most]), " of the fitted ones.")
}
