# What studies, runs, standings and track records say, in sentences.

#' @export
fl_facts.fl_study <- function(x) {
  cells <- study_cells(x)
  asked <- sum(cells$asked)
  preparations <- vapply(x$ready, length, 0L)
  free <- vapply(x$methods, `[[`, NA, "free_count")
  many <- sum(free) > 1L
  rows <- vapply(x$datasets, function(d) thousands(nrow(d$table)), "")
  c(
    paste0("Study ", quoted(x$name), ": ", counted(asked, "fit"), " of ", counted(length(x$methods), "method"), " on ",
           counted(sum(preparations), "prepared table"), "."),
    paste0("Tables: ", listed(paste0(names(x$datasets), " (", rows, " rows",
                                     ifelse(is.na(unlist(known_counts(x))), ", no known classes", ""), ")")), "."),
    paste0("Preparations: ", listed(names(x$preparations)), "; counts ", counts_said(x$k), "; ",
           counted(x$repeats, "repeat"), "."),
    paste0("Methods: ", listed(names(x$methods)), "."),
    if (any(free)) paste0(listed(names(x$methods)[free]), if (many) " find" else " finds", " the count; ",
                          if (many) "they are" else "it is", " fitted at several values of ",
                          if (many) "their" else "its", " parameter."),
    if (nrow(cells) > asked) paste0(counted(nrow(cells) - asked, "extra fit"), " at neighbouring counts, for the ",
                                    "indices that compare neighbours."),
    if (is.finite(x$seconds) || is.finite(x$megabytes)) {
      paste0("A fit may take ", listed(c(if (is.finite(x$seconds)) paste(digits3(x$seconds), "s"),
                                         if (is.finite(x$megabytes)) paste(thousands(x$megabytes), "MB"))), " at most.")
    }
  )
}

counts_said <- function(k) {
  if (length(k) > 2L && all(diff(k) == 1L)) paste(k[1L], "to", k[length(k)]) else listed(k)
}

time_said <- function(seconds) {
  if (is.na(seconds)) "-"
  else if (seconds < 60) paste(digits3(signif(seconds, 2)), "s")
  else if (seconds < 3600) paste0(seconds %/% 60, " min ", round(seconds %% 60), " s")
  else paste0(seconds %/% 3600, " h ", round(seconds %% 3600 / 60), " min")
}

# A time is told of what this run did only.
when_done <- function(x, is_done, now) {
  if (!any(now)) {
    return(if (sum(is_done) == 1L) "is in its store" else "are in its store")
  }
  paste0("done", if (any(is_done & !now)) paste0(", ", thousands(sum(is_done & now)), " of them now,"), " in ",
         time_said(x$elapsed), " (", counted(x$workers, "worker"), ")")
}

#' @export
fl_facts.fl_run <- function(x) {
  asked <- x$cells[x$cells$asked, ]
  is_done <- asked$status == "done"
  done <- sum(is_done)
  open <- sum(x$cells$status == "open")
  c(
    paste0(thousands(done), " of ", counted(nrow(asked), "fit"), " of ", quoted(x$study$name), " ",
           when_done(x, is_done, asked$cell %in% x$now), if (open > 0L) paste0("; ", thousands(open), " open"), "."),
    failure_facts(asked),
    absent_facts(x$study$indices)
  )
}

# Indices of the maker's own that are not in this session: what the store holds of them is shown, no more.
absent_facts <- function(indices) {
  absent <- Filter(is_absent, indices)
  vapply(absent, function(index) {
    paste0("The index ", index$key, " is ", index$absent, ": its stored values are shown, and it has no vote.")
  }, "", USE.NAMES = FALSE)
}

