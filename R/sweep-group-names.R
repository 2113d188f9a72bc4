# What groups are called: by name once fl_name() gave them one, else by number. Every sentence, table and figure asks
# here. `partition` may be NULL, for labels that came without one.

# One name per group: the group's own, or "group 3".
group_names <- function(partition, g = seq_len(partition$k)) {
  numbered <- ifelse(g %in% c("0", 0L), noise_word(partition), paste("group", g))
  ifelse(has_name(partition, g), partition$names[place_of(g)], numbered)
}

# What 0 means: rows that a method left out, or that were placed into none of the groups.
noise_word <- function(partition) if (is.null(partition$placed)) "noise" else "none of these"

has_names <- function(partition) !is.null(partition$names)

has_name <- function(partition, g) {
  if (has_names(partition)) !is.na(partition$names[place_of(g)]) else rep(FALSE, length(g))
}

# Noise has no place among the names.
place_of <- function(g) ifelse(g %in% c("0", 0L), NA_integer_, as.integer(as.character(g)))

# In a sentence: group 3, or its name in quotes.
group_said <- function(partition, g) {
  ifelse(has_name(partition, g), quoted(group_names(partition, g)), group_names(partition, g))
}

# Several in a sentence: groups 3 and 5, or their names.
groups_said <- function(partition, g) {
  if (length(g) == 1L || any(has_name(partition, g)) || any(g %in% 0L)) {
    return(listed(group_said(partition, g)))
  }
  paste("groups", listed(g))
}

# In a table or a legend: 3, or 3 and its name. Labels that came without a partition are no groups.
group_label <- function(partition, g) {
  named <- has_name(partition, g) | !is.null(partition) & g %in% c("0", 0L)
  ifelse(named, paste(g, group_names(partition, g)), as.character(g))
}

# As the head of a column or a card: Group 3, or Group 3 and its name in quotes.
group_title <- function(partition, g) {
  paste0("Group ", g, ifelse(has_name(partition, g), paste0(" ", quoted(group_names(partition, g))), ""))
}
