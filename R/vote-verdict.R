# What a verdict means. The limits were chosen on the tuning tables of bench/recovery.R, the rates are those of its
# judging tables, rounded down (figures: bench/README.md).

clear_margin <- 0.20
weak_margin <- 0.10

# Verdicts without a count to go on with.
undecided <- c("no clear count", "no groups")

# Share of judging tables in which votes with this verdict found the known count: separated or overlapping round groups,
# and elongated or heavy-tailed ones.
verdict_rates <- list(
  clear = c("19 of 20", "4 of 5"), weak = c("4 of 5", "3 of 5"), `no clear count` = c("3 of 5", "3 of 10")
)

# Where all families agree on the first and the second place the margin cannot exceed one sixth: agreement counts too.
# A winner at the end of the counts may stand for any larger one.
verdict_of <- function(margin, firsts, families, at_end = FALSE) {
  if (is.na(margin) || margin < weak_margin || at_end) "no clear count"
  else if (families >= 2L && (margin >= clear_margin || firsts == families)) "clear"
  else "weak"
}

# The count each family puts first.
family_firsts <- function(shares) {
  vapply(split(shares, factor(shares$family, unique(shares$family))), function(f) f$k[order(-f$points, f$k)][1L], 0L)
}

# The rates hold for the votes they were measured with: the standard set, its weights, three ranks, from one to ten.
track_fact <- function(vote) {
  if (vote$verdict == "no groups") {
    return(NULL)
  }
  sweep <- vote$sweep
  measured <- is.null(vote$weights) && vote$rule == "ranked" && vote$depth == 3 && identical(sweep$k, 1:10) &&
    sweep$methods[[vote$method]]$key == "kmeans" && setequal(names(sweep$indices), names(as_indices("standard")))
  if (!measured) {
    return("How often votes with these indices, counts and weights are right has not been measured.")
  }
  rates <- verdict_rates[[vote$verdict]]
  paste0("Votes like this one found the known count in ", rates[1L], " simulated tables with round groups and in ",
         rates[2L], " with elongated or heavy-tailed ones.")
}
