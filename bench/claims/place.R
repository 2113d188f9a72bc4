# Placing: how many new rows of the same kind are turned away, as a multiple of what the help says. At reach 0.95 that
# is one in twenty, at reach 1 one in the number of its group's rows.
placed_made <- local({
  turned <- function(columns) qr.Q(qr(matrix(rnorm(columns^2), columns)))
  cases <- expand.grid(kind = c("balls", "stretched", "heavy", "lognormal"), columns = c(2, 8),
                       rows = c(100, 150, 400), method = c("kmeans", "mixture"), stringsAsFactors = FALSE)
  cases <- cases[!(cases$method == "kmeans" & cases$kind != "balls"), ]
  list(
    cases = with(cases, paste0(method, ", ", kind, ", ", columns, " columns, ", rows, " rows")),
    model = function(case) {
      said <- strsplit(case, ", ")[[1]]
      columns <- as.integer(sub(" .*", "", said[3]))
      centre <- matrix(0, 3, columns)
      centre[2, 1] <- centre[3, 2] <- 8
      shape <- lapply(1:3, function(g) if (said[2] == "stretched") diag(exp(rnorm(columns, 0, 0.5))) %*% turned(columns)
                      else diag(columns))
      draw <- function(n) {
        group <- sample(3, n, TRUE)
        e <- matrix(switch(said[2], heavy = rt(n * columns, 4), lognormal = exp(0.5 * rnorm(n * columns)),
                           rnorm(n * columns)), n)
        for (g in 1:3) e[group == g, ] <- e[group == g, , drop = FALSE] %*% shape[[g]]
        as.data.frame(e + centre[group, , drop = FALSE])
      }
      list(draw = draw, rows = as.integer(sub(" .*", "", said[4])), method = said[1])
    }
  )
})

claim("place: new rows of the same kind turned away, as a multiple of the share stated", placed_made$cases,
      function(case) {
        from <- placed_made$model(case)
        groups <- fl_partition(fl_prepare(fl_data(from$draw(from$rows))), from$method, k = 3)
        new <- from$draw(4000)
        away <- function(reach) mean(fl_place(groups, new, reach = reach, strict = FALSE)$rows$group == 0)
        size <- groups$groups$rows
        c("at 1" = away(1) / sum(size / sum(size) / (size + 1)), "at 0.95" = away(0.95) / 0.05)
      }, least = 0.75, most = 1.25, more = 0.2)
