# From a margin to a word. The limits come from bench/verdict.R, which counts how often votes of a given margin
# found the known count of simulated tables with round groups; its figures are kept in bench/README.md.

verdict_limits <- c(clear = 0.15, weak = 0.05)

verdict_of <- function(margin, families, rule) {
  if (is.na(margin) || margin < verdict_limits[["weak"]]) "no clear count"
  else if (margin >= verdict_limits[["clear"]] && families >= 2L) "clear"
  else "weak"
}
