# A store of 100,000 fits, judged by the fast set of indices: how long it takes to open, resume and summarise it. The
# fits and judgements themselves are real ones, one a table and method, written under every name, since only their
# number matters here.
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
study <- fl_study(tables, c("kmeans", "linkage"), k = 1:10, repeats = repeats, indices = "fast")
file <- tempfile(fileext = ".sqlite")
seconds("plan", plan <- ours("plan_of")(study))
opened <- ours("open_store")(file, study)
table_of <- function(piece) ours("study_table")(study, piece$dataset, piece$preparation)

# Every piece of work as if it had been done: those of the same table and method, and count, come out alike.
write_all <- function(what, pieces, like) {
  first <- which(!duplicated(like))
  done <- lapply(pieces[first], function(piece) ours("do_piece")(ours("with_its_fits")(piece), table_of(piece)))
  at <- match(like, like[first])
  seconds(paste("write", length(pieces), what), for (part in split(seq_along(pieces), seq_along(pieces) %/% 1000)) {
    ours("write_pieces")(opened, lapply(part, function(i) {
      piece <- pieces[[i]]
      ours("rows_of")[[piece$kind]](piece, done[[at[i]]])
    }))
  })
}
cells <- plan$cells
write_all("gates", lapply(seq_len(nrow(plan$gates)), ours("gate_piece"), study = study, gates = plan$gates),
          seq_len(nrow(plan$gates)))
write_all("fits", lapply(seq_len(nrow(cells)), ours("fit_piece"), study = study, cells = cells),
          paste(cells$dataset, cells$method, cells$k))
judgements <- plan$judgements
seconds("what is to be judged", pieces <- ours("judge_pieces")(study, plan, judgements, opened))
write_all("judgements", pieces, paste(judgements$dataset, judgements$method))
DBI::dbExecute(opened$con, "DELETE FROM fl_cells WHERE cell IN (SELECT cell FROM fl_cells LIMIT 20)")
ours("disconnect_store")(opened)
cat(sprintf("%-52s %6.1f MB\n", "the file", file.size(file) / 2^20))
seconds("resume: 20 fits were missing", result <- fl_run(study, file))
seconds("open by its path alone", fl_run(file, only_open = TRUE))
seconds("print", utils::capture.output(print(result)))
seconds("standings", fl_standings(result))
seconds("track record", fl_track_record(result))
seconds("one table opened as a sweep, and voted on", fl_vote(fl_open(result, "t1")))
seconds("table of all fits", as.data.frame(result))
