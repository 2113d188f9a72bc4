# What a vote says, in sentences: the answer, the evidence, the doubts, the neighbours.

#' @export
fl_facts.fl_vote <- function(x) {
  c(vote_headline(x), if (!is.null(x$settled)) voted_fact(x), structure_fact(x), components_fact(x), levels_fact(x),
    left_out_fact(x), rivals_fact(x), track_fact(x), method_groups_fact(x), far_fact(x), shape_fact(x), family_fact(x),
    method_fact(x), unfitted_fact(x), vote_doubts(x), repeat_facts(x),
    if (x$verdict != "no groups") neighbour_facts(x), other_facts(x))
}

# The answer, no stronger than what it rests on. What the reader settled on comes before what was voted.
vote_headline <- function(x) if (is.null(x$settled)) voted_headline(x) else settled_fact(x$settled)

voted_fact <- function(x) {
  x$k <- x$settled$voted
  x$settled <- NULL
  paste0("The vote, before that: ", uncapital(voted_headline(x)))
}

voted_headline <- function(x) {
  k <- x$k
  if (is.na(k)) {
    return(if (nrow(x$ballots) > 0L) "No clear count: no index that could rank the counts has a vote."
           else "No clear count: no index could rank the counts.")
  }
  if (x$verdict == "no groups") {
    return(paste0("No evidence of groups (", p_of_test(x$structure), ")."))
  }
  if (!is.null(x$found)) {
    end <- if (isTRUE(x$at_end)) ", and it is the largest count tried"
    return(if (x$verdict == "no clear count") paste0("No clear count; ", k, " has most support", end, ". ",
                                                     evidence_fact(x))
           else paste0(capital(spelt(k)), ngettext(k, " group: ", " groups: "), x$verdict, ". ", evidence_fact(x)))
  }
  if (holds_alone(x)) {
    return(paste0(capital(spelt(k)), " groups, by ", voted_method(x), ": ", x$verdict, " (", stretch_said(x),
                  ", and no other of the counts asked for)."))
  }
  if (is.na(x$margin)) {
    return(paste0("No clear count, by ", voted_method(x), ": it gives ", k, ", and there is no other count of two or ",
                  "more to compare."))
  }
  evidence <- paste0(evidence_said(x), ", runner-up ", if (is.na(x$runner_up)) "none" else x$runner_up)
  if (x$verdict == "no clear count" && x$at_end) {
    return(paste0("No clear count, by ", voted_method(x), ": most points for ", k, ", the largest count tried (",
                  evidence, ")."))
  }
  if (x$verdict == "no clear count") {
    return(paste0("No clear count, by ", voted_method(x), ": most points for ", k, if (x$pointed == "no clear count") {
      paste0(", but hardly more than for others (", evidence, ").")
    } else if (!is.null(x$lowered)) {
      paste0(" (", evidence, ").")
    } else {
      paste0(" (", evidence, "), but in some kinds of tables such votes are wrong too often.")
    }))
  }
  paste0(capital(spelt(k)), " groups, by ", voted_method(x), ": ", x$verdict, " (", evidence, ").")
}

# How clear a vote is, in words; `""` where there was nothing to compare.
evidence_said <- function(x) {
  if (is.na(x$margin)) "" else paste0("margin ", margin_said(x$margin))
}

# What the test said, and what the indices would have said without it.
structure_fact <- function(x) {
  test <- x$structure
  if (is.na(test$groups)) {
    return(fl_facts(test)[1L])
  }
  if (test$groups) {
    return(paste0("There are groups: ", p_of_test(test), "."))
  }
  if (x$verdict != "no groups") {
    return(paste0("The numbers give no evidence of groups (", p_of_test(test), "); the test leaves levels out."))
  }
  firsts <- x$ballots$k[x$ballots$rank == 1L & x$ballots$weight > 0]
  c(often_missed(),
    if (length(firsts) > 0L) {
      picks <- sort(table(firsts), decreasing = TRUE)
      paste0("The indices would have picked ", listed(paste0(names(picks), " (", picks, ")")),
             ". Do not use those counts unless something else supports them.")
    })
}

# Indices by the names people know them by.
index_said <- function(vote, keys) sub(" \\(.*$", "", vapply(vote$indices[keys], `[[`, "", "label"))

voters_said <- function(x) listed(vapply(x$sweep$methods[x$voters], method_said, ""))

voted_method <- function(x) listed(vapply(x$sweep$methods[x$voters], method_said, ""))

