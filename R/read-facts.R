# Plain sentences about an object. Prints, figure titles, the shell and reports all take their words from here.

#' What an object says, in plain sentences
#'
#' The first sentence is the answer; the rest is evidence and doubt. They can be pasted into a message.
#'
#' @param x Any object this package makes.
#' @return Text, one sentence an element.
#' @examples
#' ready <- fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log"))
#' fl_facts(fl_partition(ready, k = 5))
#' @export
fl_facts <- function(x) UseMethod("fl_facts")

#' @export
fl_facts.default <- function(x) {
  fl_abort("argument", "`x` must be an object this package makes.", found = paste0("It is ", shape_of(x), "."))
}

#' @export
fl_facts.fl_data <- function(x) {
  features <- columns_of(x, "feature")
  truth <- truth_of(x)
  gaps <- is.na(features_of(x))
  c(
    paste0(x$name, ": ", counted(nrow(x$table), "row"), ", ", counted(length(features), "feature"), "."),
    if (!is.null(truth)) {
      sizes <- table(truth)
      paste0("Known classes: ", columns_of(x, "truth"), ", ", counted(length(sizes), "class", "classes"),
             if (length(sizes) > 0L) paste0(" of ", min(sizes), " to ", max(sizes), " rows"), ", kept out of fitting.")
    },
    if (any(gaps)) {
      paste0(counted(sum(gaps), "cell"), " in ", counted(sum(rowSums(gaps) > 0L), "row"), " are missing.")
    }
  )
}

#' @export
fl_facts.fl_check <- function(x) {
  if (nrow(x) == 0L) {
    return(paste0("Nothing to report on ", attr(x, "name"), "."))
  }
  stops <- any(x$severity == "stop")
  c(paste0(counted(nrow(x), "finding"), " on ", attr(x, "name"), "; ",
           if (stops) "the preparation will stop until the first is mended."
           else if (nrow(x) == 1L) "it does not stop you."
           else "none stops you."),
    paste0(x$column, ": ", x$finding, "."))
}

#' @export
fl_facts.fl_prepare <- function(x) {
  aside <- x$total - length(x$rows)
  c(
    paste0(capital(counted(length(x$rows), "row")), " of ", x$total, " by ", counted(ncol(x$x), "column"),
           " are ready to be grouped."),
    if (aside > 0L) paste0(counted(aside, "row"), " with a missing value ", if (aside == 1L) "gets" else "get",
                           " no group (NA)."),
    x$notes
  )
}

#' @export
fl_facts.fl_partition <- function(x) {
  sizes <- x$groups$rows
  left <- sum(is.na(x$group))
  noise <- sum(x$group == 0L, na.rm = TRUE)
  c(
    paste0(capital(spelt(x$k)), if (x$k == 1L) " group" else " groups", ", by ", method_said(x$method), ": ",
           listed(paste0(sizes, " (", percent(x$groups$share), ")")), if (length(sizes) == 1L) " rows." else " rows."),
    if (left > 0L) paste0(counted(left, "row"), " could not be grouped: a value is missing (NA)."),
    if (noise > 0L) paste0(counted(noise, "row"), " ", if (noise == 1L) "is" else "are", " noise (0)."),
    explained_fact(x), restart_fact(x), x$notes, decision_facts(x$vote)
  )
}

explained_fact <- function(x) {
  if (x$k < 2L || is.na(x$scatter)) {
    return(NULL)
  }
  paste0("The groups account for ", percent(1 - x$scatter / x$total), " of the spread in prepared units (W = ",
         digits3(x$scatter),
         " of T = ", digits3(x$total), ").")
}

restart_fact <- function(x) {
  r <- x$restarts
  if (is.null(r) || r$tried < 2L || x$k < 2L) {
    return(NULL)
  }
  paste0(r$reached, " of ", r$tried, " restarts reached the smallest W",
         if (r$worst > x$objective * 1.000001) {
           paste0("; the worst was ", percent(r$worst / x$objective - 1), " above it")
         }, ".")
}

