# One column with one hump, and one with two: "gathers in more than one place, beyond chance" (fl_sift(), fl_check()).
one_hump <- list(
  normal = function(n) rnorm(n), uniform = function(n) runif(n), exponential = function(n) rexp(n),
  `t with 2 df` = function(n) rt(n, 2), lognormal = function(n) exp(rnorm(n)),
  bounded = function(n) rbeta(n, 3, 3), `counts of mean 50` = function(n) rpois(n, 50),
  `rounded to tenths` = function(n) round(rnorm(n), 1)
)

claim("sift: a column with one peak is found to have several",
      c(outer(names(one_hump), c("60 rows", "400 rows", "3000 rows"), paste, sep = ", ")), function(case) {
        n <- as.integer(sub("^.*, ([0-9]+) rows$", "\\1", case))
        x <- data.frame(v = one_hump[[sub(", [0-9]+ rows$", "", case)]](n), w = rnorm(n))
        c(claimed = any(fl_sift(fl_data(x))$beyond_chance %in% TRUE))
      }, most = 0.01)

claim("sift: a column of two humps 5 sd apart is found", c("100 rows", "400 rows"), function(case) {
  n <- as.integer(sub(" rows$", "", case))
  x <- data.frame(v = rnorm(n) + 5 * sample(0:1, n, TRUE), w = rnorm(n))
  c(claimed = any(fl_sift(fl_data(x))$beyond_chance %in% TRUE))
}, least = 0.9, more = 0.5)
