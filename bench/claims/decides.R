# Two or three groups in two columns, and two columns of noise; the same with one cluster: columns said to decide.
deciding_of <- function(x, method, k) {
  x <- as.data.frame(x)
  groups <- fl_partition(fl_prepare(fl_data(x, features = names(x))), method, k = k)
  separation <- fl_profile(groups, sets = 39)$separation
  separation$column[separation$decides %in% TRUE]
}

claim("profile: a column of noise decides the groups",
      c("kmeans, 3 sd", "kmeans, 5 sd", "mixture, 3 sd", "kmeans, one cluster"), function(case) {
        n <- sample(c(100, 300), 1)
        apart <- c(`3 sd` = 3, `5 sd` = 5, `one cluster` = 0)[[sub("^.*, ", "", case)]]
        group <- sample(2, n, TRUE)
        x <- cbind(a = apart * group + rnorm(n), b = rnorm(n), noise1 = rnorm(n), noise2 = runif(n, -2, 2))
        found <- deciding_of(x, sub(",.*", "", case), 2)
        c(noise = mean(c("noise1", "noise2") %in% found), `the column of the groups` = "a" %in% found)
      }, most = c(noise = 0.05), more = 0.5)
