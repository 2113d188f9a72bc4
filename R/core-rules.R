# How a method places rows, as numbers alone, for programs that know nothing of it: a rule. Its parts are centres, or
# the components of a mixture; a row goes to the group of the nearest part, or of that with the largest density.

# `metric`: between a row and the `middle` of a part, in the prepared columns `numbers` (along `axes`, where there are
# any). `levels`: of each category a data frame with a `column`, a `value` and how far `within` it must be to be that
# level (NA: the column is above 0). `parts`: each with its `group` and `middle`; `width`, a matrix to multiply what
# lies between them with; `constant`, the log of what its density is multiplied with; `levels`, by category a number for
# each level and a last one for any other: added to the squared distance, or to the log density. `tails`: NULL where the
# distance decides, 0 for normal densities, else degrees of freedom.
new_rule <- function(parts, numbers, metric = "euclidean", axes = NULL, levels = list(), tails = NULL) {
  out <- structure(list(parts = parts, numbers = numbers, metric = metric, axes = axes, levels = levels, tails = tails),
                   class = "fl_rule")
  check_object(out, rule_fields, rule_rules)
}

rule_fields <- list(parts = is.list, numbers = is.numeric, metric = rlang::is_string, axes = or_none(is_table),
                    levels = list_of("data.frame"), tails = or_none(is_number))

rule_rules <- list(
  `a middle has a number for each column or axis` = function(rule) {
    wanted <- if (is.null(rule$axes)) length(rule$numbers) else ncol(rule$axes) - 1L
    all(lengths(lapply(rule$parts, `[[`, "middle")) == wanted)
  },
  `a part knows every category` = function(rule) {
    all(lengths(lapply(rule$parts, `[[`, "levels")) == length(rule$levels))
  }
)

rule_of_centres <- function(centres, metric = "euclidean") {
  new_rule(lapply(seq_len(nrow(centres)), function(g) list(group = g, middle = unname(centres[g, ]))),
           seq_len(ncol(centres)), metric)
}

# NULL where the method places rows by more than centres or components.
placing_rule <- function(method, fit) {
  if (!is.null(method$rule)) method$rule(fit)
  else if (is.null(method$assign)) rule_of_centres(fit$centres)
}
