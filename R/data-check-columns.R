# Findings on single columns.

# A file without a header line loses its first row to the names.
find_no_header <- function(look) {
  columns <- names(look$data$table)
  if (!is.null(look$data$file) && !anyNA(as_number(columns))) {
    finding("warn", listed(columns, most = 4L), "all column names are numbers: is the header line missing?",
            "fl_data(columns = FALSE), or the first row is lost")
  }
}

find_constant <- function(look) {
  single <- look_distinct(look) == 1L
  shares <- vapply(names(look$values), function(column) {
    look$shapes[[column]]$commonest_share %||% commonest_share(look$values[[column]])
  }, 0)
  nearly <- !single & look$n >= 50L & shares >= 0.98
  vctrs::vec_rbind(
    if (any(single)) finding("warn", names(look$values)[single], "holds one single value",
                             "it will be left out of the fit"),
    if (any(nearly)) {
      columns <- names(look$values)[nearly]
      finding("warn", columns, paste0("nearly constant: one value in ", percent(shares[nearly]), " of the rows"),
              paste0("aside = ", vapply(columns, code, "")))
    }
  )
}

# How many different values each feature has.
look_distinct <- function(look) {
  vapply(names(look$values), function(column) {
    look$shapes[[column]]$distinct %||% length(unique(look$values[[column]][!is.na(look$values[[column]])]))
  }, 0L)
}

commonest_share <- function(v) {
  v <- v[!is.na(v)]
  if (length(v) == 0L) 0 else max(vctrs::vec_count(v)$count) / length(v)
}

# Whole numbers, all different, evenly stepped or hardly longer than the table: a running number or a key.
find_identifier <- function(look) {
  found <- Filter(function(column) {
    shape <- look$shapes[[column]]
    if (shape$n < 3L || shape$distinct < shape$n || any(shape$sorted != round(shape$sorted))) {
      return(FALSE)
    }
    v <- look$values[[column]]
    v <- v[is.finite(v)]
    shape$most - shape$least < 1.5 * shape$n || !is.unsorted(v) || !is.unsorted(rev(v))
  }, names(look$shapes))
  kinds <- setdiff(names(look$values), names(look$shapes))
  own <- Filter(function(column) {
    v <- look$values[[column]]
    length(unique(v[!is.na(v)])) > max(10L, 0.5 * sum(!is.na(v)))
  }, kinds)
  found <- c(found, own)
  if (length(found) > 0L) {
    finding("warn", found, paste0("looks like an identifier or a running number: ",
                                  ifelse(found %in% own, "nearly every row has its own level",
                                         "every row has its own whole number")),
            paste0("id = ", vapply(found, code, ""), ", or aside = ", vapply(found, code, "")))
  }
}

# The id must lead to one row.
find_id <- function(look) {
  ids <- row_ids(look$data)
  if (is.null(ids)) {
    return(NULL)
  }
  again <- sum(duplicated(ids[!is.na(ids)]))
  none <- sum(is.na(ids))
  said <- c(if (again > 0L) paste(counted(again, "row"), if (again == 1L) "repeats" else "repeat", "an id"),
            if (none > 0L) paste(counted(none, "row"), if (none == 1L) "has" else "have", "none"))
  if (length(said) > 0L) {
    finding("note", columns_of(look$data, "id"), paste0("does not name every row: ", listed(said)),
            "look rows up by their number, or name another id")
  }
}

# --- known classes among the features

find_giveaway <- function(look) {
  if (is.null(look$truth)) {
    return(NULL)
  }
  share <- vapply(look$values, gives_away, 0, truth = look$truth)
  found <- names(share)[share >= 0.95]
  if (length(found) > 0L) {
    finding("warn", found, paste0("gives the known class away: ",
                                  ifelse(share[found] == 1, "each of its values belongs to one class",
                                         paste0("its values name the class of ", percent(share[found]),
                                                " of the rows"))),
            paste0("aside = ", vapply(found, code, "")))
  }
}

