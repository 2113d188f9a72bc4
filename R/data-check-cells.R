# Findings on cells: values that are not what they should be, or are not there.

find_infinite <- function(look) {
  wrong <- vapply(look$values[names(look$shapes)], function(v) {
    ends <- suppressWarnings(range(v, na.rm = TRUE))
    if (all(is.na(v)) || max(abs(ends)) <= 1e150) NA_integer_ else which(is.infinite(v) | abs(v) > 1e150)[1L]
  }, 1L)
  wrong <- wrong[!is.na(wrong)]
  if (length(wrong) > 0L) {
    finding("stop", names(wrong), paste0("row ", look$rows[wrong], " holds an infinite or too large number"),
            "correct the value, or make it missing")
  }
}

# Text kept aside by default, most of whose values are numbers, was meant to be a number column.
find_text_numbers <- function(look) {
  vctrs::vec_rbind(!!!lapply(open_texts(look$data), function(column) {
    text_number_finding(as.character(look$data$table[[column]][look$rows]), column, look$rows)
  }))
}

open_texts <- function(data) {
  data$roles$column[data$roles$type %in% c("text",
                                           "category") & data$roles$role == "aside" & data$roles$by == "default"]
}

text_number_finding <- function(values, column, rows) {
  present <- trimws(values[!is.na(values)])
  numbers <- !is.na(as_number(present))
  if (length(present) == 0L || any(grepl("^-?0[0-9]", present)) ||
        (all(numbers) && all(nchar(present) > 15L))) {
    return(NULL)
  }
  like <- function(pattern) mean(grepl(pattern, present)) >= 0.9
  if (all(grepl("^-?[1-9][0-9]{0,2}(,[0-9]{3})+$", present[!numbers])) && !all(numbers)) {
    finding("warn", column, paste0("numbers with commas that may stand between thousands or before decimals (",
                                   quoted(present[1L]), "), so it is kept aside"),
            "write them without commas between thousands, and with decimal points")
  } else if (like(decimal_comma) && !all(numbers)) {
    finding("warn", column, "numbers with decimal commas, so it is kept aside",
            paste0("fl_data(types = list(", named_code(column, "\"number\""), "))"))
  } else if (like("^-?[0-9]{1,3}([., '][0-9]{3})+([.,][0-9]+)?$")) {
    finding("warn", column, "numbers with signs between the thousands, so it is kept aside",
            "write them without these signs")
  } else if (like("^-?[0-9]+([.,][0-9]+)?[[:space:]]*[^0-9.,:[:space:]-]{1,8}[0-9]?$") && !all(numbers)) {
    finding("warn", column, paste0("numbers with a unit in the cell (", quoted(present[1L]), "), so it is kept aside"),
            "write the number alone; fl_data(units = ) takes the unit")
  } else if (all(numbers)) {
    finding("warn", column, "numbers stored as text, so it is kept aside",
            paste0("fl_data(types = list(", named_code(column, "\"number\""), "))"))
  } else if (mean(numbers) >= 0.5) {
    words <- unique(present[!numbers])
    row <- first_text(values)
    finding("warn", column,
            paste0("a number column with text in ", counted(sum(!numbers), "row"), " (row ", rows[row], ": ",
                   quoted(values[row]), "), so it is kept aside"),
            paste0(if (length(words) <= 3L) paste0("if it means missing: fl_data(blanks = ", code(words), "); else "),
                   "correct the text and read the table again"))
  }
}

find_text_dates <- function(look) {
  forms <- c("%d.%m.%Y" = "^\\d{1,2}[.]\\d{1,2}[.]\\d{4}$", "%d/%m/%Y" = "^\\d{1,2}/\\d{1,2}/\\d{4}$",
             "%Y/%m/%d" = "^\\d{4}/\\d{1,2}/\\d{1,2}$", "%Y%m%d" = "^(19|20)\\d{2}(0[1-9]|1[0-2])[0-3]\\d$")
  roles <- look$data$roles
  texts <- roles$column[roles$type %in% c("text", "category") & roles$role == "aside"]
  vctrs::vec_rbind(!!!lapply(texts, function(column) {
    values <- as.character(look$data$table[[column]][look$rows])
    present <- values[!is.na(values)]
    form <- names(forms)[vapply(forms, function(p) length(present) > 0L && all(grepl(p, present)), NA)]
    if (length(form) > 0L) {
      # 31/12 is a day before a month, 12/31 a month before a day
      swapped <- sub("%d/%m", "%m/%d", form[1L], fixed = TRUE)
      if (anyNA(as.Date(present, format = form[1L])) && !anyNA(as.Date(present, format = swapped))) form <- swapped
      finding("note", column, paste0("dates stored as text (", quoted(present[1L]), ")"),
              paste0("fl_data(types = list(", named_code(column, quoted(form[1L])), "))"))
    }
  }))
}

