# Four columns of noise, categories among them, and three that know of two or three groups: one with peaks, one whose
# groups overlap, one category.
sifted_table <- function(n, k) {
  group <- sample(k, n, TRUE)
  data.frame(noise1 = sample(letters[1:2], n, TRUE), noise2 = sample(letters[1:4], n, TRUE), noise3 = rnorm(n),
             noise4 = rexp(n), peaks = 5 * group + rnorm(n), overlaps = 2 * group + rnorm(n),
             kind = ifelse(runif(n) < 0.8, letters[group], sample(letters[seq_len(k)], n, TRUE)))
}

claim("sift: columns that know of groups come before noise", c("two groups", "three groups"), function(case) {
  table <- sifted_table(sample(c(150, 400), 1), if (case == "two groups") 2 else 3)
  order <- fl_sift(fl_data(table, features = names(table)))$column
  c(all = all(head(order, 3) %in% c("peaks", "overlaps", "kind")), `the one with peaks` = order[1] == "peaks")
}, least = 0.9)
