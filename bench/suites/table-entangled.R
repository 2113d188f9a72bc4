# Categories that go together within a group too: answers cut from correlated numbers, some usual for the group, some
# the same in all groups. What a mixture of independent levels assumes does not hold.
entangled_table <- function(...) {
  k <- sample(2:4, 1)
  group <- rep(seq_len(k), pmax(60, round(sample(400:900, 1) * uneven_shares(k))))
  n <- length(group)
  items <- sample(6:10, 1)
  telling <- sample(items, ceiling(0.7 * items))
  common <- rnorm(n)
  out <- lapply(seq_len(items), function(j) {
    levels <- sample(3:5, 1)
    place <- if (j %in% telling) sample(seq_len(k)) * 2.5 else rep(0, k)
    value <- place[group] + sqrt(0.35) * common + sqrt(0.65) * rnorm(n)
    cuts <- sort(rnorm(levels - 1, mean(range(place)), 0.2 + 0.45 * diff(range(place))))
    letters[findInterval(value, cuts) + 1]
  })
  list(x = stats::setNames(as.data.frame(out), paste0("answer", seq_len(items))), k = k, group = group)
}
