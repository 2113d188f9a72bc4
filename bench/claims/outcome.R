# A column kept aside that knows nothing of the groups: intervals of its means, and how often it is said to differ.
outcome_kinds <- list(
  normal = list(mean = 0, draw = function(n) rnorm(n)), `t with 3 df` = list(mean = 0, draw = function(n) rt(n, 3)),
  lognormal = list(mean = exp(0.5), draw = function(n) exp(rnorm(n))),
  `gamma, shape a half` = list(mean = 0.5, draw = function(n) rgamma(n, 0.5)),
  `90% zeros` = list(mean = 0.1, draw = function(n) rbinom(n, 1, 0.1) * rexp(n)),
  `60% zeros` = list(mean = 0.4 * exp(0.5), draw = function(n) rbinom(n, 1, 0.4) * exp(rnorm(n))),
  `negative binomial` = list(mean = 2, draw = function(n) rnbinom(n, mu = 2, size = 0.7)),
  bounded = list(mean = 0.2, draw = function(n) rbeta(n, 0.5, 2))
)

claim("outcome: interval that is not called rough holds the mean",
      c(outer(names(outcome_kinds), c("20 rows", "60 rows", "300 rows"), paste, sep = ", ")), function(case) {
        kind <- outcome_kinds[[sub(", [0-9]+ rows$", "", case)]]
        got <- ours("mean_interval")(kind$draw(as.integer(sub("^.*, ([0-9]+) rows$", "\\1", case))), 0.95, 1)
        c(holds = if (got$rough) NA_real_ else got$low <= kind$mean && kind$mean <= got$high, given = !got$rough)
      }, least = c(holds = 0.92), most = c(holds = 0.98), more = 5)

claim("outcome: differs between groups that it knows nothing of",
      c(outer(names(outcome_kinds), c("groups of 8", "groups of 5 to 200"), paste, sep = ", ")), function(case) {
        kind <- outcome_kinds[[sub(", groups.*$", "", case)]]
        size <- if (grepl("of 8", case)) rep(8, 3) else c(5, 40, 200)
        group <- rep(1:3, size)
        c(claimed = isTRUE(ours("welch_test")(kind$draw(length(group)), group, sample(1e6, 1))$p <= 0.05))
      }, most = 0.05, more = 3)
