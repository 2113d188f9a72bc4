verb_demo <- function() {
  list(
    summary = "a full example on the tables that come with the package", files = character(),
    options = list(option("out", "folder for what it makes", "fjordline-demo"), option_seed),
    example = "fjordline demo --out fjordline-demo",
    run = function(files, options) {
      made <- make_demo(make_folder(options$out), cli_seed(options))
      if (options$json) cat_json(demo_json(made)) else show_demo(made)
    }
  )
}

# The whole way from the table to the report, everything written into one folder.
make_demo <- function(folder, seed) {
  within <- function(name) file.path(folder, name)
  for (name in names(demo_tables)) file.copy(demo_file(name), within(paste0(name, ".csv")), overwrite = TRUE)
  data <- fl_demo("water_samples")
  vote <- demo_vote("water_samples", c(turbidity = "log"), seed)
  if (vote$verdict %in% undecided) vote <- fl_settle(vote, 5, "the station knows five kinds of water")
  groups <- fl_take(vote)
  groups <- fl_name(groups, fl_agree(groups))
  agreement <- fl_agree(groups)
  written <- c(
    table = fl_export(groups, within("water_grouped.csv")), model = fl_save(groups, within("water_model.json")),
    write_figures(c(vote_figures(vote), partition_figures(groups, agreement)), within("figures")),
    report = fl_report(groups, within("water_report.html"))
  )
  list(folder = folder, check = fl_check(data), vote = vote, groups = groups, agreement = agreement, written = written,
       beside = beside_kmeans(groups, seed), icequakes = demo_vote("icequakes", "log", seed, "fast"),
       still_water = demo_vote("still_water", NULL, seed))
}

# How other methods agree with the known classes where groups are elongated or curved: a row a table.
beside_kmeans <- function(groups, seed) {
  seals <- fl_prepare(fl_demo("seal_haulouts"))
  rand <- function(partition) measure_of(fl_agree(partition), "adjusted_rand")
  of <- function(ready, method, k) rand(fl_partition(ready, method, k = k, seed = seed))
  tibble::tibble(
    table = c("water_samples", "seal_haulouts"), method = c("mixture", "dbscan"),
    kmeans = c(of(groups$ready, "kmeans", groups$k), of(seals, "kmeans", 6)),
    other = c(of(groups$ready, "mixture", groups$k), of(seals, "dbscan", NULL))
  )
}

beside_facts <- function(beside) {
  paste0(c("Are the waters elongated? A mixture", "Seal haulouts, six shores in curves among strays. Density (dbscan)"),
         ifelse(beside$other > beside$kmeans, " agrees better with what is known",
                " does not agree better with what is known"),
         " than k-means: adjusted Rand ", fixed2(beside$other), ", k-means ", fixed2(beside$kmeans), ".")
}

demo_vote <- function(name, transform, seed, indices = "standard") {
  fl_vote(fl_sweep(fl_prepare(fl_demo(name), transform = transform), c("kmeans", "mixture"), k = 1:10,
                   indices = indices, seed = seed))
}

# One screen: the answers, then where everything is.
show_demo <- function(made) {
  part <- function(lines) {
    write_lines(lines)
    cat("\n")
  }
  groups <- strip_next(format(made$groups))
  agreement <- strip_next(format(made$agreement))
  rows <- nrow(made$groups$ready$data$table)
  cat(paste0("Which kinds of water are in a fjord? ", rows, " made-up samples, six measured columns."),
      paste0("Check: ", fl_facts(made$check)[1L]), sep = "\n")
  part(setdiff(strip_next(format(made$vote)), index_lines(made$vote)))
  part(groups[seq_len(made$groups$k + 3L)])
  part(c(agreement[seq_len(nrow(made$agreement$table) + 2L)], grep("disagree;", agreement, value = TRUE)))
  still <- paste0("Still water, no groups at all. ", vote_headline(made$still_water))
  cat(sentence_lines(c(beside_facts(made$beside), icequakes_fact(made$icequakes), still)), "", sep = "\n")
  cli_written(made$written, list(json = FALSE))
  write_lines(paste0("Next: ", command_name(), " count ", file.path(made$folder, "icequakes.csv"),
                     " --truth source --id event --aside time,distance --transform log"))
}

icequakes_fact <- function(vote) {
  paste0("Icequakes, four kinds of source, very unequal and heavy-tailed. ", vote_headline(vote),
         if (!identical(vote$k, 4L)) " That is wrong: no vote is always right.")
}

demo_json <- function(made) {
  list(folder = made$folder, written = as.list(made$written), vote = vote_json(made$vote), groups = made$groups$groups,
       agreement = made$agreement$measures, beside = made$beside, icequakes = vote_json(made$icequakes),
       still_water = vote_json(made$still_water))
}

# How to call the command from where the reader is.
command_name <- function() {
  if (nzchar(Sys.which("fjordline"))) {
    return("fjordline")
  }
  script <- system.file("cli", "fjordline", package = "fjordline")
  sub(paste0(getwd(), "/"), "", script, fixed = TRUE)
}