# A sentence for each method and table that failed; reasons that differ in numbers are one.
failure_facts <- function(cells, most = 6L) {
  failed <- cells[!cells$status %in% c("done", "open"), ]
  if (nrow(failed) == 0L) {
    return(NULL)
  }
  sets <- split(seq_len(nrow(failed)), list(failed$method, failed$dataset, gsub("[0-9.,]+", "", failed$reason)),
                drop = TRUE)
  said <- vapply(sets, function(rows) {
    one <- failed[rows[1L], ]
    word <- switch(one$status, slow = "too slow", large = "too large", "failed")
    k <- sort(unique(failed$k[rows]))
    paste0(counted(length(rows), "fit"), " ", word, ": ", one$method, " on ", one$dataset,
           if (length(k) > 0L) paste0(" (k = ", counts_said(k), ")"), ": ", sub("[.]$", "", one$reason), ".")
  }, "")
  shown <- utils::head(unname(said), most)
  c(shown, if (length(said) > most) paste0("And ", length(said) - most, " more such: as.data.frame(result)"))
}

measure_said <- function(by) sub(" rand$", " Rand", gsub("_", " ", by))

at_said <- c(known = "at the known count", vote = "at the count of each method's own vote",
             best = "at the best count of each, which nobody could know")

#' @export
fl_facts.fl_standings <- function(x) {
  c(
    standings_headline(x), standing_facts(x),
    if (length(x$unscored) > 0L) paste0("Without known classes, so without a score: ", listed(x$unscored), "."),
    if (length(x$apart) > 0L) paste0("Left out, because not every fit was tried there: ", listed(x$apart), "."),
    if (x$open > 0L) paste0(counted(x$open, "fit"), " ", if (x$open == 1L) "is" else "are", " still open."),
    failure_facts(x$failed)
  )
}

# Who is better than whom beyond chance: by mean ranks, and pair by pair.
ranks_apart <- function(x) {
  beyond <- x$ranks$rank - x$ranks$rank[1L] > x$difference
  x$ranks$contestant[beyond %in% TRUE & isTRUE(x$test$p <= x$level)]
}

standings_headline <- function(x) {
  ranks <- x$ranks
  first <- ranks[1L, ]
  where <- paste0(" over ", counted(length(x$tables), "table"), " (", measure_said(x$by), " ", at_said[[x$at]], ")")
  if (nrow(ranks) == 1L) {
    return(paste0(first$contestant, " alone: mean ", measure_said(x$by), " ", fixed2(first$value), " over ",
                  counted(length(x$tables), "table"), ", ", at_said[[x$at]], "."))
  }
  tied <- ranks$contestant[ranks$rank <= first$rank + 1e-9]
  ranked <- if (length(tied) == 1L) paste0(tied, " ranks first of ", spelt(nrow(ranks)), ": mean rank ")
  else paste0(listed(tied), " share the best mean rank, ")
  better <- ranks_apart(x)
  none <- paste0("No ", if (x$of == "both") "combination" else x$of, " is shown to be best. ")
  paste0(if (length(better) == 0L) none, ranked, fixed2(first$rank),
         where, if (length(better) > 0L) paste0("; beyond chance it is better than ", listed(better)), ".")
}

standing_facts <- function(x) {
  m <- nrow(x$ranks)
  n <- length(x$tables)
  if (m < 2L) {
    return(NULL)
  }
  c(winners_fact(x),
    if (n < 2L) "One table says nothing about others." else mean_ranks_fact(x),
    if (n >= 2L && n < 6L) paste0("No pair can be told apart on ", spelt(n), " tables; at least six are needed.")
    else if (n >= 6L) pairs_fact(x))
}

mean_ranks_fact <- function(x) {
  beyond <- isTRUE(x$test$p <= x$level)
  # the critical difference is for pairs, and may be exceeded where the test of all does not reject
  far <- any(x$ranks$rank - x$ranks$rank[1L] > x$difference, na.rm = TRUE)
  paste0("The mean ranks ", if (beyond) "differ" else "do not differ", " beyond chance (Friedman p = ",
         p_said(x$test$p), if (beyond == far) {
           paste0("; a difference of ", fixed2(x$difference), if (beyond) " does" else " would")
         }, ").")
}

