# Labelings whose shares are known: k groups, about as many classes, a share of the rows mistaken, at random or by
# habit.
known_shares <- function() {
  k <- sample(2:6, 1)
  classes <- max(2, k + sample(-1:1, 1))
  size <- if (runif(1) < 0.5) rep(1, classes) else pmax(rgamma(classes, 2), 0.2)
  wrong <- runif(1, 0.01, 0.5)
  shares <- vapply(seq_len(classes), function(j) {
    to <- if (runif(1) < 0.5) rep(1, k) else rexp(k)
    column <- wrong * to / sum(to)
    column[(j - 1) %% k + 1] <- column[(j - 1) %% k + 1] + 1 - wrong
    column
  }, double(k))
  shares %*% diag(size / sum(size))
}

drawn_labels <- function(shares, n) {
  cell <- sample(length(shares), n, TRUE, shares)
  list(group = (cell - 1) %% nrow(shares) + 1, class = (cell - 1) %/% nrow(shares) + 1)
}

claim("agree: 95% interval holds the share of all rows there could be", c("20 rows", "50 rows", "100 rows", "400 rows"),
      function(case) {
        shares <- known_shares()
        labels <- drawn_labels(shares, as.integer(sub(" .*", "", case)))
        got <- fl_agree(labels$group, labels$class, samples = 300)
        shares <- shares[sort(unique(labels$group)), sort(unique(labels$class)), drop = FALSE]
        matched <- match(got$matched$class, sort(unique(labels$class)))
        measures <- got$measures[!is.na(got$measures$low), ]
        true <- vapply(measures$measure, function(name) {
          ours("agreement_measures")[[name]](round(1e7 * shares / sum(shares)), matched)
        }, 0)
        (measures$low <= true + 1e-9 & true <= measures$high + 1e-9) |> as.double() |> stats::setNames(measures$measure)
      }, least = 0.92, most = 0.98, more = 3)

claim("agree: better than chance, of labels dealt out at random", paste(c(12, 20, 60, 1000), "rows"), function(case) {
  n <- as.integer(sub(" .*", "", case))
  c(claimed = fl_agree(sample(sample(2:4, 1), n, TRUE), sample(sample(2:4, 1), n, TRUE))$p_chance <= 0.05)
}, most = 0.05, more = 3)

claim("agree: better than chance, a quarter of the labels shared", c("200 rows", "1000 rows"), function(case) {
  n <- as.integer(sub(" .*", "", case))
  class <- sample(3, n, TRUE)
  c(claimed = fl_agree(ifelse(runif(n) < 0.25, class, sample(3, n, TRUE)), class)$p_chance <= 0.05)
}, least = 0.9)
