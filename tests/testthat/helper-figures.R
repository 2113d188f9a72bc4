# Every word of a figure drawn on a page of this size: its box in inches, and the box that clips it.
texts_on_page <- function(figure, width, height) {
  grDevices::pdf(NULL, width = width, height = height)
  on.exit(grDevices::dev.off())
  print(figure)
  grid::grid.force()
  listed <- grid::grid.ls(viewports = TRUE, fullNames = TRUE, print = FALSE)
  texts <- which(listed$type == "grobListing" & grepl("^text\\[|^titleGrob|^fl_fitting_text\\[", listed$name))
  boxes <- lapply(texts, function(at) {
    name <- sub("^[^[]*\\[(.*)\\]$", "\\1", listed$name[at])
    path <- gsub("[A-Za-z_]+\\[([^]]*)\\]", "\\1", listed$vpPath[at])
    path <- sub("^ROOT::", "", path)
    grid::upViewport(0)
    if (nzchar(path) && path != "ROOT") grid::downViewport(path)
    text <- grid::grid.get(name)
    if (!inherits(text, "text")) return(NULL)
    within <- c(0, width, 0, height)
    if (isTRUE(grid::current.viewport()$clip) && nzchar(path)) within <- c(place_on_page(0, 0), place_on_page(1, 1))[c(1, 3, 2, 4)]
    vctrs::vec_rbind(!!!lapply(seq_along(text$label), function(i) label_box(text, i, within)))
  })
  vctrs::vec_rbind(!!!boxes)
}

place_on_page <- function(x, y) {
  at <- grid::deviceLoc(grid::unit(x, "npc"), grid::unit(y, "npc"), valueOnly = TRUE)
  c(as.numeric(at$x), as.numeric(at$y))
}

# One label of a text that may hold many.
label_box <- function(text, i, within) {
  of <- function(values) if (is.null(values)) values else values[(i - 1L) %% length(values) + 1L]
  text$label <- text$label[i]
  if (is.na(as.character(text$label)) || !nzchar(as.character(text$label))) return(NULL)
  for (part in c("x", "y", "hjust", "vjust", "rot")) text[[part]] <- of(text[[part]])
  for (part in names(text$gp)) text$gp[[part]] <- of(text$gp[[part]])
  corner <- function(theta) {
    at <- grid::deviceLoc(grid::grobX(text, theta), grid::grobY(text, theta), valueOnly = TRUE)
    c(as.numeric(at$x), as.numeric(at$y))
  }
  data.frame(label = as.character(text$label), left = corner(180)[1], right = corner(0)[1], low = corner(270)[2],
             high = corner(90)[2], from_left = within[1], from_right = within[2], from_low = within[3],
             from_high = within[4])
}

# The texts that lie beyond the page, or beyond a panel or strip that cuts them off; 0.03 inches are allowed, since
# letters reach a little beyond their boxes.
texts_off_page <- function(figure, width, height, texts = texts_on_page(figure, width, height)) {
  off <- texts$left < texts$from_left - 0.03 | texts$right > texts$from_right + 0.03 |
    texts$low < texts$from_low - 0.03 | texts$high > texts$from_high + 0.03
  substr(texts$label[off], 1, 60)
}

# The pairs of texts that lie on each other by more than a fifth of the smaller one; the same text twice in one place is
# a shade behind it.
texts_on_texts <- function(figure, width, height, texts = texts_on_page(figure, width, height)) {
  found <- character()
  area <- (texts$right - texts$left) * (texts$high - texts$low)
  for (i in seq_len(nrow(texts) - 1L)) {
    j <- seq.int(i + 1L, nrow(texts))
    shared <- pmax(0, pmin(texts$right[i], texts$right[j]) - pmax(texts$left[i], texts$left[j])) *
      pmax(0, pmin(texts$high[i], texts$high[j]) - pmax(texts$low[i], texts$low[j]))
    over <- j[shared > 0.2 * pmin(area[i], area[j]) & texts$label[j] != texts$label[i]]
    found <- c(found, sprintf("%s | %s", substr(texts$label[i], 1, 30), substr(texts$label[over], 1, 30)))
  }
  found
}