# How many families put the winner first, and what the others put there.
family_fact <- function(x) {
  if (x$verdict == "no groups") {
    return(NULL)
  }
  k <- x$indices_say
  firsts <- family_firsts(x$shares)
  if (is.na(k) || length(firsts) == 0L) {
    return(NULL)
  }
  other <- firsts[firsts != k]
  here <- sum(firsts == k)
  if (length(firsts) == 1L) {
    return(if (is.null(x$found)) {
      paste0("Only one family of indices votes, ", names(firsts), "; it prefers ", firsts, ".")
    })
  }
  paste0(if (here == 0L) "None" else capital(spelt(here)), " of the ", spelt(length(firsts)), " families of indices ",
         if (here < 2L) "prefers " else "prefer ", k, " groups",
         if (length(other) > 0L) paste0("; ", listed(paste0(names(other), " prefers ", other))), ".")
}

vote_doubts <- function(x) {
  k <- voted_count(x)
  gap <- gap_rule_fact(x)
  named <- x$verdict != "no groups"  # else no count is to be believed anyway
  ones <- setdiff(unique(x$ballots$index[x$ballots$prefers_one]), if (!is.null(gap)) gap_key(x$sweep))
  c(
    if (!is.null(attr(x$weights, "earned"))) {
      paste0("Indices weigh by what they earned on ", counted(attr(x$weights, "earned"), "table"), ".")
    },
    if (!is.null(x$lowered)) lowered_fact(x),
    if (isTRUE(x$tied) && named) "Two counts have the same points; the smaller one was taken.",
    if (named) end_fact(x, k),
    if (length(ones) > 0L) {
      paste0(listed(index_said(x, ones)), if (length(ones) == 1L) " prefers" else " prefer", " a single group.")
    },
    if (named) gap,
    abstention_facts(x),
    if (!x$sweep$methods[[x$method]]$free_count && !any(vapply(x$sweep$methods, voice_of, "") == "models")) {
      "Without a mixture beside k-means nothing was looked at but round groups: stretched ones are often cut."
    }
  )
}

# Methods of the sweep that could not be fitted to any count.
unfitted_fact <- function(x) {
  unlist(lapply(names(x$sweep$methods), function(method) {
    at <- cells_of(x$sweep, x$preparation, method, asked = TRUE)
    if (length(at) > 0L && all(vapply(x$sweep$fits[at], inherits, NA, "error"))) {
      paste0(method_said(x$sweep$methods[[method]]), " has no fit for any count: ",
             first_line(x$sweep$fits[[at[1L]]]))
    }
  }))
}

# Who picks the largest count tried: that may stand for any larger one.
end_fact <- function(x, k) {
  tried <- x$sweep$k[x$sweep$k >= 2L]
  if (length(tried) < 2L || x$sweep$methods[[x$method]]$free_count) {
    return(NULL)
  }
  at_end <- unique(x$ballots$index[x$ballots$rank == 1L & x$ballots$weight > 0 & x$ballots$k == max(tried) &
                                     !x$ballots$prefers_one])
  if (k %in% max(tried)) "Try larger counts before believing the largest tried."
  else if (length(at_end) > 0L) paste0(listed(index_said(x, at_end)), if (length(at_end) == 1L) " picks " else " pick ",
                                       max(tried), ", the largest count tried.")
}

# How much the seed matters.
repeat_facts <- function(x) {
  if (NROW(x$repeats) == 0L || all(is.na(x$repeats$k[x$repeats$index == "vote"]))) {
    return(NULL)
  }
  said <- function(k) {
    times <- sort(table(k), decreasing = TRUE)
    listed(paste0(names(times), " (", times, ")"))
  }
  range_said <- function(k) paste(range(k), collapse = if (length(unique(k)) > 2L) " to " else " or ")
  votes <- x$repeats$k[x$repeats$index == "vote"]
  picks <- split(x$repeats$k, factor(x$repeats$index, setdiff(unique(x$repeats$index), "vote")))
  changing <- Filter(function(k) length(unique(k)) > 1L, picks)
  c(
    paste0("Over ", length(votes), " repeats with other seeds the vote ",
           if (length(unique(votes)) == 1L) paste0("always says ", votes[1L]) else paste0("says ", said(votes)), "."),
    if (length(changing) == 0L) "Each index picks the same count in every repeat."
    else paste0("Picks that change with the seed: ",
                listed(paste(index_said(x, names(changing)), vapply(changing, range_said, ""))), ".")
  )
}

