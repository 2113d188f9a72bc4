# Findings on several columns, and on rows.

# Groups of columns that are nearly one. Each counts as often as it has copies.
find_copies <- function(look) {
  pairs <- look$pairs$close
  if (NROW(pairs) == 0L) {
    return(NULL)
  }
  member <- seq_along(look$pairs$columns)
  for (i in seq_len(nrow(pairs))) {
    joined <- member[pairs[i, 1:2]]
    member[member == max(joined)] <- min(joined)
  }
  groups <- Filter(function(g) length(g) > 1L, split(seq_along(member), member))
  shown <- utils::head(groups, 10L)
  vctrs::vec_rbind(!!!lapply(shown, function(group) {
    r <- pairs[pairs[, 1L] %in% group, 3L]
    columns <- look$pairs$columns[group]
    finding("warn", listed(columns, "and", most = 6L), copy_words(length(group), r),
            paste0(if (length(group) > 7L) "reduce = 0.95 joins them in components; or keep one, the others aside"
                   else paste0("aside = ", code(columns[-1L])),
                   if (length(group) <= 4L) {
                     paste0(", or weights = c(",
                            paste(named_code(columns, fixed2(1 / sqrt(length(group)))), collapse = ", "), ")")
                   }))
  }), if (length(groups) > length(shown)) {
    finding("warn", "the table", paste0(counted(length(groups) - length(shown), "more group"),
                                        " of columns that are nearly one"), "reduce = 0.95 in fl_prepare()")
  })
}

copy_words <- function(n, r) {
  range <- unique(fixed2(range(r)))
  paste0("nearly one column (r = ", paste(range, collapse = " to "), "): it counts ",
         if (n == 2L) "twice" else paste(spelt(n), "times"))
}

# In columns with few values rows are bound to repeat; as many as chance makes are not told.
find_repeated_rows <- function(look) {
  complete <- complete_rows(as.list(look$values))
  whole <- if (all(complete)) look$values else vctrs::vec_slice(look$values, complete)
  again <- duplicated(vctrs::vec_group_id(whole))
  if (any(again) && sum(again) > 3 * repeats_by_chance(whole)) {
    at <- look$rows[complete][which(again)[1L]]
    finding("note", "rows", paste0(counted(sum(again), "row"), if (sum(again) == 1L) " repeats" else " repeat",
                                   " another in every feature (the first: row ", at, ")"),
            "if they were entered twice, leave them out: fl_set_apart(data, rows, reason)")
  }
}

# Pairs of rows that would be alike in every column if the columns had nothing to do with each other.
repeats_by_chance <- function(values) {
  n <- nrow(values)
  alike <- vapply(values, function(v) {
    counts <- as.double(vctrs::vec_count(v)$count)
    sum(counts * (counts - 1)) / (n * (n - 1))
  }, 0)
  n * (n - 1) / 2 * prod(alike)
}

find_wide <- function(look) {
  d <- length(look$values)
  if (d > look$n) {
    finding("warn", "the table", paste0("more columns (", thousands(d), ") than rows (",
                                        thousands(look$n), "): distances say little in so many columns"),
            "choose columns with use, or reduce = 0.9; if rows are variables: fl_data(flip = TRUE)")
  }
}

# A long table has one row per measurement: two columns that name each row between them, and nearly every pair of their
# values is there. Clustering its rows would group measurements, not what was measured.
find_long <- function(look) {
  keys <- long_keys(look)
  if (is.null(keys)) {
    return(NULL)
  }
  values <- vapply(look$data$table[look$rows, keys], function(v) length(unique(v)), 0L)
  numbers <- setdiff(names(look$shapes), keys)
  if (length(numbers) == 0L) {
    return(NULL)
  }
  finding(if (length(numbers) == 1L) "warn" else "note", listed(keys),
          paste0("look like one row per measurement: ", counted(values[1L], "value"), " of ", keys[1L],
                 ", each with up to ", thousands(values[2L]), " of ", keys[2L], ", and no pair twice"),
          paste0("fl_data(widen = ", code(c(keys, numbers[1L])), ") makes one row per ", keys[1L]))
}

long_least <- list(rows = 30L, subjects = 5L, measures = 3L, filled = 0.8)

# The pair of columns with the fewest empty cells; the subject first.
long_keys <- function(look) {
  all <- look$data$table
  table <- if (look$n == nrow(all)) all else vctrs::vec_slice(all, look$rows)
  few <- function(name) {
    shape <- look$shapes[[name]]
    v <- table[[name]]
    if (isTRUE(shape$distinct > nrow(table) / 3) || anyNA(v) || is.list(v)) NA_integer_
    else if (isTRUE(shape$n == nrow(table))) shape$distinct
    else length(unique(v))
  }
  distinct <- vapply(names(table), few, 0L)
  type <- type_of(look$data, names(table))
  words <- type != "number"
  whole <- vapply(seq_along(table), function(j) {
    v <- table[[j]]
    !is.na(distinct[j]) && is.numeric(v) && all(v == round(v))
  }, NA)
  can <- which(!is.na(distinct) & distinct >= long_least$measures & distinct <= nrow(table) / 3 &
                 (words | whole %in% TRUE))
  if (nrow(table) < long_least$rows || length(can) < 2L || length(can) > 20L) {
    return(NULL)
  }
  pairs <- utils::combn(can, 2L, simplify = FALSE)
  filled <- vapply(pairs, function(pair) nrow(table) / prod(as.double(distinct[pair])), 0)
  fits <- vapply(seq_along(pairs), function(i) {
    pair <- pairs[[i]]
    filled[i] >= long_least$filled && filled[i] <= 1 && any(words[pair]) &&
      max(distinct[pair]) >= long_least$subjects && !anyDuplicated(table[pair])
  }, NA)
  if (!any(fits)) {
    return(NULL)
  }
  best <- pairs[[which(fits)[which.max(filled[fits])]]]
  subject_first(names(table)[best], table, type[best])
}

# What is measured at dates or at numbers in a row is the subject; else the column with more values.
subject_first <- function(keys, table, type) {
  like_date <- vapply(table[keys], function(v) all(grepl("^\\d+[-./]\\d+[-./]\\d+$", v)), NA)
  ordered <- type %in% c("date", "number") | like_date
  if (sum(ordered) == 1L) {
    return(keys[order(ordered)])
  }
  keys[order(-vapply(table[keys], function(v) length(unique(v)), 0L))]
}