# -99, -999, 9999 and their like, apart from all other values.
find_codes_for_missing <- function(look) {
  found <- lapply(names(look$shapes), function(column) {
    shape <- look$shapes[[column]]
    for (end in list(c(shape$least, 1), c(shape$most, -1))) {
      code <- end[1L]
      if (shape$n < 10L || is.null(code) || !grepl("^-?9{2,6}([.]9+)?$", format(code, digits = 10L))) next
      rest <- shape$sorted[shape$sorted != code]
      gap <- if (end[2L] > 0) rest[1L] - code else code - rest[length(rest)]
      if (length(rest) > 1L && gap > rest[length(rest)] - rest[1L] && gap > 0) {
        cells <- shape$n - length(rest)
        return(finding("warn", column, paste0(digits_plain(code), " in ", counted(cells, "cell"),
                                             ", far from every other value: a code for missing?"),
                       paste0("fl_data(blanks = ", quoted(digits_plain(code)), ")")))
      }
    }
  })
  vctrs::vec_rbind(!!!found)
}

digits_plain <- function(value) format(value, digits = 15L, scientific = FALSE, trim = TRUE)

find_missing <- function(look) {
  gaps <- vapply(look$values, function(v) sum(is.na(v)), 0L)
  empty <- names(gaps)[gaps == look$n]
  gaps <- sort(gaps[gaps > 0L & gaps < look$n], decreasing = TRUE)
  none <- if (length(empty) > 0L) {
    finding("warn", listed(empty), paste0(if (length(empty) == 1L) "holds" else "hold",
                                          " no value at all: no row is complete"),
            paste0("aside = ", code(empty)))
  }
  if (length(gaps) == 0L) {
    return(none)
  }
  frame <- as.list(look$values[names(gaps)])
  whole <- sum(complete_rows(frame))
  share <- 1 - whole / look$n
  best <- which.max(vapply(names(gaps), function(c) sum(complete_rows(frame[setdiff(names(gaps), c)])), 0))
  gain <- if (length(gaps) > 1L) sum(complete_rows(frame[-best])) - whole else look$n - whole
  vctrs::vec_rbind(none, finding(
    if (share > 0.2) "warn" else "note", listed(names(gaps), most = 6L),
    paste0(counted(sum(gaps), "missing cell"), if (length(gaps) > 1L) {
      paste0(" (", listed(paste(gaps, "in", names(gaps)), most = 6L), ")")
    }, ": ", digits3(whole), " of ", digits3(look$n), " rows are complete; the other ", digits3(look$n - whole),
    " will get no group"),
    paste0("missing = \"nearest\" or \"middle\" fills them",
           if (share > 0.2) paste0("; without ", names(gaps)[best], " ", digits3(whole + gain), " rows are complete"))
  ))
}

# Levels that are one but for case and blanks.
find_spelling <- function(look) {
  kinds <- setdiff(look$data$roles$column[look$data$roles$type %in% c("category", "ordered")], names(look$shapes))
  vctrs::vec_rbind(!!!lapply(kinds, function(column) {
    levels <- unique(as.character(look$data$table[[column]]))
    levels <- levels[!is.na(levels)]
    same <- split(levels, gsub("[[:space:]_-]+", " ", trimws(tolower(levels))))
    twice <- Filter(function(l) length(l) > 1L, same)
    if (length(twice) > 0L) {
      finding("warn", column, paste0("levels that differ in spelling only: ",
                                     listed(vapply(twice, function(l) paste(quoted(l), collapse = " / "), ""),
                                            most = 3L)),
              "write them alike: they count as different")
    }
  }))
}
