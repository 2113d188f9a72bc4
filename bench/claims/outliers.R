# One cluster of any kind of bench/suites/heaps.R, and of discrete kinds, without and with a clump of rows far away.
source("bench/suites.R")
clean_kinds <- c(heap_kinds, list(
  `five levels` = function(n, d) matrix(sample(5, n * d, TRUE), n),
  `five levels, skewed` = function(n, d) matrix(rbinom(n * d, 4, 0.15), n),
  `two levels` = function(n, d) matrix(rbinom(n * d, 1, 0.3), n),
  `few counts` = function(n, d) matrix(rpois(n * d, 0.5), n),
  `one column of counts` = function(n, d) cbind(matrix(rnorm(n * (d - 1)), n), rpois(n, 0.3)),
  `t with 2 df` = function(n, d) matrix(rt(n * d, 2), n)
))

clean_table <- function(kind) {
  x <- scale(clean_kinds[[kind]](sample(c(200, 500, 1000), 1), sample(2:8, 1)))
  as.data.frame(x[, colSums(is.na(x)) == 0, drop = FALSE])
}
outliers_of <- function(x, method = "neighbour_distance") {
  fl_outliers(fl_prepare(fl_data(x, features = names(x))), method)
}

claim("outliers: rows of clean tables that are flagged", names(clean_kinds), function(case) {
  x <- clean_table(case)
  flagged <- function(method) mean(outliers_of(x, method)$rows$flagged)
  found <- outliers_of(x)
  c(`by distance` = mean(found$rows$flagged), `by density` = flagged("density_ratio"),
    `a clump told` = length(found$together) > 0)
}, most = c(`by distance` = 0.01, `by density` = 0.01, `a clump told` = 0.05), more = 0.2)

claim("outliers: clumps of rows far from all others are flagged or told", c("gaussian", "box", "five levels", "gamma"),
      function(case) {
        x <- as.matrix(clean_table(case))
        d <- ncol(x)
        way <- rnorm(d)
        seen <- function(many) {
          at <- way / sqrt(sum(way^2)) * (10 + 3 * sqrt(d))
          clump <- rep(at, each = many) + matrix(rnorm(many * d, sd = 0.3), many)
          found <- outliers_of(as.data.frame(rbind(x, clump)))
          mean(nrow(x) + seq_len(many) %in% c(which(found$rows$flagged), found$together)) > 0.8
        }
        c(`11 rows` = seen(11), `a twentieth` = seen(nrow(x) %/% 20), `a twelfth` = seen(nrow(x) %/% 12))
      }, least = 0.9, more = 0.3)
