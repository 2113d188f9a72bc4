# Stored sweeps, as fl_sweep() would make them now.

# The stored sweeps of several methods over one table, as fl_sweep() would have made them at once: what fl_vote() makes
# of several methods is then judged without fitting any again.
joined <- function(sweeps) {
  out <- sweeps[[1]]
  for (field in c("methods", "fits")) out[[field]] <- do.call(c, lapply(unname(sweeps), `[[`, field))
  for (field in c("cells", "values", "beside", "returns", "gaps", "values_tried")) {
    out[[field]] <- do.call(rbind, lapply(unname(sweeps), `[[`, field))
  }
  out
}

# The same sweep with fewer indices, as they are now.
with_indices <- function(sweep, set) {
  sweep$indices <- getFromNamespace("as_indices", "fjordline")(set)
  keys <- names(sweep$indices)
  sweep$values <- sweep$values[sweep$values$index %in% keys, ]
  sweep$beside <- sweep$beside[sweep$beside$index %in% keys, ]
  sweep
}
