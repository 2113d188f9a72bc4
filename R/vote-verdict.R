# From a vote to a word, and how often votes like it were right. Rule and rates come from bench/verdict.R, which counts
# how often votes found the known count of simulated tables with round groups: the rule was set on its tuning tables,
# the rates are those of its judging tables, rounded down (figures: bench/README.md). The margin alone will not do:
# where all families agree on the first and the second place it cannot exceed one sixth.

weak_margin <- 0.10

# Verdicts without a count to go on with.
undecided <- c("no clear count", "no groups")

verdict_rates <- c(clear = "19 of 20", weak = "3 of 4", `no clear count` = "1 of 4")

# clear: every family puts the winner first.
verdict_of <- function(margin, firsts, families) {
  if (is.na(margin) || margin < weak_margin) "no clear count"
  else if (families >= 2L && firsts == families) "clear"
  else "weak"
}

# The count each family puts first.
family_firsts <- function(shares) {
  vapply(split(shares, factor(shares$family, unique(shares$family))), function(f) f$k[order(-f$points, f$k)][1L], 0L)
}

# The rate holds for the vote it was measured with: all built-in indices, their weights, three ranks, from one to ten.
track_fact <- function(vote) {
  sweep <- vote$sweep
  measured <- is.null(vote$weights) && vote$rule == "ranked" && vote$depth == 3 && identical(sweep$k, 1:10) &&
    sweep$methods[[vote$method]]$key == "kmeans" && setequal(names(sweep$indices), names(built_in("index")))
  if (vote$verdict == "no groups") {
    return(NULL)
  }
  if (!measured) {
    return("How often votes with these indices, counts and weights are right has not been measured.")
  }
  paste0("Votes like this one found the known count in ", verdict_rates[[vote$verdict]],
         " simulated tables with round groups; tables without any groups often get a weak one.")
}
