# What a verdict means. The limits were chosen on the tuning tables of bench/recovery.R, the rates are those of its
# judging tables, rounded down (figures: bench/README.md).

clear_margin <- 0.20
weak_margin <- 0.10

# Verdicts without a count to go on with.
undecided <- c("no clear count", "no groups")

# Share of judging tables in which votes of a set of indices with this verdict found the known count, by k-means alone:
# separated or overlapping round groups, and elongated or heavy-tailed ones.
verdict_rates <- list(
  standard = list(clear = c("19 of 20", "4 of 5"), weak = c("3 of 4", "1 of 2"),
                  `no clear count` = c("3 of 5", "2 of 5")),
  fast = list(clear = c("9 of 10", "2 of 3"), weak = c("2 of 3", "1 of 3"), `no clear count` = c("1 of 2", "1 of 3"))
)

# The same of votes with a mixture, by how it weighs: beside k-means in tables of few rows, beside it in others, alone
# by the class of the table; and without k-means, in tables of few rows and in others. `from`: the least margin, or of
# BIC alone the least lead, for the word.
mixture_rates <- list(
  few = list(from = c(clear = 0.10, weak = 0.05),
             right = c(clear = "49 of 50", weak = "4 of 5", `no clear count` = "3 of 5")),
  beside = list(from = c(clear = 0.15, weak = 0.05),
                right = c(clear = "49 of 50", weak = "5 of 6", `no clear count` = "3 of 5")),
  `few, fast` = list(from = c(clear = 0.10, weak = 0.05),
                     right = c(clear = "49 of 50", weak = "2 of 3", `no clear count` = "4 of 7")),
  `beside, fast` = list(from = c(clear = 0.15, weak = 0.05),
                        right = c(clear = "49 of 50", weak = "3 of 4", `no clear count` = "3 of 5")),
  alone = list(from = c(clear = 5, weak = 0),
               right = c(clear = "49 of 50", weak = "5 of 6", `no clear count` = "5 of 6")),
  `only, few` = list(from = c(clear = 10, weak = -Inf), right = c(clear = "49 of 50", weak = "4 of 5")),
  only = list(from = c(clear = 5, weak = 0),
              right = c(clear = "49 of 50", weak = "5 of 6", `no clear count` = "5 of 9"))
)

mixture_kind <- function(vote) {
  few <- vote$class$rows < few_rows
  if (length(vote$voters) == 1L) {
    return(if (few) "only, few" else "only")
  }
  if (!few && is.infinite(vote$class$votes)) {
    return("alone")
  }
  paste0(if (few) "few" else "beside", if (identical(vote$measured, "fast")) ", fast")
}

mixture_verdict <- function(vote, at_end) {
  from <- mixture_rates[[mixture_kind(vote)]]$from
  evidence <- if (is.infinite(vote$class$votes)) vote$lead else vote$margin
  if (is.na(vote$margin) || is.na(evidence) || at_end || !reaches(evidence, from[["weak"]])) "no clear count"
  else if (reaches(evidence, from[["clear"]])) "clear" else "weak"
}

# Where all families agree on the first and the second place the margin cannot exceed one sixth: agreement counts too.
# A winner at the end of the counts may stand for any larger one.
verdict_of <- function(margin, firsts, families, at_end = FALSE) {
  if (is.na(margin) || !reaches(margin, weak_margin) || at_end) "no clear count"
  else if (families >= 2L && (reaches(margin, clear_margin) || firsts == families)) "clear"
  else "weak"
}

# Points are sums of shares: what rounding takes off a margin does not count.
reaches <- function(margin, limit) margin >= limit - tie_width

# Two digits, unless rounding would lift the margin over a limit it does not reach.
margin_said <- function(margin, limits = c(weak_margin, clear_margin)) {
  short <- vapply(margin, function(m) isTRUE(any(!reaches(m, limits) & round(m, 2) >= limits)), NA)
  paste0(ifelse(short, "just below ", ""), fixed2(margin))
}

margin_limits <- function(vote) {
  if (is.null(vote$class)) c(weak_margin, clear_margin) else rev(mixture_rates[[mixture_kind(vote)]]$from)
}

# The count each family puts first.
family_firsts <- function(shares) {
  vapply(split(shares, factor(shares$family, unique(shares$family))), function(f) f$k[order(-f$points, f$k)][1L], 0L)
}

# What lowers a verdict that the margin alone would give, and why.
temper <- function(vote, measured = vote$measured) {
  test <- vote$structure
  vote$measured <- measured
  if (isFALSE(test$groups)) {
    vote$verdict <- "no groups"
    return(vote)
  }
  same <- vote$repeats$k[vote$repeats$index == "vote"] %in% vote$k  # a repeat may have no vote
  reasons <- c(
    if (is.na(measured)) paste("how often votes with this method, these indices, counts and weights are right was",
                               "not measured"),
    if (is.na(test$groups)) paste("groups could not be tested for:", test$reason),
    if (length(same) > 0L && !is.na(vote$k) && mean(same) < 0.8) {
      paste("only", sum(same), "of", length(same), "repeats say so")
    }
  )
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

# The set of indices, "standard" or "fast", that a vote is like the measured ones with: by k-means of plain rows, a
# mixture as it is by itself, or both, the set's weights, three ranks, all counts from one or two to eight or more. NA
# for others.
measured_set <- function(sweep, voters, counting) {
  plain <- all(vapply(sweep$methods[voters], function(method) {
    plain_kmeans(method) || method$key == "mixture" && length(method$changed) == 0L
  }, NA))
  k <- sweep$k
  whole <- k[1L] <= 2L && max(k) >= 8L && max(k) <= 15L && all(diff(k) == 1L)
  like <- vapply(names(verdict_rates), function(set) setequal(names(sweep$indices), names(as_indices(set))), NA)
  alike <- plain && whole && is.null(counting$weights) && counting$rule == "ranked" && counting$depth == 3 && any(like)
  if (alike) names(verdict_rates)[which(like)[1L]] else NA_character_
}

track_fact <- function(vote) {
  if (vote$verdict == "no groups") {
    return(NULL)
  }
  if (is.na(vote$measured)) {
    return(if (is.null(vote$lowered)) {
      "How often votes with this method, these indices, counts and weights are right has not been measured."
    })
  }
  if (!is.null(vote$class)) {
    rate <- mixture_rates[[mixture_kind(vote)]]$right[vote$verdict]
    return(if (!is.na(rate)) paste0("Votes like this one found the known count in ", rate,
                                    " simulated tables with round, elongated or heavy-tailed groups."))
  }
  rates <- verdict_rates[[vote$measured]][[vote$verdict]]
  paste0("Votes like this one found the known count in ", rates[1L], " simulated tables with round groups and in ",
         rates[2L], " with elongated or heavy-tailed ones.")
}
