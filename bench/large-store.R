# A store of 100,000 fits: how long it takes to open, resume and summarise it. The fits themselves are one real fit a
# table, written under every name, since only their number matters here.
# usage: Rscript bench/large-store.R   (FJORDLINE_BENCH_REPEATS=500)
library(fjordline)
ours <- function(name) getFromNamespace(name, "fjordline")
repeats <- as.integer(Sys.getenv("FJORDLINE_BENCH_REPEATS", "500"))
seconds <- function(what, expr) cat(sprintf("%-52s %6.1f s\n", what, system.time(expr)[["elapsed"]]))

heaps <- function(i) {
  set.seed(i)
  x <- matrix(rnorm(120), 30)
  x[1:15, ] <- x[1:15, ] + 4
  fl_data(data.frame(x, kind = rep(c("a", "b"), each = 15)), truth = "kind", name = paste0("t", i))
}
tables <- lapply(stats::setNames(nm = paste0("t", 1:10)), function(name) heaps(as.integer(substring(name, 2))))
study <- fl_study(tables, c("kmeans", "linkage"), k = 1:10, repeats = repeats, indices = "none")
file <- tempfile(fileext = ".sqlite")
seconds("plan", cells <- ours("study_cells")(study))
opened <- ours("open_store")(file, study)
pieces <- lapply(seq_len(nrow(cells)), ours("fit_piece"), study = study, cells = cells)
outcome <- lapply(names(tables), function(name) {
  ours("do_piece")(pieces[[match(name, cells$dataset)]], ours("study_table")(study, name, "plain"))
})
names(outcome) <- names(tables)
seconds(paste("write", nrow(cells), "fits"), for (part in split(seq_along(pieces), seq_along(pieces) %/% 1000)) {
  ours("write_pieces")(opened, lapply(part, function(i) ours("rows_of_cell")(pieces[[i]], outcome[[cells$dataset[i]]])))
})
DBI::dbExecute(opened$con, "DELETE FROM fl_cells WHERE cell IN (SELECT cell FROM fl_cells LIMIT 20)")
ours("disconnect_store")(opened)
cat(sprintf("%-52s %6.1f MB\n", "the file", file.size(file) / 2^20))
seconds("resume: 20 fits were missing", result <- fl_run(study, file))
seconds("open by its path alone", fl_run(file, only_open = TRUE))
seconds("print", utils::capture.output(print(result)))
seconds("standings", fl_standings(result))
seconds("table of all fits", as.data.frame(result))