# How the count was chosen, where that is known.
decision_facts <- function(vote) {
  if (is.null(vote)) {
    return(NULL)
  }
  if (is.null(vote$settled)) {
    return(paste0("The count comes from a vote: ", vote$verdict, ", margin ", fixed2(vote$margin), "."))
  }
  settled_fact(vote$settled)
}

settled_fact <- function(settled) {
  before <- if (settled$verdict == "no clear count") " (the vote had no clear count)"
  else if (!identical(settled$voted, settled$k)) paste0(" (the vote said ", settled$voted, ")")
  else " (as voted)"
  paste0("Settled on ", spelt(settled$k), before, if (!is.null(settled$purpose)) paste0(" for ", settled$purpose), ": ",
         settled$reason, ".")
}

#' @export
fl_facts.fl_score <- function(x) {
  silent <- sum(is.na(x$value))
  c(paste0(counted(nrow(x) - silent, "index", "indices"), " of ", attr(x, "name"), "."),
    if (silent > 0L) paste0(listed(x$index[is.na(x$value)]), if (silent == 1L) " abstains: " else " abstain: ",
                            x$reason[is.na(x$value)][1L], "."),
    sample_fact(x$index, attr(x, "rows")))
}

#' @export
fl_facts.fl_sweep <- function(x) {
  failed <- vapply(x$fits, inherits, NA, "error") & x$cells$asked
  unsettled <- sum(vapply(x$fits, function(f) isFALSE(f$converged), NA))
  c(
    paste0(counted(sum(x$cells$asked), "fit"), " of ", listed(vapply(x$methods, method_said, "")), " on ",
           x$ready[[1L]]$data$name, " (",
           listed(names(x$ready)), "): k = ", count_range(x$k), ", ", counted(length(x$indices), "index", "indices"),
           if (x$repeats > 1L) paste0(", ", x$repeats, " repeats"), "."),
    if (any(failed)) paste0(counted(sum(failed), "fit"), " failed: ", first_line(x$fits[failed][[1L]])),
    if (unsettled > 0L) paste0(counted(unsettled, "fit"), " did not settle within max_rounds."),
    sample_fact(names(x$indices), max(vapply(x$ready, function(r) nrow(r$x), 0L))),
    if (length(x$ready) > 1L) "Index values of different preparations are not comparable."
  )
}

# Said where silhouettes were not computed on every row.
sample_fact <- function(indices, rows) {
  if ("silhouette" %in% indices && rows > silhouette_most_rows) {
    paste0("Silhouettes are those of an even sample of ", counted(silhouette_most_rows, "row"), ".")
  }
}

count_range <- function(k) if (length(k) > 2L && all(diff(k) == 1L)) paste0(k[1L], " to ", k[length(k)]) else listed(k)

#' @export
fl_facts.fl_vote <- function(x) {
  c(vote_headline(x), if (!is.null(x$settled)) settled_fact(x$settled), family_fact(x), vote_doubts(x),
    neighbour_facts(x), other_facts(x))
}

vote_headline <- function(x) {
  k <- if (is.null(x$settled)) x$k else x$settled$voted
  if (is.na(k)) {
    return("No clear count: no index could rank the counts.")
  }
  evidence <- paste0("margin ", fixed2(x$margin), ", runner-up ", if (is.na(x$runner_up)) "none" else x$runner_up)
  if (x$verdict == "no clear count") {
    return(paste0("No clear count, by ", voted_method(x), ": most points for ", k,
                  ", but hardly more than for others (", evidence, ")."))
  }
  paste0(capital(spelt(k)), " groups, by ", voted_method(x), ": ", x$verdict, " (", evidence, ").")
}

# Indices by the names people know them by.
index_said <- function(vote, keys) sub(" \\(.*$", "", vapply(vote$sweep$indices[keys], `[[`, "", "label"))

voted_method <- function(x) method_said(x$sweep$methods[[x$method]])

