# The contract every index meets. A built-in one is a function index_<key>() in the file of its family that
# returns declare_index(); a user's own is registered for the session.
#
# An index sees a *set*: the fits of one method on one preparation over several counts, so that rules which need
# neighbouring counts and measures which share one pass over the distances are written the same way.

own_indices <- new.env(parent = emptyenv())

#' Add an index of your own
#'
#' A registered index works everywhere a built-in one does: in [fl_score()], [fl_sweep()], ballots, figures and the
#' shell. It names a family, which has one vote in [fl_vote()], or gets a family of its own. The registration
#' lasts for the R session.
#'
#' @param key Short name: lower-case letters, digits and `_`.
#' @param value Function `(x, groups)` giving one number for one partition: `x` a numeric matrix in prepared
#'   units, `groups` whole numbers 1 to k, one a row. `NA` abstains.
#' @param across Instead of `value`, for rules over neighbouring counts: function `(set)` giving a number for every
#'   partition of the set. `set` has `x` (matrix), `k` (counts, ascending), `groups` (list of group vectors),
#'   and for each partition `n` (clustered rows), `covered` (their share), `scatter` (W), `total` (T); `widths()` gives
#'   the silhouette widths, rows × partitions.
#' @param direction `"higher"` or `"lower"`: which value is better.
#' @param family Its family; by default one of its own, named as the index.
#' @param range The smallest and the largest value it can have.
#' @param rule What it picks, in words, e.g. `"largest value"`.
#' @param from The smallest count it can judge.
#' @param order For a rule that is not simply the best value: function `(k, value)`, or `(k, value, error)` where the
#'   index gives standard errors, that returns the counts in order of preference, without those it does not want at all.
#'   A function `(k, value, error, asked)` also sees the counts that were fitted beside the asked ones; `asked` says
#'   which may be picked.
#' @param tier The smallest set it belongs to: `"fast"`, `"standard"` or `"all"`, see [fl_sweep()].
#' @param weight Its weight in a vote; 0 shows it without a vote.
#' @param label What people call it, with author and year.
#' @param cost How its time grows, in words.
#' @param source The paper.
#' @return The index, a list of class `fl_index`, invisibly.
#' @section Errors: `fjordline_error_index` for a key that is malformed or stands for something else (a built-in index,
#'   a set, a family, a ballot), for any field that is not what it must be, and when not exactly one of `value` and
#'   `across` is given.
#' @examples
#' # the smallest group's share, the higher the better
#' fl_new_index("evenness", direction = "higher", rule = "largest smallest share",
#'              value = function(x, groups) min(table(groups)) / length(groups))
#' ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
#' fl_score(fl_partition(ready, "kmeans", k = 3), "evenness")
#' @export
fl_new_index <- function(key, value = NULL, across = NULL, direction, family = key, range = c(-Inf, Inf), rule = NULL,
                         from = 2L, order = NULL, weight = 1, tier = "fast", label = key, cost = "not stated",
                         source = "not stated") {
  check_key(key, "index", taken_index_keys())
  index <- declare_index(key, value = value, across = across, direction = direction, family = family, range = range,
                         rule = rule, from = from, order = order, weight = weight, tier = tier, label = label,
                         cost = cost, source = source)
  assign(key, index, envir = own_indices)
  invisible(index)
}

# Keys that stand for something else: an index under one of them would take its place.
taken_index_keys <- function() {
  said <- function(keys, what) stats::setNames(rep(what, length(keys)), keys)
  shipped <- built_in("index")
  c(said(names(shipped), "a built-in index"), said(index_tiers, "a set of indices"),
    said(names(vote_indices()), "a ballot of the vote"), said("vote", "the vote itself"),
    said(setdiff(vapply(c(shipped, vote_indices()), `[[`, "", "family"), names(shipped)), "a family of indices"))
}

# Sets of indices, each within the next. fast: no reference sets, no resampling. standard: every index but those that
# find the count too rarely.
index_tiers <- c("fast", "standard", "all")

