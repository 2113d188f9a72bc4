# The texts of a figure that lie beyond the page of this size, in inches, or beyond a panel or strip that cuts them off;
# 0.03 are allowed, since letters reach a little beyond their boxes.
texts_off_page <- function(figure, width, height) {
  grDevices::pdf(NULL, width = width, height = height)
  on.exit(grDevices::dev.off())
  print(figure)
  grid::grid.force()
  listed <- grid::grid.ls(viewports = TRUE, fullNames = TRUE, print = FALSE)
  texts <- which(listed$type == "grobListing" & grepl("^text\\[|^titleGrob|^fl_fitting_text\\[", listed$name))
  off <- character()
  for (at in texts) {
    name <- sub("^[^[]*\\[(.*)\\]$", "\\1", listed$name[at])
    path <- gsub("[A-Za-z_]+\\[([^]]*)\\]", "\\1", listed$vpPath[at])
    path <- sub("^ROOT::", "", path)
    grid::upViewport(0)
    if (nzchar(path) && path != "ROOT") grid::downViewport(path)
    text <- grid::grid.get(name)
    if (!inherits(text, "text") || length(text$label) == 0L || all(!nzchar(as.character(text$label)))) next
    corner <- function(theta) {
      at <- grid::deviceLoc(grid::grobX(text, theta), grid::grobY(text, theta), valueOnly = TRUE)
      c(as.numeric(at$x), as.numeric(at$y))
    }
    edges <- c(corner(180)[1], corner(0)[1], corner(270)[2], corner(90)[2])
    here <- grid::current.viewport()
    within <- c(0, width, 0, height)
    if (isTRUE(here$clip) && nzchar(path)) {
      place <- function(x, y) unlist(lapply(grid::deviceLoc(grid::unit(x, "npc"), grid::unit(y, "npc"), valueOnly = TRUE), as.numeric))
      within <- c(place(0, 0)[1], place(1, 0)[1], place(0, 0)[2], place(0, 1)[2])
    }
    if (edges[1] < within[1] - 0.03 || edges[2] > within[2] + 0.03 || edges[3] < within[3] - 0.03 ||
          edges[4] > within[4] + 0.03) {
      off <- c(off, paste0(substr(paste(text$label, collapse = "|"), 1, 60), " (", paste(round(edges, 2), collapse = ", "), ")"))
    }
  }
  off
}
