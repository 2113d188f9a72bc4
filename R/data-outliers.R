# Rows that lie apart from the others.

#' Rows that lie apart
#'
#' Scores every row by how far it lies from its nearest other rows in scaled units, and flags the most extreme.
#' Nothing is removed: give the result to [fl_prepare()] (`outliers = `) or [fl_set_apart()] to leave flagged rows out
#' of the fit; they stay in every table and export, without a group.
#'
#' * `"neighbour_distance"`: the distance to the row's nearest-but-`neighbours` other row. Finds rows far from
#'   everything.
#' * `"density_ratio"`: how much denser it is around the row's neighbours than around the row itself. About 1 inside a
#'   group of any density; finds rows that lie just outside a dense group as well.
#'
#' Without `share` and `threshold` the threshold is Tukey's outer fence of the log scores, three interquartile ranges
#' above their third quartile, but for `"density_ratio"` never below 4. Values that rows share are spread over their
#' step for it, and for `"density_ratio"` itself, which has no answer where rows are equal. Of simulated tables without
#' outlying rows, of 25 kinds, at most 1% of the rows were flagged.
#'
#' A clump of more than `neighbours` rows has its neighbours near by and is not flagged. Where more than that many lie
#' apart together, up to a tenth of the rows, they are told in `together`: a small group, or rows that share a fault.
#' In tables with heavy tails such clumps may be missed.
#'
#' @param data From [fl_prepare()]; or from [fl_data()], which is then prepared with the defaults.
#' @param method `"neighbour_distance"` or `"density_ratio"`.
#' @param share Flag this share of the scored rows, e.g. `0.02`; rows that tie with the last one are flagged too.
#' @param threshold Flag scores above this.
#' @param neighbours How many nearest rows count.
#' @return An object of class `fl_outliers`: `rows`, a data frame with a row per row of the table in its order (`row`,
#'   `id`, `score`, `flagged`; `NA` where a row has no prepared values), `threshold`, `method` and
#'   `together` (row numbers). `as.data.frame()` gives `rows`.
#' @section Errors: `fjordline_error_argument` for a share outside 0 to 1, both `share` and `threshold`, or fewer than
#'   two rows more than `neighbours`.
#' @references Ramaswamy, S., Rastogi, R. and Shim, K. (2000). Efficient algorithms for mining outliers from large data
#'   sets. \doi{10.1145/342009.335437}
#'
#'   Breunig, M. M., Kriegel, H.-P., Ng, R. T. and Sander, J. (2000). LOF: identifying density-based local outliers.
#'   \doi{10.1145/342009.335388}
#'
#'   Tukey, J. W. (1977). Exploratory Data Analysis. Addison-Wesley.
#' @examples
#' quakes <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' apart <- fl_outliers(quakes, method = "density_ratio")
#' apart
#' fl_prepare(fl_demo("icequakes"), transform = "log", outliers = apart)
#' @export
fl_outliers <- function(data, method = "neighbour_distance", share = NULL, threshold = NULL, neighbours = 10) {
  ready <- if (inherits(data, "fl_data")) fl_prepare(data) else check_made_by(data, "fl_prepare", "data")
  if (is.null(ready$x)) check_made_by(NULL, "fl_prepare", "data")
  check_choice(method, names(outlier_scores), "method")
  check_whole(neighbours, "neighbours")
  if (nrow(ready$x) < neighbours + 2L) {
    fl_abort("argument", paste0("`neighbours` = ", neighbours, " needs at least ", neighbours + 2L, " rows."),
             found = paste0(ready$data$name, " has ", nrow(ready$x), " ready."),
               advice = "Give a smaller `neighbours`.")
  }
  spread <- spread_ties(ready$x, fewest = 1L)
  of_spread <- outlier_scores[[method]](spread, as.integer(neighbours))
  score <- if (method == "density_ratio" || identical(spread, ready$x)) of_spread
  else neighbour_distance(ready$x, as.integer(neighbours))
  least <- if (method == "density_ratio") 4 else 0
  limit <- outlier_limit(of_spread, share, threshold, least, score)
  flagged <- if (is.null(share)) score > limit else score >= limit
  rows <- tibble::tibble(row = seq_len(ready$total), id = row_ids(ready$data) %||% rep(NA_character_, ready$total),
                         score = NA_real_, flagged = NA)
  rows$score[ready$rows] <- score
  rows$flagged[ready$rows] <- flagged
  rule <- if (!is.null(share)) paste("the", percent(share), "with the highest scores")
  else if (!is.null(threshold)) "threshold as given"
  else if (limit == least) "the least threshold for this method"
  else "threshold: three interquartile ranges above the third quartile of the log scores"
  structure(
    list(ready = ready, rows = rows, method = method, neighbours = neighbours, threshold = limit, rule = rule,
         together = ready$rows[rows_together(ready$x, spread, flagged, neighbours)],
         call = code_call("fl_outliers", verbatim("ready"), method = if (method != "neighbour_distance") method,
                          share = share, threshold = threshold, neighbours = if (neighbours != 10) neighbours)),
    class = "fl_outliers"
  )
}

