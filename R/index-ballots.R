# Ballots of a vote that are no index of a partition: their values come from elsewhere.

vote_indices <- function() c(mixture_ballots(), list(stretch = stretch_index()))

models_family <- "mixture"

# One ballot of all models, one of those whose components have only their form in common and of heavy tails. Where
# components differ in just what a structure holds in common, it gains more by one component more than it pays.
mixture_ballots <- function() {
  declared <- function(key, label, over) {
    declare_index(key, across = function(set) NULL, label = label, family = models_family, direction = "lower",
                  from = 1L, tier = "fast", source = "Schwarz 1978",
                  rule = paste0("smallest value, one group allowed, over ", over))
  }
  list(bic_all = declared("bic_all", "BIC of all mixtures", "all covariance structures and tails"),
       bic_free = declared("bic_free", "BIC of free mixtures", "free structures and heavy tails"))
}

# Of a method swept over its parameter: the share of values that give a count.
stretch_index <- function() {
  declare_index("stretch", across = function(set) NULL, label = "Stretch of values",
                family = "stretch", direction = "higher", range = c(0, 1), tier = "fast", source = "Leung et al. 2000",
                rule = "the count that comes out over the longest stretch of values of the method's parameter")
}
