# How maps of choices, earned weights and advice read as text.

#' @export
format.fl_choices <- function(x, ...) {
  groups <- x$groups
  others <- ncol(x$overlaps)
  c(choices_headline(x),
    table_lines(list(choice = x$shares$choice, "by itself" = percent(x$shares$alone),
                     "with others" = percent(x$shares$involved), tried = x$shares$tried),
                right = c("by itself", "with others")),
    "",
    table_lines(list(group = groups$group, rows = thousands_each_of(groups$rows), share = percent(groups$share),
                     "comes back" = paste(round(groups$survives * others), "of", others),
                     "least overlap" = fixed2(groups$least), "mostly lost by" = groups$lost_by),
                right = c("rows", "share", "comes back", "least overlap")),
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
  facts <- fl_facts(x)
  scores <- x$scores
  near <- utils::head(x$likeness, 6L)
  c(facts[1L],
    table_lines(list(method = scores$method, "on tables like it" = fixed2(scores$score),
                     interval = paste(fixed2(scores$low), "to", fixed2(scores$high)), plain = fixed2(scores$plain),
                     "on the most alike" = fixed2(scores$here)),
                right = c("on tables like it", "plain", "on the most alike")),
    table_lines(list(table = near$dataset, preparation = near$preparation, distance = fixed2(near$distance),
                     weight = percent(near$weight), "most unlike in" = unname(trait_words[near$most_unlike])),
                right = c("distance", "weight")),
    sentence_lines(facts[-1L]), next_line("as.data.frame(advice)", "advice$likeness", "advice$trial"))
}
