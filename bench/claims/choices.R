# Labelings in which methods and counts change nothing but the draw, and in which the method decides: the share in which
# the method has a part.
drawn_maps <- function(decides) {
  choices <- expand.grid(method = letters[1:3], count = 2:4, seed = 1:2, stringsAsFactors = FALSE)
  base <- lapply(letters[1:3], function(m) sample(3, 200, TRUE))
  labels <- lapply(seq_len(nrow(choices)), function(i) {
    drawn <- sample(3, 200, TRUE)
    kept <- decides & runif(200) < 0.9
    ifelse(kept, base[[match(choices$method[i], letters)]], drawn)
  })
  ours("choice_shares")(ours("label_distances")(labels), choices)$involved
}

claim("choices: the method has a part, where seeds alone differ", "3 methods, 3 counts, 2 seeds", function(case) {
  c(part = drawn_maps(FALSE)[["method"]])
}, most = 0.1)

claim("choices: the method has a part, where it decides", "3 methods, 3 counts, 2 seeds", function(case) {
  c(part = drawn_maps(TRUE)[["method"]])
}, least = 0.5)
