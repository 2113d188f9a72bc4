# How long it takes to read, check, prepare and first look at a table. usage: Rscript bench/data.R
library(fjordline)
set.seed(1)
took <- function(label, code) cat(sprintf("%-58s %6.2f s\n", label, system.time(code)[["elapsed"]]))

table <- as.data.frame(matrix(round(rnorm(1e7), 5), 1e6))
table$V10 <- sample(c("sill", "narrows"), 1e6, TRUE)
file <- tempfile(fileext = ".csv")
data.table::fwrite(table, file)
took("the parser alone, 1,000,000 x 10", data.table::fread(file, showProgress = FALSE))
took("fl_data() of that CSV file", data <- fl_data(file))
took("fl_check() of 1,000,000 x 10", fl_check(data))
wide <- fl_data(matrix(rnorm(5e6), 1e5), name = "wide")
took("fl_check() of 100,000 x 50", fl_check(wide))
took("fl_prepare(), 100,000 x 50, powers", fl_prepare(wide, transform = "power"))
ready <- fl_prepare(fl_data(matrix(rnorm(6e5), 1e5), name = "rows"))
took("fl_outliers(), 100,000 x 6, distances to 10 neighbours", fl_outliers(ready))
gappy <- wide$table[1:6]
gappy[1][sample(1e5, 1e4), ] <- NA
took("fl_prepare(missing = \"nearest\"), 100,000 x 6, 10,000 gaps", fl_prepare(fl_data(gappy), missing = "nearest"))
picture <- tempfile(fileext = ".png")
save <- getFromNamespace("save_figure", "fjordline")
for (view in c("columns", "pairs", "correlations", "profiles", "components", "pull")) {
  took(paste0("autoplot(view = \"", view, "\") of 100,000 x 6, drawn"),
       save(autoplot(ready$data, view = view), picture))
}
