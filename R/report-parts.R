# What a report tells: text, tables and figures for the template, which only puts them in order.

partition_parts <- function(x, step) {
  ready <- x$ready
  agreement <- if (!is.null(truth_of(ready$data)) && !identical(x$labelled_by, columns_of(ready$data, "truth"))) {
    fl_agree(x)
  }
  # rows placed into groups that were there before do not have to show groups of their own
  gate <- if (is.null(x$placed)) x$vote$structure %||% fl_structure(ready, seen_metric(x$method), seed = x$seed)
  step()
  # Not every method can be fitted to a part of the rows.
  reliability <- tryCatch(fl_reliability(x, seed = x$seed), fjordline_error_method = function(e) NULL)
  step()
  profile <- fl_profile(x, seed = x$seed)
  step()
  paths <- if (x$k > 1L) fl_paths(x, seed = x$seed)
  step()
  c(
    table_parts(ready),
    list(
      short = partition_short(x, agreement, gate, reliability, profile), structure = gate, reliability = reliability,
      placed = x$placed, partition = x, vote = x$vote, agreement = agreement, profile = profile, paths = paths,
      mismatches = if (!is.null(agreement)) fl_mismatches(agreement), cards = group_cards(profile),
      outcome = course_of(x), steps = fl_steps(x), untried = report_untried(x),
      silhouettes = has_silhouettes(x), own = own_views(x), turnable = function() turnable_space(x),
      why = if (!is.null(x$vote)) vote_figures(x$vote), lineage = lineage_of(x$vote, x), view = view_of(x$vote, x),
      footer = made_with(x$seed)
    )
  )
}

# A vote that decided nothing is reported as that.
vote_parts <- function(vote, ready) {
  c(
    table_parts(ready),
    list(
      short = vote_short(vote), structure = vote$structure, vote = vote, why = vote_figures(vote),
      lineage = lineage_of(vote), view = view_of(vote), steps = fl_steps(vote), untried = vote_untried(vote),
      footer = made_with(vote$sweep$seed)
    )
  )
}

# What stands below the title: the table, its preparation, the method.
title_facts <- function(x, ready) {
  made <- if (inherits(x, "fl_vote")) {
    paste0(" Methods: ", listed(vapply(x$sweep$methods, method_said, "")), ", k = ", count_range(x$sweep$k), ".")
  } else if (x$method$key == adopted_key) paste0(" Groups: ", x$method$label, ".")
  else paste0(" Method: ", method_said(x$method), ", ", counted(x$k, "group"), ".")
  paste0(ready$data$name, ": ", counted(ready$total, "row"), ", ", counted(ncol(ready$x), "column"),
         " used. Preparation: ", ready$name, ".", made)
}

table_parts <- function(ready) {
  check <- as.data.frame(fl_check(ready$data))
  list(ready = ready, prepared = say_steps(ready$steps), check = check)
}

made_with <- function(seed) {
  paste0("Made with fjordline ", utils::packageVersion("fjordline"), ", R ", getRversion(), ". Seed ", seed, ".")
}

# How the table's own dates spread over the groups, where it has one column of them.
course_of <- function(x) {
  data <- x$ready$data
  dates <- Filter(function(column) inherits(data$table[[column]], c("Date", "POSIXt")), columns_of(data, "aside"))
  if (length(dates) == 0L || x$k < 2L) {
    return(NULL)
  }
  tryCatch(fl_outcome(x, dates[1L]), fjordline_error = function(e) NULL)
}

# The rows with the groups of every count, to step through; an even sample of a long table.
view_of <- function(vote, partition = NULL) {
  if (!is.null(vote) && !isTRUE(vote$sweep$stored) && sum(vote$sweep$k >= 2L) > 1L && has_rows(vote)) {
    canvas_data(vote$sweep, vote, partition, most = view_most_rows)
  }
}

view_most_rows <- 10000L

has_rows <- function(vote) !is.null(vote$sweep$ready[[vote$preparation]]$x)

# How groups split around the count; the partition's names go along where it is one of the sweep's fits.
lineage_of <- function(vote, partition = NULL) {
  if (is.null(vote)) {
    return(NULL)
  }
  named <- if (has_names(partition)) partition
  tryCatch(fl_lineage(vote, names = named), fjordline_error = function(e) NULL)
}

nothing_fitted <- "Nothing was fitted anew: whether other groups would do better was not asked."