# `needs`: what is made for it, "references" (tables without groups, fitted alike) or "resamples". `sampled`: above how
# many rows it is not computed on all of them, and how then. `compares`: it is shown where two partitions stand side by
# side. `draws`: the view of a sweep that shows what it rests on. `of_round`: what it is called beside mixtures, where
# its name alone would be taken for theirs. `family_about`: what the indices of its family look at; one of them says it.
index_fields <- list(
  value = function_field(2), across = function_field(1), direction = word_field(c("higher", "lower")),
  family = field(is_key, "one word of lower-case letters, digits and _", NULL),
  range = field(function(v) is.numeric(v) && length(v) == 2L && !anyNA(v) && v[1L] < v[2L],
                "two numbers, the smallest and the largest value", c(-Inf, Inf)),
  rule = field(function(v) is.null(v) || rlang::is_string(v), "a few words", NULL),
  from = number_field(2L, least = 1, whole = TRUE), order = function_field(2:4),
  weight = field(function(v) is.numeric(v) && length(v) == 1L && is.finite(v) && v >= 0, "one number of at least 0", 1),
  tier = word_field(index_tiers), label = text_field(""), cost = text_field("not stated"),
  source = text_field("not stated"), silent = function_field(1),
  needs = field(function(v) is.character(v) && all(v %in% c("references", "resamples")),
                "\"references\", \"resamples\", both or none", character()),
  sampled = field(function(v) is.null(v) || identical(names(v), c("above", "how")), "made by sampled_above()", NULL),
  compares = flag_field(), draws = field(function(v) is.null(v) || rlang::is_string(v), "the name of a view", NULL),
  of_round = field(function(v) is.null(v) || rlang::is_string(v), "one text", NULL),
  family_about = field(function(v) is.null(v) || rlang::is_string(v), "one sentence", NULL),
  formula = text_field("not stated"), reference = field(is.character, "texts", character())
)

declare_index <- function(key, ...) {
  check_key(key, "index")
  given <- list(...)
  index <- declared_fields(utils::modifyList(list(family = key, label = key), given), index_fields, "index")
  if (!"direction" %in% names(given)) fl_abort("index", "`direction` is needed: \"higher\" or \"lower\".")
  if (is.function(index$value) == is.function(index$across)) {
    fl_abort("index", "Give `value`, a function of (x, groups), or `across`, a function of (set); not both, not none.")
  }
  value <- index$value
  index$across <- index$across %||% function(set) vapply(set$groups, function(g) each_value(value, set$x, g), 0)
  index$value <- NULL
  index$of_one <- value  # what tells it from another index: see own_print()
  index$rule <- index$rule %||% (if (index$direction == "higher") "largest value" else "smallest value")
  index$from <- as.integer(index$from)
  index$range <- as.double(index$range)
  structure(c(list(key = key), index), class = "fl_index")
}

sampled_above <- function(rows, how) list(above = rows, how = how)

even_sample <- function(rows) paste("on an even sample of", counted(rows, "row"))

widths_sampled <- function() {
  sampled_above(silhouette_most_rows, "from distances to the centres instead of between rows (approximate)")
}
order_sampled <- function() sampled_above(order_most_rows, even_sample(order_most_rows))
pairs_sampled <- function() sampled_above(silhouette_most_rows, even_sample(order_most_rows))
references_sampled <- function() {
  sampled_above(reference_most_rows, paste("reference tables", even_sample(reference_most_rows)))
}
resamples_sampled <- function() sampled_above(resample_most_rows, even_sample(resample_most_rows))

# The keys of those indices that declare it.
indices_that <- function(indices, declares) names(indices)[vapply(indices, declares, NA)]

indices_needing <- function(indices, what) indices_that(indices, function(index) what %in% index$needs)

comparing_indices <- function() rev(indices_that(built_in("index"), function(index) index$compares))

# One that needs no distances between rows.
quick_index <- function() {
  indices_that(built_in("index"), function(index) index$compares && index$family == "separation")[1L]
}

# An index of one partition sees clustered rows only; noise is left out.
each_value <- function(value, x, group) {
  inside <- group > 0L
  if (!all(inside)) x <- x[inside, , drop = FALSE]
  out <- value(x, group[inside])
  if (length(out) != 1L || !(is.numeric(out) || is.logical(out))) {
    fl_abort("index", "`value` must return one number.", found = paste0("It returned ", shape_of(out), "."))
  }
  as.double(out)
}

all_indices <- function() c(built_in("index"), as.list(own_indices, sorted = TRUE))

