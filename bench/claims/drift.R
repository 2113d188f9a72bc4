# Drift: how often a column of rows of the same kind is found to have drifted, and how often one that has moved
# is found.
drift_kinds <- list(
  normal = function(n) rnorm(n), lognormal = function(n) exp(rnorm(n)), `five levels` = function(n) sample(5, n, TRUE),
  `90% zeros` = function(n) rbinom(n, 1, 0.1) * rexp(n), categories = function(n) sample(letters[1:6], n, TRUE)
)
drift_table <- function(kind, n, moved = 0) {
  x <- as.data.frame(lapply(stats::setNames(1:5, paste0("v", 1:5)), function(j) drift_kinds[[kind]](n)))
  x$size <- 8 * sample(2, n, TRUE) + rnorm(n)
  x$moved <- rnorm(n, moved)
  x
}
drifted <- function(kind, fitted, new, moved = 0) {
  groups <- fl_partition(fl_prepare(fl_data(drift_table(kind, fitted))), k = 2)
  fl_place(groups, drift_table(kind, new, moved), strict = FALSE)$drift
}

claim("place: any of seven columns of the same kind is found to have drifted",
      c(outer(names(drift_kinds), c("150 and 60 rows", "600 and 300 rows"), paste, sep = ", ")), function(case) {
        size <- as.integer(regmatches(sub("^.*, ", "", case), gregexpr("[0-9]+", sub("^.*, ", "", case)))[[1]])
        c(claimed = any(drifted(sub(", .*$", "", case), size[1], size[2])$drifted))
      }, most = 0.05)

claim("place: a column that moved by a standard deviation is found to have drifted", "300 and 200 rows",
      function(case) {
        found <- drifted("normal", 300, 200, 1)
        c(claimed = found$drifted[found$column == "moved"])
      }, least = 0.9, more = 0.5)
