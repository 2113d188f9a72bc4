# Columns kept aside, dates and shares that know nothing of the groups: how often they are found to differ, and whether
# the intervals of shares hold the share of all rows there could be.
knowing_nothing <- function(kind, n) {
  switch(kind, normal = rnorm(n), lognormal = exp(rnorm(n)), `90% zeros` = rbinom(n, 1, 0.1) * rexp(n),
         `two values` = sample(c("yes", "no"), n, TRUE, c(0.15, 0.85)),
         `twenty values` = sample(letters[1:20], n, TRUE, 1 / (1:20)),
         `a value a row` = paste0("v", seq_len(n)), days = as.Date("2024-03-01") + sample(300, n, TRUE))
}
aside_kinds <- c("normal", "lognormal", "90% zeros", "two values", "twenty values", "a value a row")

groups_beside <- function(columns, n) {
  table <- data.frame(x = 8 * sample(3, n, TRUE, c(0.6, 0.3, 0.1)) + rnorm(n), columns)
  fl_partition(fl_prepare(fl_data(table, features = "x", aside = names(columns))), k = 3)
}

claim("profile: any of six columns kept aside is found to differ between groups it knows nothing of",
      c(outer(c(aside_kinds, "one of each"), c("60 rows", "300 rows"), paste, sep = ", ")), function(case) {
        kind <- sub(", [0-9]+ rows$", "", case)
        n <- as.integer(sub("^.*, ([0-9]+) rows$", "\\1", case))
        kinds <- if (kind == "one of each") aside_kinds else rep(kind, 6)
        columns <- lapply(kinds, knowing_nothing, n = n)
        names(columns) <- paste0("aside", 1:6)
        tested <- fl_profile(groups_beside(as.data.frame(columns), n))$separation
        p <- p.adjust(tested$p_plain[tested$role == "aside"], "holm")
        c(claimed = any(p <= 0.05, na.rm = TRUE))
      }, most = 0.05)

claim("outcome: how the groups are mixed is found to change over time, and it does not", c("60 rows", "300 rows"),
      function(case) {
        n <- as.integer(sub(" rows$", "", case))
        groups <- groups_beside(data.frame(day = knowing_nothing("days", n)), n)
        c(claimed = isTRUE(fl_outcome(groups, "day")$test$p <= 0.05))
      }, most = 0.05)

claim("outcome, standings: 95% interval of a share holds it", c("10 rows", "30 rows", "200 rows"), function(case) {
  n <- as.integer(sub(" rows$", "", case))
  share <- runif(1)
  ends <- ours("wilson_interval")(rbinom(1, n, share) / n, n, 0.95)
  c(holds = ends$low <= share && share <= ends$high)
}, least = 0.92, most = 0.98, more = 5)
