# How tables, findings and preparations read as text.

#' @export
format.fl_data <- function(x, ...) {
  truth <- columns_of(x, "truth")
  sizes <- if (length(truth) > 0L) table(truth_of(x)[taking_part(x)])
  suggested <- suggested_id(x)
  rows <- c(
    features = typed_columns(x, "feature"),
    truth = if (length(truth) > 0L) {
      paste0(truth, ", ", counted(length(sizes), "class", "classes"),
             if (length(sizes) > 0L) paste0(" (", min(sizes), " to ", max(sizes), " rows)"), ", kept out of fitting")
    },
    id = if (length(columns_of(x, "id")) > 0L) columns_of(x, "id"),
    aside = if (length(columns_of(x, "aside")) > 0L) typed_columns(x, "aside"), assumed = assumed_text(x),
    suggested = if (!is.null(suggested)) paste0("id = ", quoted(suggested), ": every row has its own value there"),
    rows = if (length(x$history) > 0L) paste(x$history, collapse = "; "),
    missing = gap_fact(x), read = if (length(x$said) > 0L) listed(x$said, most = 8L)
  )
  c(fl_facts(x)[1L], hanging_lines(names(rows), rows), next_line("fl_check(data)", "fl_prepare(data)"))
}

# The columns of a role, numbers first and bare, others with their type.
typed_columns <- function(x, role) {
  columns <- columns_of(x, role)
  type <- type_of(x, columns)
  numbers <- columns[type == "number"]
  listed(c(numbers, paste0(columns[type != "number"], " (", type[type != "number"], ")", recycle0 = TRUE)))
}

# What was decided without being asked.
assumed_text <- function(x) {
  assumed <- x$roles$column[x$roles$by == "default" & x$roles$role == "aside"]
  if (length(assumed) == 0L) {
    return(NULL)
  }
  numbers <- any(type_of(x, assumed) == "number")
  paste0(listed(assumed), ": kept aside because you gave no role",
         if (!numbers) paste0(" and ", if (length(assumed) == 1L) "it holds" else "they hold", " no numbers"))
}

#' @export
summary.fl_data <- function(object, ...) {
  check_no_dots(...)
  values <- object$table
  number <- object$roles$type == "number"
  part <- function(f) {
    vapply(seq_along(values), function(j) if (number[j]) f(values[[j]][is.finite(values[[j]])]) else NA_real_, 0)
  }
  middle <- function(q) function(v) if (length(v) > 0L) stats::quantile(v, q, names = FALSE, type = 7L) else NA_real_
  tibble::tibble(
    column = names(values), role = object$roles$role, type = object$roles$type,
    missing = vapply(values, function(v) sum(is.na(v)), 0L, USE.NAMES = FALSE),
    distinct = vapply(values, function(v) length(unique(v[!is.na(v)])), 0L, USE.NAMES = FALSE),
    least = part(middle(0)), median = part(middle(0.5)), most = part(middle(1))
  )
}

#' @export
format.fl_check <- function(x, ..., advise = identity) {
  if (nrow(x) == 0L) {
    return(fl_facts(x))
  }
  shown <- shown_findings(x)
  column <- cli::ansi_strtrim(shown$column, 36L)
  label <- paste(formatC(shown$severity, width = -5), formatC(column, width = -max(nchar(column))))
  c(fl_facts(x)[1L], unlist(Map(function(one, said, advice) {
    lines <- hanging_lines(one, said)
    if (nzchar(advice)) lines <- c(lines, hanging_lines(strrep(" ", nchar(one)), paste("try:", advice)))
    lines
  }, label, shown$finding, advise(shown$advice)), use.names = FALSE))
}

# Findings of one kind on several columns are one finding.
shown_findings <- function(x) {
  x <- as.data.frame(x)
  parts <- split(x, factor(x$kind, unique(x$kind)))
  vctrs::vec_rbind(!!!lapply(unname(parts), function(part) {
    several <- grepl(" and |, ", part$column)  # each finding is about several columns
    if (nrow(part) == 1L || any(several) && nrow(part) <= 3L) part else folded_finding(part)
  }))
}

