# Standings: methods that do not differ, said to differ by Friedman's test, the critical difference and pairs.
claim("standings: methods that score alike are found to differ",
      c(outer(c("4 methods", "8 methods"), c("6 tables", "12 tables", "40 tables"), paste, sep = ", "),
        "4 methods, 12 tables, ties"), function(case) {
        size <- as.integer(regmatches(case, gregexpr("[0-9]+", case))[[1]])
        # every table has its own level and spread
        score <- rnorm(size[2]) + exp(rnorm(size[2])) * matrix(rnorm(size[2] * size[1]), size[2])
        if (grepl("ties", case)) score <- round(score)
        dimnames(score) <- list(NULL, paste0("m", seq_len(size[1])))
        ranks <- ours("ranks_in_rows")(score)
        c(`over all` = ours("rank_test")(ranks)$p <= 0.05,
          `critical difference` = diff(range(colMeans(ranks))) > ours("critical_difference")(size[1], size[2]),
          pairs = any(ours("paired_tests")(score)$adjusted <= 0.05))
      }, most = 0.05, more = 2)
