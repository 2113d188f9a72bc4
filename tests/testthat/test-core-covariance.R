# The names of the covariance structures: what they allow, and which are the same for a table.

test_that("there are fourteen structures, and their names say what is free", {
  expect_length(unique(covariance_structures), 14)
  free <- vapply(c("volume", "shape", "orientation"), structure_frees, logical(14), structure = covariance_structures)
  # spherical ones have no shape, and only general ones an orientation
  form <- structure_form(covariance_structures)
  expect_equal(as.integer(table(form)[c("spherical", "diagonal", "general")]), c(2L, 4L, 8L))
  expect_false(any(free[form == "spherical", c("shape", "orientation")]))
  expect_false(any(free[form != "general", "orientation"]))
  # all combinations within a form, each once
  for (each in c("diagonal", "general")) {
    able <- if (each == "diagonal") 1:2 else 1:3
    expect_equal(nrow(unique(free[form == each, able])), 2^length(able))
  }
  expect_equal(rowSums(free) == 0, grepl("/common$", covariance_structures))
})

test_that("codes carry form, what is free, and the tails", {
  codes <- structure_codes(c("spherical/common", "diagonal/shape", "general/volume+orientation"), c(FALSE, TRUE, FALSE))
  expect_identical(codes, matrix(c(0L, 1L, 2L, 0L, 0L, 1L, 0L, 1L, 0L, 0L, 0L, 1L, 0L, 1L, 0L), 3))
})

test_that("structures that are the same go by the simplest name, and have as many parameters", {
  for (structure in covariance_structures) {
    one <- simplest_structure(structure, 1, 4)
    expect_match(one, "/common$")
    expect_equal(mixture_parameters(one, 1, 4), mixture_parameters(structure, 1, 4))
    line <- simplest_structure(structure, 3, 1)
    expect_match(line, "^spherical/")
    expect_equal(mixture_parameters(line, 3, 1), mixture_parameters(structure, 3, 1))
    expect_equal(simplest_structure(structure, 3, 4), structure)
  }
  # in one column the volume alone can differ
  expect_setequal(simplest_structure(covariance_structures, 3, 1), c("spherical/common", "spherical/volume"))
})

test_that("what a structure adds is what its name says, for any count and columns", {
  for (k in c(2, 5)) {
    for (d in c(2, 7)) {
      count <- function(structure) covariance_parameters(structure, k, d)
      expect_equal(count("general/volume") - count("general/common"), k - 1)
      expect_equal(count("general/shape") - count("general/common"), (k - 1) * (d - 1))
      expect_equal(count("general/orientation") - count("general/common"), (k - 1) * d * (d - 1) / 2)
      expect_equal(count("general/volume+shape+orientation"), k * d * (d + 1) / 2)
      expect_equal(count("diagonal/volume+shape"), k * d)
      expect_equal(count("spherical/common"), 1)
    }
  }
})
