# What a verdict means. The margins of the indices were chosen on the tuning tables of bench/recovery.R, the words of
# votes on those of bench/suites.R; the rates are those of its judging tables (figures: bench/README.md).

clear_margin <- 0.20
weak_margin <- 0.10

# Verdicts without a count to go on with.
undecided <- c("no clear count", "no groups")

# How often votes found the known count, by what can be seen of them: kept in inst/records/vote-rates.csv, made by
# bench/suite-votes.R. A row a `set` of indices, `methods` and `situation`: the `tables` it was seen on, in how many the
# count was `right`; and of the kind of tables where it was right least often `worst`, `worst_tables`, `worst_right`;
# and the `word` for such votes, which was set on other tables.
vote_rates <- function() {
  if (is.null(kept_rates$rates)) kept_rates$rates <- utils::read.csv(rates_file(), stringsAsFactors = FALSE)
  kept_rates$rates
}

kept_rates <- new.env(parent = emptyenv())

rates_file <- function() system.file("records", "vote-rates.csv", package = "fjordline", mustWork = TRUE)

# What can be seen of a vote.
situation_of <- function(vote) {
  few <- !is.null(vote$shape) && vote$shape$rows < few_rows
  clear <- isTRUE(vote$evidence$strength[vote$evidence$evidence == "indices"] == "clear")
  all <- vote$by == "agreed" && isTRUE(vote$found$components == vote$found$groups)
  merged <- vote$by %in% c("dips", "levels")
  shallow <- merged && !isTRUE(vote$found$beyond >= surely_beyond)
  # where k-means groups the rows otherwise at that count, far rows may be why
  apart <- if (merged && !shallow && isTRUE(vote$alike < other_groups)) {
    if (length(vote$far) > 0L) "far rows" else "other groups"
  }
  coarse <- isTRUE(vote$few_values) && !isTRUE(vote$with_levels) && vote$by %in% c("dips", "valleys")
  paste(c(if (few) "few rows", if (all) "all" else vote$by, if (clear) "clear", if (shallow) "shallow", apart,
          if (coarse) "few values",
          if (isTRUE(vote$with_levels) && vote$by != "levels") "levels"),
        collapse = ", ")
}

# The row of the record for this vote; none where it is not like those measured.
measured_rate <- function(vote) {
  if (is.na(vote$measured) || vote$by %in% c("weights", "none")) {
    return(NULL)
  }
  rates <- vote_rates()
  row <- rates[rates$set == vote$measured & rates$methods == vote$measured_as &
                 rates$situation == vote$situation, ]
  if (nrow(row) == 1L) as.list(row)
}

# Where all families agree on the first and the second place the margin cannot exceed one sixth: agreement counts too.
# A winner at the end of the counts may stand for any larger one.
verdict_of <- function(margin, firsts, families, at_end = FALSE) {
  if (is.na(margin) || !at_least(margin, weak_margin) || at_end) "no clear count"
  else if (families >= 2L && (at_least(margin, clear_margin) || firsts == families)) "clear"
  else "weak"
}

# Points are sums of shares: what rounding takes off a margin does not count.
at_least <- function(margin, limit) margin >= limit - tie_width

# Two digits, unless rounding would lift the margin over a limit it does not reach.
margin_said <- function(margin, limits = c(weak_margin, clear_margin)) {
  short <- vapply(margin, function(m) isTRUE(any(!at_least(m, limits) & round(m, 2) >= limits)), NA)
  paste0(ifelse(short, "just below ", ""), fixed2(margin))
}

# The count each family puts first.
family_firsts <- function(shares) {
  vapply(split(shares, factor(shares$family, unique(shares$family))), function(f) f$k[order(-f$points, f$k)][1L], 0L)
}

