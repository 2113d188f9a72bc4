# What the fitted rows looked like, column by column, and how far new rows look different.

drift_parts <- 10L         # numbers are compared in so many parts, equally full in the fit
drift_share <- 0.1         # of the values elsewhere: worth telling
drift_level <- 0.01        # of the test, adjusted for all columns
kind_rows <- 20L           # so many rows can show that a table is of another kind

# Enough of every column to compare new rows with: numbers by their mean, spread, range and the counts in parts,
# anything else by the counts of its values.
fitted_columns <- function(ready) {
  all <- as_frame(rows_in(ready$data), ready$columns)
  fitted <- frame_rows(as_frame(ready$data$table, ready$columns), ready$rows)
  lapply(ready$columns, function(form) {
    column_summary(form$name, fitted[[form$name]], form$type == "number", mean(is.na(all[[form$name]])))
  })
}

# `missing`: the share of values that the whole table lacked.
column_summary <- function(column, values, number, missing) {
  if (!number) {
    values <- as.character(values)
    counts <- base::table(values)
    return(list(column = column, number = FALSE, missing = missing, levels = names(counts),
                counts = as.integer(counts)))
  }
  known <- values[!is.na(values)]
  breaks <- unique(stats::quantile(known, seq_len(drift_parts - 1L) / drift_parts, names = FALSE, type = 1L))
  list(column = column, number = TRUE, missing = missing, mean = mean(known),
       sd = if (length(known) > 1L) spread_of(known) else 0, low = min(known), high = max(known), breaks = breaks,
       counts = part_counts(known, breaks))
}

# Values up to and with each break, and above the last.
part_counts <- function(values, breaks) {
  tabulate(findInterval(values, breaks, left.open = TRUE) + 1L, length(breaks) + 1L)
}

# One row per column: how far the new values are from the fitted ones.
column_drift <- function(fitted, frame) {
  rows <- lapply(fitted, function(was) if (was$number) number_drift(was, frame[[was$column]]) else
    level_drift(was, frame[[was$column]]))
  out <- vctrs::vec_rbind(!!!unname(rows))
  out$p <- stats::p.adjust(out$p, "holm")
  out$drifted <- !is.na(out$p) & out$p <= drift_level & out$moved >= drift_share
  out
}

number_drift <- function(was, values) {
  known <- values[!is.na(values)]
  compared <- compared_counts(with_missing(was$counts, was$missing), c(part_counts(known, was$breaks),
                                                                       sum(is.na(values))))
  tibble::tibble(
    column = was$column, number = TRUE, rows = length(known), fitted = was$mean,
    new = if (length(known) > 0L) mean(known) else NA_real_,
    shift = if (was$sd > 0 && length(known) > 0L) (mean(known) - was$mean) / was$sd else NA_real_,
    outside = if (length(known) > 0L) mean(known < was$low | known > was$high) else NA_real_,
    missing = mean(is.na(values)), moved = compared$moved, p = compared$p
  )
}

level_drift <- function(was, values) {
  known <- as.character(values[!is.na(values)])
  levels <- union(was$levels, known)
  count <- function(counts, names) ifelse(is.na(match(levels, names)), 0L, counts[match(levels, names)])
  now <- base::table(known)
  compared <- compared_counts(with_missing(count(was$counts, was$levels), was$missing),
                              c(count(as.integer(now), names(now)), sum(is.na(values))))
  tibble::tibble(column = was$column, number = FALSE, rows = length(known), fitted = NA_real_, new = NA_real_,
                 shift = NA_real_, outside = if (length(known) > 0L) mean(!known %in% was$levels) else NA_real_,
                 missing = mean(is.na(values)), moved = compared$moved, p = compared$p)
}

# Missing values are a part of their own: as many beside the fitted ones as the whole table lacked.
with_missing <- function(counts, missing) c(counts, sum(counts) * missing / max(1e-9, 1 - missing))

# The share of values that lie elsewhere, and the p-value of its being chance.
compared_counts <- function(was, now) {
  if (sum(now) == 0L || sum(was) == 0L) {
    return(list(moved = NA_real_, p = NA_real_))
  }
  list(moved = sum(abs(was / sum(was) - now / sum(now))) / 2, p = counts_test(rbind(was, now))$p)
}

# A column most of whose values the fit never came near holds something else.
check_same_kind <- function(drift, strict) {
  wrong <- which(drift$rows >= kind_rows & drift$outside > 0.5)
  if (!strict || length(wrong) == 0L) {
    return(invisible())
  }
  one <- drift[wrong[1L], ]
  fl_abort("kind", paste0("The new rows are not of the kind the groups were made from: column ",
                           quoted(one$column), "."),
           found = paste0(percent(one$outside), " of its values ",
                          if (one$number) paste0("lie outside all that was fitted (mean there ", digits3(one$fitted),
                                                 ", here ", digits3(one$new), ")")
                          else "were never seen in the fit",
                          if (length(wrong) > 1L) paste0("; so it is with ", listed(drift$column[wrong[-1L]])), "."),
           advice = paste(if (one$number) "Is it in the same units?" else "Are its values written in the same way?",
                          "strict = FALSE places the rows all the same."))
}
