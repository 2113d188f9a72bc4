# Methods that find the count, swept over their parameter: a count that holds over a long stretch of values does not
# hang on one of them; after the lifetime of a grouping in Leung, Zhang & Xu (2000), doi:10.1109/34.895974.

# The share of the values tried in a row that give each count, in the form of a sweep's values.
stretch_values <- function(sweep, preparation, method) {
  tried <- sweep$values_tried
  tried <- tried[tried$preparation == preparation & tried$method == method, ]
  if (NROW(tried) == 0L) {
    return(NULL)
  }
  vctrs::vec_rbind(!!!lapply(split(tried, tried$`repeat`), function(turn) {
    counts <- sort(unique(turn$k[turn$stands & turn$k > 0L]))
    length_of <- function(k) max(0L, with(rle(turn$k %in% k), lengths[values]))
    tibble::tibble(preparation = preparation, method = method, k = counts,
                   `repeat` = rep(turn$`repeat`[1L], length(counts)),
                   index = "stretch", value = vapply(counts, length_of, 0) / nrow(turn), error = NA_real_,
                   covered = turn$covered[turn$stands][match(counts, turn$k[turn$stands])], reason = "")
  }))
}

# The share of the values that give the count voted for; NA where there is no stretch.
stretch_at <- function(vote) {
  mine <- vote$values$value[vote$values$index == "stretch" & vote$values$k %in% vote$k]
  if (length(mine) == 0L) NA_real_ else stats::median(mine)
}

# Where one count only came out of those asked for, there is no margin; but over half of the values says something.
holds_alone <- function(vote) is.na(vote$margin) && isTRUE(stretch_at(vote) >= 0.5)

stretch_said <- function(x) {
  paste0(x$k, " comes out over ", percent(stretch_at(x)), " of the values of ",
         x$sweep$methods[[x$method]]$parameter, ", in a row")
}