# The indices of a set, or those named; the name of a set may stand among them.
as_indices <- function(indices = "standard") {
  known <- all_indices()
  if (!is.character(indices) || length(indices) == 0L) {
    fl_abort("index", "`indices` must be keys of indices, as text.", found = paste0("It is ", shape_of(indices), "."),
             advice = "fl_indices() lists them.")
  }
  # the sets are ours: what a reader registered is scored, and votes, where it is named
  shipped <- built_in("index")
  tier <- match(vapply(shipped, `[[`, "", "tier"), index_tiers)
  chosen <- lapply(indices, function(key) {
    check_choice(key, c(names(known), index_tiers), "indices", what = "index")
    if (key %in% index_tiers) names(shipped)[tier <= match(key, index_tiers)] else key
  })
  known[unique(unlist(chosen))]
}

#' The catalogue of indices
#'
#' What each index judges, which value is better, by which rule it picks a count, whether it votes, and the paper it
#' comes from.
#'
#' @return A data frame with one row per index: `key`, `label`, `family`, `direction` (which value is better), `lowest`
#'   and `highest` (the range of its values), `rule` (what it picks), `from` (the smallest count it judges), `weight`
#'   (0: shown, does not vote), `tier` (the smallest set it is in), `cost`, `source`, and `yours` (`TRUE` for one you
#'   registered).
#' @seealso [fl_score()] for one partition, [fl_sweep()] for many, [fl_new_index()] to add one.
#' @examples
#' fl_indices()[, c("key", "family", "direction", "rule")]
#' @export
fl_indices <- function() {
  indices <- all_indices()
  get <- function(field, type = "") vapply(indices, `[[`, type, field, USE.NAMES = FALSE)
  tibble::tibble(
    key = names(indices), label = get("label"), family = get("family"), direction = get("direction"),
    lowest = vapply(indices, function(i) i$range[1L], 0, USE.NAMES = FALSE),
    highest = vapply(indices, function(i) i$range[2L], 0, USE.NAMES = FALSE),
    rule = get("rule"), from = get("from", 0L), weight = get("weight", 0), tier = get("tier"), cost = get("cost"),
    source = get("source"), yours = names(indices) %in% ls(own_indices)
  )
}

#' The indices, and what each one computes
#'
#' Notation: n clustered rows in scaled units, d columns, k groups of sizes n_j with means m_j; W the within-group sum
#' of squares, T the total one, B = T - W. An index without a value for a partition (one group, a zero denominator) is
#' `NA` with a reason: it abstains. Noise rows are left out. Pairwise indices follow the metric of the partition,
#' centre-based ones are Euclidean. Better is higher unless said; those marked * are in the set `"all"` only, because
#' they find the count too rarely. Those marked + are shown, and vote only where you give them a weight: on simulated
#' tables votes were right more often without them.
#'
#' Where a sample is looked at, results say so. Bootstrap samples, halves and the Gaussians of the elbow are fitted with
#' at most ten restarts, the boxes of the gap with as many as the table.
#'
#' @eval described_indices()
#' @seealso [fl_indices()] for the catalogue, [fl_new_index()] to add one, [fl_vote()] for how they are weighed.
#' @examples
#' fl_score(fl_partition(fl_prepare(fl_demo("icequakes"), transform = "log"), k = 4))
#' @name indices
NULL

# What the help page says of each family and of the papers, in the markup of roxygen.
described_indices <- function() {
  indices <- built_in("index")
  families <- sort(unique(vapply(indices, `[[`, "", "family")))
  said <- function(index) {
    marks <- paste0(if (index$tier == "all") "*", if (index$weight == 0) "+")
    paste0("* `", index$key, "`", marks, if (index$direction == "lower") " (lower)", ": ", index$formula)
  }
  each <- vapply(families, function(family) {
    mine <- Filter(function(index) index$family == family, indices)
    paste0("@section ", capital(family), ": ", unlist(lapply(mine, `[[`, "family_about")), "\n",
           paste(vapply(mine, said, ""), collapse = "\n"))
  }, "")
  papers <- sort(unique(unlist(lapply(indices, `[[`, "reference"))))
  c(unname(each), paste0("@references ", paste(papers, collapse = "\n\n")))
}
