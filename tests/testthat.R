library(testthat)
library(fjordline)

test_check("fjordline")
