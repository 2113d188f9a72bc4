# The gap's curves and its rule, in numbers and words.

# The index whose reference tables are drawn; none where the sweep has none of them.
gap_key <- function(sweep) indices_needing(sweep$indices, "references")

# By count, the medians over the repeats.
gap_middle <- function(sweep, vote) {
  mine <- sweep$gaps
  if (!is.null(mine)) mine <- mine[mine$preparation == vote$preparation & mine$method == vote$voters[1L], ]
  if (NROW(mine) == 0L) {
    why <- why_once(sweep$methods[[vote$voters[1L]]])
    fl_abort("argument", "There is no gap to draw: the sweep has no reference tables.",
             found = if (length(gap_key(sweep)) == 0L) "The gap is not among its indices."
                     else if (!is.null(why)) paste0(capital(why), "."),
             advice = if (length(gap_key(sweep)) == 0L) "fl_sweep(ready, indices = \"standard\") has it.")
  }
  fields <- setdiff(names(mine), c("preparation", "method", "repeat", "k"))
  by <- split(mine[fields], mine$k)
  middle <- vapply(by, function(rows) vapply(rows, stats::median, 0), numeric(length(fields)))
  out <- data.frame(k = as.integer(names(by)), t(middle), row.names = NULL)
  following <- match(out$k + 1L, out$k)
  out$mark <- out$gap[following] - out$error[following]
  out$asked <- out$k %in% sweep$k
  out
}

gap_pick <- function(vote) {
  mine <- vote$ballots[vote$ballots$index %in% gap_key(vote$sweep) & vote$ballots$rank == 1L, ]
  if (nrow(mine) == 0L) NA_integer_ else if (mine$prefers_one) 1L else mine$k
}

gap_reason <- function(curves, pick) {
  at <- curves[curves$k == pick, ]
  said <- formatC(c(at$gap, at$mark), digits = 3L, format = "g", flag = "#")
  paste0("the smallest count whose gap (", said[1L], ") reaches the next one's less its error (",
         said[2L], ")")
}

gap_rule_fact <- function(vote) {
  if (NROW(vote$sweep$gaps) == 0L || !any(vote$ballots$index %in% gap_key(vote$sweep) & vote$ballots$weight > 0)) {
    return(NULL)
  }
  pick <- gap_pick(vote)
  paste0("Gap: ", pick, " is ", gap_reason(gap_middle(vote$sweep, vote), pick), ". The highest gap is not the rule.")
}
