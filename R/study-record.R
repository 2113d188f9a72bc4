# Which index can be trusted: how often each found the known count.

#' How often each index found the known count
#'
#' Over the tables of a study whose classes are known: what each index, each method's vote, and the vote of k-means
#' and a mixture together put first, against the number of classes.
#'
#' @param result From [fl_run()].
#' @param by The measure of agreement in which the loss is counted.
#' @return An object of class `fl_track_record`. Fields: `record` (a row a voter, the best first: `voter`, `method`,
#'   `found` (share of cases with the known count), `within_one`, `low` and `high` (95 % interval of `found`), `lost`
#'   (mean agreement lost by following it, against the best count of the same fits), `abstained`, `cases`) and `cases`
#'   (a row a case: `dataset`, `preparation`, `method`, `repeat`, `voter`, `pick`, `known`, `lost`). A case is one
#'   method on one preparation of one table in one repeat; those of one table are alike, so the interval counts
#'   tables, not cases. `as.data.frame()` gives the record.
#' @section Errors: `fjordline_error_argument` when no table of the study has known classes, or nothing was judged.
#' @examples
#' study <- fl_study(c("water_samples", "icequakes"), "kmeans", k = 2:8, indices = "fast",
#'                   preparations = list(plain = list()))
#' fl_track_record(fl_run(study))
#' @export
fl_track_record <- function(result, by = NULL) {
  check_made_by(result, "fl_run", "result")
  by <- check_choice(by %||% c(result$study$agreements, "adjusted_rand")[1L], result$study$agreements, "by")
  known <- unlist(known_counts(result$study))
  labelled <- names(known)[!is.na(known)]
  if (length(labelled) == 0L || nrow(result$picks) == 0L) {
    fl_abort("argument", "There is nothing to keep a record of.",
             found = if (length(labelled) == 0L) "No table of the study has known classes."
             else "The fits of the study were not judged.",
             advice = "A record needs a table with a truth, and fl_study(indices = ).")
  }
  cases <- track_cases(result, labelled, known)
  cases$lost <- agreement_lost(result, cases, by)
  sets <- split(seq_len(nrow(cases)), list(cases$voter, cases$method), drop = TRUE)
  record <- vctrs::vec_rbind(!!!unname(lapply(sets, function(rows) record_of(cases[rows, ]))))
  structure(list(record = record[order(-record$found, record$lost), ], cases = cases, by = by, known = known[labelled],
                 result = result), class = "fl_track_record")
}

# A row for every voter that could have picked, also where it abstained.
track_cases <- function(result, labelled, known) {
  picks <- result$picks[result$picks$dataset %in% labelled, ]
  fields <- c("dataset", "preparation", "method", "repeat")
  sets <- unique(picks[fields])
  voters <- unique(picks[c("method", "voter")])
  cases <- merge(sets, voters, by = "method")
  key <- function(part) coordinates(part$dataset, part$preparation, part$method, part$`repeat`, part$voter)
  at <- match(key(cases), key(picks))
  cases$pick <- picks$pick[at]
  cases$verdict <- picks$verdict[at]
  cases$known <- unname(known[cases$dataset])
  tibble::as_tibble(cases[c(fields, "voter", "pick", "verdict", "known")])
}

# The best agreement over the counts, less that at the count picked. Of a vote of two methods, over the fits of both.
agreement_lost <- function(result, cases, by) {
  values <- measured_fits(result, by)
  pair <- voting_pair(result$study)
  sign <- if (by %in% lower_is_better) -1 else 1
  where <- function(part, method) coordinates(part$dataset, part$preparation, method, part$`repeat`)
  fits <- split(seq_len(nrow(values)), where(values, values$method))
  vapply(seq_len(nrow(cases)), function(i) {
    methods <- if (cases$method[i] == both_said) pair else cases$method[i]
    rows <- unlist(fits[where(cases[i, ], methods)])
    at <- rows[values$k[rows] %in% cases$pick[i]]
    if (length(at) == 0L) NA_real_ else max(sign * values$value[rows]) - max(sign * values$value[at])
  }, 0)
}

record_of <- function(cases) {
  right <- !is.na(cases$pick) & cases$pick == cases$known
  near <- !is.na(cases$pick) & abs(cases$pick - cases$known) <= 1
  by_table <- tapply(right, cases$dataset, mean)
  interval <- wilson_interval(mean(by_table), length(by_table), 0.95)
  tibble::tibble(voter = cases$voter[1L], method = cases$method[1L], found = mean(by_table),
                 within_one = mean(tapply(near, cases$dataset, mean)),
                 low = interval$low, high = interval$high, lost = mean(cases$lost, na.rm = TRUE),
                 abstained = mean(is.na(cases$pick)), tables = length(by_table), cases = nrow(cases))
}

#' @export
as.data.frame.fl_track_record <- function(x, ...) x$record