pairs_fact <- function(x) {
  pairs <- x$pairs[x$pairs$adjusted <= x$level, ]
  if (nrow(pairs) == 0L) {
    return("Compared pair by pair (signed ranks), none are shown to differ.")
  }
  paste0("Compared pair by pair (signed ranks), these differ: ", listed(paste(pairs$first, "and", pairs$second)), ".")
}

winners_fact <- function(x) {
  if (length(x$tables) < 2L) {
    return(NULL)
  }
  winners <- table_winners(x)
  everywhere <- Reduce(intersect, winners)
  if (length(everywhere) == nrow(x$ranks)) {
    return("All are equally good on every table.")
  }
  if (length(everywhere) > 0L) {
    shared <- sum(lengths(winners) > length(everywhere))
    return(paste0(listed(everywhere), if (length(everywhere) == 1L) " scores" else " score", " highest on every table",
                  if (shared > 0L) paste0(", on ", spelt(shared), " together with others"), "."))
  }
  first <- vapply(winners, listed, "")
  won <- split(names(first), factor(first, unique(first)))
  paste0("None scores highest everywhere: ", paste0(names(won), " on ", vapply(won, listed, ""), collapse = "; "), ".")
}

# The contestants with the best score of each table.
table_winners <- function(x) {
  lapply(stats::setNames(nm = x$tables), function(table) {
    mine <- x$scores[x$scores$dataset == table & !is.na(x$scores$value), ]
    value <- if (x$lower) -mine$value else mine$value
    intersect(x$ranks$contestant, mine$contestant[value >= max(value) - 1e-9])
  })
}

# A share of cases need not be one of tables: four tables in two repeats may give 38%.
tables_and_cases <- function(record) {
  tables <- length(record$known)
  cases <- max(record$record$cases)
  several <- c(if (length(unique(record$cases$preparation)) > 1L) "preparations",
               if (length(unique(record$cases$`repeat`)) > 1L) "repeats")
  paste0(counted(tables, "table"),
         if (cases > tables) paste0(" (", counted(cases, "case"), " with their ", listed(several),
                                    "; means over the tables)"))
}

#' @export
fl_facts.fl_track_record <- function(x) {
  record <- x$record
  votes <- record[record$voter == "vote", ]
  best <- record[record$voter != "vote", ][1L, ]
  share <- function(row) paste0(percent(row$found), " (95% interval ", percent(row$low), " to ", percent(row$high), ")")
  few <- length(x$known) < 10L
  c(
    if (nrow(votes) > 0L) {
      paste0("The vote of ", votes$method[1L], " found the true number in ", share(votes[1L, ]), ", on ",
             tables_and_cases(x), ".")
    },
    paste0("Among the indices, ", best$voter, " of ", best$method, " was right most often: ", share(best), "."),
    if (few) "So few tables show little: every interval is wide.",
    if (any(record$lost > 0.1 & record$found < 0.5, na.rm = TRUE)) {
      worst <- record[which.max(record$lost), ]
      paste0("Following ", worst$voter, " of ", worst$method, " costs most: ", fixed2(worst$lost), " ",
             measure_said(x$by), " on average.")
    },
    relation_fact(x)
  )
}

# Which index values go with better answers, over all tables.
relation_fact <- function(x) {
  if (NROW(x$relation) == 0L) {
    return(NULL)
  }
  mean_of <- sort(tapply(x$relation$correlation, x$relation$index, mean), decreasing = TRUE)
  last <- length(mean_of)
  said <- function(i) paste0(names(mean_of)[i], " (", fixed2(mean_of[[i]]), ")")
  paste0(if (mean_of[[1L]] < 0.3) "No index goes with the better answer on all tables; closest is "
         else "The index that goes most with the better answer is ", said(1L),
         if (last > 1L) paste0(", least ", said(last)), ": mean rank correlation with ", measure_said(x$by), ".")
}
