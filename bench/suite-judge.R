# The record of how often votes are right, and the tables of bench/README.md, from the votes of bench/suite-votes.R.
# usage: Rscript bench/suite-judge.R   reads bench/votes-tuning.csv (which set the words) and bench/votes-judging.csv
# (which say how often such votes are right), writes inst/records/vote-rates.csv, bench/judged-suites.csv and the two
# tables of bench/README.md. Rows of the record and of the suites that rest on more tables than the votes that are kept
# stay as they are: the votes of earlier tables were not kept.
votes_of <- function(side) {
  votes <- read.csv(paste0("bench/votes-", side, ".csv"), stringsAsFactors = FALSE)
  votes <- votes[(is.na(votes$error) | votes$error == "") & !is.na(votes$situation), ]
  known <- strsplit(as.character(votes$known), "/")
  votes$right <- mapply(function(k, known) k %in% known, votes$k, known)
  votes
}

# Of the kinds of tables with at least five such votes the one where they are right least often; drawn towards all of
# them by four votes, since five tables are few.
least_right <- function(votes) {
  by_suite <- split(votes$right, votes$suite)
  many <- by_suite[lengths(by_suite) >= 5]
  if (length(many) == 0L) many <- list(`all kinds together` = votes$right)
  worst <- many[[which.min(vapply(many, mean, 0))]]
  list(suite = names(many)[which.min(vapply(many, mean, 0))], right = sum(worst), tables = length(worst),
       rate = (sum(worst) + 4 * mean(votes$right)) / (length(worst) + 4))
}

words <- c("no clear count", "weak", "clear")
word_of <- function(votes) {
  rate <- least_right(votes)$rate
  if (rate >= 0.9 && mean(votes$right) >= 0.93 && nrow(votes) >= 15L) "clear"
  else if (rate >= 0.65 && nrow(votes) >= 5L) "weak"
  else "no clear count"
}

tuning <- votes_of("tuning")
judging <- votes_of("judging")
before <- read.csv("inst/records/vote-rates.csv", stringsAsFactors = FALSE)
# Votes of the fast set have the word of the tuning tables, or a lesser one.
word_before <- function(key) {
  mine <- before$word[before$set == "fast" & before$methods == key$methods & before$situation == key$situation]
  match(c(mine, words[1L])[1L], words)
}
keys <- unique(judging[c("set", "methods", "situation")])
rows <- lapply(seq_len(nrow(keys)), function(i) {
  mine <- merge(judging, keys[i, ])
  like <- tuning[tuning$methods == keys$methods[i] & tuning$situation == keys$situation[i], ]
  worst <- least_right(mine)
  tuned <- max(if (nrow(like) > 0L) match(word_of(like), words), word_before(keys[i, ]))
  word <- min(tuned, match(word_of(mine), words))
  data.frame(keys[i, ], tables = nrow(mine), right = sum(mine$right), kinds = length(unique(mine$suite)),
             worst = worst$suite, worst_tables = worst$tables, worst_right = worst$right, word = words[word])
})
record <- do.call(rbind, rows)
more <- function(old, new, by) {
  of <- function(rows) do.call(paste, c(rows[by], sep = "\r"))
  was <- match(of(new), of(old))
  stays <- !is.na(was) & old$tables[was] > new$tables
  new[stays, names(old)] <- old[was[stays], ]
  rbind(new, old[!of(old) %in% of(new), ])
}
record <- more(before, record[names(before)], c("set", "methods", "situation"))
# a kind of vote is no better with one set of indices than with the other, unless few tables say so
alike <- paste(record$methods, record$situation)
for (kind in unique(alike)) {
  known <- alike == kind & record$tables >= 15
  if (any(known)) record$word[known] <- words[min(match(record$word[known], words))]
}
record <- record[order(record$set, record$methods, -record$tables), ]
write.csv(record, "inst/records/vote-rates.csv", row.names = FALSE, quote = c(1:3, 7, 10))

both <- judging[judging$methods == "both", ]
both$word <- record$word[match(paste(both$set, both$situation),
                               ifelse(record$methods == "both", paste(record$set, record$situation), NA))]
by_suite <- do.call(rbind, lapply(split(both, list(both$suite, both$set), drop = TRUE), function(votes) {
  clear <- votes$word == "clear" & votes$verdict != "no clear count"
  found <- mean(votes$right)
  data.frame(suite = votes$suite[1], set = votes$set[1], tables = nrow(votes), found = round(found, 2),
             error = round(sqrt(found * (1 - found) / nrow(votes)), 2), clear = round(mean(clear), 2),
             clear_right = if (any(clear)) round(mean(votes$right[clear]), 2) else NA,
             groups_lost = round(mean((votes$best - votes$agree)[votes$right], na.rm = TRUE), 3),
             recovered = round(mean(votes$best >= 0.9, na.rm = TRUE), 2))
}))
by_suite <- more(read.csv("bench/judged-suites.csv"), by_suite, c("suite", "set"))
by_suite <- by_suite[order(by_suite$set, by_suite$suite), ]
write.csv(by_suite, "bench/judged-suites.csv", row.names = FALSE)
print(by_suite, row.names = FALSE)
print(record, row.names = FALSE)

# Tables of bench/README.md stand between two lines that name them.
put_into_readme <- function(name, table) {
  lines <- readLines("bench/README.md")
  ends <- match(paste0("<!-- ", c("", "end of "), name, " -->"), lines)
  cells <- do.call(paste, c(unname(as.list(table)), sep = " | "))
  body <- c(paste("|", paste(names(table), collapse = " | "), "|"), paste0("|", strrep("---|", length(table))),
            paste("|", cells, "|"))
  writeLines(c(lines[seq_len(ends[1])], "", body, "", lines[ends[2]:length(lines)]), "bench/README.md")
}

share <- function(value) ifelse(is.na(value), "-", sprintf("%.2f", value))
wide <- merge(by_suite[by_suite$set == "fast", ], by_suite[by_suite$set == "standard", ], by = "suite", all = TRUE,
              suffixes = c("", ".s"))
old <- c("recipe", "recipe scaled", "separated", "overlapping", "elongated", "heavy")
wide <- wide[order(match(wide$suite, old), tolower(wide$suite)), ]
found <- function(value, error, tables) paste0(share(value), " \u00b1 ", share(error), " (", tables, ")")
put_into_readme("suites", data.frame(
  suite = wide$suite, `fast set` = found(wide$found, wide$error, wide$tables), clear = share(wide$clear),
  `of them right` = share(wide$clear_right), `groups lost` = sprintf("%.3f", wide$groups_lost),
  `standard set` = found(wide$found.s, wide$error.s, wide$tables.s), `clear ` = share(wide$clear.s),
  `of them right ` = share(wide$clear_right.s), check.names = FALSE
))
often <- record[record$tables >= 10, ]
put_into_readme("situations", data.frame(
  set = often$set, methods = often$methods, situation = often$situation, tables = often$tables, right = often$right,
  `worst kind` = often$worst, ` ` = paste(often$worst_right, "of", often$worst_tables), word = often$word,
  check.names = FALSE
))
