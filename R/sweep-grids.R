# Methods that find the count themselves are tried at several values of the parameter that decides it. For each count
# that comes out one value stands: the middle of the longest stretch of neighbouring values that give it.

# The values of a method's parameter to try on a preparation; NULL where it has none or it was given.
grid_values <- function(method, ready) {
  if (is.null(method$grid) || method$parameter %in% names(method$changed)) {
    return(NULL)
  }
  method$grid(ready$x, method$settings)
}

at_value <- function(method, value) {
  if (!is.na(value)) {
    method$settings[[method$parameter]] <- value
    method$changed[[method$parameter]] <- value
  }
  method
}

# Counts found are written into the cells, and which cell stands for its count. Counts outside of those asked for stand
# only where no other came out.
represent_counts <- function(cells, fits, asked) {
  represent_found(cells, vapply(fits, function(fit) if (inherits(fit, "error")) NA_integer_ else as.integer(fit$k), 0L),
                  asked)
}

# `found`: the count of each fit, NA where it failed.
represent_found <- function(cells, found, asked) {
  tried <- which(!is.na(cells$parameter))
  cells$stands <- !seq_len(nrow(cells)) %in% tried
  cells$k[tried] <- found[tried]
  sets <- split(tried, list(cells$preparation[tried], cells$method[tried], cells$`repeat`[tried]), drop = TRUE)
  for (rows in sets) {
    k <- found[rows]
    able <- k %in% asked
    if (!any(able)) able <- k %in% setdiff(k, c(NA, 0L))
    for (count in unique(k[able])) cells$stands[rows[longest_stretch(k, count)]] <- TRUE
    # Where every fit failed or found only noise, one is kept to say so.
    if (!any(able)) cells$stands[rows[1L]] <- TRUE
  }
  cells$asked[tried] <- cells$stands[tried]
  cells
}

# The middle place of the longest run of a value; of equal runs the first.
longest_stretch <- function(values, of) {
  runs <- rle(values %in% of)
  ends <- cumsum(runs$lengths)
  longest <- which(runs$values)[which.max(runs$lengths[runs$values])]
  ends[longest] - runs$lengths[longest] %/% 2L
}

# What each value gave: one row per value.
tried_values <- function(cells, fits, methods) {
  rows <- which(!is.na(cells$parameter))
  covered <- vapply(fits[rows], function(fit) if (inherits(fit, "error")) NA_real_ else mean(fit$group > 0L), 0)
  tibble::tibble(preparation = cells$preparation[rows], method = cells$method[rows], `repeat` = cells$`repeat`[rows],
                 parameter = vapply(methods[cells$method[rows]], function(m) m$parameter %||% "", "",
                                    USE.NAMES = FALSE),
                 value = cells$parameter[rows], k = cells$k[rows], covered = covered, stands = cells$stands[rows])
}

# dbscan by radius: 0.06 finds 20, 0.08 to 0.1 find 7 ...
value_facts <- function(x) {
  first <- x$values_tried[x$values_tried$`repeat` == 1L, ]
  sets <- split(first, list(factor(first$preparation, unique(first$preparation)),
                            factor(first$method, unique(first$method))), drop = TRUE)
  vapply(sets, function(set) {
    runs <- rle(ifelse(is.na(set$k), -1L, set$k))
    to <- cumsum(runs$lengths)
    from <- to - runs$lengths + 1L
    said <- ifelse(from == to, digits3(set$value[from]), paste(digits3(set$value[from]), "to", digits3(set$value[to])))
    found <- ifelse(runs$values < 0L, "fails", ifelse(runs$values == 0L, "only noise",
                                                      vapply(runs$values, counted, "", thing = "group")))
    paste0(set$method[1L], if (length(x$ready) > 1L) paste0(" on ", set$preparation[1L]), " by ", set$parameter[1L],
           ": ", paste0(said, " gives ", found, collapse = "; "), ".")
  }, "", USE.NAMES = FALSE)
}
