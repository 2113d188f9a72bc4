# Figures of a run, in a folder.

write_figures <- function(figures, folder) {
  if (is.null(folder)) {
    return(invisible())
  }
  make_folder(folder)
  for (name in names(figures)) save_figure(figures[[name]], file.path(folder, paste0(name, ".png")))
  stats::setNames(folder, "figures")
}

make_folder <- function(folder) {
  if (file.exists(folder) && !dir.exists(folder)) {
    fl_abort("file", paste0(quoted(folder), " is a file; a folder is needed."))
  }
  if (!dir.exists(folder) && !dir.create(folder, recursive = TRUE, showWarnings = FALSE)) {
    fl_abort("file", paste0("The folder ", quoted(folder), " could not be made."), advice = "Is the place writable?")
  }
  folder
}

partition_figures <- function(partition, agreement) {
  own <- names(own_views(partition))
  Filter(Negate(is.null), c(list(
    groups = autoplot(partition),
    silhouettes = if (has_silhouettes(partition)) autoplot(partition, view = "silhouette"),
    agreement = if (!is.null(agreement)) autoplot(agreement)
  ), stats::setNames(lapply(own, function(view) autoplot(partition, view = view)), own)))
}
