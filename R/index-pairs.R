# Pairs: indices of the distances between single rows, in the metric of the partition.

one_group <- function(set) rep("there is one group only", length(set$k))

# Mean silhouette width; Rousseeuw (1987), doi:10.1016/0377-0427(87)90125-7
index_silhouette <- function() {
  declare_index(
    "silhouette", sampled = widths_sampled(), compares = TRUE, range = c(-1, 1),
    label = "Silhouette (Rousseeuw 1987)", family = "pairs", direction = "higher",
    family_about = "Distances between rows.", rule = "largest mean width",
    across = function(set) colMeans(set$widths(), na.rm = TRUE), silent = one_group,
    cost = "rows x rows x columns, once for all counts; above 30,000 rows by distances to centres", tier = "fast",
    source = "Rousseeuw 1987",
    formula = paste("the mean of (b - a) / max(a, b) over rows, a the mean distance to the other rows of the own",
                    "group, b the smallest mean distance to another group; 0 in a group of one. Exact up to",
                    "30,000 rows, above by distances to means."),
    reference = paste("Rousseeuw, P. J. (1987). Silhouettes: a graphical aid to the interpretation and validation",
                      "of cluster analysis. \\doi{10.1016/0377-0427(87)90125-7}")
  )
}

# Smallest distance between groups / largest within one; Dunn (1974), doi:10.1080/01969727408546059
index_dunn <- function() {
  declare_index(
    "dunn", range = c(0, Inf),
    label = "Dunn (1974)", family = "pairs", direction = "higher", rule = "largest value",
    across = function(set) {
      if (nrow(set$x) > ends_most_rows) {
        return(rep(NA_real_, length(set$k)))
      }
      ends <- set$ends()
      ifelse(set$k > 1 & ends[, 2L] > 0, ends[, 1L] / ends[, 2L], NA_real_)
    },
    silent = function(set) {
      rep(if (nrow(set$x) > ends_most_rows) {
        paste0("above ", thousands(ends_most_rows), " rows it is not computed: of a sample it would be biased")
      } else {
        "no group holds two different rows"
      }, length(set$k))
    },
    cost = "rows x rows x columns, up to 10,000 rows", tier = "standard", source = "Dunn 1974",
    formula = "the smallest distance between groups / the largest within one; up to 10,000 rows.",
    reference = paste("Dunn, J. C. (1974). Well-separated clusters and optimal fuzzy partitions.",
                      "\\doi{10.1080/01969727408546059}")
  )
}

# (S_w - S_min) / (S_max - S_min); Hubert & Levin (1976), doi:10.1037/0033-2909.83.6.1072
index_c_index <- function() {
  declare_index(
    "c_index", sampled = order_sampled(), range = c(0, 1),
    label = "C index (Hubert & Levin 1976)", family = "pairs", direction = "lower", rule = "smallest value",
    across = function(set) {
      o <- set$order()
      ifelse(set$k > 1 & o$largest > o$smallest, (o$within - o$smallest) / (o$largest - o$smallest), NA_real_)
    },
    silent = no_two_kinds, cost = order_cost, tier = "standard", source = "Hubert & Levin 1976",
    formula = paste("(S_w - S_min) / (S_max - S_min), S_w the sum of the distances within groups, the others the",
                    "sums of as many smallest and largest distances."),
    reference = paste("Hubert, L. J. and Levin, J. R. (1976). A general statistical framework for assessing",
                      "categorical clustering in free recall. \\doi{10.1037/0033-2909.83.6.1072}")
  )
}

order_cost <- "pairs of rows x log; above 3,000 rows an even sample of that many"

no_two_kinds <- function(set) rep("there are no pairs within groups, or all distances are equal", length(set$k))

# (s+ - s-) / (s+ + s-); Baker & Hubert (1975), doi:10.1080/01621459.1975.10480256
index_gamma <- function() {
  declare_index(
    "gamma", sampled = order_sampled(), range = c(-1, 1),
    label = "Gamma (Baker & Hubert 1975)", family = "pairs", direction = "higher", rule = "largest value",
    across = function(set) {
      o <- set$order()
      compared <- o$concordant + o$discordant
      ifelse(set$k > 1 & compared > 0, (o$concordant - o$discordant) / compared, NA_real_)
    },
    silent = no_two_kinds, cost = order_cost, tier = "standard", source = "Baker & Hubert 1975",
    formula = paste("(s+ - s-) / (s+ + s-) over pairs of a distance within and one between groups, s+ where",
                    "within is smaller."),
    reference = paste("Baker, F. B. and Hubert, L. J. (1975). Measuring the power of hierarchical cluster",
                      "analysis. \\doi{10.1080/01621459.1975.10480256}")
  )
}

# Correlation of the distances with being in different groups; Milligan (1981), doi:10.1007/BF02293899
index_point_biserial <- function() {
  declare_index(
    "point_biserial", sampled = order_sampled(), range = c(-1, 1),
    label = "Point-biserial (Milligan 1981)", family = "pairs", direction = "higher", rule = "largest value",
    across = function(set) ifelse(set$k > 1, set$order()$correlation, NA_real_), silent = no_two_kinds,
    cost = order_cost, tier = "all", source = "Milligan 1981",
    formula = "the correlation of distance and being in different groups.",
    reference = paste("Milligan, G. W. (1981). A Monte Carlo study of thirty internal criterion measures for",
                      "cluster analysis. \\doi{10.1007/BF02293899}")
  )
}

# Mean distance within groups / between; McClain & Rao (1975), doi:10.1177/002224377501200410
index_mcclain_rao <- function() {
  declare_index(
    "mcclain_rao", sampled = pairs_sampled(), range = c(0, Inf),
    label = "McClain-Rao (1975)", family = "pairs", direction = "lower", rule = "smallest value",
    across = function(set) {
      sums <- set$sums()
      mapply(function(between, group, k) {
        size <- tabulate(group, k)
        within <- sum(diag(between)) / sum(size * (size - 1))
        apart <- (sum(between) - sum(diag(between))) / (sum(size)^2 - sum(size^2))
        if (k > 1 && apart > 0) within / apart else NA_real_
      }, sums$between, sums$groups, set$k)
    },
    silent = no_two_kinds, cost = "rows x rows x columns, shared with the silhouettes", tier = "all",
    source = "McClain & Rao 1975",
    formula = "the mean distance within groups / between.",
    reference = paste("McClain, J. O. and Rao, V. R. (1975). A program to test for the quality of clustering of a",
                      "set of objects. Journal of Marketing Research 12, 456--460.",
                      "\\doi{10.1177/002224377501200410}")
  )
}