# The share of rows whose class a column with few values names, or 0 where that would be no surprise.
gives_away <- function(values, truth) {
  known <- !is.na(values) & !is.na(truth)
  values <- values[known]
  truth <- truth[known]
  levels <- length(unique(values))
  classes <- length(unique(truth))
  if (classes < 2L || levels < classes || levels > max(2L * classes, 12L) || levels >= sum(known) / 2) {
    return(0)
  }
  counts <- table(as.character(values), truth)
  right <- sum(apply(counts, 1L, max)) / sum(counts)
  common <- max(table(truth)) / length(truth)
  if (right - common < (1 - common) / 2) 0 else right
}

find_class_codes <- function(look) {
  coded <- columns_where(look, function(s) {
    s$distinct %in% 3:8 && s$n > 5L * s$distinct && all(s$sorted == round(s$sorted)) && max(abs(s$sorted)) < 100
  })
  if (!is.null(look$truth)) {
    coded <- coded[vapply(look$values[coded], gives_away, 0, truth = look$truth) < 0.95]
  }
  if (length(coded) > 0L) {
    values <- vapply(look$shapes[coded], function(s) listed(unique(s$sorted), most = 6L), "")
    finding("warn", coded, paste0("holds only ", values, ": codes, not amounts?"),
            paste0("if so: fl_data(types = list(", named_code(coded, "\"category\""), ")), or truth or aside = ",
                   vapply(coded, code, "")))
  }
}

# Text with few values where no truth is named.
find_labels <- function(look) {
  if (!is.null(look$truth)) {
    return(NULL)
  }
  labels <- Filter(function(column) {
    v <- look$data$table[[column]]
    levels <- length(unique(v[!is.na(v)]))
    levels %in% 2:20 && length(v) >= 5L * levels && is.null(text_number_finding(as.character(v), column, seq_along(v)))
  }, open_texts(look$data))
  if (length(labels) > 0L) {
    finding("note", labels, "few different values, kept aside: known classes, or a category to cluster?",
            paste0("truth = ", vapply(labels, code, ""), ", or name it in features"))
  }
}

find_one_class <- function(look) {
  if (!is.null(look$truth) && length(unique(look$truth[!is.na(look$truth)])) < 2L) {
    finding("note", columns_of(look$data, "truth"), "has one class only: agreement with it says nothing",
            "name another truth, or none")
  }
}

# --- shape

# A long tail is one that stays when the values beyond Tukey's outer fences are taken away; else they are outlying.
has_long_tail <- function(s) {
  if (s$distinct < 10L || is.na(s$skew) || abs(s$skew) <= 2) {
    return(FALSE)
  }
  inner <- s$sorted[s$sorted >= s$lower - 3 * (s$upper - s$lower) & s$sorted <= s$upper + 3 * (s$upper - s$lower)]
  left <- skewness(inner)
  !is.na(left) && left * sign(s$skew) > 0.6
}

find_skew <- function(look) {
  long <- columns_where(look, has_long_tail)
  if (length(long) > 0L) {
    skews <- vapply(look$shapes[long], `[[`, 0, "skew")
    how <- vapply(look$shapes[long], helping_transform, "")
    finding("warn", long, paste0("long ", ifelse(skews > 0, "right", "left"), " tail (skewness ", digits3(skews),
                                 "): a few rows would stretch the groups"),
            paste0("transform = c(", named_code(long, quoted(how)), ")"))
  }
}

# The simplest transform that brings the skewness below 1, else the one that brings it lowest.
helping_transform <- function(shape) {
  v <- shape$sorted
  after <- vapply(c("log", "log1p", "square_root", "power"), function(how) {
    if (how != "power" && !all(transforms[[how]]$takes(v))) {
      return(Inf)
    }
    y <- transforms[[how]]$forward(v, transforms[[how]]$learn(v))
    abs(skewness(y))
  }, 0)
  after[is.na(after)] <- Inf
  names(after)[if (any(after < 1)) which(after < 1)[1L] else which.min(after)]
}

# How many interquartile ranges beyond one quartile per value of a normal sample hardly ever lies, in a table of this
# size: at least Tukey's three.
outlying_reach <- function(look) {
  cells <- max(1, look$n * length(look$shapes))
  furthest <- stats::qnorm(0.005 / cells, lower.tail = FALSE) * (1 + 2 / sqrt(max(look$n, 16)))
  max(3, furthest / 1.349 - 0.5)
}

