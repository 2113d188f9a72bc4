# How the rules that lead to groups read as text.

#' @export
format.fl_paths <- function(x, ...) {
  facts <- fl_facts(x)
  c(facts[1L], rule_lines(x), sentence_lines(facts[-seq_len(nrow(x$rules) + 1L)]),
    next_line("autoplot(paths)", "as.data.frame(paths)"))
}

# A rule a line, longer ones below themselves.
rule_lines <- function(x) {
  rules <- x$rules
  result <- paste0(group_names(x$partition, rules$group), ": ", vapply(rules$right, thousands, ""), " of ",
                   vapply(rules$rows, thousands, ""), " rows")
  hanging_lines(result, rules$condition)
}

#' @export
summary.fl_paths <- function(object, ...) object$rules
