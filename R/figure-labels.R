# Words in figures: folded where there is room below them, shortened where there is not.

crowded_from <- 9L  # so many groups leave no room for names of several lines

folded_each <- function(text, width) vapply(text, folded, "", width = width, USE.NAMES = FALSE)

# The middle of a long word gives way: its end often is what tells it from others.
shortened <- function(text, width) {
  kept <- width - 1L
  tail <- kept %/% 3L
  long <- !is.na(text) & nchar(text) > width
  ifelse(long, paste0(substr(text, 1L, kept - tail), "\u2026", substring(text, nchar(text) - tail + 1L)), text)
}

# Folded for a few, on one line for many.
fitted_words <- function(text, width, many = length(unique(text)) >= crowded_from) {
  if (many) shortened(text, width) else folded_each(text, width)
}

# Groups by number, and by name once the partition has names.
legend_labels <- function(of, width = 24L) {
  many <- isTRUE(of$k >= crowded_from)
  function(groups) fitted_words(group_label(of, groups), width, many)
}

legend_names <- function(of, groups, width = 24L) {
  fitted_words(group_names(of, groups), width, isTRUE(of$k >= crowded_from))
}

# Words along an axis from left to right: tilted where there are many.
tilted_text <- function(many, top = FALSE) {
  if (many) element_text(angle = 40, hjust = if (top) 0 else 1, colour = ink) else element_text(colour = ink)
}