# Which method's groups the indices prefer, where several were tried.
method_fact <- function(x) {
  not_all <- if (length(x$uncompared) > 0L) {
    paste0("Not every method could be compared (", paste(x$uncompared, collapse = "; "), "); the first that could, or ",
           "the first given, stands here.")
  }
  if (x$verdict == "no groups" || NROW(x$contest) == 0L) {
    return(if (x$verdict != "no groups") not_all)
  }
  points <- sort(x$method_points, decreasing = TRUE)
  said <- paste0(vapply(x$sweep$methods[names(points)], method_said, ""), " ", digits3(points))
  judges <- length(unique(x$contest$index[x$contest$weight > 0]))
  rivals <- x$others[x$others$preparation == x$preparation & x$others$method %in% names(points), ]
  c(paste0("Which method? ", if (names(points)[1L] != x$method) "The points would go to another: ", listed(said),
           ", by the ", counted(judges, "index", "indices"),
           " that can compare partitions of different methods; they reward compact groups."),
    if (all(rivals$alike >= nearly_same)) {
      paste0("It hardly matters: the groups are nearly the same (adjusted Rand ", fixed2(min(rivals$alike)),
             if (nrow(rivals) > 1L) " or more", ").")
    }, not_all)
}

nearly_same <- 0.95

# Indices shown without a vote.
indices_without_vote <- function(x) {
  weights <- unlist(x$used$index)
  names(weights)[weights == 0]
}

abstention_facts <- function(x) {
  silent <- x$abstained[!x$abstained$index %in% indices_without_vote(x), ]
  reasons_said(index_said(x, silent$index), silent$reason)
}

neighbour_facts <- function(x, brief = FALSE) {
  one <- function(change, label) {
    if (is.null(change)) {
      return(NULL)
    }
    said <- if (length(change$changes) > 0L) listed(change$changes) else "rearranges the groups"
    paste0(label, ", ", change$k, ": ", said,
           if (change$moved > 0L) paste0(", and moves ", counted(change$moved, "row")),
           if (NROW(change$unstable) > 0L) paste0("; ", unstable_said(change$unstable)), ".")
  }
  c(if (!brief) returns_fact(returns_at(x, x$k), nrow(x$sweep$ready[[x$preparation]]$x)),
    one(x$neighbours$fewer, "One fewer"), one(x$neighbours$more, "One more"))
}

# Which groups come back when rows are drawn again, and which do not.
returns_fact <- function(returns, rows = 0L) {
  how <- paste0("Under resampling", if (rows > resample_most_rows) {
    paste0(" of an even sample of ", counted(resample_most_rows, "row"), ",")
  })
  if (NROW(returns) == 0L) {
    return(NULL)
  }
  bad <- returns[returns$returns < unstable_below, ]
  if (nrow(bad) == 0L) {
    ends <- unique(fixed2(range(returns$returns)))
    return(paste0(how, " ", if (nrow(returns) == 2L) "both" else "all", " groups reach a mean Jaccard overlap of ",
                  unstable_below, " (", paste(ends, collapse = " to "), ")."))
  }
  paste0(how, " ", unstable_said(bad), if (nrow(bad) < nrow(returns)) paste0("; the others reach ", unstable_below),
         ".")
}

unstable_said <- function(bad) {
  paste0(if (nrow(bad) == 1L) "group " else "groups ", listed(bad$group),
         if (nrow(bad) == 1L) " is unstable (mean Jaccard overlap " else " are unstable (mean Jaccard overlap ",
         listed(fixed2(bad$returns)), ")")
}

other_facts <- function(x) {
  if (nrow(x$others) == 0L) {
    return(NULL)
  }
  several <- length(x$sweep$ready) > 1L
  label <- if (several) paste0(x$others$method, " on ", x$others$preparation) else x$others$method
  alone <- is.na(x$others$margin) & !is.na(x$others$k)
  finds <- vapply(x$sweep$methods[x$others$method], `[[`, NA, "free_count")
  verdict <- ifelse(x$others$verdict == "no groups", "though there is no evidence of groups", x$others$verdict)
  paste0("Taken alone, ", label, ifelse(finds, " finds ", ifelse(alone, " gives ", " votes for ")),
         ifelse(is.na(x$others$k), "none", x$others$k),
         ifelse(finds, "", ifelse(alone, ", with no other count to compare",
                                  paste0(ifelse(x$others$verdict == "no groups", ", ", ": "), verdict))),
         ifelse(nzchar(x$others$evidence), paste0(" (", x$others$evidence, ")"), ""),
         ifelse(is.na(x$others$alike), "", paste0("; its groups and these: adjusted Rand ", fixed2(x$others$alike))),
         ".")
}

#' @export
decision_facts.fl_vote <- function(vote) {
  if (is.null(vote$settled)) {
    return(paste0("The count comes from a vote: ", vote$verdict, "."))
  }
  c(settled_fact(vote$settled), voted_fact(vote))
}

settled_fact <- function(settled) {
  paste0(capital(spelt(settled$k)), ngettext(settled$k, " group", " groups"), ", settled by you",
         if (!is.null(settled$purpose)) paste0(" for ", settled$purpose), ": ", settled$reason, ".")
}

lowered_fact <- function(x) {
  paste0(if (x$verdict == "no clear count") "No count is clear" else paste("Not more than", x$verdict), ", since ",
         listed(x$lowered), ".")
}
