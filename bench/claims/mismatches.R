# Groups far apart; a tenth of the rows of each class is recorded as another one. Eight columns are kept aside: two go
# with the groups, one has rare values, the others are noise.
mistaken_table <- function(n, blamed = NULL) {
  k <- sample(2:4, 1)
  group <- sample(k, n, TRUE)
  x <- cbind(6 * group + rnorm(n), rnorm(n))
  class <- group
  wrong <- if (is.null(blamed)) runif(n) < 0.1 else runif(n) < ifelse(blamed, 0.5, 0.03)
  class[wrong] <- 1 + (class[wrong] + sample(k - 1, sum(wrong), TRUE) - 1) %% k
  data.frame(x = x[, 1], y = x[, 2], kind = letters[class], goes = group + rnorm(n, sd = 0.5),
             lives = ifelse(runif(n) < 0.8, letters[group], sample(letters[1:4], n, TRUE)),
             rare = sample(c("usual", paste0("rare", 1:6)), n, TRUE, c(0.88, rep(0.02, 6))),
             noise1 = rnorm(n), noise2 = rexp(n), noise3 = rpois(n, 0.2), noise4 = sample(letters[1:3], n, TRUE),
             noise5 = sample(c(TRUE, FALSE), n, TRUE))
}

causes_of <- function(table) {
  data <- fl_data(table, truth = "kind", features = c("x", "y"), aside = setdiff(names(table), c("kind", "x", "y")))
  k <- length(unique(table$kind))
  causes <- fl_mismatches(fl_agree(fl_partition(fl_prepare(data, scale = "none"), k = k)))$causes
  unique(causes$column[causes$p <= 0.05])
}

claim("mismatches: a column accounts for exceptions made at random", c("100 rows", "300 rows"), function(case) {
  found <- causes_of(mistaken_table(as.integer(sub(" .*", "", case))))
  c(any = length(found) > 0, `goes with the groups` = any(c("goes", "lives") %in% found), rare = "rare" %in% found)
}, most = 0.05, more = 2)

claim("mismatches: a column accounts for exceptions made by it", c("300 rows"), function(case) {
  n <- 300
  crew <- sample(c("one", "two", "three", "four"), n, TRUE, c(0.3, 0.3, 0.3, 0.1))
  late <- runif(n) < 0.1
  found <- causes_of(cbind(mistaken_table(n, crew == "four"), crew = crew))
  deep <- causes_of(cbind(mistaken_table(n, late), hour = ifelse(late, runif(n, 18, 24), runif(n, 6, 19))))
  c(`of a value` = "crew" %in% found, `of a number` = "hour" %in% deep)
}, least = 0.8)
