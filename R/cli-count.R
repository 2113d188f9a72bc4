verb_count <- function() {
  list(
    summary = "how many groups: a vote of the indices, told in sentences", files = "FILE",
    options = c(options_table, options_prepare, list(
      option("methods", paste0("methods, a,b: ", methods_known()), paste(usual_methods(), collapse = ",")),
      option("k", "counts to try", "1-10"),
      option("indices", "a set, fast, standard or all, or indices: a,b", "standard"),
      option("repeats", "fits of every cell", "1"),
      option("rule", "ranked or plurality", "ranked"),
      option("weights", "of indices and families: silhouette=2,curve=0.5"),
      option("figures", "folder for the figures")
    ), options_fit),
    example = paste("fjordline count", example_table, "--transform turbidity=log"),
    run = function(files, options) {
      vote <- cli_vote(cli_ready(cli_data(files, options), options), options)
      written <- write_figures(if (!is.null(options$figures)) vote_figures(vote), options$figures)
      if (options$json) {
        cat_json(vote_json(vote))
      } else {
        write_lines(strip_next(format(vote)))
        cat(count_next(vote, files, options), sep = "\n")
      }
      cli_written(written %||% character(), options)
    }
  )
}

# The same columns and settings, with the count; a count the vote did not clearly find needs a reason.
count_next <- function(vote, file, options) {
  key <- vote$sweep$methods[[vote$method]]$key
  next_command("group", file, options, c(options_table, options_prepare, options_fit),
               if (key != usual_method()) paste("--method", key), if (!is.na(vote$k)) paste("--k", vote$k),
               if (vote$verdict %in% undecided) "--reason \"...\"", "--out grouped.csv")
}

cli_vote <- function(ready, options, counts = options$k) {
  if (is.null(options$method)) options$methods <- options$methods %||% toString(standard_methods(list(ready)))
  weights <- split_numbers(options$weights, "weights", "silhouette=2,curve=0.5")
  sweep <- fl_sweep(ready, cli_methods(options), k = split_counts(counts),
                    indices = split_list(options$indices %||% "standard"),
                    repeats = split_number(options$repeats %||% "1", "repeats"), seed = cli_seed(options))
  fl_vote(sweep, weights = weights, rule = options$rule %||% "ranked")
}

vote_json <- function(vote) {
  list(facts = I(fl_facts(vote)), k = vote$k, verdict = vote$verdict, margin = vote$margin, runner_up = vote$runner_up,
       shape = vote$shape, lead = vote$lead, evidence = vote$evidence, by = vote$by, rate = vote$rate,
       levels = vote$levels, far = vote$far, voters = vote$voters,
       settled = vote$settled,
       method = vote$method, preparation = vote$preparation, points = vote$points,
       ballots = vote$ballots[, c("index", "family", "weight", "k", "rank", "value")], abstained = vote$abstained,
       lowered = vote$lowered, repeats = vote$repeats, contest = vote$contest, others = vote$others,
       structure = vote$structure[c("groups", "p", "p_dip", "p_between", "p_runt", "sets")],
       values = as.data.frame(vote$sweep), gaps = vote$sweep$gaps)
}
