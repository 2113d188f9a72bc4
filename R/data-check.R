# What may go wrong with a table, told before anything is fitted. One function a finding; each returns the rows
# of the result it wants to add, or nothing.

#' What to look at before clustering
#'
#' Looks for what spoils a clustering without a word: numbers stored as text, missing and infinite values, columns
#' that hold one value, a running number or the classes themselves, spreads so different that one column would
#' decide everything unscaled, long tails, near-copies of one column.
#'
#' @param data From [fl_data()] or [fl_demo()].
#' @return An object of class `fl_check`, a data frame with a row a finding: `severity` (`stop`: the preparation
#'   will refuse; `warn`: likely to spoil the groups; `note`: good to know), `column`, `finding`, `advice`. It has
#'   no rows when there is nothing to say.
#' @examples
#' fl_check(fl_demo("water_samples"))
#' @export
fl_check <- function(data) {
  check_made_by(data, "fl_data", "data")
  looks <- list(find_infinite, find_no_header, find_text_numbers, find_constant, find_identifier, find_classes,
                find_one_class,
                find_copies, find_skew, find_missing, find_spreads)
  findings <- vctrs::vec_rbind(no_finding(), !!!lapply(looks, function(look) look(data)))
  findings <- findings[order(match(findings$severity, c("stop", "warn", "note"))), ]
  structure(findings, class = c("fl_check", class(findings)), name = data$name)
}

finding <- function(severity, column, finding, advice = "") {
  tibble::tibble(severity = severity, column = column, finding = finding, advice = advice)
}

no_finding <- function() finding(character(), character(), character(), character())

features_of <- function(data) data$table[columns_of(data, "feature")]

find_infinite <- function(data) {
  values <- features_of(data)
  wrong <- vapply(values, function(v) which(is.infinite(v) | abs(v) > 1e150)[1L], 1L)
  wrong <- wrong[!is.na(wrong)]
  if (length(wrong) > 0L) {
    finding("stop", names(wrong), paste0("row ", wrong, " holds an infinite or too large number"),
            "correct the value, or make it missing")
  }
}

# A file without a header line loses its first row to the names.
find_no_header <- function(data) {
  columns <- names(data$table)
  if (!is.null(data$file) && !anyNA(as_number(columns))) {
    finding("warn", listed(columns, most = 4L), "all column names are numbers: is the header line missing?",
            "give the file a header line, or its first row is lost")
  }
}

# A text column most of whose values are numbers was meant to be one.
find_text_numbers <- function(data) {
  texts <- data$roles$column[data$roles$type == "text" & data$roles$role == "aside"]
  vctrs::vec_rbind(!!!lapply(texts, function(column) {
    values <- data$table[[column]]
    present <- values[!is.na(values)]
    if (length(present) > 0L && all(grepl("^-?[0-9]+,[0-9]+$", present))) {
      return(finding("warn", column, "numbers with decimal commas, so it is kept aside",
                     "write them with decimal points"))
    }
    if (length(present) == 0L || mean(!is.na(as_number(present))) < 0.5) {
      return(NULL)
    }
    row <- first_text(values)
    if (is.na(row)) {
      return(finding("warn", column, "numbers stored as text, so it is kept aside",
                     "turn it into numbers to cluster it"))
    }
    wrong <- sum(is.na(as_number(present)))
    finding("warn", column,
            paste0("a number column with text in ", counted(wrong, "row"), " (row ", row, ": ",
                   quoted(as.character(values[row])), "), so it is kept aside"),
            "correct the text, or make it missing, and read the table again")
  }))
}

find_constant <- function(data) {
  values <- features_of(data)
  constant <- names(values)[vapply(values, function(v) length(unique(v[!is.na(v)])) < 2L, NA)]
  if (length(constant) > 0L) {
    finding("warn", constant, "holds one single value", "it will be left out of the fit")
  }
}

# Whole numbers, all different, evenly stepped or hardly longer than the table: a running number or a key.
find_identifier <- function(data) {
  values <- features_of(data)
  looks_so <- vapply(values, function(v) {
    v <- v[is.finite(v)]
    length(v) > 2L && all(v == round(v)) && !anyDuplicated(v) &&
      (diff(range(v)) < 1.5 * length(v) || !is.unsorted(v) || !is.unsorted(rev(v)))
  }, NA)
  found <- names(values)[looks_so]
  if (length(found) > 0L) {
    finding("warn", found, "looks like an identifier or a running number: every row has its own whole number",
            paste0("id = \"", found, "\", or aside = \"", found, "\""))
  }
}

