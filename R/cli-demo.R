verb_demo <- function() {
  list(
    summary = "a benchmark of methods on the tables that come with the package, and the groups of one of them",
    files = character(),
    options = list(option("out", "folder for what it makes", "fjordline-demo"),
                   option("workers", "processes to share the fits (default: one a processor core)"), option_seed),
    example = "fjordline demo --out fjordline-demo",
    run = function(files, options) {
      made <- make_demo(make_folder(options$out), options)
      if (options$json) cat_json(demo_json(made)) else show_demo(made)
    }
  )
}

# A study over all tables, then the way from one of them to a labelled table, everything written into one folder.
make_demo <- function(folder, options) {
  within <- function(name) file.path(folder, name)
  for (name in names(demo_tables)) file.copy(demo_file(name), within(paste0(name, ".csv")), overwrite = TRUE)
  file.copy(system.file("extdata", "demo-study.yml", package = "fjordline", mustWork = TRUE), within("study.yml"),
            overwrite = TRUE)
  study <- fl_study_file(within("study.yml"))
  study$seed <- cli_seed(options)
  unlink(list.files(folder, "^study[.]sqlite", full.names = TRUE))
  result <- with_workers(options, fl_run(study, within("study.sqlite")))
  vote <- fl_vote(fl_open(result, "water_samples"))
  if (vote$verdict %in% undecided) vote <- fl_settle(vote, 5, "the station knows five kinds of water")
  groups <- fl_take(vote)
  groups <- fl_name(groups, fl_agree(groups))
  agreement <- fl_agree(groups)
  written <- c(
    write_figures(c(vote_figures(vote), partition_figures(groups, agreement)), within("figures")),
    table = fl_export(groups, within("water_grouped.csv")), model = fl_save(groups, within("water_model.json")),
    study = within("study.yml"), store = within("study.sqlite"), report = fl_report(result, within("study-report.html"))
  )
  list(folder = folder, vote = vote, groups = groups, agreement = agreement, result = result, written = written)
}

# One screen: the groups of one table in short, then who wins where.
show_demo <- function(made) {
  groups <- strip_next(format(made$groups))
  agreement <- strip_next(format(made$agreement))
  rows <- nrow(made$groups$ready$data$table)
  cat(paste0("Which kinds of water are in a fjord? ", rows, " made-up samples, six measured columns."), sep = "\n")
  write_lines(c(vote_headline(made$vote), sentence_lines(c(components_fact(made$vote), shape_fact(made$vote)))))
  write_lines(groups[seq_len(made$groups$k + 3L)])
  cat(agreement[1L], "", paste("Which method finds known groups? A study of six made-up tables, four of them",
                               "with known classes."), sep = "\n")
  write_lines(strip_next(format(made$result)))
  cat(sentence_lines(still_fact(made$result)), "", sep = "\n")
  cli_written(made$written, list(json = FALSE))
  write_lines(paste0("Next: ", command_name(), " count ", file.path(made$folder, "icequakes.csv"),
                     " --truth source --id event --aside time,distance --transform log"))
}

still_fact <- function(result) {
  paste0("Still water, a table without groups: ", vote_headline(fl_vote(fl_open(result, "still_water"))))
}

demo_json <- function(made) {
  list(folder = made$folder, written = as.list(made$written), vote = vote_json(made$vote), groups = made$groups$groups,
       agreement = made$agreement$measures, facts = I(fl_facts(made$result)),
       standings = as.data.frame(fl_standings(made$result)))
}

# How to call the command from where the reader is.
command_name <- function() {
  if (nzchar(Sys.which("fjordline"))) {
    return("fjordline")
  }
  script <- system.file("cli", "fjordline", package = "fjordline")
  sub(paste0(getwd(), "/"), "", script, fixed = TRUE)
}
