# Numbers and lists as words. Every sentence of the package is put together from these.

number_words <- c("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")

spelt <- function(n) if (n >= 1 && n <= length(number_words)) number_words[n] else as.character(n)

capital <- function(text) paste0(toupper(substr(text, 1L, 1L)), substring(text, 2L))

uncapital <- function(text) paste0(tolower(substr(text, 1L, 1L)), substring(text, 2L))

# Three significant digits, with thousands marked; whole numbers are given whole.
digits3 <- function(x) {
  one <- function(v) {
    if (is.na(v)) {
      return("-")
    }
    if (is.finite(v) && v == round(v) && abs(v) < 1e15) {
      return(format(v, big.mark = ",", scientific = FALSE))
    }
    if (abs(v) >= 1000 && abs(v) < 1e15) {
      return(format(round(v), big.mark = ",", scientific = FALSE))
    }
    format(signif(v, 3L), scientific = abs(v) < 1e-4 || abs(v) >= 1e15)
  }
  vapply(x, one, "")
}

# A column of numbers with common decimals: three significant digits of the largest.
column3 <- function(x) {
  largest <- max(abs(x[is.finite(x)]), 0)
  if (largest >= 1e12 || (largest > 0 && largest < 1e-6)) {
    return(ifelse(is.na(x), "-", formatC(x, digits = 2L, format = "e")))
  }
  decimals <- if (largest == 0) 0 else max(0, min(8, 2 - floor(log10(largest))))
  if (all(x == round(x), na.rm = TRUE)) decimals <- 0
  ifelse(is.na(x), "-", formatC(x, digits = decimals, format = "f", big.mark = ","))
}

fixed2 <- function(x) ifelse(is.na(x), "-", sub("^-0.00$", "0.00", formatC(x, digits = 2L, format = "f")))

# A chance to two digits.
p_said <- function(p) format(signif(p, 2), scientific = FALSE)

# 27%; below one per cent with a digit, never a false 0 or 100.
percent <- function(share) {
  one <- function(s) {
    if (is.na(s)) "-"
    else if (s > 0 && s < 0.0005) "under 0.1%"
    else if (s > 0 && s < 0.01) paste0(formatC(100 * s, digits = 1L, format = "f"), "%")
    else if (s < 1 - 1e-9 && s > 0.995) "over 99%"
    else paste0(round(100 * s), "%")
  }
  vapply(share, one, "")
}

chance_said <- function(p) if (p < 0.001) "p < 0.001" else paste("p =", digits3(p))

quoted <- function(words) paste0("\"", words, "\"")

# "a, b and c"; long lists are cut and say how many more there are.
listed <- function(words, joiner = "and", most = 12L) {
  words <- as.character(words)
  if (length(words) > most) {
    return(paste0(paste(words[seq_len(most)], collapse = ", "), " and ", length(words) - most, " more"))
  }
  if (length(words) < 2L) {
    return(paste0(words, ""))
  }
  paste(paste(words[-length(words)], collapse = ", "), joiner, words[length(words)])
}

thousands <- function(n) format(n, big.mark = ",", scientific = FALSE, trim = TRUE)

# "1 row", "2 rows".
counted <- function(n, thing, plural = paste0(thing, "s")) paste(thousands(n), if (n == 1) thing else plural)

# "one rule", "twelve rules", "40 rules": for the head of a sentence.
spelt_count <- function(n, thing, plural = paste0(thing, "s")) {
  paste(if (n %in% seq_along(number_words)) spelt(n) else thousands(n), if (n == 1) thing else plural)
}

# "1st", "2nd", "8th".
ordinal <- function(n) {
  ending <- if (n %% 100 %in% 11:13) "th" else c("st", "nd", "rd")[n %% 10]
  paste0(n, if (length(ending) == 0L || is.na(ending)) "th" else ending)
}

# Text broken at `width`, later lines indented.
wrapped <- function(text, indent = 2L, first = 0L, width = 100L) {
  strwrap(text, width = width, indent = first, exdent = indent)
}

# R code for a value, on one line, as it would be typed.
code <- function(value) {
  # deparse() lets odd names end their quotes
  if ((is.list(value) || is.atomic(value)) && !is.null(names(value)) && !is.object(value)) {
    named <- rep("", length(value))
    known <- nzchar(names(value))
    named[known] <- paste0(name_code(names(value)[known]), " = ")
    return(paste0(if (is.list(value)) "list(" else "c(",
                  paste0(named, vapply(unname(as.list(value)), code, ""), collapse = ", "), ")"))
  }
  if (is.atomic(value) && is.null(names(value)) && is.numeric(value) && length(value) > 2L &&
        all(value == round(value)) && all(diff(value) == 1)) {
    return(paste0(value[1L], ":", value[length(value)]))
  }
  if (is.numeric(value) && is.null(names(value)) && length(value) == 1L) {
    return(format(value, digits = 15L, scientific = FALSE, drop0trailing = TRUE))
  }
  paste(trimws(deparse(value, width.cutoff = 500L)), collapse = " ")
}

# A call as code, leaving out arguments that are NULL.
code_call <- function(fun, ...) {
  arguments <- Filter(Negate(is.null), list(...))
  names <- rlang::names2(arguments)
  shown <- vapply(arguments, function(a) if (inherits(a, "verbatim")) unclass(a) else code(a), "")
  paste0(fun, "(", paste0(ifelse(nzchar(names), paste0(names, " = "), ""), shown, collapse = ", "), ")")
}

verbatim <- function(text) structure(text, class = "verbatim")

# Names as code: in backticks where they need them, and never able to end them.
name_code <- function(names) {
  vapply(names, function(name) paste(deparse(as.name(name), backtick = make.names(name) != name), collapse = ""), "",
         USE.NAMES = FALSE)
}

# --- text of other people

# Control characters as what they are called, so that no name can steer a terminal or turn the order of what follows.
visible <- function(text, keep = "") {
  text <- enc2utf8(as.character(text))
  odd <- which(grepl("[\\p{Cc}\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]", text, perl = TRUE))
  text[odd] <- vapply(text[odd], function(one) {
    characters <- strsplit(one, "")[[1L]]
    points <- utf8ToInt(one)
    control <- (points < 32L | points >= 127L & points < 160L | points %in% steering_points) & !characters %in% keep
    characters[control] <- named_points(points[control])
    paste(characters, collapse = "")
  }, "", USE.NAMES = FALSE)
  text
}

steering_points <- c(0x200b:0x200f, 0x2028:0x202e, 0x2060:0x2069, 0xfeff)

named_points <- function(points) {
  usual <- match(points, c(9L, 10L, 13L, 27L))
  ifelse(is.na(usual), sprintf("\\u%04x", points), c("\\t", "\\n", "\\r", "\\e")[usual])
}

`%||%` <- function(a, b) if (is.null(a)) b else a