# How many, how sure, what they are, do they match, what to doubt.
partition_short <- function(x, agreement, gate, reliability, profile) {
  facts <- fl_facts(x)
  vote <- x$vote
  sure <- paste(c(
    if (!is.null(gate)) fl_facts(gate)[1L],
    if (!is.null(x$placed)) c(x$placed$partition$decision, none_fact(x$placed), drift_fact(x$placed))
    else if (is.null(vote) && x$method$free_count && x$method$key != adopted_key) "The method found the count itself."
    else if (is.null(vote)) "The count was given, not chosen by a vote."
    else c(vote_headline(vote), if (!is.null(vote$settled)) voted_fact(vote), track_fact(vote)),
    if (!is.null(reliability)) fl_facts(reliability)[1L]
  ), collapse = " ")
  doubt <- paste(c(if (!is.null(vote)) c(vote_untold(vote), components_fact(vote)),
                   if (isFALSE(gate$groups)) often_missed(),
                   if (!is.null(x$placed)) nothing_fitted
                   else if (x$method$key == adopted_key) "The labels were made elsewhere; nothing here tells how."
                   else paste0(capital(method_said(x$method)), " assumes ", assumed_shape(x$method), ".")),
                 collapse = " ")
  c(
    "How many?" = facts[1L], "How sure?" = sure, "What are they?" = groups_in_short(profile),
    "Do they match what is known?" = if (is.null(agreement)) "There are no known classes to compare with."
    else fl_facts(agreement)[1L],
    "What to doubt?" = doubt
  )
}

# What a method assumes as it is set: what holds "under" other metrics is left out.
assumed_shape <- function(method) {
  other <- is.null(method$settings$metric) || method$settings$metric %in% c("cosine", "correlation")
  if (other) method$shape else sub("; under .*$", "", method$shape)
}

vote_short <- function(vote) {
  c(
    "How many?" = vote_headline(vote),
    "How sure?" = paste(c(if (!is.null(vote$structure)) fl_facts(vote$structure)[1L], family_fact(vote)),
                        collapse = " "),
    "What to doubt?" = paste(c(vote_untold(vote), components_fact(vote),
                               if (isFALSE(vote$structure$groups)) often_missed(),
                               "No count was chosen, so this report shows no groups."),
                             collapse = " "),
    "What next?" = paste0("If something else speaks for a count, fl_settle(vote, k = , reason = ) keeps it with its ",
                          "reason, and a report of that shows the groups.")
  )
}

# What lowers a vote, and what nobody measured.
vote_untold <- function(vote) {
  if (!is.null(vote$lowered)) lowered_fact(vote) else if (is.null(vote$rate)) track_fact(vote)
}

groups_in_short <- function(profile) {
  groups <- profile$groups
  paste0(capital(paste(paste0(group_said(profile$partition, groups$group), ": ", standouts_said(groups)),
                       collapse = "; ")), ".")
}

# Each group's size, what sets it apart, its features beside those of the whole table, and its most typical rows.
group_cards <- function(profile, most = 12L) {
  partition <- profile$partition
  features <- profile$columns[profile$columns$role == "feature", ]
  typical <- typical_rows(own_columns(partition, seq_along(partition$group)), 3L)
  lapply(profile$groups$group, function(g) {
    mine <- features[features$group == g, ]
    left <- nrow(mine) - most
    mine <- mine[sort(utils::head(order(-abs(mine$difference)), most)), ]
    number <- is.na(mine$level)
    said <- function(v) ifelse(number, digits3(v), percent(v))
    group <- profile$groups[g, ]
    rows <- typical$row[typical$group == g]
    list(group = g, title = group_title(partition, g), rows = group$rows, share = percent(group$share),
         standout = group$standouts, colour = fl_palette(partition$k)[g],
         said = paste0(counted(group$rows, "row"), " (", percent(group$share), ")",
                       if (nzchar(group$standouts)) paste0("; ", group$standouts),
                       if (left > 0L) paste0(". The ", most, " columns that differ most; ", left, " more differ less"),
                       "."),
         typical = if (length(rows) > 0L) {
           paste0("Most typical: ", listed(if (is.null(partition$id)) paste("row", rows) else partition$id[rows]), ".")
         },
         table = tibble::tibble(
           column = ifelse(number, with_unit(mine$column, partition$ready$units), level_said(mine$column, mine$level)),
           mean = said(mine$mean), `overall mean` = said(mine$overall),
           `middle half` = ifelse(number, paste(digits3(mine$low), "to", digits3(mine$high)), ""),
           difference = signed_sd(mine$difference)
         ))
  })
}

signed_sd <- function(v) paste0(ifelse(v >= 0, "+", "\u2212"), formatC(abs(v), digits = 1L, format = "f"), " sd")

report_untried <- function(x) {
  if (!is.null(x$placed)) {
    return("Fitting groups to these rows: they were placed into groups made before.")
  }
  if (!is.null(x$vote)) {
    return(vote_untried(x$vote))
  }
  c(paste0("Methods other than ", method_said(x$method), "."), paste0("Preparations other than \u201c", x$ready$name,
                                                                      "\u201d."),
    paste0("Counts other than ", x$k, "."), unseen_shapes(list(x$method)))
}

vote_untried <- function(vote) {
  sweep <- vote$sweep
  c(paste0("Methods other than ", listed(vapply(sweep$methods, method_said, "")), "."),
    paste0("Preparations other than \u201c", listed(names(sweep$ready)), "\u201d."),
    paste0("Counts beyond ", count_range(sweep$k), "."), unseen_shapes(sweep$methods))
}

unseen_shapes <- function(methods) {
  said <- function(methods) unique(unlist(lapply(methods, `[[`, "untried")))
  rev(setdiff(said(built_in("method")), said(methods)))
}
