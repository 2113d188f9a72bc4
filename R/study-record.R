# Which index can be trusted: how often each found the known count.

#' How often each index found the known count
#'
#' Over the tables of a study whose classes are known: what each index, each method's vote, and the vote of k-means
#' and a mixture together put first, against the number of classes.
#'
#' @param result From [fl_run()].
#' @param by The measure of agreement in which the loss is counted.
#' @return An object of class `fl_track_record`. Fields: `record` (one row per voter, the best first: `voter`, `method`,
#'   `found` (share of cases with the known count), `within_one`, `low` and `high` (95% interval of `found`), `lost`
#'   (mean agreement lost by following it, against the best count of the same fits), `abstained`, `cases`) and `cases`
#'   (one row per case: `dataset`, `preparation`, `method`, `repeat`, `voter`, `pick`, `known`, `lost`) and `relation`
#'   (one row per index and table: `correlation`, of ranks, between index value and agreement over the fits of all
#'   methods, both turned so that more is better). A case is one
#'   method on one preparation of one table in one repeat; those of one table are similar, so the interval counts
#'   tables, not cases. `as.data.frame()` gives the record.
#' @section Errors: `fjordline_error_argument` when no table of the study has known classes, or nothing was judged.
#' @references Wilson, E. B. (1927). Probable inference, the law of succession, and statistical inference.
#'   \doi{10.1080/01621459.1927.10502953}
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
  structure(list(record = record[order(-record$found, record$lost), ], cases = cases,
                 relation = index_relation(result, labelled, by), by = by, known = known[labelled], result = result),
            class = "fl_track_record")
}

# The fits of a table with an index value and an agreement, those two turned so that more is better. Indices that
# follow one method over its counts say nothing across methods and are left out.
valued_fits <- function(result, index, by, fits = agreed_fits(result, by)) {
  value <- index_values(result, index, fits$judgement, fits$k)
  fits$value <- if (lower_wins(result, index)) -value else value
  fits[!is.na(value), ]
}

agreed_fits <- function(result, by) {
  fits <- measured_fits(result, by)
  fits$agreement <- if (lower_wins(result, by)) -fits$value else fits$value
  fits$judgement <- judgement_at(result$study, fits, fits$method)
  fits
}

# Does a better value mean a better answer? Rank correlations over the fits of each prepared table, their mean by table.
index_relation <- function(result, labelled, by) {
  judging <- names(judging_indices(result$study))
  agreed <- agreed_fits(result, by)
  agreed <- agreed[agreed$dataset %in% labelled, ]
  vctrs::vec_rbind(!!!lapply(judging, function(index) {
    fits <- valued_fits(result, index, by, agreed)
    sets <- split(fits, list(fits$dataset, fits$preparation), drop = TRUE)
    several <- function(values) length(unique(values)) > 1L
    sets <- Filter(function(set) nrow(set) >= 3L && several(set$value) && several(set$agreement), sets)
    if (length(sets) == 0L) return(NULL)
    each <- vctrs::vec_rbind(!!!unname(lapply(sets, function(set) {
      tibble::tibble(dataset = set$dataset[1L], correlation = stats::cor(set$value, set$agreement, method = "spearman"),
                     fits = nrow(set))
    })))
    by_table <- split(each, factor(each$dataset, unique(each$dataset)))
    tibble::tibble(index = index, dataset = names(by_table),
                   correlation = unname(vapply(by_table, function(part) mean(part$correlation), 0)),
                   fits = unname(vapply(by_table, function(part) sum(part$fits), 0L)))
  }))
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
  values$value <- if (by %in% lower_is_better) -values$value else values$value
  both <- values[values$method %in% voting_pair(result$study), ]
  both$method <- rep(both_said, nrow(both))
  values <- vctrs::vec_rbind(values, both)
  set_of <- function(part) coordinates(part$dataset, part$preparation, part$method, part$`repeat`)
  count_of <- function(set, k) paste(set, k)
  values <- values[order(-values$value), ]  # the best of equal keys is matched
  set <- set_of(values)
  cases_of <- set_of(cases)
  best <- values$value[match(cases_of, set)]
  best - values$value[match(count_of(cases_of, cases$pick), count_of(set, values$k))]
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
summary.fl_track_record <- showing_field("cases")

#' @export
as.data.frame.fl_track_record <- function(x, ...) x$record
