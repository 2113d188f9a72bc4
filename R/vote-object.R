# What a vote holds; see fl_vote() for what of it is for readers.

vote_holds <- list(
  # whose vote it is: the preparation and the method whose groups are offered, and the methods that were heard
  preparation = rlang::is_string, method = rlang::is_string, voters = is_text,
  # the count and the word for it, and how it was settled by hand
  k = or_none(is_number), verdict = function(v) v %in% vote_verdicts, settled = is.list, settle_call = is_text,
  # the points of the indices: what they say by themselves
  indices_say = is_number, margin = is_number, runner_up = is_number, tied = is.logical, at_end = is.logical,
  points = table_with("k", "points", "rank"), ballots = table_with("index", "family", "weight", "k", "rank", "value"),
  shares = is_table, indices = list_of("fl_index"), values = is_table, used = is.list, abstained = is_table,
  repeats = or_none(is_table),
  # evidence beside them: of a mixture its components and what the rows say of them
  shape = or_none(is.list), evidence = or_none(is_table), found = or_none(is.list), lead = or_none(is_number),
  levels = or_none(is.numeric), alike = or_none(is_number), by = rlang::is_string, structure = or_none(is.list),
  far = or_none(is.numeric), few_values = is.logical, with_levels = is.logical,
  # what such votes are worth: of which kind it is, which measured rate it has, what lowered its verdict
  measured = is_text, measured_as = rlang::is_string, situation = rlang::is_string, rate = or_none(is.list),
  pointed = or_none(is_text), lowered = or_none(is_text),
  # how it was counted
  sweep = made_by("fl_sweep"), rule = rlang::is_string, depth = is_number, weights = or_none(is.numeric),
  call = or_none(is_text),
  # against other methods and preparations, and one group fewer or more
  contest = or_none(is_table), method_points = or_none(is.numeric), uncompared = or_none(is_text),
  others = is_table, neighbours = is.list
)

vote_verdicts <- c("clear", "weak", "no clear count", "no groups")

vote_rules <- list(
  `its method and preparation are of the sweep` = function(x) {
    x$method %in% names(x$sweep$methods) && x$preparation %in% names(x$sweep$ready)
  },
  `a count, where it is clear of one` = function(x) !x$verdict %in% c("clear", "weak") || !is.na(x$k),
  `nothing unmeasured is clear` = function(x) x$verdict != "clear" || !is.null(x$rate)
)

new_vote <- function(fields) {
  always <- c("preparation", "method", "voters", "k", "verdict", "points", "ballots", "sweep", "others", "neighbours")
  check_object(structure(fields, class = "fl_vote"), vote_holds, vote_rules,
               optional = setdiff(names(vote_holds), always))
}