folded_finding <- function(part) {
  one <- part[1L, ]
  one$column <- counted(nrow(part), "column")
  # figures in brackets, and whatever else differs, belong to one column
  said <- unique(sub("\\s*\\([^()]*\\)", "", part$finding))
  if (length(said) > 1L) said <- sub(":.*$", "", said[1L])
  one$finding <- paste0(listed(part$column, most = 6L), ": ", said)
  one$advice <- folded_advice(part$advice)
  one
}

# Settings for one column each become one setting for all of them.
folded_advice <- function(advice) {
  if (length(unique(advice)) == 1L) {
    return(advice[1L])
  }
  setting <- "^([a-z_]+ = c\\()(.*)\\)$"
  if (all(grepl(setting, advice)) && length(unique(sub(setting, "\\1", advice))) == 1L && length(advice) <= 6L) {
    return(paste0(sub(setting, "\\1", advice[1L]), paste(sub(setting, "\\2", advice), collapse = ", "), ")"))
  }
  paste0(advice[1L], ", and so on for the others")
}

#' @export
format.fl_prepare <- function(x, ...) {
  facts <- fl_facts(x)
  said <- c(filtered_steps(x), say_steps(x$steps))
  if (length(steps_of_kind(x$steps, "scale")) == 0L) said <- c(said, scale_words$none)
  c(facts[1L], unlist(lapply(paste0(seq_along(said), ". ", said), wrapped, first = 2L, indent = 5L,
                             width = print_width())),
    sentence_lines(facts[-1L]),
    hanging_lines("columns:", listed(x$prepared %||% colnames(x$x))),
    if (is.null(x$x)) next_line("predict(ready, newdata)")
    else next_line("fl_sweep(ready, \"kmeans\", k = 1:10)", "fl_partition(ready, \"kmeans\", k = )"))
}

# What was done to rows before the steps on columns.
filtered_steps <- function(x) {
  has <- function(reason) !is.na(x$left[reason]) && x$left[reason] > 0L
  c(x$data$history, if (has("missing")) "set rows with a missing value aside",
    if (has("outlier")) "leave out rows that lie apart, and learn without them")
}

#' @export
summary.fl_prepare <- function(object, ...) {
  check_no_dots(...)
  spread <- apply(object$x, 2L, stats::var)
  tibble::tibble(column = colnames(object$x), least = apply(object$x, 2L, min),
                 middle = apply(object$x, 2L, stats::median),
                 most = apply(object$x, 2L, max), share_of_spread = unname(spread / sum(spread)))
}

#' @export
format.fl_outliers <- function(x, ...) {
  facts <- fl_facts(x)
  flagged <- any(x$rows$flagged, na.rm = TRUE)
  c(facts[1L], sentence_lines(facts[-1L]),
    next_line("autoplot(outliers)", if (flagged) "fl_prepare(data, outliers = outliers)"))
}

#' @export
format.fl_sift <- function(x, ...) {
  shown <- utils::head(x, 20L)
  relation <- ifelse(is.na(shown$related_to), "", paste0(shown$related_to, " (", fixed2(shown$relation), ")"))
  cells <- list(column = shown$column, type = shown$type, separation = fixed2(shown$separation),
                `several peaks` = paste0(fixed2(shown$multimodality), ifelse(shown$beyond_chance %in% TRUE, "*", " ")),
                `share of spread` = percent(shown$share_of_spread), `goes with` = relation)
  c(fl_facts(x)[1L], table_lines(cells, right = c("separation", "several peaks", "share of spread")),
    if (nrow(x) > 20L) paste0("  and ", counted(nrow(x) - 20L, "more column"), ": as.data.frame() has all"),
    sentence_lines(c(
      paste("Separation, several peaks: 0 to 1, comparable between numbers and categories; * beyond chance. Share of",
            "spread: unscaled."), fl_facts(x)[-1L])),
    next_line("autoplot(data)", "autoplot(data, view = \"pull\")"))
}
