verb_study <- function() {
  list(
    summary = "run a benchmark that a YAML file describes: tables, preparations, methods, counts", files = "FILE",
    options = study_options(),
    example = "fjordline study study.yml --store study.sqlite",
    run = function(files, options) {
      study <- fl_study_file(files)
      if (options$plan) show_plan(study, options) else run_study(study, files, options)
    }
  )
}

study_options <- function() {
  list(
    option("store", "where finished fits are kept (default: the study's name, .sqlite)"),
    option("plan", "show what would run and about how long, and run nothing", flag = TRUE),
    option("retry", "try fits again that failed or were too slow or too large", flag = TRUE),
    option("workers", "processes to share the fits (default: one a processor core)"),
    option("at", "which fit stands for a method: known, vote or best (default: the first there is)"),
    option("by", "measure of agreement, or index, that ranks the methods"),
    option("report", "report (.html, .md, .docx)"),
    option("export", paste("file for a table with one row per fit", table_endings))
  )
}

run_study <- function(study, file, options) {
  store <- options$store %||% paste0(gsub("[^A-Za-z0-9._-]+", "-", study$name), ".sqlite")
  result <- with_workers(options, fl_run(study, store, retry = options$retry))
  standings <- if (!is.null(options$by) || has_scores(result)) fl_standings(result, options$by, options$at)
  if (options$json) {
    record <- if (nrow(result$picks) > 0L && has_truth(study)) fl_track_record(result)
    cat_json(list(facts = I(fl_facts(result)), cells = as.data.frame(result), standings = standings$scores,
                  ranks = standings$ranks, test = standings$test, difference = standings$difference,
                  pairs = standings$pairs, record = record$record, store = store))
  } else {
    lines <- strip_next(format(result, standings = standings))
    write_lines(lines[!startsWith(lines, "  Store: ") & !startsWith(lines, "Store: ")])
    if (any(result$cells$status %in% c("slow", "large"))) {
      cat("With more under `limits` in ", basename(file), ": ",
          sub("^Next: ", "", next_command("study", file, options, study_options()[1L], "--retry")), "\n", sep = "")
    }
  }
  if (!is.null(options$export)) fl_export(result, options$export)
  if (!is.null(options$report)) fl_report(result, options$report)
  cli_written(c(store = store, table = options$export, report = options$report), options)
}

show_plan <- function(study, options) {
  plan <- summary(study)
  total <- sum(plan$seconds, na.rm = TRUE)
  workers <- cli_workers(options)
  said <- paste0("The fits take about ", time_said(total), " on one worker, ", time_said(total / workers), " on ",
                 workers, "; judging them comes on top.")
  if (options$json) {
    return(cat_json(list(facts = I(c(fl_facts(study), said)), plan = plan, cells = as.data.frame(study))))
  }
  unknown <- sum(is.na(plan$pilot))
  write_lines(c(strip_next(format(study)), table_lines(list(
    dataset = plan$dataset, preparation = plan$preparation, method = plan$method, fits = plan$fits,
    "first fit" = vapply(plan$pilot, time_said, ""), "in all" = vapply(plan$seconds, time_said, "")
  ), right = c("fits", "first fit", "in all")), sentence_lines(c(
    said, if (unknown > 0L) paste0("Of ", counted(unknown, "combination"), " the pilot fit failed or took over 30 s: ",
                                   if (unknown == 1L) "it is" else "they are", " not reckoned in.")))))
}

cli_workers <- function(options) {
  if (!is.null(options$workers)) return(check_whole(split_number(options$workers, "workers"), "workers"))
  if (rlang::is_installed(c("future", "future.apply"))) thread_count() else 1L
}

with_workers <- function(options, expr) {
  workers <- cli_workers(options)
  if (workers > 1L) {
    need_package("future", "Sharing fits among workers")
    need_package("future.apply", "Sharing fits among workers")
    # else the operating system holds each small message back for some 40 ms
    usual <- options(socketOptions = "no-delay")
    before <- future::plan("multisession", workers = workers)
    on.exit({
      future::plan(before)
      options(usual)
    })
  }
  expr
}
