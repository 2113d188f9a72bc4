# How tables, findings and preparations read as text.

#' @export
format.fl_data <- function(x, ...) {
  of <- function(role) columns_of(x, role)
  facts <- fl_facts(x)
  type <- stats::setNames(x$roles$type, x$roles$column)
  assumed <- x$roles$column[x$roles$by == "default" & x$roles$role == "aside"]
  truth <- if (length(of("truth")) > 0L) {
    sizes <- table(truth_of(x))
    paste0(of("truth"), ", ", counted(length(sizes), "class", "classes"),
           if (length(sizes) > 0L) paste0(" (", min(sizes), " to ", max(sizes), " rows)"), ", kept out of fitting")
  }
  rows <- c(
    features = listed(of("feature"), most = 30L), truth = truth, id = if (length(of("id")) > 0L) of("id"),
    aside = if (length(of("aside")) > 0L) {
      kind <- ifelse(type[of("aside")] == "number", "", paste0(" (", type[of("aside")], ")"))
      listed(paste0(of("aside"), kind), most = 30L)
    },
    assumed = if (length(assumed) > 0L) {
      paste0(listed(assumed, most = 30L), ": kept aside because you gave no role and ",
             if (length(assumed) == 1L) "it holds no numbers" else "they hold no numbers")
    },
    missing = grep("missing", facts, value = TRUE)[1L]
  )
  rows <- rows[!is.na(rows)]
  c(facts[1L], hanging_lines(names(rows), rows), next_line("fl_check(data)", "fl_prepare(data)"))
}

#' @export
print.fl_data <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

#' @export
summary.fl_data <- function(object, ...) {
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
format.fl_check <- function(x, ...) {
  if (nrow(x) == 0L) {
    return(fl_facts(x))
  }
  label <- paste(formatC(x$severity, width = -5), formatC(x$column, width = -max(nchar(x$column))))
  c(fl_facts(x)[1L], unlist(Map(function(one, said, advice) {
    lines <- hanging_lines(one, said)
    if (nzchar(advice)) lines <- c(lines, hanging_lines(strrep(" ", nchar(one)), paste("try:", advice)))
    lines
  }, label, x$finding, x$advice), use.names = FALSE))
}

#' @export
print.fl_check <- function(x, ...) {
  write_lines(format(x))
  invisible(x)
}

#' @export
format.fl_prepare <- function(x, ...) {
  facts <- fl_facts(x)
  said <- c(if (x$total > length(x$rows)) "set rows with a missing value aside", say_steps(x$steps))
  if (!any(vapply(x$steps, function(s) s$kind == "scale", NA))) said <- c(said, scale_words$none)
  c(facts[1L], paste0("  ", seq_along(said), ". ", said), sentence_lines(facts[-1L]),
    paste0("  columns: ", listed(colnames(x$x), most = 30L)),
    next_line("fl_sweep(ready, \"kmeans\", k = 1:10)", "fl_partition(ready, \"kmeans\", k = )"))
}

#' @export
print.fl_prepare <- function(x, ...) {
  if (is.null(x$x)) {
    cat(c("A preparation loaded with a model:", paste0("  ", say_steps(x$steps))), sep = "\n")
  } else {
    write_lines(format(x))
  }
  invisible(x)
}

#' @export
summary.fl_prepare <- function(object, ...) {
  spread <- apply(object$x, 2L, stats::var)
  tibble::tibble(column = colnames(object$x), least = apply(object$x, 2L, min),
                 middle = apply(object$x, 2L, stats::median),
                 most = apply(object$x, 2L, max), share_of_spread = unname(spread / sum(spread)))
}
