# Groups made in SQLite by the query that fl_export() writes, beside predict() on the same rows. Needs the program
# sqlite3 with its mathematical functions.
#   Rscript bench/query.R [rows]
library(fjordline)
rows <- as.integer(c(commandArgs(TRUE), 1e6)[1])
folder <- tempfile("query")
dir.create(folder)
at <- function(file) file.path(folder, file)
water <- fl_demo("water_samples")
table <- as.data.frame(water)
table <- table[rep_len(seq_len(nrow(table)), rows), ]
table$sample <- seq_len(rows)
con <- DBI::dbConnect(RSQLite::SQLite(), at("fjord.db"))
DBI::dbWriteTable(con, "samples", table)
DBI::dbDisconnect(con)
ready <- fl_prepare(water, transform = c(turbidity = "log"))
for (method in c("kmeans", "mixture")) {
  groups <- fl_partition(ready, method, k = 5)
  fl_export(groups, at("place.sql"), dialect = "sqlite", table = "samples", beside = "sample")
  asked <- system.time(system2("sqlite3", c("-csv", at("fjord.db")), stdin = at("place.sql"),
                               stdout = at("placed.csv")))
  predicted <- system.time(labels <- predict(groups, table))
  placed <- data.table::fread(at("placed.csv"), header = FALSE)
  found <- placed$V2[order(placed$V1)]
  alike <- sum(found == labels | is.na(found) & is.na(labels), na.rm = TRUE)
  cat(sprintf("%-8s %d rows x %d: SQLite %.1f s, predict() %.1f s, ratio %.2f, labels alike %d\n", method, rows,
              length(groups$ready$columns), asked[["elapsed"]], predicted[["elapsed"]],
              asked[["elapsed"]] / predicted[["elapsed"]], alike))
}
unlink(folder, recursive = TRUE)
