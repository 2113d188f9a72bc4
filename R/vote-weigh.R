# What a vote makes of its points and of the mixture beside them: the count, whose groups, what else there is to tell.

# Where there is a mixture its components and what the rows say of them are evidence beside the points; not where the
# reader's own weights say how to count.
weigh_evidence <- function(vote, sweep, own, asked_for) {
  vote$by <- if (length(asked_for) > 0L) "weights" else "indices"
  vote$indices_say <- vote$k
  if (is.null(own$shape)) {
    vote$evidence <- evidence_table(vote$k, vote$verdict == "clear", NULL)
    return(vote)
  }
  together <- length(vote$voters) > 1L
  mixture <- utils::tail(vote$voters, 1L)
  one <- function(turn = NULL, k = vote$k, clear = vote$verdict == "clear") {
    found <- mixture_evidence(sweep, vote$preparation, mixture, own$models, turn)
    few <- own$shape$rows < few_rows
    decision <- if (is.null(found)) list(k = k, by = "indices")
    else if (!together) decided_by_mixture(found, few)
    else decided_count_by(c(list(indices = k, clear = clear, few = few), found))
    c(decision, list(found = found))
  }
  all <- one()
  vote$found <- all$found
  vote$evidence <- evidence_table(if (together) vote$k, vote$verdict == "clear", all$found)
  vote$lead <- bic_lead(vote$values, all$found$components)
  if (vote$by == "weights") {
    return(vote)
  }
  vote$by <- all$by
  vote$k <- as.integer(all$k)
  turns <- unique(vote$repeats$`repeat`)
  for (turn in turns) {
    here <- vote$repeats$`repeat` == turn & vote$repeats$index == "vote"
    mine <- one(turn, vote$repeats$k[here], isTRUE(vote$repeats$clear[here]))
    vote$repeats$k[here] <- as.integer(mine$k)
  }
  vote$at_end <- vote$k %in% max(sweep$k) && may_go_on(sweep, vote$preparation, mixture)
  vote$runner_up <- next_count(vote)
  vote$method <- if (together) method_whose_groups(vote, all) else vote$method
  vote$levels <- if (vote$k %in% all$found$levels) all$found$levels else vote$k
  vote
}

# How much the groups of the two methods that voted together are alike at the count.
methods_alike <- function(vote) {
  if (length(vote$voters) < 2L || is.na(vote$k)) {
    return(NULL)
  }
  groups <- lapply(vote$voters, function(method) {
    vote$method <- method
    fit_at(vote, vote$k)
  })
  if (any(vapply(groups, is.null, NA))) NULL else adjusted_rand(table(groups[[1L]], groups[[2L]]))
}

# Rows of the table far from everything: Tukey's outer fence of the log distances to the tenth nearest row. In small
# tables ten rows can be a group. Levels are never far.
rows_far_off <- function(ready) {
  n <- nrow(ready$x)
  numbers <- columns_of_numbers(mixture_columns(ready$x, about_columns(ready)), ncol(ready$x))
  if (n < few_rows || n > far_most_rows || length(numbers) == 0L) {
    return(integer())
  }
  score <- neighbour_distance(ready$x[, numbers, drop = FALSE], 10L)
  far <- ready$rows[score > outlier_limit(score)]
  if (length(far) < far_least * n || length(far) < 3L) integer() else far
}

far_least <- 0.005  # a row or two at the end of a tail are no news
far_most_rows <- 20000L

# Whether most columns have few values for their rows: dips between steps are then no dips between groups.
few_values <- function(x) {
  rows <- sampled_rows(nrow(x), evidence_rows)
  different <- apply(x[rows, , drop = FALSE], 2L, function(column) length(unique(column)))
  stats::median(different) < length(rows) / 4
}

# Whether some columns are levels of a category, or hold few values.
has_levels <- function(ready) length(mixture_columns(ready$x, about_columns(ready))) > 0L

# What the next best evidence would take.
next_count <- function(vote) {
  others <- setdiff(c(vote$evidence$k, vote$points$k[vote$points$points > 0]), c(vote$k, 1L))
  if (length(others) > 0L) as.integer(others[1L]) else NA_integer_
}

# k-means where only its indices stand behind the count, or groups are round; the mixture elsewhere, and where there are
# categories, which indicator columns of k-means only stand for.
method_whose_groups <- function(vote, decision) {
  if (isTRUE(vote$with_levels)) {
    return(vote$voters[2L])
  }
  if (decision$by == "indices" && !vote$k %in% c(decision$found$components, decision$found$groups)) vote$voters[1L]
  else if (vote$shape$form == "spherical" && vote$indices_say %in% vote$k) vote$voters[1L]
  else vote$voters[2L]
}
