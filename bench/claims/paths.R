# Groups, and columns that know little of them, one with thirty levels of noise: the share of new rows the rules give
# right, less what is said of rows they had not seen.
claim("paths: share stated for unseen rows minus the share of new rows given right",
      c("thirty levels of noise", "numbers"), function(case) {
        table <- function(n) {
          group <- sample(3, n, TRUE)
          data.frame(x = 8 * group + rnorm(n), port = sample(sprintf("port%02d", 1:30), n, TRUE),
                     hint = ifelse(runif(n) < 0.4, letters[group], sample(letters[1:3], n, TRUE)),
                     depth = group + rnorm(n, sd = 1.5), group = group)
        }
        seen <- table(300)
        new <- table(3000)
        groups <- fl_adopt(fl_prepare(fl_data(seen[c("x", "port", "hint", "depth")], features = "x",
                                              aside = c("port", "hint", "depth"))), seen$group)
        used <- if (case == "numbers") "depth" else c("port", "hint")
        paths <- fl_paths(groups, columns = used)
        plain <- lapply(used, function(column) new[[column]])
        forms <- attr(ours("path_table")(groups, used), "forms")
        asked <- stats::setNames(Map(ours("values_as_asked"), plain, forms), names(forms))
        number <- seen$group[match(1:3, groups$group)]  # groups are numbered anew
        given <- as.integer(as.character(predict(paths$tree, data.frame(asked), type = "class")))
        right <- mean(number[given] == new$group)
        c(difference = paths$fidelity$unseen - right)
      }, least = c(difference = -0.02), most = c(difference = 0.02), more = 0.5)
