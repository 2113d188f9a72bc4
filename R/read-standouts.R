# What sets each group apart from the whole table.

# The words of a difference, in overall standard deviations of the prepared column.
standout_limits <- c(higher = 0.5, `much higher` = 1)

# A group's size, its columns beside those of the whole table, and the columns that stand out, strongest first.
group_standouts <- function(x) {
  ready <- x$ready
  prepared <- unreduced(ready)
  columns <- colnames(prepared)
  values <- invert_steps(prepared, unreducing_steps(ready))
  group <- x$group[ready$rows]
  off <- sweep(group_means(prepared, group, x$k), 2L, colMeans(prepared))
  off <- sweep(off, 2L, apply(prepared, 2L, spread_of), "/")
  said <- column_words(columns, ready)
  lapply(seq_len(x$k), function(g) {
    mine <- values[group == g, , drop = FALSE]
    list(group = g, rows = x$groups$rows[g], share = percent(x$groups$share[g]),
         standout = standout_words(off[g, ], columns, said),
         table = tibble::tibble(
           column = with_unit(columns, ready$units), mean = digits3(colMeans(mine)),
           `overall mean` = digits3(colMeans(values)), `middle half` = apply(mine, 2L, middle_half),
           difference = signed(off[g, ])
         ))
  })
}

# `said`: what is higher or lower, or more or less often, of each column.
standout_words <- function(off, columns, said = column_words(columns), most = 3L) {
  strong <- order(-abs(off))
  strong <- utils::head(strong[abs(off[strong]) >= standout_limits[["higher"]]], most)
  up <- off[strong] > 0
  way <- ifelse(said$often[strong], ifelse(up, "more often", "less often"), ifelse(up, "higher", "lower"))
  much <- ifelse(abs(off[strong]) >= standout_limits[["much higher"]], "much ", "")
  if (length(strong) == 0L) "" else listed(paste0(much, way, " ", said$name[strong]))
}

# A level of a category, or a yes-or-no column, is found more or less often; a number is higher or lower.
column_words <- function(columns, ready = NULL) {
  source <- if (is.null(ready)) columns else source_columns(columns, ready$features)
  level <- source != columns
  logical <- vapply(source, function(s) identical(ready$columns[[s]]$type, "logical"), NA)
  list(name = ifelse(level, paste(source, quoted(substring(columns, nchar(source) + 3L))), columns),
       often = level | unname(logical))
}

# All groups in one sentence.
standout_fact <- function(x) {
  said <- vapply(group_standouts(x), function(group) {
    paste0("group ", group$group, ": ", if (nzchar(group$standout)) group$standout else "near the average")
  }, "")
  paste0(capital(paste(said, collapse = "; ")), ".")
}

middle_half <- function(v) {
  paste(digits3(stats::quantile(v, c(0.25, 0.75), names = FALSE, type = 7L)), collapse = " to ")
}

signed <- function(v) paste0(ifelse(v >= 0, "+", "\u2212"), formatC(abs(v), digits = 1L, format = "f"), " sd")