find_outlying <- function(look) {
  codes <- find_codes_for_missing(look)$column
  reach_of <- function(s) outlying_reach(look) * (s$upper - s$lower)
  far <- setdiff(columns_where(look, function(s) {
    reach <- reach_of(s)
    n <- sum(s$sorted < s$lower - reach | s$sorted > s$upper + reach)
    s$distinct > 10L && reach > 0 && n > 0L && n <= 0.05 * s$n && !has_long_tail(s)
  }), codes)
  vctrs::vec_rbind(!!!lapply(far, function(column) {
    s <- look$shapes[[column]]
    reach <- reach_of(s)
    v <- look$values[[column]]
    out <- which(v < s$lower - reach | v > s$upper + reach)
    furthest <- out[which.max(abs(v[out] - s$median))]
    finding("warn", column, paste0(counted(length(out), "value"), " far beyond the rest (", digits3(v[furthest]),
                                   " in row ", look$rows[furthest], "; half of all lie between ", digits3(s$lower),
                                     " and ",
                                   digits3(s$upper), ")"),
            "correct it if it is wrong; else outliers = \"winsorise\" or \"drop\"")
  }))
}

# Two values lie far apart once scaled, and most so where one is rare.
find_two_valued <- function(look) {
  distinct <- look_distinct(look)
  number <- names(distinct) %in% names(look$shapes)
  two <- names(distinct)[distinct == 2L & (number | vapply(look$values, is.logical, NA))]
  columns <- Filter(function(column) commonest_share(look$values[[column]]) < 0.98, two)
  others <- number & distinct > 10L
  if (length(columns) == 0L || !any(others)) {
    return(NULL)
  }
  said <- vapply(look$values[columns], function(v) {
    v <- v[!is.na(v)]
    counts <- sort(table(v), decreasing = TRUE)
    share <- counts[[1L]] / length(v)
    paste0("two values (", names(counts)[1L], " in ", percent(share), " of the rows): scaled, they lie ",
           digits3(1 / sqrt(share * (1 - share))), " sd apart and may cut the rows in two by themselves")
  }, "")
  finding("warn", columns, said, paste0("aside = ", vapply(columns, code, ""), ", or weights = c(",
                                        named_code(columns, "0.3"), ")"))
}

find_rare_levels <- function(look) {
  kinds <- setdiff(names(look$values)[!vapply(look$values, is.logical, NA)], names(look$shapes))
  vctrs::vec_rbind(!!!lapply(kinds, function(column) {
    counts <- table(as.character(look$values[[column]]))
    rare <- counts[counts < max(5, 0.01 * look$n)]
    if (length(rare) > 0L && length(counts) > 2L) {
      finding("note", column, paste0(counted(length(rare), "rare level"), ": ",
                                     listed(paste0(names(rare), " (", counted_rows(rare), ")"), most = 4L)),
              "join them with others before reading, or leave them: each gets a column of its own")
    }
  }))
}

counted_rows <- function(n) vapply(n, counted, "", thing = "row")

find_spreads <- function(look) {
  spreads <- vapply(look$shapes, `[[`, 0, "sd")
  spreads <- spreads[!is.na(spreads) & spreads > 0]
  if (length(spreads) > 1L && max(spreads) > 10 * min(spreads)) {
    wide <- names(which.max(spreads))
    narrow <- names(which.min(spreads))
    finding("note", paste0(narrow, ", ", wide),
            paste0("very different spreads (sd ", digits3(min(spreads)), " and ", digits3(max(spreads)),
                   "): unscaled, ", wide, " would decide the groups"),
            "keep a scale (mean_sd is the default)")
  }
}

find_humps <- function(look) {
  humps <- columns_where(look, function(s) beyond_chance(s))
  if (length(humps) > 0L) {
    dips <- vapply(look$shapes[humps], `[[`, 0, "dip")
    humps <- humps[order(-dips)]
    finding("note", listed(humps, most = 3L),
            paste0(if (length(humps) == 1L) "has" else "have", " several peaks, beyond chance: ",
                   if (length(humps) == 1L) "it separates" else "they separate", " the rows most"),
            "fl_sift(data) ranks all columns")
  }
}
