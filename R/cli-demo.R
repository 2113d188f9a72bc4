verb_demo <- function() {
  list(
    summary = "a full example on the tables that come with the package", files = character(),
    options = list(option("out", "folder for what it makes", "fjordline-demo"), option_seed),
    example = "fjordline demo --out fjordline-demo",
    run = function(files, options) run_demo(make_folder(options$out), cli_seed(options), options$json)
  )
}

run_demo <- function(folder, seed, json) {
  say <- function(...) cat(..., "\n", sep = "", file = if (json) stderr() else stdout())
  within <- function(name) file.path(folder, name)
  say("A fjord, ", nrow(fl_demo("water_samples")$table), " water samples: which kinds of water are there? (seed ", seed,
      ")")
  for (name in names(demo_tables)) file.copy(demo_file(name), within(paste0(name, ".csv")), overwrite = TRUE)
  data <- fl_demo("water_samples")
  ready <- fl_prepare(data, transform = c(turbidity = "log"))
  vote <- fl_vote(fl_sweep(ready, "kmeans", k = 1:10, seed = seed))
  if (vote$verdict == "no clear count") vote <- fl_settle(vote, vote$k, "most points, for the sake of the demo")
  groups <- fl_take(vote)
  agreement <- fl_agree(groups)
  fl_export(groups, within("water_grouped.csv"))
  fl_save(groups, within("water_model.json"))
  write_figures(c(vote_figures(vote), partition_figures(groups, agreement)), within("figures"))
  fl_report(groups, within("water_report.html"))
  others <- lapply(c("icequakes", "still_water"), function(name) demo_vote(name, seed))
  if (json) {
    return(cat_json(list(folder = folder, vote = vote_json(vote), groups = groups$groups,
                         agreement = agreement$measures,
                         others = lapply(others, vote_json))))
  }
  check <- fl_check(data)
  say("")
  say(wrapped(paste0("Found in the table: ", listed(paste0(check$column, " ", check$finding), joiner = "and"), ".")[1L],
              width = print_width()) |> paste(collapse = "\n"))
  say("")
  write_lines(strip_next(format(vote)))
  say("")
  write_lines(strip_next(format(groups))[1:8])
  say("")
  write_lines(strip_next(format(agreement)))
  say("")
  say(paste(sentence_lines(c(paste0("Icequakes (four kinds of source): ", vote_headline(others[[1L]])),
                             paste0("Still water (no groups at all): ",
                                    vote_headline(others[[2L]])))), collapse = "\n"))
  say("")
  cli_written(c(figures = within("figures"), table = within("water_grouped.csv"), model = within("water_model.json"),
                report = within("water_report.html")), list(json = FALSE))
  say("Next: fjordline count ", within("icequakes.csv"),
      " --truth source --id event --aside time,distance --transform log")
}

demo_vote <- function(name, seed) {
  data <- fl_demo(name)
  fl_vote(fl_sweep(fl_prepare(data, transform = if (name == "icequakes") "log"), "kmeans", k = 1:10, seed = seed))
}

strip_next <- function(lines) lines[seq_len(grep("^Next: ", lines)[1L] - 1L)]
