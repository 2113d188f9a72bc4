# How maps of choices, earned weights and advice read as text.

#' @export
format.fl_choices <- function(x, ...) {
  groups <- x$groups
  others <- ncol(x$overlaps)
  c(choices_headline(x),
    table_lines(list(choice = x$shares$choice, alone = percent(x$shares$alone),
                     "with interactions" = percent(x$shares$involved), tried = x$shares$tried),
                right = c("alone", "with interactions")),
    "",
    table_lines(list(group = groups$group, rows = thousands_each_of(groups$rows), share = percent(groups$share),
                     "found again" = paste(round(groups$found_again * others), "of", others),
                     "least overlap" = fixed2(groups$least), "mostly lost by" = groups$lost_by),
                right = c("rows", "share", "found again", "least overlap")),
    sentence_lines(choice_facts(x)), next_line("as.data.frame(choices)", "autoplot(choices)"))
}

#' @export
format.fl_weights <- function(x, ...) {
  facts <- fl_facts(x)
  indices <- x$table[nzchar(x$table$index), ]
  families <- x$table[!nzchar(x$table$index), ]
  at <- order(match(indices$family, families$family), -indices$weight)
  c(facts[1L],
    table_lines(list(family = indices$family[at], index = indices$index[at], "count found" = percent(indices$found[at]),
                     weight = fixed2(indices$weight[at]),
                     "family's weight" = fixed2(families$weight[match(indices$family[at], families$family)])),
                right = c("count found", "weight", "family's weight")),
    sentence_lines(facts[-1L]), next_line("fl_vote(sweep, weights = weights)"))
}

#' @export
format.fl_advice <- function(x, ...) {
  scores <- utils::head(x$scores, 4L)
  left <- nrow(x$scores) - nrow(scores)
  c(sentence_lines(fl_facts(x)[1L]),
    table_lines(list(method = scores$method, "similar tables" = fixed2(scores$score),
                     "95% interval" = paste(fixed2(scores$low), "to", fixed2(scores$high)),
                     "all tables" = fixed2(scores$plain), "most similar table" = fixed2(scores$here)),
                right = c("similar tables", "all tables", "most similar table")),
    if (left > 0L) paste0("  and ", counted(left, "more method"), ": as.data.frame(advice)"),
    sentence_lines(trial_fact(x)), next_line("summary(advice)", "fl_facts(advice)", "advice$likeness"))
}
