# Labels that no method of ours made: what stands in the place of one.

adopted_key <- "adopted"

# Cannot be run.
adopted_method <- function(label = "the labels given") {
  declare_method(
    adopted_key,
    fit = function(x, k, settings, seed) {
      fl_abort("method", "Labels made elsewhere cannot be made again from other rows.")
    },
    about = list(label = label, shape = "nothing", needs = "labels", cost = "nothing", minimises = "W",
                 source = "whoever made the labels", centre = "mean"),
    counts = list(free_count = TRUE)
  )
}
