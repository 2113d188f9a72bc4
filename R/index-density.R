# Density: groups of any shape, dense within and apart from each other.

# Moulavi, Jaskowiak, Campello, Zimek & Sander (2014), doi:10.1137/1.9781611973440.96
index_dbcv <- function() {
  declare_index(
    "dbcv", sampled = order_sampled(), range = c(-1, 1),
    label = "DBCV (Moulavi et al. 2014)", family = "density", direction = "higher",
    family_about = "Dense within, sparse between.", rule = "largest value",
    across = function(set) set$density(), silent = one_group,
    cost = "rows x rows for every count; above 3,000 rows an even sample of that many", tier = "standard",
    source = "Moulavi et al. 2014",
    formula = paste("how dense groups are within against how sparse it is between them, along minimum spanning",
                    "trees."),
    reference = paste("Moulavi, D., Jaskowiak, P. A., Campello, R. J. G. B., Zimek, A. and Sander, J. (2014).",
                      "Density-based clustering validation. \\doi{10.1137/1.9781611973440.96}")
  )
}
