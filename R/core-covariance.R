# The covariance structures of mixture components, written form/free: what the name lists may differ between components,
# the rest is common. Banfield & Raftery (1993), Celeux & Govaert (1995).

covariance_structures <- c(
  "spherical/common", "spherical/volume",
  "diagonal/common", "diagonal/volume", "diagonal/shape", "diagonal/volume+shape",
  "general/common", "general/volume", "general/shape", "general/orientation", "general/volume+shape",
  "general/volume+orientation", "general/shape+orientation", "general/volume+shape+orientation"
)

structure_form <- function(structure) sub("/.*$", "", structure)

structure_frees <- function(structure, what) {
  vapply(strsplit(sub("^.*/", "", structure), "+", fixed = TRUE), function(free) what %in% free, NA)
}

# As the kernel takes them: one row per model, columns form, volume, shape, orientation, heavy tails. A table without
# number columns has no covariance ("none"), and its form does not matter.
structure_codes <- function(structure, heavy) {
  form <- structure_form(structure)
  form[form == "none"] <- "spherical"
  out <- cbind(match(form, c("spherical", "diagonal", "general")) - 1L,
               structure_frees(structure, "volume"), structure_frees(structure, "shape"),
               structure_frees(structure, "orientation"), heavy)
  storage.mode(out) <- "integer"
  dimnames(out) <- NULL
  out
}

# Free parameters of the covariances of k components in d columns.
covariance_parameters <- function(structure, k, d) {
  times <- function(what) ifelse(structure_frees(structure, what), k, 1)
  form <- structure_form(structure)
  if (d == 0) {
    return(rep(0, length(structure)))
  }
  times("volume") + (form != "spherical") * times("shape") * (d - 1) +
    (form == "general") * times("orientation") * d * (d - 1) / 2
}

# Of the whole mixture: shares, means, covariances, the degrees of freedom where they are estimated, and the chances of
# `levels`, one less than there are a category.
mixture_parameters <- function(structure, k, d, estimated = FALSE, levels = 0) {
  k - 1 + k * (d + levels) + covariance_parameters(structure, k, d) + estimated
}

# The simplest name of what is the same structure for this count and number of columns: with one component nothing can
# differ, with one column there is no shape and no orientation.
simplest_structure <- function(structure, k, d) {
  if (d == 0L) {
    return(rep("none", length(structure)))
  }
  form <- if (d == 1L) rep("spherical", length(structure)) else structure_form(structure)
  free <- vapply(seq_along(structure), function(at) {
    can <- c("volume", if (form[at] != "spherical") "shape", if (form[at] == "general") "orientation")
    kept <- can[vapply(can, structure_frees, NA, structure = structure[at])]
    if (k == 1L || length(kept) == 0L) "common" else paste(kept, collapse = "+")
  }, "")
  paste0(form, "/", free)
}

# A covariance as a square, out of its numbers: the variances alone, or all.
full_covariance <- function(row, d) if (length(row) == d) diag(row, d) else matrix(row, d)

# Of each group of a mixture, in all prepared columns: across its axes, and in levels, it has no spread.
group_covariances <- function(model, d) {
  numbers <- columns_of_numbers(model, d)
  lapply(seq_len(NROW(model$covariance)), function(j) {
    out <- matrix(0, d, d)
    out[numbers, numbers] <- if (is.null(model$axes)) full_covariance(model$covariance[j, ], length(numbers))
    else {
      turn <- as.matrix(model$axes[-1L])
      turn %*% full_covariance(model$covariance[j, ], ncol(turn)) %*% t(turn)
    }
    out
  })
}
