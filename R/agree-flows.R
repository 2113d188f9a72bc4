# How rows go from the groups of one labeling to those of another.

whole_share <- 0.9  # of its rows in one group: it stays whole
part_share <- 0.1   # of its rows: a part worth telling

# One row per pair of groups with rows in common. 0 is noise.
row_flows <- function(a, b) {
  both <- !is.na(a) & !is.na(b)
  cells <- as.data.frame(base::table(from = a[both], to = b[both]), responseName = "rows", stringsAsFactors = FALSE)
  cells <- cells[cells$rows > 0L, ]
  from <- as.integer(cells$from)
  to <- as.integer(cells$to)
  rows_of <- function(group) stats::ave(cells$rows, group, FUN = sum)
  out <- tibble::tibble(from = from, to = to, rows = cells$rows, of_from = cells$rows / rows_of(from),
                        of_to = cells$rows / rows_of(to))
  out[order(out$from, -out$rows, out$to), ]
}

# What becomes of every group: it stays the "same", "joins" others in a larger group, or "splits".
group_fates <- function(flows) {
  largest <- flows[!duplicated(flows$from), ]
  largest$fate <- ifelse(largest$of_from < whole_share, "splits", ifelse(largest$of_to < whole_share, "joins", "same"))
  out <- largest[c("from", "fate", "to", "of_from", "of_to")]
  names(out)[c(1L, 3L)] <- c("group", "into")
  out$shared <- largest$rows / (largest$rows / largest$of_from + largest$rows / largest$of_to - largest$rows)
  out
}
