# What is computed of a row, as formulas: R calls over names of columns, so that they can be written in other languages.
# They use + - * / and comparisons, & | !, is.na(), log(), exp(), sqrt(), abs(), power(v, p), largest(...),
# among(v, values), between(v, at, value), a line through knots that is level beyond its ends, and
# when(test, value, ..., otherwise), in which a test that is missing does not hold.

# The shortest decimal number that is the same number.
exact_text <- function(v) {
  if (is.integer(v)) {
    return(as.character(v))
  }
  text <- sprintf(c("%.15g", "%.16g", "%.17g"), v)
  text[as.double(text) == v][1L]
}

formula_names <- function(letter, n) lapply(seq_len(n), function(i) as.name(paste0(letter, i)))

# In pairs of pairs: a long chain is too deep for some parsers.
fold_in_pairs <- function(operator, terms, empty) {
  if (length(terms) == 0L) {
    return(empty)
  }
  while (length(terms) > 1L) {
    pairs <- split(terms, (seq_along(terms) - 1L) %/% 2L)
    terms <- unname(lapply(pairs, function(pair) {
      if (length(pair) == 1L) pair[[1L]] else call(operator, pair[[1L]], pair[[2L]])
    }))
  }
  terms[[1L]]
}

sum_of <- function(terms) fold_in_pairs("+", terms, 0)

all_of <- function(tests) fold_in_pairs("&", tests, TRUE)

any_of <- function(tests) fold_in_pairs("|", tests, FALSE)

when_of <- function(tests, values, otherwise) {
  if (length(tests) == 0L) {
    return(otherwise)
  }
  as.call(c(quote(when), rbind(tests, values), list(otherwise)))
}

minus <- function(v, number) if (number == 0) v else call("-", v, number)

times <- function(v, number) if (number == 1) v else call("*", v, number)

square_of <- function(v) call("*", v, v)

largest_of <- function(values) fold_in_pairs("largest", values, NA_real_)

# What stands beside the score that is the `best`; of equals the first.
of_best <- function(scores, best, values) {
  k <- length(scores)
  if (k == 1L) {
    return(values[[1L]])
  }
  when_of(lapply(scores[-k], function(score) call("==", score, best)), as.list(values[-k]), values[[k]])
}

# between() in terms of when(), by halving.
between_formula <- function(v, at, value) {
  n <- length(at)
  if (n == 1L) {
    return(call("when", call("is.na", v), NA_real_, value))
  }
  within <- function(low, high) {
    if (high - low == 1L) {
      slope <- (value[high] - value[low]) / (at[high] - at[low])
      return(call("+", value[low], call("*", minus(v, at[low]), slope)))
    }
    middle <- (low + high) %/% 2L
    call("when", call("<", v, at[middle]), within(low, middle), within(middle, high))
  }
  call("when", call("<=", v, at[1L]), value[1L], call(">=", v, at[n]), value[n], within(1L, n))
}
