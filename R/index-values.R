# The values of indices over a set of fits, and why one has none.

# Values of the indices over a set: index, k, value, its standard error where it has one, and the reason where an index
# has no value, or does not vote with it.
score_set <- function(set, indices) {
  scored <- lapply(indices, function(index) {
    given <- tryCatch(index$across(set), error = function(e) e)
    failed <- inherits(given, "error")
    reason <- rep(if (failed) paste0("it stopped: ", first_line(given)) else "", length(set$k))
    value <- if (failed) rep(NA_real_, length(set$k)) else as.double(given)
    error <- if (failed) NULL else attr(given, "error")
    value[!is.finite(value) | set$k < index$from] <- NA_real_
    silent <- is.na(value) & !nzchar(reason)
    reason[silent] <- why_silent(index, set, silent)
    # Silent where W is zero, an index would prefer the counts beside.
    zero <- set$scatter == 0 & set$k > 1
    if (any(zero & is.na(value) & set$k >= index$from) || index$family %in% c("curve", "reference") && any(zero)) {
      reason[!is.na(value)] <- paste0("W is zero at k = ", min(set$k[zero]),
                                      ", where the rows of every group are equal")
      value[] <- NA_real_
    }
    abstains <- if (failed) NULL else attr(given, "abstains")
    if (!is.null(abstains)) reason[!is.na(value)] <- abstains
    tibble::tibble(index = index$key, k = as.integer(set$k), value = value,
                   error = ifelse(is.na(value), NA_real_, error %||% NA_real_), covered = set$covered, reason = reason)
  })
  vctrs::vec_rbind(!!!scored)
}

why_silent <- function(index, set, silent) {
  reason <- rep("its formula has no value here (a zero or an overflow)", length(set$k))
  if (!is.null(index$silent)) reason <- index$silent(set)
  reason[set$k < index$from] <- paste("it judges counts of", spelt(index$from), "and more")
  reason[silent]
}
