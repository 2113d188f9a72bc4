# What tables, findings and preparations say, in sentences.

#' @export
fl_facts.fl_data <- function(x) {
  features <- columns_of(x, "feature")
  truth <- truth_of(x)
  gaps <- is.na(features_of(x))
  c(
    paste0(x$name, ": ", counted(nrow(x$table), "row"), ", ", counted(length(features), "feature"), "."),
    if (!is.null(truth)) {
      sizes <- table(truth)
      paste0("Known classes: ", columns_of(x, "truth"), ", ", counted(length(sizes), "class", "classes"),
             if (length(sizes) > 0L) paste0(" of ", min(sizes), " to ", max(sizes), " rows"), ", kept out of fitting.")
    },
    if (any(gaps)) {
      paste0(counted(sum(gaps), "cell"), " in ", counted(sum(rowSums(gaps) > 0L), "row"), " are missing.")
    }
  )
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
  aside <- x$total - length(x$rows)
  c(
    paste0(capital(counted(length(x$rows), "row")), " of ", x$total, " by ", counted(ncol(x$x), "column"),
           " are ready to be grouped."),
    if (aside > 0L) paste0(counted(aside, "row"), " with a missing value ", if (aside == 1L) "gets" else "get",
                           " no group (NA)."),
    x$notes
  )
}
