# A group keeps its colour from count to count, and from method to method: what holds most of its rows goes on with it.

# For every set of partitions the colour of every group, a number. At the count shown first groups have the colours of
# all other figures; from there colours are handed on to the next larger and the next smaller counts.
followed_colours <- function(sets, method, first) {
  anchor <- sets[[method]][[first]]
  colours <- list()
  colours[[method]] <- handed_along(sets[[method]], first, seq_len(anchor$k))
  for (other in setdiff(names(sets), method)) {
    from <- first_shown(sets[[other]], anchor$k)
    colours[[other]] <- handed_along(sets[[other]], from, handed_on(anchor, seq_len(anchor$k), sets[[other]][[from]]))
  }
  colours[names(sets)]
}

handed_along <- function(partitions, from, colours) {
  out <- vector("list", length(partitions))
  out[[from]] <- colours
  for (i in rev(seq_len(from - 1L))) out[[i]] <- handed_on(partitions[[i + 1L]], out[[i + 1L]], partitions[[i]])
  for (i in from + seq_len(length(partitions) - from)) {
    out[[i]] <- handed_on(partitions[[i - 1L]], out[[i - 1L]], partitions[[i]])
  }
  out
}

# The largest share of rows first; groups that nobody hands a colour take the first that is free.
handed_on <- function(from, colours, to) {
  shared <- row_flows(from$group, to$group)
  shared <- shared[shared$from > 0L & shared$to > 0L, ]
  shared <- shared[order(-shared$rows, shared$from, shared$to), ]
  out <- rep(NA_integer_, to$k)
  for (i in seq_len(nrow(shared))) {
    colour <- colours[shared$from[i]]
    if (is.na(out[shared$to[i]]) && !colour %in% out) out[shared$to[i]] <- colour
  }
  free <- setdiff(seq_len(to$k + length(colours)), out)
  out[is.na(out)] <- free[seq_len(sum(is.na(out)))]
  out
}

named_colours <- function(partition, colours) {
  known <- which(has_name(partition, seq_len(partition$k)))
  if (length(known) > 0L) {
    as.list(stats::setNames(group_names(partition, known), colours[known] - 1L))
  }
}

# The colours of all figures first; more groups take blends between neighbours, `between` for each pair.
canvas_palette <- function(n) {
  own <- length(fjord_colours)
  if (n <= own) {
    return(fl_palette(n))
  }
  between <- ceiling((n - own) / (own - 1L))
  ramp <- grDevices::colorRampPalette(fjord_colours)((own - 1L) * (between + 1L) + 1L)
  blends <- ramp[-seq(1L, length(ramp), by = between + 1L)]
  c(fjord_colours, blends[seq_len(n - own)])
}