# The word for a vote: that of the votes like it which were measured; and what lowers it.
set_verdict <- function(vote, sweep) {
  test <- vote$structure
  vote$situation <- situation_of(vote)
  vote$rate <- measured_rate(vote)
  vote$pointed <- vote$verdict
  if (!is.null(vote$rate)) vote$verdict <- vote$rate$word
  else if (vote$by %in% c("components", "valleys", "dips", "levels", "agreed")) vote$verdict <- "weak"
  # merging may leave a number of groups that the sweep has no fit with
  missing <- !is.null(vote$found) && !is.na(vote$k) && !vote$k %in% sweep$k
  if (is.na(vote$k) || vote$k < 2L || isTRUE(vote$at_end) || missing) vote$verdict <- "no clear count"
  if (missing && vote$k > 1L) vote$lowered <- paste("the sweep has no fit with", vote$k, "groups")
  # the test leaves levels out: of a table that has some, a single cluster of numbers is not the last word
  one_cluster <- isFALSE(test$groups)
  if (one_cluster && !isTRUE(vote$with_levels)) {
    vote$verdict <- "no groups"
    return(vote)
  }
  same <- vote$repeats$k[vote$repeats$index == "vote"] %in% vote$k  # a repeat may have no vote
  reasons <- c(
    if (is.null(vote$rate)) {
      "votes with these methods, indices, counts and weights were not measured on such tables"
    },
    if (is.na(test$groups)) paste("groups could not be tested for:", test$reason),
    if (one_cluster) "the test for groups, which leaves levels out, finds no evidence of any in the numbers",
    if (length(same) > 0L && !is.na(vote$k) && mean(same) < 0.8) {
      paste("only", sum(same), "of", length(same), "repeats say so")
    }
  )
  # neither tested nor measured: nothing stands behind it but its own indices, or that rows repeat a few places
  if (vote$verdict == "weak" && is.null(vote$rate) && is.na(test$groups) && !isTRUE(test$rows_apart < 10L)) {
    vote$verdict <- "no clear count"
    vote$lowered <- reasons
  }
  if (one_cluster && vote$verdict != "no clear count" && !isTRUE(vote$found$groups == vote$k)) {
    vote$verdict <- "no clear count"
    vote$lowered <- reasons
  }
  if (vote$verdict == "clear" && length(reasons) > 0L) {
    vote$verdict <- "weak"
    vote$lowered <- reasons
  }
  if (vote$verdict == "weak" && length(same) > 0L && mean(same) < 0.5) {
    vote$verdict <- "no clear count"
    vote$lowered <- utils::tail(reasons, 1L)
  }
  vote
}

# The set of indices, "standard" or "fast", that a vote is like the measured ones with: k-means of plain rows, a
# mixture, or both as they are by themselves, the set's own weights, three ranks, all counts from one or two to eight
# or more, rows and columns in the measured range. NA for others.
measured_set <- function(sweep, voters, counting, ready = sweep$ready[[1L]]) {
  plain <- all(vapply(sweep$methods[voters], as_measured, NA))
  k <- sweep$k
  whole <- length(k) > 0L && k[1L] <= 2L && max(k) >= 8L && max(k) <= 15L && all(diff(k) == 1L)
  like <- vapply(measured_sets, function(set) setequal(names(sweep$indices), names(as_indices(set))), NA)
  alike <- plain && whole && measured_table(ready) && is.null(counting$weights) && counting$rule == "ranked" &&
    counting$depth == 3 && any(like)
  if (alike) measured_sets[which(like)[1L]] else NA_character_
}

measured_sets <- c("standard", "fast")

# More restarts than usual find the same optima or better ones.
as_measured <- function(method) {
  usual <- built_in("method")[[method$key]]$settings
  changed <- Filter(function(name) !identical(method$settings[[name]], usual[[name]]), names(method$changed))
  !method$key %in% names(own_methods) && nzchar(voice_of(method)) && (length(changed) == 0L ||
    identical(unlist(changed), "restarts") && method$settings$restarts >= usual$restarts)
}

measured_rows <- c(50L, 5000L)
measured_columns <- c(2L, 100L)

measured_table <- function(ready) {
  within <- function(value, range) value >= range[1L] && value <= range[2L]
  within(nrow(ready$x), measured_rows) && within(ncol(ready$x), measured_columns) &&
    (length(steps_of_kind(ready$steps, "indicators")) == 0L ||
       length(steps_of_kind(ready$steps, "components")) == 0L)
}

track_fact <- function(vote) {
  if (vote$verdict == "no groups" || is.na(vote$k) || was_lowered(vote)) {
    return(NULL)
  }
  if (is.null(vote$rate)) {
    return(if (is.null(vote$lowered)) {
      "Not measured: how often votes with these methods, indices, counts and weights are right on such tables."
    })
  }
  rate_said(vote$rate)
}

# What lowers a vote makes it unlike those that were counted.
was_lowered <- function(vote) {
  !is.null(vote$rate) && match(vote$verdict, vote_verdicts) > match(vote$rate$word, vote_verdicts)
}

many_kinds <- 20L  # fewer may leave out just the kind at hand

# The worst kind is told too: nobody knows of what kind a table is.
rate_said <- function(rate) {
  paste0("Votes like this one named the known number in ", thousands(rate$right), " of ", thousands(rate$tables),
         " simulated tables of ", counted(rate$kinds, "kind"),
         if (rate$kinds >= many_kinds) ", skewed, flat and bent groups included",
         if (rate$worst_right < rate$worst_tables && rate$worst_tables < rate$tables) {
           paste0("; in the worst kind (", rate$worst, ") in ", rate$worst_right, " of ", rate$worst_tables)
         }, ".")
}

#' @export
decided_count.fl_vote <- function(vote) {
  if (is.null(vote$settled) && vote$verdict %in% undecided) {
    fl_abort("undecided", paste0("The vote's verdict is ", quoted(vote$verdict), "."),
             found = if (!is.na(vote$k)) paste0("Most points: ", vote$k,
                                                if (!is.na(vote$margin)) paste0("; ", evidence_said(vote)),
                                                "."),
             advice = "fl_settle(vote, k = , reason = ) decides it and keeps the reason.")
  }
  vote$k
}
