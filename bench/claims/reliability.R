# Reliability of mixtures: what is stated, less what refits to resampled rows give when each is made as a user would
# make it; and how often groups that a fit to other rows of the same kind is sure of are the groups here.
reliability_kinds <- local({
  turned <- function(columns) qr.Q(qr(matrix(rnorm(columns^2), columns)))
  triangle <- rbind(c(0, 0), c(1, 0), c(0.5, 0.87))
  model <- function(columns, apart, noise, share = rep(1, 3)) {
    list(draw = function(n) {
      group <- sample(3, n, TRUE, share)
      centre <- cbind(apart * triangle, matrix(0, 3, columns - 2))
      as.data.frame(noise(n, columns, group) + centre[group, ])
    })
  }
  normal <- function(n, columns, group) matrix(rnorm(n * columns), n)
  list(
    `3 sd` = function() model(2, 3, normal),
    unequal = function() model(2, 4, normal, c(0.75, 0.15, 0.1)),
    stretched = function() {
      shape <- lapply(1:3, function(g) diag(exp(rnorm(4, 0, 0.5))) %*% turned(4))
      model(4, 4, function(n, columns, group) {
        e <- normal(n, columns)
        for (g in 1:3) e[group == g, ] <- e[group == g, , drop = FALSE] %*% shape[[g]]
        e
      })
    },
    skewed = function() model(3, 4, function(n, columns, group) matrix(rexp(n * columns), n))
  )
})

as_mixture <- function(x, seed = 1) fl_partition(fl_prepare(fl_data(x), scale = "none"), "mixture", k = 3, seed = seed)

mean_overlap <- function(group, other) {
  mean(vapply(unique(group), function(g) {
    max(vapply(unique(other), function(h) sum(group == g & other == h) / sum(group == g | other == h), 0))
  }, 0))
}

claim("reliability of mixtures: share that comes back, less what refits that choose anew give",
      paste0(rep(names(reliability_kinds), each = 2), ", ", c(150, 400), " rows"), function(case) {
        said <- strsplit(case, ", ")[[1]]
        x <- reliability_kinds[[said[1]]]()$draw(as.integer(sub(" .*", "", said[2])))
        groups <- as_mixture(x)
        again <- vapply(1:20, function(b) {
          rows <- sample(nrow(x), replace = TRUE)
          mean_overlap(fl_labels(groups), predict(as_mixture(x[rows, ], b), x, reach = Inf, strict = FALSE))
        }, 0)
        c(difference = mean(fl_reliability(groups)$groups$returns) - mean(again))
      }, least = -0.03, most = 0.03, more = 0.1)

claim("reliability of mixtures: rows given a group with 99% and more, same group stated less in fits to other tables",
      paste0(rep(names(reliability_kinds), each = 2), ", ", c(150, 400), " rows"), function(case) {
        said <- strsplit(case, ", ")[[1]]
        model <- reliability_kinds[[said[1]]]()
        x <- model$draw(as.integer(sub(" .*", "", said[2])))
        groups <- as_mixture(x)
        stated <- fl_reliability(groups)$said
        other <- vapply(1:8, function(b) {
          fit <- as_mixture(model$draw(nrow(x)), b)
          share <- predict(fit, x, type = "membership")
          to <- max.col(share, "first")
          best <- vapply(1:3, function(g) {
            which.max(vapply(1:3, function(h) {
              sum(fl_labels(groups) == g & to == h) / max(1, sum(fl_labels(groups) == g | to == h))
            }, 0))
          }, 0)
          sure <- apply(share, 1, max) >= 0.99
          mean((to == best[fl_labels(groups)])[sure])
        }, 0)
        c(difference = stated$same[4] - mean(other))
      }, least = -0.05, most = 0.05, more = 0.1)