# How many families put the winner first, and what the others put there.
family_fact <- function(x) {
  k <- if (is.null(x$settled)) x$k else x$settled$voted
  firsts <- family_firsts(x$shares)
  if (is.na(k) || length(firsts) == 0L) {
    return(NULL)
  }
  other <- firsts[firsts != k]
  here <- sum(firsts == k)
  paste0(if (here == 0L) "None" else capital(spelt(here)), " of ", length(firsts), " families ",
         if (here < 2L) "puts " else "put ", k, " first",
         if (length(other) > 0L) paste0("; ", listed(paste0(names(other), " would take ", other))), ".")
}

vote_doubts <- function(x) {
  tried <- x$sweep$k[x$sweep$k >= 2L]
  k <- if (is.null(x$settled)) x$k else x$settled$voted
  ones <- unique(x$ballots$index[x$ballots$prefers_one])
  c(
    if (isTRUE(x$tied)) "Two counts have the same points; the smaller one was taken.",
    if (!is.na(k) && length(tried) > 1L && k == max(tried)) {
      paste0("That is the largest count tried: try larger ones before believing it.")
    },
    if (length(ones) > 0L) paste0(listed(index_said(x, ones)), " would rather have one group."),
    if (nrow(x$abstained) > 0L) {
      paste0(listed(index_said(x, x$abstained$index)), if (nrow(x$abstained) == 1L) " abstains: " else " abstain: ",
             x$abstained$reason[1L], ".")
    },
    if (!is.na(k)) track_fact(x),
    "Not tested: whether there are groups at all, and groups that are not round; a vote finds a count in any table."
  )
}

neighbour_facts <- function(x) {
  one <- function(change, label) {
    if (is.null(change)) {
      return(NULL)
    }
    said <- if (length(change$changes) > 0L) listed(change$changes) else "rearranges the groups"
    paste0(label, ", ", change$k, ": ", said,
           if (change$moved > 0L) paste0(", and moves ", counted(change$moved, "row")), ".")
  }
  c(one(x$neighbours$fewer, "One fewer"), one(x$neighbours$more, "One more"))
}

other_facts <- function(x) {
  if (nrow(x$others) == 0L) {
    return(NULL)
  }
  several <- length(x$sweep$ready) > 1L
  label <- if (several) paste0(x$others$method, " on ", x$others$preparation) else x$others$method
  paste0("By itself, ", label, " votes for ", ifelse(is.na(x$others$k), "none", x$others$k), ": ", x$others$verdict,
         ifelse(is.na(x$others$margin), "", paste0(" (margin ", fixed2(x$others$margin), ")")), ".")
}

#' @export
fl_facts.fl_agree <- function(x) {
  value <- function(measure) x$measures$value[x$measures$measure == measure]
  matched <- sum(x$matched$rows)
  clash <- largest_clash(x)
  c(
    paste0(capital(x$a), " and ", x$b, " agree ", agreement_word(value("adjusted_rand")), ": adjusted Rand ",
           fixed2(value("adjusted_rand")), ", ",
           format(matched, big.mark = ","), " of ", counted(x$rows, "row"), " matched (",
           percent(matched / x$rows), ")."),
    if (x$left_out > 0L) paste0(counted(x$left_out, "row"), " without a value on both sides ",
                                if (x$left_out == 1L) "is" else "are", " left out."),
    if (!is.null(clash)) {
      paste0(counted(length(x$disagree), "row"), if (length(x$disagree) == 1L) " disagrees" else " disagree",
             "; most often, ",
             clash$rows, " times, group ", clash$group, " holds rows of ", quoted(clash$class), ".")
    }
  )
}

agreement_word <- function(adjusted_rand) {
  words <- c("no better than chance", "poorly", "in part", "well", "almost perfectly")
  words[findInterval(adjusted_rand, c(-Inf, 0.1, 0.4, 0.7, 0.95))]
}

# The cell off the matching with the most rows.
largest_clash <- function(x) {
  off <- x$table
  known <- !is.na(x$matched$class)
  off[cbind(x$matched$group[known], x$matched$class[known])] <- 0
  if (sum(off) == 0L) {
    return(NULL)
  }
  at <- arrayInd(which.max(off), dim(off))
  list(rows = off[at], group = rownames(off)[at[1L]], class = colnames(off)[at[2L]])
}
