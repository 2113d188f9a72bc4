# Separation: how far the means lie apart, against how far the rows lie from their means.

# (B / (k - 1)) / (W / (n - k)); Calinski & Harabasz (1974), doi:10.1080/03610927408827101
index_calinski_harabasz <- function() {
  declare_index(
    "calinski_harabasz",
    label = "Calinski-Harabasz (1974)", family = "separation", direction = "higher", rule = "largest value",
    across = function(set) calinski_harabasz(set$k, set$scatter, set$total, set$n),
    silent = function(set) ifelse(set$scatter <= 0, "W is zero", "there are no more rows than groups"),
    cost = "rows x columns", source = "Calinski & Harabasz 1974"
  )
}

calinski_harabasz <- function(k, scatter, total, n) {
  value <- ((total - scatter) / (k - 1)) / (scatter / (n - k))
  ifelse(k < 2 | k >= n | scatter <= 0, NA_real_, value)
}
