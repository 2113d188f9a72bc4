# What an agreement says, in sentences.

#' @export
fl_facts.fl_agree <- function(x) {
  value <- function(measure) x$measures$value[x$measures$measure == measure]
  matched <- sum(x$matched$rows)
  clash <- largest_clash(x)
  c(
    paste0(capital(x$a), " and ", x$b, " agree ", agreement_word(value("adjusted_rand")), ": adjusted Rand ",
           fixed2(value("adjusted_rand")), ", ",
           thousands(matched), " of ", counted(x$rows, "row"), " matched (",
           percent(matched / x$rows), ")."),
    if (x$left_out > 0L) paste0(counted(x$left_out, "row"), " without a value on both sides ",
                                if (x$left_out == 1L) "is" else "are", " left out."),
    if (!is.null(clash)) {
      paste0(counted(length(x$disagree), "row"), if (length(x$disagree) == 1L) " disagrees" else " disagree",
             "; most often, ",
             clash$rows, " times, group ", clash$group, " holds rows of ", quoted(clash$class), ".")
    }
  )
}

agreement_word <- function(adjusted_rand) {
  words <- c("no better than chance", "poorly", "in part", "well", "almost perfectly")
  words[findInterval(adjusted_rand, c(-Inf, 0.1, 0.4, 0.7, 0.95))]
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
