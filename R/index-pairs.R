# Pairs: indices of the distances between single rows.

# Mean silhouette width; Rousseeuw (1987), doi:10.1016/0377-0427(87)90125-7
index_silhouette <- function() {
  declare_index(
    "silhouette",
    label = "Silhouette (Rousseeuw 1987)", family = "pairs", direction = "higher", rule = "largest mean width",
    across = function(set) colMeans(set$widths(), na.rm = TRUE),
    silent = function(set) rep("there is one group only", length(set$k)),
    cost = "rows x rows x columns, once for all counts; above 10,000 rows an even sample of that many",
    source = "Rousseeuw 1987"
  )
}
