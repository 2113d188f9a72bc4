# One cluster of any kind, cut into groups by k-means: features that are said to differ beyond that. And
# two groups, four standard deviations apart in one direction.
profile_kinds <- list(
  gaussian = function(n, d) matrix(rnorm(n * d), n), box = function(n, d) matrix(runif(n * d), n),
  exponential = function(n, d) matrix(rexp(n * d), n), lognormal = function(n, d) matrix(exp(rnorm(n * d)), n),
  `t with 3 df` = function(n, d) matrix(rt(n * d, 3), n),
  `five levels` = function(n, d) matrix(sample(5, n * d, TRUE), n),
  `nine levels` = function(n, d) matrix(sample(9, n * d, TRUE), n),
  `counts of mean 3` = function(n, d) matrix(rpois(n * d, 3), n),
  `five levels, skewed` = function(n, d) matrix(rbinom(n * d, 4, 0.2), n),
  `one uniform column` = function(n, d) cbind(runif(n, -2, 2), matrix(rnorm(n * (d - 1)), n)),
  beta = function(n, d) matrix(rbeta(n * d, 0.8, 2), n),
  correlated = function(n, d) matrix(rgamma(n * d, 3), n) + rnorm(n)
)

beyond_of <- function(x, method, k, sets = 39) {
  x <- as.data.frame(x)
  ready <- fl_prepare(fl_data(x, features = names(x)))
  groups <- fl_partition(ready, method, k = k)
  p <- fl_profile(groups, sets = sets, audit = FALSE)$separation$p_beyond
  p[!is.na(p)] <= 0.05
}

claim("profile: any of four features differs beyond cutting one cluster", names(profile_kinds), function(case) {
  # columns of few values and groups of mixtures are not tested
  claims <- beyond_of(profile_kinds[[case]](sample(c(100, 300), 1), 4), "kmeans", sample(2:4, 1))
  c(claimed = any(claims), tested = length(claims) > 0)
}, most = c(claimed = 0.215), more = 0.5)

claim("profile: a feature differs beyond cutting one cluster, two groups 4 sd apart", c("100 rows", "300 rows"),
      function(case) {
        n <- as.integer(sub(" .*", "", case))
        group <- rep(1:2, n / 2)
        way <- rnorm(4)
        x <- matrix(rnorm(n * 4), n) + outer(group, 4 * way / sqrt(sum(way^2)))
        c(claimed = any(beyond_of(x, "kmeans", 2)))
      }, least = c(claimed = 0.8))
