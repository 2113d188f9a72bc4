# What an agreement says, in sentences.

#' @export
fl_facts.fl_agree <- function(x) {
  matched <- sum(x$matched$rows)
  clash <- largest_clash(x)
  c(
    paste0(capital(x$a), " and ", x$b, " agree ", agreement_word(x), ": adjusted Rand ",
           with_interval(x, "adjusted_rand"), ", ",
           thousands(matched), " of ", counted(x$rows, "row"), " matched (",
           percent(matched / x$rows), ")."),
    if (x$samples > 0) {
      paste0("In brackets: 95% intervals from ", thousands(x$samples), " bootstrap samples of the rows; accuracy ",
             with_interval(x, "accuracy"), ".")
    },
    if (x$left_out > 0L) paste0(counted(x$left_out, "row"), " ", if (x$left_out == 1L) "lacks" else "lack",
                                " a group or a class and ", if (x$left_out == 1L) "is" else "are", " left out."),
    if (!is.null(clash)) {
      paste0(counted(length(x$disagree), "row"), if (length(x$disagree) == 1L) " disagrees" else " disagree",
             "; most often, ",
             clash$rows, " times, ", group_said(x$partition, clash$group), " holds rows of ", quoted(clash$class), ".")
    },
    division_fact(x)
  )
}

measure_of <- function(x, measure, field = "value") x$measures[[field]][x$measures$measure == measure]

with_interval <- function(x, measure) {
  paste0(fixed2(measure_of(x, measure)), if (x$samples > 0) {
    paste0(" (", fixed2(measure_of(x, measure, "low")), " to ", fixed2(measure_of(x, measure, "high")), ")")
  })
}

# One side divides the other further: then one-to-one matching counts as wrong what is only finer.
division_fact <- function(x) {
  pure <- measure_of(x, "homogeneity")
  whole <- measure_of(x, "completeness")
  wide <- pure - whole
  if (x$match == "one_to_one" && pure >= 0.8 && wide >= 0.15) {
    paste0("The groups divide ", x$b, " further (homogeneity ", fixed2(pure), ", completeness ", fixed2(whole),
           "): match = \"majority\" counts such groups as right.")
  } else if (x$match == "one_to_one" && whole >= 0.8 && -wide >= 0.15) {
    paste0("The groups join what ", x$b, " tells apart (homogeneity ", fixed2(pure), ", completeness ", fixed2(whole),
           ").")
  }
}

#' @export
fl_facts.fl_mismatches <- function(x) {
  rows <- x$rows
  if (nrow(rows) == 0L) {
    return(paste0("No row disagrees with ", x$agreement$b, "."))
  }
  c(
    paste0(counted(nrow(rows), "row"), " of ", thousands(x$agreement$rows), " (",
           percent(nrow(rows) / x$agreement$rows), ") ", if (nrow(rows) == 1L) "disagrees" else "disagree", " with ",
           x$agreement$b, "."),
    kinds_fact(x$kinds, x$agreement$partition), near_fact(rows), cause_facts(x)
  )
}

# The most frequent two kinds, by the groups they lie between.
kinds_fact <- function(kinds, partition) {
  shown <- utils::head(kinds, 2L)
  rows <- ifelse(shown$rows == 1L, "row of ", "rows of ")
  instead <- if (has_names(partition)) group_said(partition, shown$expected) else shown$expected
  said <- paste0(rows, quoted(shown$class), ifelse(is.na(shown$expected), ", which no group matches,", ""), " in ",
                 group_said(partition, shown$group), ifelse(is.na(shown$expected), "", paste(" instead of", instead)))
  paste0(if (nrow(kinds) == 1L) "All: " else "Most often: ", listed(paste(shown$rows, said)), ".")
}

near_fact <- function(rows) {
  judged <- sum(!is.na(rows$nearer))
  if (judged == 0L) {
    return(NULL)
  }
  near <- sum(rows$nearer <= border_share, na.rm = TRUE)
  share <- near / judged
  where <- "closer to a border between groups than 90% of the agreeing rows"
  if (near == 0L) paste0("None of them is borderline, ", where, ".")
  else if (share >= 0.6) paste0("Most of them (", near, ") are borderline: ", where, ".")
  else if (share <= 0.3) paste0("Few of them (", near, ") are borderline, ", where,
                                "; the others lie well inside another group.")
  else paste0("Some of them (", near, ") are borderline: ", where, ".")
}

cause_facts <- function(x, most = 3L) {
  causes <- x$causes
  if (nrow(causes) == 0L) {
    return("No column is kept aside that could explain them.")
  }
  sure <- causes[causes$p <= 0.05, ]
  sure <- utils::head(sure[!duplicated(sure$column), ], most)
  asked <- paste0(counted(nrow(causes), "value"), " of ", counted(length(unique(causes$column)), "column"))
  if (nrow(sure) == 0L) {
    return(paste0("No column kept aside accounts for them: none of ", asked,
                  " is more frequent among them than chance within classes and groups allows."))
  }
  said <- ifelse(
    is.na(sure$rows), paste0(sure$column, " is ", sure$value, " for them than for the rest of their classes"),
    paste0(sure$column, " is ", sure$value, " for ", sure$rows,
           " of them, where chance within classes and groups gives ", digits3(sure$expected))
  )
  paste0(capital(listed(said)), " (", if (nrow(sure) > 1L) "each ", chance_said(max(sure$p)), ", adjusted for ", asked,
         ").")
}

agreement_word <- function(x) {
  if (isTRUE(x$p_chance > 0.05)) {
    return(paste0("no better than chance (p = ", p_said(x$p_chance), ")"))
  }
  words <- c("hardly, but better than chance", "poorly", "in part", "well", "almost perfectly")
  words[findInterval(measure_of(x, "adjusted_rand"), c(-Inf, 0.1, 0.4, 0.7, 0.95))]
}

# The cell off the matching with the most rows.
largest_clash <- function(x) {
  off <- x$table
  known <- !is.na(x$matched$class)
  off[cbind(x$matched$group[known], x$matched$class[known])] <- 0
  if (sum(off) == 0L) {
    return(NULL)
  }
  at <- arrayInd(which.max(off), dim(off))
  list(rows = off[at], group = rownames(off)[at[1L]], class = colnames(off)[at[2L]])
}
