# What the report of a study tells: who wins where, which index can be trusted, what hangs on which choice.

study_parts <- function(x) {
  study <- x$study
  labelled <- has_scores(x)
  standings <- tryCatch(fl_standings(x, if (!labelled) names(study$indices)[1L]),
                        fjordline_error_argument = function(e) NULL)
  record <- if (labelled && nrow(x$picks) > 0L) fl_track_record(x)
  maps <- choice_maps(x)
  list(
    title = paste0("Study: ", study$name),
    below = paste0(counted(length(study$ready), "table"), ", ", counted(length(study$methods), "method"), ", counts ",
                   counts_said(study$k), ", ", counted(study$repeats, "repeat"), "."),
    short = study_short(x, standings, record, maps), result = x, standings = standings, record = record, maps = maps,
    scores = if (!is.null(standings)) standings_table(standings), hangs = lapply(maps, hangs_table),
    settings = settings_table(study), facts = fl_facts(study), rerun = study_script(x),
    untried = study_untried(study), ranked = !is.null(standings) && nrow(standings$ranks) > 1L &&
      length(standings$tables) > 1L,
    repeated = !is.null(standings) && any(!is.na(standings$scores$stability)), footer = made_with(study$seed)
  )
}

study_short <- function(x, standings, record, maps) {
  facts <- fl_facts(x)
  c(
    "What was run?" = facts[1L],
    if (!is.null(standings)) c("Which method wins?" = paste(fl_facts(standings)[1L],
                                                           paste(standing_facts(standings)[1L], collapse = " "))),
    if (!is.null(standings) && nrow(standings$ranks) > 1L && length(standings$tables) > 1L) {
      c("Beyond chance?" = paste(standing_facts(standings)[-1L], collapse = " "))
    },
    if (!is.null(record)) c("Who finds the count?" = paste(record_said(record), collapse = " ")),
    if (length(maps) > 0L) c("What does the answer depend on?" = depends_on(maps)),
    "What to doubt?" = paste(c(
      if (!is.null(record)) paste0(counted(length(record$known), "table"), " with known classes: ",
                                   if (length(record$known) < 10L) "too few to say much of others."
                                   else "what holds on them need not hold on yours."),
      facts[-1L], if (is.null(record)) "Index values reward the shape they were made for; no classes were known."
    ), collapse = " ")
  )
}

depends_on <- function(maps) {
  first <- vapply(maps, function(map) map$shares$choice[1L], "")
  said <- paste0(names(maps), " (", percent(vapply(maps, function(map) map$shares$involved[1L], 0)), ")")
  parts <- split(said, factor(first, unique(first)))
  paste0(paste0("The choice of ", names(parts), " matters most for ", vapply(parts, listed, ""), collapse = ". "),
         ". Percentages are shares of the differences between partitions of the table, interactions included.")
}

# What each table's groupings hang on, where there are enough of them.
choice_maps <- function(x, most = 8L) {
  tables <- utils::head(names(x$study$ready), most)
  maps <- lapply(stats::setNames(nm = tables), function(dataset) {
    tryCatch(fl_choices(fl_open(x, dataset)), fjordline_error_argument = function(e) NULL)
  })
  Filter(Negate(is.null), maps)
}

settings_table <- function(study) {
  tibble::tibble(method = names(study$methods), settings = vapply(study$methods, function(method) {
    changed <- method$changed
    set <- if (length(changed) > 0L) paste(names(changed), vapply(changed, code, ""), sep = " = ")
    paste(c(method_said(method), set), collapse = ", ")
  }, ""))
}

study_script <- function(x) {
  if (rlang::is_string(x$store) && !startsWith(x$store, tempdir())) {
    c(paste0("result <- fl_run(", code(x$store), ")  # opens what is finished, and finishes the rest"),
      "fl_standings(result)")
  } else c("# the study was kept in a file that ended with its session: fl_run(study, \"study.sqlite\") keeps it")
}

study_untried <- function(study) {
  c(paste0("Methods other than ", listed(names(study$methods)), "."),
    paste0("Preparations other than ", listed(names(study$preparations)), "."),
    paste0("Counts beyond ", counts_said(study$k), "."), unseen_shapes(study$methods))
}

hangs_table <- function(map) {
  tibble::tibble(choice = map$shares$choice, `by itself` = percent(map$shares$alone),
                 `with others` = percent(map$shares$involved), tried = map$shares$tried)
}

# A table for readers: contestants in rows, tables in columns.
standings_table <- function(x) {
  scores <- lapply(stats::setNames(nm = x$tables), function(dataset) {
    mine <- x$scores[x$scores$dataset == dataset, ]
    fixed2(mine$value[match(x$ranks$contestant, mine$contestant)])
  })
  tibble::tibble(method = x$ranks$contestant, !!!scores, `mean rank` = fixed2(x$ranks$rank),
                 `s a fit` = digits3(signif(x$ranks$seconds, 2)), failed = thousands_each_of(x$ranks$failed))
}
