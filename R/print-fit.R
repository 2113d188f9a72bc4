# How methods, partitions, scores and sweeps read as text.

#' @export
format.fl_method <- function(x, ...) {
  c(paste0(method_label(x), ": ", x$label), hanging_lines(
    c("assumes", "needs", "costs", "minimises", "settings", "source"),
    c(x$shape, x$needs, x$cost, x$minimises, settings_text(x$settings), x$source)
  ))
}

#' @export
format.fl_index <- function(x, ...) {
  c(paste0(x$key, ": ", x$label), hanging_lines(
    c("family", "better", "picks", "judges", "vote", "cost", "source"),
    c(x$family, x$direction, x$rule, paste("counts of", x$from, "and more"),
      if (x$weight == 0) "none: shown only" else paste("weight", x$weight),
      x$cost, x$source)
  ))
}

#' @export
format.fl_partition <- function(x, ...) {
  facts <- fl_facts(x)
  if (x$k == 0L) {
    return(c(facts[1L], sentence_lines(facts[-1L])))
  }
  c(facts[1L], centre_lines(x), sentence_lines(facts[-1L]),
    if (is.null(x$ready$x)) {
      c(sentence_lines(c(x$decision, x$origin %||% "Loaded from a file: it labels new rows; its table is not here.")),
        next_line("predict(groups, newdata)"))
    }
    else next_line("autoplot(groups)", "fl_profile(groups)", if (!is.null(truth_of(x$ready$data))) "fl_agree(groups)",
                   "fl_export(groups, \"file.csv\")"))
}

#' @export
format.fl_methods <- function(x, ...) {
  key <- formatC(x$key, width = -max(nchar(x$key), 0L))
  c("Methods, and when to use which:", cli::ansi_strtrim(paste0("  ", key, "  ", x$when), print_width()),
    next_line("summary(fl_methods())", "fl_method(key, ...)", "?`method-kmeans`"))
}

#' @export
summary.fl_methods <- function(object, ...) {
  check_no_dots(...)
  structure(list(methods = as_plain(object)), class = "fl_methods_summary")
}

#' @export
format.fl_methods_summary <- function(x, ...) {
  methods <- x$methods
  lines <- lapply(seq_len(nrow(methods)), function(i) {
    one <- methods[i, ]
    c(paste0(one$key, ": ", one$label),
      hanging_lines(c("use when", "assumes", "needs", "costs", "settings"),
                    c(one$when, one$shape, one$needs, one$cost, one$settings)))
  })
  c(unlist(lines), next_line("fl_method(key, ...)", "?`method-kmeans`", "fl_new_method()"))
}

#' @export
print.fl_methods_summary <- function(x, ...) print_now(x)

#' @export
as.data.frame.fl_methods <- function(x, ...) as.data.frame(as_plain(x))

# Sizes and centres, in original units; a wide table is cut and says so.
centre_lines <- function(x, most = 7L) {
  columns <- setdiff(names(x$groups), c("group", "rows", "share", "scatter"))
  shown <- columns[seq_len(min(length(columns), most))]
  body <- lapply(x$groups[shown], column3)
  names(body) <- with_unit(shown, x$ready$units)
  rows <- vapply(x$groups$rows, thousands, "")
  body <- c(list(group = group_label(x, x$groups$group), rows = rows, share = percent(x$groups$share)), body)
  right <- setdiff(names(body), if (has_names(x)) "group")
  while (length(body) > 4L &&
         max(nchar(lines <- table_lines(body, right = right))) > print_width()) body <- body[-length(body)]
  lines <- table_lines(body, right = right)
  left <- length(columns) - (length(body) - 3L)
  c(wrapped(paste0(x$method$centre, "s, in original units", if (x$method$centre != "medoid") transformed_note(x), ":"),
            first = 2L, indent = 4L,
            width = print_width()), lines,
    if (left > 0L) paste0("  and ", counted(left, "more column"), ": groups$groups"))
}

# The centre of a transformed column is taken back from the mean of the transformed values.
transformed_note <- function(x) {
  steps <- x$ready$steps
  changed <- steps_of_kind(steps, "transform")
  reduced <- if (is.null(x$ready$x)) steps_of_kind(steps, "components")
  said <- c(
    if (length(changed) > 0L) {
      how <- unique(vapply(transforms[changed[[1L]]$how], `[[`, "", "said"))
      paste0(listed(changed[[1L]]$columns, most = 4L), ": back-transformed from the mean ",
             if (length(how) == 1L) how else "of the transformed values")
    },
    if (length(reduced) > 0L) {
      paste0("as far as ", counted(length(reduced[[1L]]$share), "component"), " tell",
             if (length(reduced[[1L]]$share) == 1L) "s")
    }
  )
  if (length(said) > 0L) paste0(" (", paste(said, collapse = "; "), ")")
}

#' @export
summary.fl_partition <- showing_field("groups")

#' @export
format.fl_score <- function(x, ...) {
  cells <- list(index = x$index, family = x$family, value = digits3(x$value), better = x$direction)
  c(fl_facts(x)[1L], table_lines(cells, right = "value"), sentence_lines(fl_facts(x)[-1L]))
}

#' @export
format.fl_sweep <- function(x, ...) {
  facts <- fl_facts(x)
  values <- x$values
  first <- values[values$preparation == names(x$ready)[1L] & values$method == names(x$methods)[1L], ]
  counts <- sort(unique(first$k))
  picks <- cast_ballots(first, x$indices, vote_weights(NULL, x$indices))
  picks <- picks[picks$rank == 1L, ]
  picked <- ifelse(picks$prefers_one, 1L, picks$k)[match(names(x$indices), picks$index)]
  cells <- vapply(names(x$indices), function(key) {
    column3(vapply(counts, function(k) middle_of(first$value[first$index == key & first$k == k]), 0))
  }, character(length(counts)))
  body <- lapply(seq_along(counts), function(i) {
    paste0(matrix(cells, length(counts))[i, ], ifelse(picked %in% counts[i], "*", " "))
  })
  names(body) <- paste0(counts, " ")
  room <- print_width() - 2L - max(nchar(names(x$indices))) - 2L
  shown <- max(1L, sum(cumsum(vapply(body, function(column) max(nchar(column)), 0L) + 2L) <= room))
  c(facts[1L], table_lines(c(list(k = names(x$indices)), body[seq_len(shown)]), right = names(body)),
    "  * what its rule picks; as.data.frame() has all values",
    if (shown < length(counts)) paste0("  and ", counted(length(counts) - shown, "more count"), ", to k = ",
                                       max(counts)),
    if (length(x$ready) * length(x$methods) > 1L) paste0("  shown: ", names(x$methods)[1L], " on ", names(x$ready)[1L]),
    sentence_lines(facts[-1L]), next_line("fl_vote(sweep)", "autoplot(sweep)"))
}

#' @export
summary.fl_sweep <- showing_field("values")

#' @export
format.fl_reliability <- function(x, ...) {
  facts <- fl_facts(x)
  columns <- list(group = group_label(x$partition, x$groups$group), rows = vapply(x$groups$rows, thousands, ""),
                  `overlap, resampled` = fixed2(x$groups$returns),
                  `overlap, new seeds` = fixed2(x$groups$reseeded), `rows that stay` = percent(x$groups$stays))
  c(facts[1L], table_lines(columns, right = setdiff(names(columns), if (has_names(x$partition)) "group")),
    "  Overlap: mean Jaccard overlap with the most similar group, 0 to 1.",
    sentence_lines(facts[-1L]), next_line("autoplot(reliability)", "reliability$rows"))
}

#' @export
summary.fl_reliability <- showing_field("groups")
