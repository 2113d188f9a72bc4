# What tables, findings and preparations say, in sentences.

#' @export
fl_facts.fl_data <- function(x) {
  features <- columns_of(x, "feature")
  truth <- truth_of(x)
  c(
    paste0(x$name, ": ", counted(nrow(x$table), "row"), ", ", counted(length(features), "feature"), "."),
    if (!is.null(truth)) {
      sizes <- table(truth[taking_part(x)])
      paste0("Known classes: ", columns_of(x, "truth"), ", ", counted(length(sizes), "class", "classes"),
             if (length(sizes) > 0L) paste0(" of ", min(sizes), " to ", max(sizes), " rows"), ", kept out of fitting.")
    },
    gap_fact(x), if (length(x$history) > 0L) paste0(capital(x$history), "."),
    if (length(x$said) > 0L) paste0("Found in reading: ", listed(x$said, most = 8L), ".")
  )
}

gap_fact <- function(x) {
  gaps <- lapply(features_of(x), is.na)
  cells <- sum(vapply(gaps, sum, 0L))
  if (cells > 0L) {
    rows <- sum(Reduce(`|`, gaps))
    paste0(counted(cells, "cell"), " in ", counted(rows, "row"), if (cells == 1L) " is" else " are", " missing.")
  }
}

#' @export
fl_facts.fl_check <- function(x) {
  if (nrow(x) == 0L) {
    return(paste0("Nothing to report on ", attr(x, "name"), "."))
  }
  stops <- any(x$severity == "stop")
  c(paste0(counted(nrow(x), "finding"), " on ", attr(x, "name"), "; ",
           if (stops) "the preparation will stop until the first is mended."
           else if (nrow(x) == 1L) "it does not stop you."
           else "none stops you."),
    paste0(x$column, ": ", x$finding, "."))
}

#' @export
fl_facts.fl_prepare <- function(x) {
  rows <- if (is.null(x$x)) {
    paste0("A preparation of ", x$table_name, " (", counted(x$total, "row"), "), loaded from a file.")
  } else {
    paste0(counted(length(x$rows), "row"), " of ", thousands(x$total), " by ",
           counted(ncol(x$x), "column"), " are ready to be grouped.")
  }
  c(rows, left_facts(x$left), x$notes)
}

# Rows without a group, by why they have none.
left_facts <- function(left) {
  why <- c(missing = "lack a value and get no group (NA).", outlier = "lie apart and get no group (NA).",
           `set apart` = "were set apart and get no group (NA).",
           unlabelled = "have no label and get no group (NA).")
  left <- left[intersect(names(why), names(left))]
  left <- left[left > 0L]
  if (length(left) > 0L) {
    said <- paste(vapply(left, counted, "", thing = "row"), why[names(left)])
    unname(ifelse(left == 1L, in_singular(said), said))
  }
}

in_singular <- function(said) {
  said <- sub("lack a value and get", "lacks a value and gets", said)
  said <- sub("lie apart and get", "lies apart and gets", said)
  said <- sub("were set apart and get", "was set apart and gets", said)
  sub("have no label and get", "has no label and gets", said)
}