outlier_scores <- list(neighbour_distance = neighbour_distance, density_ratio = density_ratio)

# `score`: what a share is taken of; `usual`: the scores whose fence is the limit.
outlier_limit <- function(usual, share = NULL, threshold = NULL, least = 0, score = usual) {
  if (!is.null(share) && !is.null(threshold)) {
    fl_abort("argument", "Give `share` or `threshold`, not both.")
  }
  if (!is.null(share)) {
    check_number(share, "share", 0, 1)
    kept <- round(share * length(score))
    return(if (kept == 0) Inf else sort(score, decreasing = TRUE)[kept])
  }
  if (!is.null(threshold)) {
    return(check_number(threshold, "threshold", 0, finite = FALSE))
  }
  max(least, upper_fence(usual))
}

upper_fence <- function(score) {
  positive <- score[is.finite(score) & score > 0]
  if (length(positive) == 0L) Inf else exp(outer_fences(log(positive))[2L])
}

clump_most_rows <- 2000L

# Rows far from all but a tenth of the rows, when there are more of them than count as neighbours and they are not
# flagged one by one. Of many rows an even sample is asked.
rows_together <- function(x, spread, flagged, neighbours) {
  rows <- sampled_rows(nrow(x), clump_most_rows)
  reach <- as.integer(length(rows) %/% 10L + 1L)
  if (reach <= neighbours || reach > length(rows) - 2L) {
    return(integer())
  }
  limit <- upper_fence(neighbour_distance(spread[rows, , drop = FALSE], reach))
  far <- rows[neighbour_distance(x[rows, , drop = FALSE], reach) > limit]
  far <- setdiff(far, which(flagged))
  if (length(far) * nrow(x) / length(rows) > neighbours) far else integer()
}

#' @export
as.data.frame.fl_outliers <- function(x, ...) x$rows

#' @export
fl_facts.fl_outliers <- function(x) {
  flagged <- which(x$rows$flagged %in% TRUE)
  scored <- sum(!is.na(x$rows$score))
  most <- utils::head(flagged[order(-x$rows$score[flagged])], 5L)
  named <- if (all(is.na(x$rows$id))) paste("row", most) else x$rows$id[most]
  c(
    paste0(if (length(flagged) == 0L) "No row lies" else paste(counted(length(flagged), "row"),
                                                             if (length(flagged) == 1L) "lies" else "lie"),
           " apart, of ", counted(scored, "row"), " scored (", percent(length(flagged) / scored), ")."),
    paste0("Score: ", if (x$method == "neighbour_distance") {
      paste0("distance to the ", ordinal(x$neighbours), " nearest other row, scaled units")
    } else {
      paste0("density around its ", x$neighbours, " nearest rows, divided by its own density")
    }, "; median ", digits3(stats::median(x$rows$score, na.rm = TRUE)), ", largest ",
    digits3(max(x$rows$score, na.rm = TRUE)), "."),
    paste0("Flagged above ", digits3(x$threshold), " (", x$rule, ")."),
    if (length(most) > 0L) paste0("Furthest: ", listed(paste0(named, " (", digits3(x$rows$score[most]), ")")), "."),
    if (length(x$together) > 0L) {
      paste0(if (nrow(x$rows) > clump_most_rows) paste0("Of an even sample of ", counted(clump_most_rows, "row"), ", "),
             counted(length(x$together), "row"), " lie apart together (rows ", listed(x$together, most = 3L),
             "): a small group, or rows that share a fault. They are not flagged, for each has ", x$neighbours,
             " neighbours near by; a larger `neighbours` flags them.")
    } else {
      paste0("A clump of more than ", x$neighbours, " rows that lie near each other is not flagged.")
    }
  )
}

#' @export
fl_steps.fl_outliers <- function(x) c(fl_steps(x$ready), paste("outliers <-", x$call))