# A feature that gives the known class away, or that holds a few whole numbers as codes do; a text column with
# few values where no truth is declared.
find_classes <- function(data) {
  truth <- truth_of(data)
  values <- features_of(data)
  repeats <- names(values)[vapply(values, function(v) !is.null(truth) && gives_away(v, truth), NA)]
  coded <- setdiff(names(values)[vapply(values, is_coded, NA)], repeats)
  texts <- if (is.null(truth)) data$roles$column[data$roles$type == "text" & data$roles$role == "aside"]
  labels <- Filter(function(column) is_label(data$table[[column]]), texts)
  vctrs::vec_rbind(
    if (length(repeats) > 0L) {
      finding("warn", repeats, "gives the known class away: each of its values belongs to one class",
              paste0("aside = \"", repeats, "\""))
    },
    if (length(coded) > 0L) {
      finding("warn", coded, paste0("holds only ",
                                    vapply(values[coded], function(v) listed(sort(unique(v)), most = 6L), ""),
                                    ": codes of classes?"),
              paste0("truth or aside = \"", coded, "\" if they are"))
    },
    if (length(labels) > 0L) {
      finding("note", labels, "few different values, kept aside: known classes?",
              paste0("truth = \"", labels, "\" if they are"))
    }
  )
}

gives_away <- function(values, truth) {
  known <- !is.na(values) & !is.na(truth)
  levels <- unique(values[known])
  classes <- length(unique(truth[known]))
  classes > 1L && length(levels) >= classes && length(levels) <= max(2L * classes, 12L) &&
    length(levels) < sum(known) / 2 && nrow(unique(data.frame(values, truth)[known, ])) == length(levels)
}

is_coded <- function(values) {
  levels <- unique(values[is.finite(values)])
  length(levels) %in% 3:12 && length(values) > 5L * length(levels) && all(levels == round(levels)) &&
    max(abs(levels)) < 100
}

is_label <- function(values) {
  levels <- length(unique(values[!is.na(values)]))
  levels %in% 2:20 && length(values) >= 5L * levels
}

find_one_class <- function(data) {
  truth <- truth_of(data)
  if (!is.null(truth) && length(unique(truth[!is.na(truth)])) < 2L) {
    finding("note", columns_of(data, "truth"), "has one class only: agreement with it says nothing",
            "name another truth, or none")
  }
}

find_copies <- function(data) {
  values <- Filter(function(v) length(unique(v[is.finite(v)])) > 2L, features_of(data))
  if (length(values) < 2L) {
    return(NULL)
  }
  together <- suppressWarnings(stats::cor(replace_infinite(values), use = "pairwise.complete.obs"))
  pairs <- which(abs(together) > 0.95 & upper.tri(together), arr.ind = TRUE)
  if (nrow(pairs) > 0L) {
    first <- names(values)[pairs[, 1L]]
    second <- names(values)[pairs[, 2L]]
    finding("warn", paste0(first, ", ", second),
            paste0("nearly one column (r = ", fixed2(together[pairs]), "): it counts twice"),
            paste0("set one aside, or leave it out with fl_prepare(use = )"))
  }
}

replace_infinite <- function(values) {
  out <- as.matrix(values)
  out[!is.finite(out)] <- NA
  out
}

find_skew <- function(data) {
  values <- features_of(data)
  skews <- vapply(values, skewness, 0)
  long <- names(values)[!is.na(skews) & skews > 2]
  if (length(long) > 0L) {
    least <- vapply(values[long], min, 0, na.rm = TRUE)
    how <- ifelse(least > 0, "log", ifelse(least > -1, "log1p", ""))
    finding("warn", long, paste0("long right tail (skewness ", digits3(skews[long]),
                                 "): a few rows would stretch the groups"),
            ifelse(nzchar(how), paste0("transform = c(", long, " = \"", how, "\")"), "scale = \"median_iqr\""))
  }
}

skewness <- function(values) {
  values <- values[is.finite(values)]
  off <- values - mean(values)
  if (length(values) < 8L || all(off == 0)) NA_real_ else mean(off^3) / mean(off^2)^1.5
}

find_missing <- function(data) {
  values <- features_of(data)
  gaps <- vapply(values, function(v) sum(is.na(v)), 0L)
  gaps <- gaps[gaps > 0L]
  if (length(gaps) == 0L) {
    return(NULL)
  }
  lost <- sum(!stats::complete.cases(values))
  share <- lost / nrow(data$table)
  where <- if (length(gaps) > 1L) paste0(" (", listed(paste(gaps, "in", names(gaps))), ")")
  finding(if (share > 0.2) "warn" else "note", listed(names(gaps)),
          paste0(counted(sum(gaps), "missing cell"), where, ": ", counted(lost, "row"), " of ", nrow(data$table),
                 " will get no group"),
          if (share > 0.2) "leave the emptiest column out with fl_prepare(use = )" else "")
}

find_spreads <- function(data) {
  spreads <- vapply(features_of(data), function(v) stats::sd(v[is.finite(v)]), 0)
  spreads <- spreads[!is.na(spreads) & spreads > 0]
  if (length(spreads) > 1L && max(spreads) > 10 * min(spreads)) {
    wide <- names(which.max(spreads))
    narrow <- names(which.min(spreads))
    finding("note", paste0(narrow, ", ", wide),
            paste0("very different spreads (sd ", digits3(min(spreads)), " and ", digits3(max(spreads)),
                   "): unscaled, ",
                   wide, " would decide the groups"),
            "keep a scale (mean_sd is the default)")
  }
}
